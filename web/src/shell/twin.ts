import type { QueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { question, useQuestion } from "../api/asking";
import type { Contents } from "../api/client";
import { contentsQuery, useContents, useReview } from "../api/queries";
import { freshReading, type Pane, panes, type ReadingChoice, useBench, useOtherBench, usePanes } from "../bench/store";
import { sameLook } from "../lines/turning";
import { viewOf } from "../view/handle";

/** A reading as another result has it: minus nothing, and at a phase where its field is a harmonic there as well. */
const alone = (theirs: Contents, reading: ReadingChoice): ReadingChoice => ({
  ...reading,
  against: null,
  phase: theirs.fields.some((f) => f.name === reading.field && f.harmonic) ? reading.phase : "",
});

const has = (contents: Contents | undefined, reading: Pane["reading"]) =>
  contents?.fields.find((f) => f.name === reading?.field)?.measures.some((m) => m.name === reading?.measure) ?? false;

/** What a pane takes over where another result comes into it: the reading, the moment and the parts of the pane it is of. */
async function asThere(client: QueryClient, from: Pane, result: number): Promise<Partial<Pane>> {
  const [mine, theirs] = await Promise.all([
    client.ensureQueryData(contentsQuery(from.result)),
    client.ensureQueryData(contentsQuery(result)),
  ]);
  const steps =
    result === from.result
      ? null
      : (await question("matched-steps", { result: from.result!, other: String(result) })).more.steps;
  const opens = theirs.fields.find((f) => f.name === theirs.opens);
  const reading =
    has(theirs, from.reading) || !opens ? from.reading : freshReading(opens.name, opens.measures[0]?.name ?? "");
  return {
    result,
    reading: reading && alone(theirs, reading),
    step: steps?.[from.step] ?? Math.min(from.step, theirs.steps.length - 1),
    look: sameLook(from.look, mine, theirs),
    camera: from.camera,
    paths: null,
    cut: null,
    gauges: null,
    element: null,
    member: null,
    second: null,
    draft: null,
    picks: [],
  };
}

/** Opens a second view beside the first: of the result it is compared with, else of another one of the review, else of the same. */
export async function openTwin(client: QueryClient, results: { id: number }[]): Promise<void> {
  const from = panes.state(panes.active());
  if (from.result === null) return;
  const others = results.map((r) => r.id).filter((id) => id !== from.result);
  const at = results.findIndex((r) => r.id === from.result);
  // The neighbour in the list: the mesh before or after this one.
  const beside = results[at - 1]?.id ?? results[at + 1]?.id;
  const second = from.second !== null && others.includes(from.second) ? from.second : (beside ?? from.result);
  panes.add(await asThere(client, from, second));
}

/** Brings another result into a pane of two, as the other pane has its own. */
export async function turnTo(client: QueryClient, pane: number, result: number): Promise<void> {
  const from = panes.state(panes.count() > 1 ? 1 - pane : pane);
  if (from.result !== null) panes.set(pane, await asThere(client, from, result));
}

/** The steps of the other pane's result that go with those of this pane's. */
function useMatched(first: number | null, second: number | null) {
  const words = first === null || second === null || first === second ? null : { result: first, other: String(second) };
  return useQuestion("matched-steps", words).data?.more;
}

/** Whether the two panes show the same moment; null where there is one pane, or it is not known. */
export function useSameMoment(): boolean | null {
  const { result, step } = useBench("result", "step");
  const other = useOtherBench((s) => [s.result, s.step] as const);
  const matched = useMatched(other ? result : null, other?.[0] ?? null);
  if (!other) return null;
  if (other[0] === result) return step === other[1];
  return matched ? matched.steps[step] === other[1] && (matched.same[step] ?? false) : null;
}

/** While there are two panes: what is done in one is done in the other, as far as they are tied. */
export function useTies(): void {
  const open = usePanes().length > 1;
  const [here, there] = [useBench((s) => s.result), useOtherBench((s) => s.result)];
  const turned = panes.active() === 1;
  const [first, second] = open ? (turned ? [there, here] : [here, there]) : [null, null];
  const contents = [useContents(first).data, useContents(second).data];
  const matched = [useMatched(first, second)?.steps, useMatched(second, first)?.steps];
  const known = useRef({ contents, matched });
  known.current = { contents, matched };
  const review = useReview();
  useEffect(() => {
    // A result that was taken out of the review leaves the pane it stood in, and one pane is enough.
    const there = review.data?.results.map((r) => r.id);
    if (there && open) for (const i of [1, 0]) if (!there.includes(panes.state(i).result ?? -1)) panes.close(i);
  }, [review.data, open]);
  useEffect(() => {
    if (!open) return;
    let carrying = false;
    const carry = (work: () => void) => {
      if (carrying) return;
      carrying = true;
      work();
      carrying = false;
    };
    const stop = panes.watch((pane, now, before) =>
      carry(() => {
        const to = 1 - pane;
        const theirs = panes.state(to);
        const { ties } = theirs;
        const change: Partial<Pane> = {};
        const [from, there] = [known.current.contents[pane], known.current.contents[to]];
        if (ties.step && now.step !== before.step && now.result === before.result) {
          const same = now.result === theirs.result ? now.step : known.current.matched[pane]?.[now.step];
          if (same !== undefined) change.step = same;
        }
        // Two modes are in step within their cycle as well.
        if (ties.step && now.swing !== before.swing)
          change.swing = now.swing && { ...now.swing, result: theirs.result, step: change.step ?? theirs.step };
        if (ties.parts && now.look !== before.look) change.look = sameLook(now.look, from, there);
        if (ties.scale && now.exaggeration !== before.exaggeration) change.exaggeration = now.exaggeration;
        if (ties.limits && now.key !== before.key) change.key = now.key;
        if (ties.camera && now.camera !== before.camera && now.camera) change.camera = now.camera;
        if (ties.reading && now.result !== theirs.result && now.reading !== before.reading && has(there, now.reading))
          change.reading = alone(there!, now.reading!);
        if (Object.keys(change).length) panes.set(to, change);
      }),
    );
    for (const pane of [0, 1])
      viewOf(pane).turned = (camera) =>
        carry(() => {
          if (panes.state(0).ties.camera) viewOf(1 - pane).place?.(camera);
        });
    return () => {
      stop();
      for (const pane of [0, 1]) viewOf(pane).turned = null;
    };
  }, [open]);
}
