import { useQuery } from "@tanstack/react-query";
import { type Answer, question, useKept } from "../api/kept";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { figure } from "../reading/format";

/** The field that holds the stress in the plies. */
export const PLY_STRESS = "stress in plies";

export interface PlyWords {
  sheet: string;
  material: string;
  thickness: number;
  angle: number;
}

export interface Zone {
  name: string;
  where: string;
  elements: number;
  thickness: number;
  symmetric: boolean;
  balanced: boolean;
  plies: PlyWords[];
}

export interface Laminates {
  name: string | null;
  /** Changed here after they were read from their file. */
  edited: boolean;
  content: { materials: Record<string, Record<string, number | string>>; zones: { name: string; plies: PlyWords[] }[] };
  zones: Zone[];
  sheets: string[];
  criteria: { name: string; label: string; lacking: string[]; bond_lacking: string[]; assumed: string[] }[];
  drop_offs: { from: string; to: string; ends: string[]; begins: string[] }[];
  basis: string | null;
  shear: boolean;
  places: string[];
  length: string;
  stress: string;
}

export interface Place {
  element: number;
  zone: string;
  sheet: string | null;
  position: number;
  place: string;
  mode: string;
  index: number | null;
  reserve: number | null;
  /** "fails without load": what does not scale with the loads is enough; the exposure has no bound. */
  state: string | null;
}

export interface Failure {
  worst: (Place & { angle: number; material: string; exposure: number | null }) | null;
  failed_count: number;
  failed: (Omit<Place, "index" | "reserve"> & { exposure: number | null })[];
  share_of_plies_failed: number | null;
  exposure: (number | null)[];
  first_failure:
    | (Place & {
        fails: boolean;
        step: number;
        at: number;
        kind: string;
        unit: string;
        moment: string;
        load_factor: number;
      })
    | null;
}

export interface StackRow {
  position: number;
  sheet: string | null;
  material: string;
  angle: number;
  thickness: number;
  place: string;
  z: number;
  strain: (number | null)[];
  stress: (number | null)[];
  index: number | null;
  exposure: number | null;
  reserve: number | null;
  mode: string;
  state: string | null;
}

type Exposed = { exposure: number | null; state: string | null };

/** How exposed a place is, to rank by: what fails without load before all others, what has no value last. */
export const rank = (place: Exposed) => (place.state ? Number.POSITIVE_INFINITY : (place.exposure ?? -1));

/** An exposure as it is written. */
export const exposureWords = (place: Exposed, digits: number) => place.state ?? figure(place.exposure, digits);

export interface StackMore {
  element: number;
  zone: string;
  thickness: number;
  unit: string;
  length: string;
  plies: StackRow[];
  remarks: string[];
}

export interface TestedRow {
  criterion: string;
  label: string;
  predicted: number;
  ratios: number[];
  mean: number;
  variation: number | null;
  off: number;
  as_seen: number;
  told: number;
  zone: string;
  sheet: string | null;
  mode: string;
}

export interface TestedMore {
  agrees: boolean;
  mine: TestedRow;
  criteria: TestedRow[];
  parts: {
    specimen: string;
    load: number;
    zone: string;
    mode: string;
    note: string;
    ratio: number;
    same: boolean | null;
  }[];
}

export interface EnvelopeMore {
  names: [string, string];
  third: { name: string; value: number };
  material: string;
  way: { x: number; y: number; step: number; label: string }[];
  /** Where the way comes to failure, in the step it happens in; null where nothing fails. */
  ends: { x: number; y: number; step: number } | null;
  place: Place | null;
  coupons: { specimen: string; of: string; property: string; x: number; y: number }[];
}

/** What an answer of a kind has beside its table. */
export const moreOf = <More>(answer: Answer): More => answer.more as unknown as More;

/**
 * A question of plies, asked again when its words change or the review does; null asks nothing. Until the new answer is there the
 * former one stays, where it is of the same result.
 */
export function useAskedOfPlies(kind: string, words: object | null) {
  const result = words && "result" in words ? words.result : undefined;
  return useQuery<Answer>({
    queryKey: ["asked", kind, words],
    enabled: words !== null,
    retry: false,
    placeholderData: (former, query) => {
      const before = query?.queryKey[2] as { result?: unknown } | null | undefined;
      return words !== null && before?.result === result ? former : undefined;
    },
    queryFn: ({ signal }) => question(kind, words!, signal),
  });
}

/** Whether the result has plies whose stress is known. */
export function useHasPlies(): boolean {
  const contents = useContents(useBench((s) => s.result));
  return contents.data?.fields.some((f) => f.rank === "ply") ?? false;
}

export const useLaminates = () => {
  const result = useBench((s) => s.result);
  return useAskedOfPlies("laminates", result === null ? null : { result });
};

export function useFailure(wanted = true) {
  const { result, step, criterion } = useBench("result", "step", "criterion");
  return useAskedOfPlies("strength", useHasPlies() && wanted ? { result, step, criterion } : null);
}

/** Of one field of the file that says whether something fails: its worst, and the same worked out here. */
export interface SaidOfFailure {
  field: string;
  kind: string;
  worst: number | null;
  element: number | null;
  layer: number | null;
  fail: number;
  here: number | null;
  deviation: number | null;
}

export function useSolverFailure() {
  const { result, step, criterion } = useBench("result", "step", "criterion");
  return useAskedOfPlies("solver-failure", result === null ? null : { result, step, criterion });
}

/** The words the stack in view is asked by: of the picked element, else of the worst. */
export function useStackWords(wanted = true): object | null {
  const { result, step, criterion, element } = useBench("result", "step", "criterion", "element");
  const failure = useFailure(wanted && element === null);
  const worst = failure.data ? moreOf<Failure>(failure.data).worst?.element : undefined;
  const of = element ?? worst;
  return useHasPlies() && wanted && of !== undefined ? { result, step, criterion, element: of } : null;
}

export const useStack = (wanted = true) => useAskedOfPlies("stack", useStackWords(wanted));

export function useEnvelopeWords(wanted = true): object | null {
  const { result, criterion, envelope } = useBench("result", "criterion", "envelope");
  return useHasPlies() && wanted ? { result, criterion, ...envelope } : null;
}

export const useEnvelope = (wanted = true) => useAskedOfPlies("envelope", useEnvelopeWords(wanted));

/** The tests of parts in view: the last that were kept. */
export function usePartTests() {
  const kept = useKept(
    "part-tests",
    useBench((s) => s.result),
  );
  return { kept, tests: kept.data?.[kept.data.length - 1] };
}

export function useTestedWords(wanted = true): object | null {
  const { result, criterion } = useBench("result", "criterion");
  const { tests } = usePartTests();
  return useHasPlies() && wanted && tests ? { result, criterion, named: tests.id } : null;
}

export const useTested = (wanted = true) => useAskedOfPlies("tested", useTestedWords(wanted));

/** A ply as the trade calls it: its sheet, else its place in the stack. */
export const plyName = (ply: { sheet: string | null; position: number }) =>
  ply.sheet ? `sheet ${ply.sheet} (ply ${ply.position})` : `ply ${ply.position}`;
