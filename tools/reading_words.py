"""Writes the table of a reading's words for the front end: ``python -m tools.reading_words`` prints the module."""

from __future__ import annotations

import json

from ironstone.core.reading.reading import WORDS, Word

HEAD = """// Made by tools/reading_words.py from the words of core/reading/reading.py: change those, then `make client`.

/** One word of a reading: what it can be, and what it is where nothing is said. */
export interface Word {
  kind: "choice" | "flag" | "number" | "text";
  usual: string | number | boolean | null;
  choices: readonly string[];
  low: number | null;
  high: number | null;
  /** The word without which it means nothing, at that one's usual value. */
  goesWith: string;
  /** Whether it means the same in another result. */
  carried: boolean;
}
"""


def type_of(word: Word) -> str:
    plain = {"choice": " | ".join(json.dumps(c) for c in word.choices), "flag": "boolean", "number": "number", "text": "string"}
    return f"{plain[word.kind]}{' | null' if word.optional else ''}"


def module() -> str:
    lines = [HEAD, "/** The reading in view, without its step. */", "export interface ReadingChoice {"]
    for word in WORDS:
        lines += [f"  /** {word.says} */", f"  {word.name}: {type_of(word)};"]
    lines += ["}", "", "export const WORDS: Record<keyof ReadingChoice, Word> = {"]
    for word in WORDS:
        row = {
            "kind": word.kind,
            "usual": word.default,
            "choices": list(word.choices),
            "low": word.low,
            "high": word.high,
            "goesWith": word.goes_with,
            "carried": word.carried,
        }
        lines.append(f"  {word.name}: {{")
        lines += [f"    {name}: {_written(value)}," for name, value in row.items()]
        lines.append("  },")
    return "\n".join([*lines, "};", ""])


def _written(value: object) -> str:
    # 20.0 is 20 there.
    return json.dumps(int(value) if isinstance(value, float) and value.is_integer() else value)


if __name__ == "__main__":
    print(module(), end="")
