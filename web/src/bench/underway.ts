import type { QueryClient } from "@tanstack/react-query";

const page = () => document.documentElement.dataset;

/** What is under way beside what the client of queries knows of. */
let others = 0;
let say = () => {};

/** Counts work of several questions as something that is still being asked, until it is done. */
export async function underway<T>(work: Promise<T>): Promise<T> {
  others++;
  say();
  try {
    return await work;
  } finally {
    others--;
    say();
  }
}

/**
 * Says on the page itself how much is still being asked (`data-asking`), so that whoever drives it from outside, a test or a
 * script that takes pictures, waits for what it waits for and not for a number of seconds.
 */
export function sayWhatIsAsked(client: QueryClient): void {
  say = () => {
    page().asking = String(client.isFetching() + client.isMutating() + others);
  };
  client.getQueryCache().subscribe(say);
  client.getMutationCache().subscribe(say);
  say();
}

/** Says whether the address bar is behind the bench: it follows when the bench has been still for a moment. */
export function sayAddress(behind: boolean): void {
  page().address = behind ? "behind" : "told";
}
