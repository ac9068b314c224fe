"""What the steps of a result stand for where its files do not say, or say wrong: times, load factors, frequencies, modes."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from ironstone.core.errors import IronstoneError

KINDS = ("time", "load factor", "frequency", "mode", "number")
# Written in place of a list: the last number in the name of each file.
FROM_NAMES = "names"
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"


def values_of(written: str, count: int, files: Sequence[str] = ()) -> tuple[list[float], str]:
    """Values of so many steps as they are written, and how that is said.

    '0, 0.5, 1' names each; '0:0.1' the first and what each next one adds; 'names' takes the last number in each file's name. Raises
    IronstoneError, with what is expected, where there is not one finite value a step.
    """
    text = written.strip()
    if text == FROM_NAMES:
        return _from_names(files, count), "from the files' names"
    run = re.fullmatch(rf"\s*({_NUMBER})\s*:\s*({_NUMBER})\s*", text)
    if run:
        first, more = float(run[1]), float(run[2])
        return _finite([first + more * i for i in range(count)]), f"from {first:g}, {more:g} more each step"
    pieces = [p for p in re.split(r"[;\s]+|,(?=\s)|,", text) if p]
    if not pieces or not all(re.fullmatch(_NUMBER, p) for p in pieces):
        bad = next((p for p in pieces if not re.fullmatch(_NUMBER, p)), text)
        raise IronstoneError(
            f"'{bad[:40]}' is no number.", "Write a value a step (0, 0.5, 1), the first and the increment (0:0.1), or: names."
        )
    if len(pieces) != count:
        raise IronstoneError(f"{len(pieces)} values were given for {count} steps.", "Give one value for each step.")
    return _finite([float(p) for p in pieces]), "one by one"


def _finite(values: list[float]) -> list[float]:
    if not np.isfinite(values).all():
        raise IronstoneError("A step has no finite value.", "Give one finite value for each step.")
    return values


def _from_names(files: Sequence[str], count: int) -> list[float]:
    """The last number in each name; one file a step."""
    if len(files) != count:
        raise IronstoneError(
            f"{count} steps came in {len(files)} file{'s' if len(files) != 1 else ''}: their names do not tell them apart.",
            "Give the values, or the first and the increment.",
        )
    found = []
    for name in files:
        stem = name.rsplit(".", 1)[0] if re.search(r"\.[A-Za-z]\w*$", name) else name
        # A joint is no sign: t-12 is twelve.
        numbers = re.findall(r"\d+(?:\.\d+)?(?:[eE][-+]?\d+)?", stem)
        if not numbers:
            raise IronstoneError(f"There is no number in the name '{name}'.", "Give the values, or the first and the increment.")
        found.append(float(numbers[-1]))
    return _finite(found)
