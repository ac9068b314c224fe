/** The reading in view as a pane holds it, written and read by the one table of its words. */
import { type ReadingChoice, WORDS } from "./words";

export type { ReadingChoice } from "./words";
export type Averaging = ReadingChoice["averaging"];
export type Of = ReadingChoice["of"];
export type Over = ReadingChoice["over"];

type Name = keyof ReadingChoice;
const NAMES = Object.keys(WORDS) as Name[];
const usual = Object.fromEntries(NAMES.map((name) => [name, WORDS[name].usual])) as unknown as ReadingChoice;

/** A reading as it starts: nothing averaged, one step, global axes. */
export const freshReading = (field: string, measure: string): ReadingChoice => ({ ...usual, field, measure });

/** Whether a word says anything: it is not as usual, and neither is the one it goes with. */
const says = (reading: ReadingChoice, name: Name): boolean => {
  const other = WORDS[name].goesWith as Name | "";
  return reading[name] !== usual[name] && reading[name] !== "" && (!other || reading[other] !== usual[other]);
};

/** The words of a reading that say anything: what is asked for, kept, and written in an address. */
export const told = (reading: ReadingChoice): Partial<ReadingChoice> & { field: string } => ({
  field: reading.field,
  ...Object.fromEntries(NAMES.filter((name) => says(reading, name)).map((name) => [name, reading[name]])),
});

/** The same at a step: what every request of a reading takes. */
export const readingQuery = (reading: ReadingChoice, step: number) => ({ ...told(reading), step });

/** Writes a reading into an address. */
export function readingTo(reading: ReadingChoice, p: URLSearchParams): void {
  for (const [name, value] of Object.entries(told(reading)))
    p.set(name, typeof value === "boolean" ? "1" : typeof value === "number" ? short(value) : String(value));
}

/** The reading an address holds; what makes no sense there is as usual. Null where it names no field. */
export function readingFrom(p: URLSearchParams): ReadingChoice | null {
  if (!p.get("field")) return null;
  const found = Object.fromEntries(
    NAMES.map((name) => [name, wordFrom(name, p.get(name))]),
  ) as unknown as ReadingChoice;
  return { ...usual, ...told(found) };
}

function wordFrom(name: Name, text: string | null): ReadingChoice[Name] {
  const { kind, choices, low, high } = WORDS[name];
  if (text === null || text === "") return usual[name];
  if (kind === "flag") return text === "1" || text === "true";
  if (kind === "choice") return (choices.includes(text) ? text : usual[name]) as ReadingChoice[Name];
  if (kind === "text") return text;
  const value = Number(text);
  return Number.isFinite(value) && value >= (low ?? -Infinity) && value <= (high ?? Infinity) ? value : usual[name];
}

const short = (v: number) => Number(v.toPrecision(6)).toString();

/** What of a reading means the same in another result: steps, parts, axes, layers and phases are its own there. */
export const carriedOver = (r: ReadingChoice): ReadingChoice =>
  Object.fromEntries(
    NAMES.map((name) => [name, WORDS[name].carried ? r[name] : usual[name]]),
  ) as unknown as ReadingChoice;

/** The words of a reading an address holds that are none, each in a few words: an averaging there is not, a number out of range. */
export const unknownWords = (p: URLSearchParams): string[] =>
  NAMES.filter((name) => {
    const text = p.get(name);
    if (!text || WORDS[name].kind === "text" || WORDS[name].kind === "flag") return false;
    return wordFrom(name, text) === usual[name] && text !== String(usual[name]);
  }).map((name) => `the ${name} '${p.get(name)}'`);
