import { useQuestion, type Words } from "../api/asking";
import type { Schemas } from "../api/client";
import { useKept } from "../api/kept";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { figure } from "../reading/format";

/** The field that holds the stress in the plies. */
export const PLY_STRESS = "stress in plies";

export type FailedPly = Schemas["FailedPly"];
export type StackRow = Schemas["StackRow"];
export type PlyWords = Schemas["PlyWords"];
export type Zone = Schemas["ZoneShown"];
export type Laminates = Schemas["LaminatesMore"];
export type TestedRow = Schemas["TestedRow"];

type Exposed = { exposure?: number | null; state?: string | null };

/** How exposed a place is, to rank by: what fails without load before all others, what has no value last. */
export const rank = (place: Exposed) => (place.state ? Number.POSITIVE_INFINITY : (place.exposure ?? -1));

/** An exposure as it is written. */
export const exposureWords = (place: Exposed, digits: number) => place.state ?? figure(place.exposure, digits);

/** Whether the result has plies whose stress is known. */
export function useHasPlies(): boolean {
  const contents = useContents(useBench((s) => s.result));
  return contents.data?.fields.some((f) => f.rank === "ply") ?? false;
}

export const useLaminates = () => {
  const result = useBench((s) => s.result);
  return useQuestion("laminates", result === null ? null : { result });
};

export function useFailure(wanted = true) {
  const { result, step, criterion } = useBench("result", "step", "criterion");
  return useQuestion("strength", useHasPlies() && wanted ? { result, step, criterion } : null);
}

export function useSolverFailure() {
  const { result, step, criterion } = useBench("result", "step", "criterion");
  return useQuestion("solver-failure", result === null ? null : { result, step, criterion });
}

/** The words the stack in view is asked by: of the picked element, else of the worst. */
export function useStackWords(wanted = true): Words<"stack"> | null {
  const { result, step, criterion, element } = useBench("result", "step", "criterion", "element");
  const failure = useFailure(wanted && element === null);
  const worst = failure.data?.more.worst?.element;
  const of = element ?? worst;
  return useHasPlies() && wanted && of !== undefined ? { result, step, criterion, element: of } : null;
}

export const useStack = (wanted = true) => useQuestion("stack", useStackWords(wanted));

export function useEnvelopeWords(wanted = true): Words<"envelope"> | null {
  const { result, criterion, envelope } = useBench("result", "criterion", "envelope");
  return useHasPlies() && wanted ? { result, criterion, ...envelope } : null;
}

export const useEnvelope = (wanted = true) => useQuestion("envelope", useEnvelopeWords(wanted));

/** The tests of parts in view: the last that were kept. */
export function usePartTests() {
  const kept = useKept(
    "part-tests",
    useBench((s) => s.result),
  );
  return { kept, tests: kept.data?.[kept.data.length - 1] };
}

export function useTestedWords(wanted = true): Words<"tested"> | null {
  const { result, criterion } = useBench("result", "criterion");
  const { tests } = usePartTests();
  return useHasPlies() && wanted && tests ? { result, criterion, named: tests.id } : null;
}

export const useTested = (wanted = true) => useQuestion("tested", useTestedWords(wanted));

/** A ply as the trade calls it: its sheet, else its place in the stack. */
export const plyName = (ply: { sheet: string | null; position: number }) =>
  ply.sheet ? `sheet ${ply.sheet} (ply ${ply.position})` : `ply ${ply.position}`;
