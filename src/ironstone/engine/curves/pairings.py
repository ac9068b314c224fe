"""One trace against another: load-displacement curves, loops and their cycles."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import ClassVar

from pydantic import BaseModel, Field

from ironstone.core.curves.curves import Curve
from ironstone.core.curves.match import named
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.loadings import axis_of, computed
from ironstone.engine.base import Kept, Question, by_name, readable
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.curves import curve_answers
from ironstone.engine.curves.named import traced
from ironstone.engine.curves.particulars import CyclesMore
from ironstone.engine.reading import answers
from ironstone.engine.weight import Reach
from ironstone.engine.words import TraceSpec
from ironstone.store import Review
from ironstone.store.items import Item
from ironstone.store.source import ReviewSource


class PairingIn(Kept):
    """One trace against another, over all steps or some (``first`` to ``last``, both counted, from 0)."""

    kind: ClassVar[str] = "pairing"
    result: int
    name: str = Field("Loop", max_length=120)
    x: TraceSpec
    y: TraceSpec
    first: int = Field(0, ge=0)
    last: int | None = Field(None, ge=0)
    prominence: float | None = Field(
        None, gt=0, lt=1, description="Share of the driver's range it comes back to have turned; none: found from its noise."
    )

    def check(self, review: Review) -> None:
        paired(review, self)

    def made(self) -> str:
        return f"Curve '{self.name}' made"

    def gone(self) -> str:
        return f"Curve '{self.name}' removed"


class CycleOut(BaseModel):
    energy: float | None
    closed: bool
    secant_stiffness: float | None
    retained: float | None = None
    ductility: float | None = None
    damping_ratio: float | None
    x_peak: float | None
    y_peak: float | None
    x_trough: float | None
    y_trough: float | None
    start: int
    stop: int


class LoopsOut(BaseModel):
    x_unit: str | None
    y_unit: str | None
    energy_unit: str | None
    stiffness_unit: str | None
    energy_total: float | None
    cycles: list[CycleOut]
    envelope_x: list[float] = []
    envelope_y: list[float] = []
    yield_at: float | None = Field(None, description="Yield displacement of the first loading, by equal energy.")
    prominence: float = Field(0.02, description="Share of the driver's range it had to come back to have turned.")
    notes: list[str] = []


class AxisOut(BaseModel):
    values: list[float | None]
    label: str
    unit: str | None
    sentence: str


class FigureOut(BaseModel):
    """One figure of a curve, with what it is."""

    label: str
    value: float | None
    unit: str
    how: str


class PairingOut(BaseModel):
    id: int
    revision: int
    result: int
    name: str
    x: AxisOut
    y: AxisOut
    x_spec: TraceSpec
    y_spec: TraceSpec
    first: int
    last: int | None
    prominence: float | None = None
    steps: AxisOut
    loops: LoopsOut
    figures: list[FigureOut] = Field(default=[], description="Of a curve without a full cycle: stiffness, yield, energy.")
    caveats: list[str]
    error: str | None = Field(None, description="Why it cannot be drawn any more: what it is made of has gone or has changed.")


def _axis(review: Review, source: ReviewSource, spec: TraceSpec, taken: list[bool]) -> tuple[Curve, AxisOut, list[str]]:
    curve, sentence, caveats = traced(review, source, spec)
    values = [answers.number(v) if inside else None for v, inside in zip(curve.y, taken, strict=True)]
    return curve, AxisOut(values=values, label=curve.y_label, unit=curve.y_unit, sentence=sentence), caveats


def pairing_of(review: Review, number: int) -> tuple[Curve, PairingOut]:
    """A kept pairing by its number."""
    item = review.item(number, "pairing")
    return paired(review, PairingIn.understood(item.payload), item)


def pairings_of(review: Review, result: int) -> list[PairingOut]:
    return [_or_why_not(review, item, spec) for item, spec in readable(review, PairingIn, result)]


def paired(review: Review, spec: PairingIn, item: Item | None = None) -> tuple[Curve, PairingOut]:
    """A pairing's curve, and all there is to say of it; ``item`` where it is kept."""
    source = review.result(spec.result)
    count = len(computed(source.steps))
    last = count - 1 if spec.last is None else min(spec.last, count - 1)
    if last <= spec.first:
        raise IronstoneError(f"Steps {spec.first} to {last} leave no curve.", f"Steps run from 0 to {count - 1}.")
    taken = [spec.first <= i <= last for i in range(count)]
    x, x_out, x_caveats = _axis(review, source, spec.x, taken)
    y, y_out, y_caveats = _axis(review, source, spec.y, taken)
    curve = Curve(x.y[taken], y.y[taken], x.y_unit, y.y_unit, x.y_label, y.y_label)
    axis = axis_of(source.steps)
    reply = curve_answers.loops_answer(curve, prominence=spec.prominence)
    for cycle in reply["cycles"]:
        cycle["start"] += spec.first
        cycle["stop"] += spec.first
    return curve, PairingOut(
        id=item.id if item else 0,
        revision=item.revision if item else 1,
        result=spec.result,
        name=spec.name,
        x=x_out,
        y=y_out,
        x_spec=spec.x,
        y_spec=spec.y,
        first=spec.first,
        last=spec.last,
        prominence=spec.prominence,
        steps=AxisOut(values=axis.values.tolist(), label=axis.kind, unit=axis.unit, sentence=axis.kind),
        loops=LoopsOut.model_validate(reply),
        figures=[FigureOut(**f) for f in curve_answers.figures(curve)],
        caveats=list(dict.fromkeys([*x_caveats, *y_caveats, *answers.few_steps(source, curve.y, spec.first), *reply["notes"]])),
    )


