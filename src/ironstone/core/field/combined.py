"""Steps made of others: sums of load cases by factors, the components added before any measure is taken.

What adds is what is linear in the load: components of vectors and tensors, forces and stresses of bars. What belongs to the model
(thickness, density, names) stays as it is. Of all else (a temperature, a damage, a number that is a measure already) a sum has no
value: it is missing, never zero.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible, IronstoneError, NotFound
from ironstone.core.field.fields import COMBINATION, Field, Source, Step, displacement_of
from ironstone.core.kept import kept_with
from ironstone.core.kinds import kind_of

HOW = "Write NAME=STEP:FACTOR,STEP:FACTOR with steps counted from 0; a step of another result on the same mesh as STEP@RESULT."
# Above this share of the model's size a displacement is called large: equilibrium is no longer that of the undeformed shape.
LARGE = 0.05
# Numbers that are added at once.
RUN = 65_536
# The loading all combinations of a result belong to.
LOADING = "combinations"


@dataclass(frozen=True)
class Term:
    """One of the steps that are added: its position, what it is multiplied by, and the result it is of ('' the same one)."""

    step: int
    factor: float
    result: str = ""

    @property
    def words(self) -> str:
        return f"{self.step}{'@' if self.result else ''}{self.result}:{self.factor:g}"


@dataclass(frozen=True)
class Combination:
    """A step made of others. doubts: why its sum may not be what the loads together do."""

    name: str
    terms: tuple[Term, ...]
    doubts: tuple[str, ...] = ()


def combination_of(text: str) -> Combination:
    """A combination as it is written: ``NAME=STEP:FACTOR,STEP:FACTOR``. Raises IronstoneError, with how, where it is none."""
    name, given, terms = text.rpartition("=")
    if not given or not name.strip():
        raise IronstoneError(f"'{text[:80]}' is no combination.", HOW)
    return Combination(name.strip(), tuple(_term(word) for word in terms.split(",")))


def _term(word: str) -> Term:
    place, colon, factor = word.strip().rpartition(":")
    step, _, result = place.partition("@")
    try:
        value = float(factor)
        if not colon or not step.strip().isdigit() or not np.isfinite(value):
            raise ValueError(word)
    except ValueError as error:
        raise IronstoneError(f"'{word[:80]}' is no step with a factor.", HOW) from error
    return Term(int(step), value, result.strip())


def table_of(rows: Sequence[Sequence[str]], names: Sequence[str]) -> list[Combination]:
    """Combinations of a table of factors: a header whose first cell is of the names and whose others each say a step (its position
    from 0, or its name among ``names``), then a row a combination; an empty cell is no part of it.

    Raises IronstoneError that says which cell is wrong.
    """
    filled = [[c.strip() for c in row] for row in rows if any(c.strip() for c in row)]
    if len(filled) < 2:
        raise IronstoneError("The table of factors has no row under its header.", "Write a header with the steps, then a row each.")
    header, steps = filled[0], []
    for cell in filled[0][1:]:
        found = [i for i, n in enumerate(names) if n == cell]
        at = found[0] if len(found) == 1 else int(cell) if cell.isdigit() else -1
        if not 0 <= at < len(names):
            raise IronstoneError(f"'{cell}' in the header is no step of this result.", f"Steps here: {', '.join(names)}.")
        steps.append(at)
    made = []
    for number, row in enumerate(filled[1:], start=2):
        if len(row) > len(header):
            raise IronstoneError(f"Row {number} has {len(row)} cells, the header {len(header)}.", "Give a factor a step.")
        cells = [(step, c) for step, c in zip(steps, row[1:], strict=False) if c]
        try:
            terms = tuple(Term(step, float(c)) for step, c in cells)
        except ValueError as error:
            raise IronstoneError(f"Row {number} ('{row[0]}') has a factor that is no number.", "Write it with a point.") from error
        made.append(Combination(row[0], terms))
    return made


def checked(combination: Combination, source: Source, computed: int, same_mesh: Callable[[Source, Source], bool]) -> Combination:
    """A combination with its doubts, held against the result it is of. Raises IronstoneError where it cannot be formed."""
    if not combination.name or len(combination.name) > 80 or combination.name.isdigit():
        raise IronstoneError("A combination needs a name of 1 to 80 letters that is no number.", HOW)
    if combination.name in ("last", "first") or combination.name.startswith("t="):
        raise IronstoneError(f"'{combination.name}' names a step already.", "Choose another name.")
    if getattr(source, "meshes", ()):
        raise Impossible("The mesh of this result is another one at some steps: they cannot be added.", "Name results of one mesh.")
    if not combination.terms or not any(t.factor for t in combination.terms):
        raise IronstoneError(f"'{combination.name}' has no step with a factor.", HOW)
    for term in combination.terms:
        there = source.other(term.result) if term.result else source
        count = computed if there is source else sum(s.kind != COMBINATION for s in there.steps)
        if not 0 <= term.step < count:
            raise IronstoneError(f"There is no step {term.step} in '{there.name}' to be combined.", f"Steps: 0 to {count - 1}.")
        if there is not source and not same_mesh(source, there):
            raise Impossible(
                f"'{there.name}' has another mesh than '{source.name}'.", "Steps are added of results on one mesh, node by node."
            )
    return Combination(combination.name, combination.terms, tuple(doubts(combination, source)))


def doubts(combination: Combination, source: Source) -> list[str]:
    """Why a sum may not be what the loads do together: what does not follow in proportion."""
    said = []
    terms = [(source.other(t.result) if t.result else source, t) for t in combination.terms]
    steps = [there.steps[t.step] for there, t in terms]
    if any(s.kind == "mode" for s in steps):
        said.append("Shapes of modes have no amplitude of their own: their sum is none either.")
    turning = {s.value for (there, _), s in zip(terms, steps, strict=True) if any(f.harmonic for f in there.fields.values())}
    if len(turning) > 1:
        said.append("Harmonics of different frequencies do not add at a phase.")
    history = [(s.loading, there.name) for (there, _), s in zip(terms, steps, strict=True) if s.kind in ("time", "load factor")]
    if len(history) != len(set(history)):
        said.append("Steps of one load history are added: each holds what came before it already.")
    if any(_any(there, t.step, ("plastic strain",)) for there, t in terms):
        said.append("There is plastic strain in these steps: past yield results of single loads do not add.")
    if any(f.kind in ("contact gap", "pressure", "status") and f.plain for there, _ in terms for f in there.fields.values()):
        said.append("There is contact: what touches hangs on the loads together, and is not the sum.")
    for there, t in terms:
        moved = displacement_of(there.fields)
        if moved is None:
            continue
        if _largest_moved(there, moved.name, t.step) * abs(t.factor) > LARGE * there.mesh.size:
            said.append(f"Displacements are large (over {100 * LARGE:g} % of the model): loads do not add in proportion.")
            break
    return said


@kept_with(512)
def _largest_moved(source: Source, name: str, step: int) -> float:
    return float(np.nanmax(np.linalg.norm(source.values(name, step), axis=1), initial=0.0))


@kept_with(512)
def _any(source: Source, step: int, kinds: tuple[str, ...]) -> bool:
    found = [f for f in source.fields.values() if f.kind in kinds and f.rank == "scalar" and f.stored and f.plain]
    return any(bool((np.nan_to_num(source.values(f.name, step)) > 0.0).any()) for f in found)


def adds(field: Field) -> bool:
    """Whether the numbers of a field are linear in the load, so that those of a sum are the sum of theirs."""
    kind = kind_of(field.kind)
    return not field.names and not kind.stays and (kind.adds or field.rank in ("vector", "tensor"))


def stays(field: Field) -> bool:
    """Whether a field belongs to the model, the same under every load."""
    return field.names or kind_of(field.kind).stays


def summed(field: Field, terms: Sequence[Term], get: Callable[[Term], NDArray[np.floating]]) -> NDArray[np.floating]:
    """Numbers of a field at a combination from those of its terms; NaN where it has none."""
    if stays(field):
        return get(terms[0])
    if not adds(field):
        return np.full_like(np.asarray(get(terms[0]), dtype=np.float64), np.nan)
    total: NDArray[np.float64] = np.zeros(0)
    for k, term in enumerate(terms):
        part = get(term)
        if k == 0:
            total = np.multiply(part, term.factor, dtype=np.float64)
            continue
        # Run by run, so that what is multiplied is still at hand when it is added.
        whole, more = total.reshape(-1), part.reshape(-1)
        for start in range(0, len(whole), RUN):
            run = slice(start, start + RUN)
            whole[run] += np.multiply(more[run], term.factor, dtype=np.float64)
    return total


def made_step(made: Combination, source: Source, own: Sequence[Step], number: int) -> Step:
    """The step a combination is, after a result's ``own`` steps, the ``number``-th from 0 of those made of others."""

    def label(term: Term) -> str:
        if not term.result:
            return own[term.step].label if term.step < len(own) else f"step {term.step + 1}"
        with suppress(NotFound):
            return f"{source.other(term.result).name}, step {term.step + 1}"
        return f"step {term.step + 1} of a result that is not there"

    notes = (f"A sum of steps, components before the measure: {words_of(made, label)}.", *made.doubts)
    return Step(len(own) + number, COMBINATION, float(number + 1), "", LOADING, made.name, notes)


def words_of(combination: Combination, label: Callable[[Term], str]) -> str:
    """What is added, in words: '1.35 x dead load + 1.5 x snow'."""
    said = ""
    for k, term in enumerate(combination.terms):
        sign = " - " if term.factor < 0 else " + "
        lead = ("-" if term.factor < 0 else "") if k == 0 else sign
        said += f"{lead}{abs(term.factor):g} x {label(term)}"
    return said
