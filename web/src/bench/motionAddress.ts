import { freshMotion, freshWays, type MotionChoice, type MotionWays } from "./motionState";

/** A number in a word of an address; null where there is none. */
export const number = (text: string | null) =>
  text !== null && text !== "" && Number.isFinite(Number(text)) ? Number(text) : null;

/** Writes a motion that is looked at into an address. */
export function motionTo(motion: MotionChoice, p: URLSearchParams): void {
  const text = motionText(motion);
  if (text !== motionText(freshMotion)) p.set("motion", text);
  if (motion.beside.length) p.set("responses", motion.beside.map(encodeURIComponent).join(";"));
  const ways = waysText(motion.ways);
  if (ways) p.set("motion-ways", ways);
}

const motionText = ({ other, axis, drawn, modes, of, at }: MotionChoice) =>
  [other ?? "", axis, drawn, modes.join("."), of, at].join(";");

/** A motion that is looked at, as an address has it: the place comes last, whatever is in its name. */
export function motionFrom(p: URLSearchParams): MotionChoice {
  const [text, beside, ways] = ["motion", "responses", "motion-ways"].map((name) => p.get(name) ?? "") as [
    string,
    string,
    string,
  ];
  const [other, axis, drawn, modes, of, ...at] = text.split(";");
  const oneOf = <T extends string>(word: string | undefined, ...known: T[]) =>
    known.find((k) => k === word) ?? known[0]!;
  return {
    other: number(other || null),
    axis: oneOf(axis, "x", "y", "z"),
    drawn: oneOf(drawn, "amplitude", "level", "bands", "phase", "nyquist"),
    modes: (modes ?? "")
      .split(".")
      .map(Number)
      .filter((n) => Number.isInteger(n) && n > 0),
    of: oneOf(of, "spectrum", "spectrogram", "shock", "decay", "rebound"),
    at: at.join(";"),
    beside: beside.split(";").filter(Boolean).map(decoded),
    ways: waysOf(ways),
  };
}

/** A word of a list, whatever signs are in it; one that somebody cut in the middle stands as it is. */
function decoded(word: string): string {
  try {
    return decodeURIComponent(word);
  } catch {
    return word;
  }
}

const waysText = (ways: MotionWays): string =>
  Object.entries(ways)
    .filter(([name, value]) => value !== freshWays[name as keyof MotionWays])
    .map(([name, value]) => `${name}=${encodeURIComponent(String(value))}`)
    .join(";");

/** How a motion is worked out, as an address has it; what is none of its words or cannot be a value of one is as usual. */
function waysOf(text: string): MotionWays {
  const told = new Map(
    text.split(";").map((pair): [string, string] => [pair.split("=")[0]!, pair.split("=")[1] ?? ""]),
  );
  const word = (name: keyof MotionWays) => decoded(told.get(name) ?? "");
  const above = (name: keyof MotionWays) => {
    const value = number(word(name) || null);
    return value !== null && value > 0 ? value : null;
  };
  const share = (name: "damping" | "within") => {
    const value = number(word(name) || null);
    return value !== null && value >= 0 && value < 1 ? value : freshWays[name];
  };
  return {
    scaled: (["one", "mass"] as const).find((w) => w === word("scaled")) ?? "file",
    reference: above("reference"),
    weighting: word("weighting") === "A" ? "A" : "",
    offFrequency: above("offFrequency"),
    offAmplitude: above("offAmplitude"),
    leastFrac: above("leastFrac"),
    unwrapped: word("unwrapped") === "true",
    window: (["none", "flattop"] as const).find((w) => w === word("window")) ?? "hann",
    pieces: Math.round(above("pieces") ?? 1),
    lasts: above("lasts"),
    damping: share("damping"),
    within: share("within"),
    meets: word("meets"),
    pushed: word("pushed"),
    moves: word("moves"),
  };
}
