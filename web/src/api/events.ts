import type { QueryClient } from "@tanstack/react-query";
import { here, reviewHere } from "../bench/here";
import type { Schemas } from "./client";
import { beginWith, shownStates } from "./seen";

interface Told {
  file: string;
  state: string;
}

/** What is said once the page has come again with another review. */
const REOPENED = "ironstone reopened";

/** Starts anew with another review; what the address held belongs to the one before. */
export function reopen(words: string, review = ""): void {
  sessionStorage.setItem(REOPENED, words);
  window.location.assign(review ? `/?review=${encodeURIComponent(review)}` : "/");
}

/** Why the page came again; said once. */
export function whyReopened(): string | null {
  const words = sessionStorage.getItem(REOPENED);
  sessionStorage.removeItem(REOPENED);
  return words;
}

let listening = false;

/**
 * Asks anew for everything when the review was changed by another window or program. Of the windows of one browser a single one
 * listens to the service and tells the others: a browser keeps few connections to one host.
 */
export function listen(client: QueryClient): void {
  if (listening) return;
  listening = true;
  const name = `ironstone ${window.location.host} ${reviewHere()}`;
  const others = new BroadcastChannel(name);
  const hear = (told: Told) => {
    // What this page is changing itself is known once its answer is here.
    if (client.isMutating()) {
      window.setTimeout(() => hear(told), 150);
      return;
    }
    const known = client.getQueryData<Schemas["ReviewOut"]>(["review"]);
    if (!known) return;
    if (known.file !== told.file) return;
    beginWith(client);
    if (!shownStates.has(told.state)) {
      shownStates.add(told.state);
      void client.invalidateQueries();
    }
  };
  others.onmessage = (e: MessageEvent<Told>) => hear(e.data);
  const hold = () =>
    new Promise<void>(() => {
      const events = new EventSource(here("/api/events"));
      events.onmessage = (e) => {
        const told = JSON.parse(e.data) as Told;
        others.postMessage(told);
        hear(told);
      };
    });
  void navigator.locks.request(name, hold);
}
