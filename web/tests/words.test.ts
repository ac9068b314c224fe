import { describe, expect, test } from "vitest";
import { carriedOver, freshReading, readingFrom, readingQuery, readingTo, told } from "../src/bench/readingChoice";
import { type ReadingChoice, WORDS } from "../src/bench/words";

type Name = keyof ReadingChoice;
const names = Object.keys(WORDS) as Name[];

/** Every value a word is tried with: all its choices, its ends, odd texts. */
function values(name: Name): ReadingChoice[Name][] {
  const { kind, choices, low, high } = WORDS[name];
  if (kind === "choice") return [...choices] as ReadingChoice[Name][];
  if (kind === "flag") return [true, false];
  if (kind === "number") return [low ?? -1.5, high ?? 1e6, 12.5];
  return ["a & b = c; d", "all+1", "0,0.5,1", "é 7%"];
}

/** A reading with one word changed, and the word it goes with changed too. */
function withWord(name: Name, value: ReadingChoice[Name]): ReadingChoice {
  const other = WORDS[name].goesWith as Name | "";
  const along = other ? { [other]: WORDS[other].choices.find((c) => c !== WORDS[other].usual) } : {};
  return { ...freshReading("stress", "xx"), ...along, [name]: value };
}

const back = (reading: ReadingChoice) => {
  const p = new URLSearchParams();
  readingTo(reading, p);
  return readingFrom(new URLSearchParams(p.toString()));
};

describe.each(names)("the word %s of a reading", (name) => {
  test.each(values(name).map((v) => [v]))("comes back from the address: %s", (value) => {
    const reading = withWord(name, value);
    expect(back(reading)).toEqual(reading);
  });

  test("is asked for where it is not as usual, and is what the address holds", () => {
    for (const value of values(name)) {
      const reading = withWord(name, value);
      const asked = readingQuery(reading, 3);
      expect(asked.step).toBe(3);
      expect({ ...freshReading("", ""), ...told(reading) }).toEqual(reading);
      expect(Object.keys(asked).sort()).toEqual(["step", ...Object.keys(told(reading))].sort());
    }
  });

  test("is carried to another result only where it means the same there", () => {
    const reading = withWord(name, values(name)[0]!);
    const usual = freshReading("", "")[name];
    expect(carriedOver(reading)[name]).toEqual(WORDS[name].carried ? reading[name] : usual);
  });
});

test("what makes no sense in an address is as usual", () => {
  const p = new URLSearchParams("field=stress&averaging=some&fold=999&over=never&when=1&span=0:3&weight=&order=none");
  expect(readingFrom(p)).toEqual(freshReading("stress", ""));
  expect(readingFrom(new URLSearchParams("measure=xx"))).toBeNull();
});
