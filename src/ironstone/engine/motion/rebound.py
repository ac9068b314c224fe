"""Before and after of an event: how fast something came and left, and what pushed it."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import constants_of
from ironstone.core.field.volumes import volumes_of
from ironstone.core.mesh.mesh import Float
from ironstone.core.motion.events import duration, event, impulse
from ironstone.core.units import conversion, product, same_kind
from ironstone.core.verdicts import AGREES, by_share, state_of
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.curves.named import traced
from ironstone.engine.motion.particulars import ReboundMore
from ironstone.engine.reading.answers import number
from ironstone.engine.weight import Reach
from ironstone.engine.words import TraceSpec
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# The impulse agrees with the change of momentum within the first share of it, and is doubtful within the second.
CLOSE, NEAR = 0.02, 0.05


class Rebound(Question):
    """Before and after of an event: speed in and out, coefficient of restitution, and the impulse of what pushes against the change
    of momentum."""

    kind: ClassVar[str] = "rebound"
    more: ClassVar[type[BaseModel]] = ReboundMore
    reach: ClassVar[Reach] = "place"
    at: str = Field("", max_length=500, description="Where what moves is read, or set:NAME: the mean over it.")
    axis: Literal["x", "y", "z"] = Field("x", description="Along which it moves.")
    meets: str = Field("", max_length=500, description="Where what it meets is read, likewise; none: that stands still.")
    pushed: str = Field("", max_length=200, description="The set over which the force that pushes is summed.")
    speed: TraceSpec | None = Field(None, description="In place of at: a velocity along an axis, or the mean over a set.")
    against: TraceSpec | None = Field(None, description="In place of meets: the speed of what it meets.")
    force: TraceSpec | None = Field(None, description="In place of pushed: a force along the same axis summed over a set.")
    begins: float | None = Field(None, description="When the event begins, in the unit of the steps; none: when the force does.")
    ends: float | None = Field(None, description="When it ends.")
    part: str = Field("", max_length=200, description="The part that moves, whose mass is that of its density.")
    mass: float | None = Field(None, gt=0, description="Its mass, in the model's unit, where no density is stated.")

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        system = source.system
        per_time = f"{system.length}/{system.time}"
        moves, met, pushes = self._traces(source)
        time, speed, lead, caveats = _curve(review, source, moves, per_time, "a speed")
        if met is not None:
            _, other, _, more = _curve(review, source, met, per_time, "a speed")
            speed, caveats = speed - other, [*caveats, *more]
        force = None
        if pushes is not None:
            _, force, _, more = _curve(review, source, pushes, system.force, "a force")
            caveats = [*caveats, *more]
        if self.begins is not None and self.ends is not None:
            begins, ends = self.begins, self.ends
        elif force is not None:
            begins, ends = duration(time, force)
        else:
            raise IronstoneError("When the event is cannot be told.", "Name the force of the contact, or begins and ends.")
        found = event(time, speed, begins, ends)
        mass = self.mass if self.mass is not None else _mass(source, self.part) if self.part else None
        pushed = None if force is None else impulse(time, force, begins, ends)
        change = None if mass is None or met is not None else mass * (found.after - found.before)
        off = None if pushed is None or change is None else abs(pushed - change) / max(abs(change), 1e-300)
        verdict = by_share(off, CLOSE, NEAR)
        momentum = product(system.mass, per_time)
        figures = [
            Figure(label="speed before", value=found.before, unit=per_time, how="mean of three steps"),
            Figure(label="speed after", value=found.after, unit=per_time, how="mean of three steps"),
            Figure(label="coefficient of restitution", value=found.restitution, how="parting over approach"),
            Figure(label="from", value=begins, unit=system.time),
            Figure(label="to", value=ends, unit=system.time),
            Figure(label="impulse", value=pushed, unit=product(system.force, system.time), how="integral of the force"),
            Figure(label="change of momentum", value=change, unit=momentum, how="mass times change of speed"),
            Figure(label="impulse less change of momentum", value=off, how="as a share of the change"),
        ]
        return Answer(
            kind=self.kind,
            sentence=f"before and after of an event, {lead}, from {begins:.4g} to {ends:.4g} {system.time}",
            unit=per_time,
            columns=[
                Column(name="when", values=["before", "after"]),
                Column(name="speed", unit=per_time, values=[found.before, found.after]),
            ],
            figures=[f for f in figures if f.value is not None],
            caveats=caveats,
            verdict="" if off is None else _words(verdict, off),
            state=state_of(verdict),
            more={
                "before": found.before,
                "after": found.after,
                "restitution": found.restitution,
                "begins": begins,
                "ends": ends,
                "impulse": pushed,
                "momentum": change,
                "mass": mass,
                "time": time.tolist(),
                "speed": [number(v) for v in speed],
                "force": [] if force is None else [number(v) for v in force],
                "time_unit": system.time,
                "force_unit": system.force,
            },
        )

    def _traces(self, source: ReviewSource) -> tuple[TraceSpec, TraceSpec | None, TraceSpec | None]:
        """The speed of what moves, of what it meets, and the force that pushes. Raises IronstoneError where nothing says the first,
        Impossible where the result has no such field."""

        def along(place: str, kinds: tuple[str, ...], reduce: Literal["mean", "sum"]) -> TraceSpec:
            found = next((n for kind in kinds for n, f in source.fields.items() if f.kind == kind), None)
            if found is None:
                raise Impossible(f"'{source.name}' has no {kinds[0]}.", f"It has: {', '.join(source.fields)}.")
            return TraceSpec(field=found, measure=self.axis, at=place, reduce=reduce if place.startswith("set:") else None)

        def speed(place: str) -> TraceSpec:
            return along(place, ("velocity",), "mean")

        moves = self.speed or (speed(self.at) if self.at else None)
        if moves is None:
            raise IronstoneError(
                "What moves is not named.", "Name where it is read: at=node:12, or set:NAME for the mean over a set."
            )
        met = self.against or (speed(self.meets) if self.meets else None)
        pushes = self.force or (along(f"set:{self.pushed}", ("reaction", "force"), "sum") if self.pushed else None)
        return moves, met, pushes


def _words(verdict: str, off: float) -> str:
    if verdict == AGREES:
        return f"The impulse agrees with the change of momentum, within {100 * off:.2g} %."
    return (
        f"The impulse is {100 * off:.3g} % off the change of momentum: not all that pushes is in this force, or the steps are few."
    )


def _curve(review: Review, source: ReviewSource, spec: TraceSpec, unit: str, what: str) -> tuple[Float, Float, str, list[str]]:
    """Times, values in a unit, sentence and caveats of a trace. Raises Impossible where it is of another kind."""
    curve, sentence, caveats = traced(review, source, spec)
    if not curve.x_unit or not same_kind(curve.x_unit, "s"):
        raise Impossible(
            f"The steps of '{source.name}' are no times: {curve.x_label}.", "State in Intake that its steps are times."
        )
    if not curve.y_unit or not same_kind(curve.y_unit, unit):
        raise Impossible(f"{sentence}: it is no {what[2:]}.", f"Choose {what}.")
    return np.asarray(curve.x, dtype=np.float64), curve.y * conversion(curve.y_unit, unit)[0], sentence, caveats


def _mass(source: ReviewSource, part: str) -> float:
    """Mass of a part by its density. Raises Impossible where that is not known."""
    mesh = source.mesh
    if part not in mesh.part_names:
        raise Impossible(f"There is no part '{part}' in this result.", f"Parts: {', '.join(mesh.part_names)}.")
    own = mesh.part == mesh.part_names.index(part)
    (density,) = constants_of(mesh, source.setup, "density")
    found = float((density * volumes_of(source, 0))[own].sum())
    if not np.isfinite(found):
        raise Impossible(f"The mass of '{part}' is not known.", "State the density of its material, or its mass: mass=...")
    return found
