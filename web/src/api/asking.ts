import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { save } from "../bench/clipboard";
import { useFilming } from "../bench/filming";
import { here } from "../bench/here";
import { Stopped } from "../bench/problem";
import { api, ask, Problem } from "./client";
import type { paths } from "./schema";

type Addresses = Extract<keyof paths, `/api/ask/${string}`>;
type KindOf<Address> = Address extends `/api/ask/${infer Kind}` ? Kind : never;

/** Every kind of question the service answers. */
export type Kind = Exclude<KindOf<Addresses>, `${string}.{form}`>;

type Post<K extends Kind> = paths[`/api/ask/${K}`]["post"];

/** The words a question of a kind is asked by; what is left out is as usual. */
export type Words<K extends Kind> = Partial<Post<K>["requestBody"]["content"]["application/json"]>;

/** The answer to a question of a kind, with what only that has in ``more``. */
export type AnswerTo<K extends Kind> = Post<K>["responses"][200]["content"]["application/json"];

/** An answer to any kind of question: what all have. */
export type Answer = Omit<AnswerTo<"trace">, "more">;

/** A question by its kind and words, answered at the service. */
export const question = <K extends Kind>(kind: K, words: Words<K>, signal?: AbortSignal): Promise<AnswerTo<K>> =>
  ask(api.POST(`/api/ask/${kind}` as "/api/ask/trace", { body: words as Words<"trace"> as never, signal })) as Promise<
    AnswerTo<K>
  >;

const resultOf = (words: unknown) => (words as { result?: unknown } | null | undefined)?.result;

/** How a question is fetched and kept; ``of``: the state of what it is of beside its words. */
export const questionQuery = <K extends Kind>(kind: K, words: Words<K> | null, of?: number) => ({
  queryKey: ["asked", kind, words, of] as const,
  enabled: words !== null,
  retry: false as const,
  queryFn: ({ signal }: { signal: AbortSignal }) => question(kind, words!, signal),
});

/**
 * A question that is asked again whenever its words change or the review does; null asks nothing. Until the new answer is there
 * the former one stays, where it is of the same result.
 */
export function useQuestion<K extends Kind>(kind: K, words: Words<K> | null, of?: number) {
  const filming = useFilming((s) => s.on);
  return useQuery<AnswerTo<K>>({
    ...questionQuery(kind, words, of),
    enabled: words !== null && !filming,
    placeholderData: (former, query) =>
      words !== null && resultOf(query?.queryKey[2]) === resultOf(words) ? keepPreviousData(former) : undefined,
  });
}

/** What only an answer of this kind has. */
export const useMore = <K extends Kind>(kind: K, words: Words<K> | null) =>
  useQuery({
    ...questionQuery(kind, words),
    placeholderData: keepPreviousData,
    select: (answer: AnswerTo<K>): AnswerTo<K>["more"] => answer.more,
  });

/** The table of a question's answer, as a file. */
export const tableOf = <K extends Kind>(kind: K, words: Words<K>, form: "csv" | "xlsx"): Promise<Blob> =>
  fileOf(`/api/ask/${kind}.${form}`, words);

/** A file that is made of a question's words. */
async function fileOf(address: string, words?: object): Promise<Blob> {
  const headers = { "Content-Type": "application/json" };
  const answer = await fetch(here(address), words && { method: "POST", headers, body: JSON.stringify(words) });
  if (!answer.ok) {
    const said = (await answer.json().catch(() => ({}))) as { title?: string; hint?: string };
    throw new Problem(said.title ?? "The table could not be made.", said.hint ?? "");
  }
  return answer.blob();
}

/** Saves the table of a question's answer. */
export async function saveTable<K extends Kind>(
  kind: K,
  words: Words<K>,
  form: "csv" | "xlsx",
  name: string,
): Promise<void> {
  saveFile(await tableOf(kind, words, form), name, form);
}

/** Saves a frequency response as a function of a universal file. */
export async function saveResponse(words: Words<"response">, name: string): Promise<void> {
  saveFile(await fileOf("/api/responses/uff", words), name, "uff");
}

/** Saves a recipe of what is kept of a result. */
export async function saveRecipe(result: number, parameters: string[]): Promise<void> {
  const words = new URLSearchParams([["result", String(result)], ...parameters.map((p) => ["parameter", p])]);
  saveFile(await fileOf(`/api/recipe.json?${words}`), "recipe", "json");
}

/** A file the service makes of the review, under the name the service gives it. */
export async function saveFrom(address: string): Promise<void> {
  const answer = await fetch(here(address));
  if (!answer.ok) {
    const said = (await answer.json().catch(() => ({}))) as { title?: string; hint?: string };
    throw new Problem(said.title ?? "It could not be made.", said.hint ?? "");
  }
  const named = /filename="([^"]*)"/.exec(answer.headers.get("Content-Disposition") ?? "");
  const [, stem, kind] = /^(.*)\.(\w+)$/.exec(named?.[1] ?? "") ?? ["", "report", "html"];
  saveFile(await answer.blob(), stem!, kind!);
}

export interface Working {
  share: number;
  text: string;
}

const pause = (ms: number) => new Promise((r) => window.setTimeout(r, ms));

/** Makes the report and saves it; tells how far it is, and stops when the signal says so. */
export async function saveReport(
  form: "html" | "turns" | "pdf",
  tell: (working: Working) => void,
  signal: AbortSignal,
): Promise<void> {
  let job = await ask(api.POST("/api/report/{form}", { params: { path: { form } } }));
  const one = { params: { path: { job: job.id } } };
  const stop = () => void api.DELETE("/api/jobs/{job}", one);
  signal.addEventListener("abort", stop);
  while (job.state === "running") {
    tell(job);
    await pause(150);
    job = await ask(api.GET("/api/jobs/{job}", one));
  }
  signal.removeEventListener("abort", stop);
  if (job.state === "stopped") throw new Stopped("Nothing was made.");
  if (job.state !== "done") throw new Problem(job.error ?? "The report could not be made.", job.hint ?? "");
  await saveFrom(`/api/jobs/${job.id}/file`);
}

function saveFile(data: Blob, name: string, kind: string): void {
  const address = URL.createObjectURL(data);
  save(address, name, kind);
  window.setTimeout(() => URL.revokeObjectURL(address), 10_000);
}