def _or_why_not(review: Review, item: Item, spec: PairingIn) -> PairingOut:
    """A curve whose set, field or named curve has gone says so; the others are not taken along."""
    try:
        return paired(review, spec, item)[1]
    except IronstoneError as error:
        nothing = AxisOut(values=[], label="", unit=None, sentence="")
        none = LoopsOut(x_unit=None, y_unit=None, energy_unit=None, stiffness_unit=None, energy_total=None, cycles=[])
        said = {**spec.model_dump(exclude={"x", "y"}), "x_spec": spec.x, "y_spec": spec.y}
        return PairingOut(
            id=item.id,
            revision=item.revision,
            **said,
            x=nothing,
            y=nothing,
            steps=nothing,
            loops=none,
            caveats=[],
            error=f"{error.message} {error.hint}",
        )


def _amplitude(cycle: CycleOut) -> float | None:
    """Half the way of the driver in a cycle."""
    return None if cycle.x_peak is None or cycle.x_trough is None else (cycle.x_peak - cycle.x_trough) / 2


class TwoTraces(Question):
    """One trace against another: a curve that is kept, by number or name, or two traces."""

    more: ClassVar[type[BaseModel]] = CyclesMore
    reach: ClassVar[Reach] = "kept"
    pairing: int | str | None = None
    x: TraceSpec | None = None
    y: TraceSpec | None = None
    prominence: float | None = None

    def spec(self, review: Review) -> PairingIn:
        if self.pairing is not None:
            return by_name(review, PairingIn, self.pairing)[1]
        if self.x is None or self.y is None:
            raise IronstoneError("A pairing needs two traces, x and y.", "State both, or name one that is kept.")
        return PairingIn(result=super().source(review).id, x=self.x, y=self.y, prominence=self.prominence)

    def source(self, review: Review) -> ReviewSource:
        return review.result(self.spec(review).result)


def numbers_of(cycles: str) -> list[int]:
    """Numbers of cycles as they are written, '3' or '2,3'; '' all. Raises Impossible."""
    try:
        return sorted({int(n) for n in cycles.split(",")}) if cycles.strip() else []
    except ValueError as error:
        raise Impossible(f"'{cycles}' is no list of cycles.", "Write their numbers, from 1, with commas: 2,3.") from error


class Cycles(TwoTraces, Question):
    """One trace against another: its cycles with energy, secant stiffness and damping, or the figures of one that goes one way."""

    kind: ClassVar[str] = "cycles"
    only: str = Field("", pattern=r"^[\d, ]*$", description="Numbers of the cycles that are listed: 3, or 2,3; none: all.")

    def answer(self, review: Review) -> Answer:
        curve, reply = paired(review, self.spec(review))
        loops = reply.loops
        picked = numbers_of(self.only) or list(range(1, len(loops.cycles) + 1))
        cycles = picked_cycles(reply, picked)
        x, y = loops.x_unit, loops.y_unit
        units = {"energy": loops.energy_unit, "secant_stiffness": loops.stiffness_unit, "x_peak": x, "y_peak": y, "x_trough": x}
        units |= {"y_trough": y, "damping_ratio": ""}
        names = ("energy", "secant_stiffness", "damping_ratio", "x_peak", "y_peak", "x_trough", "y_trough")
        return Answer(
            kind=self.kind,
            sentence=f"{reply.y.sentence}; against {reply.x.sentence}{said_of_cycles(numbers_of(self.only))}",
            unit=loops.energy_unit,
            columns=[
                Column(name="cycle", values=picked),
                Column(name="amplitude", unit=x, values=[_amplitude(c) for c in cycles]),
                *(Column(name=n, unit=units.get(n), values=[getattr(c, n) for c in cycles]) for n in names),
                Column(name="closed", values=["yes" if c.closed else "no" for c in cycles]),
            ],
            figures=[
                _energy(reply, numbers_of(self.only), cycles),
                *(Figure(**f.model_dump()) for f in reply.figures),
            ],
            caveats=reply.caveats,
            more={"x": curve.x.tolist(), "y": [answers.number(v) for v in curve.y], "x_unit": curve.x_unit, "y_unit": curve.y_unit},
        )


def picked_cycles(reply: PairingOut, numbers: Sequence[int]) -> list[CycleOut]:
    """Cycles of a curve by their numbers, from 1. Raises Impossible where it has none of a number."""
    known = reply.loops.cycles
    if not all(1 <= n <= len(known) for n in numbers):
        raise Impossible(f"The curve has {len(known)} cycles, not one of each number that is asked for.", "They count from 1.")
    return [known[n - 1] for n in numbers]


def said_of_cycles(cycles: Sequence[int]) -> str:
    """Which cycles alone a sentence is of; '' of all."""
    return f", {named(cycles)} alone" if cycles else ""


def _energy(reply: PairingOut, numbers: list[int], cycles: list[CycleOut]) -> Figure:
    """The energy of all cycles, or of those that were picked."""
    unit = reply.loops.energy_unit or ""
    if not numbers:
        return Figure(label="Energy of all cycles", value=reply.loops.energy_total, unit=unit)
    known = [c.energy for c in cycles if c.energy is not None]
    # A cycle without an energy is not one of none: the sum is not known then.
    whole = sum(known) if len(known) == len(cycles) else None
    return Figure(label=f"Energy of {named(numbers)}", value=whole, unit=unit)


class Points(TwoTraces, Question):
    """A kept curve, or two traces, point by point: the step, x and y."""

    kind: ClassVar[str] = "curve"
    only: str = Field("", pattern=r"^[\d, ]*$", description="Numbers of the cycles whose points are listed: 3, or 2,3; none: all.")

    def answer(self, review: Review) -> Answer:
        curve, reply = paired(review, self.spec(review))
        steps = reply.steps.values[reply.first : reply.first + len(curve.x)]
        picked = numbers_of(self.only)
        spans = [(c.start - reply.first, c.stop - reply.first) for c in picked_cycles(reply, picked)]
        rows = [i for i in range(len(curve.x)) if not spans or any(a <= i <= b for a, b in spans)]
        curve = replace(curve, x=curve.x[rows], y=curve.y[rows])
        return Answer(
            kind=self.kind,
            sentence=f"{reply.y.sentence}; against {reply.x.sentence}{said_of_cycles(picked)}",
            columns=[
                Column(name=reply.steps.label, unit=reply.steps.unit, values=[steps[i] for i in rows]),
                Column(name=reply.x.label, unit=curve.x_unit, values=[answers.number(v) for v in curve.x]),
                Column(name=reply.y.label, unit=curve.y_unit, values=[answers.number(v) for v in curve.y]),
            ],
            figures=[Figure(**f.model_dump()) for f in reply.figures],
            caveats=reply.caveats,
            more={"x": curve.x.tolist(), "y": [answers.number(v) for v in curve.y], "x_unit": curve.x_unit, "y_unit": curve.y_unit},
        )
