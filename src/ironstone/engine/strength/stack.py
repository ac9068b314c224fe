"""The stack of one element: strain, stress, index, mode and reserve of every ply through the thickness, and what they say."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel
from pydantic import Field as Word

from ironstone.core.errors import Impossible
from ironstone.core.field.plies import ply_state, zones_with_elements
from ironstone.core.reading.failing import basis_places, laminates_in
from ironstone.core.reading.plies import check_ply
from ironstone.core.strength.criteria import WITHOUT_LOAD, mode_words, reserve_of
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.reading.answers import number
from ironstone.engine.said import CRITERION
from ironstone.engine.steps import find_step
from ironstone.engine.strength.failure import LAMINATE, assumed, checked_by, laminated
from ironstone.engine.strength.particulars import StackMore
from ironstone.engine.weight import Reach
from ironstone.store import Review

FIVE = ("11", "22", "12", "23", "13")
FLAT = FIVE[:3]


class Stack(Question):
    """The plies of one element through the thickness: strain, stress, index, mode and reserve of each, and what they say."""

    kind: ClassVar[str] = "stack"
    more: ClassVar[type[BaseModel]] = StackMore
    reach: ClassVar[Reach] = "place"
    element: int
    laminate: str = Word("", description=LAMINATE, max_length=8_000_000)
    criterion: str = Word(description=CRITERION)
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        shown = laminated(source, self.laminate.encode())
        step = find_step(source, self.step)
        check = checked_by(shown, self.criterion)
        position = source.mesh.element_position(self.element)
        zone = next((z for z, e in zones_with_elements(shown) if position in e), None)
        if zone is None:
            raise Impossible(f"Element {self.element} is of no zone.", "It has no laminate.")
        state = ply_state(shown, zone, step, np.array([position]))
        places, words = basis_places(shown), mode_words(check, laminates_in(shown).materials)
        rows: list[dict[str, Any]] = []
        for ply, own in enumerate(zone.laminate.plies):
            for place, where in enumerate(places):
                now, residual = check_ply(state, ply, place, check), state.residual(ply, place)
                stress = state.stress(ply, place)[0].copy()
                stress[:3] += 0.0 if residual is None else residual
                exposure = float(now.exposure[0])
                rows.append(
                    {
                        "position": ply + 1,
                        "sheet": own.sheet or None,
                        "material": own.material.name,
                        "angle": own.angle,
                        "thickness": own.thickness,
                        "place": where,
                        "z": float(zone.laminate.places[ply, min(place, 2)]),
                        "strain": [number(float(v)) for v in state.strain_in(ply, place)[0, :3]],
                        "stress": [number(float(v)) for v in stress],
                        "index": number(float(now.index[0])),
                        "exposure": number(exposure),
                        "reserve": reserve_of(exposure),
                        "state": WITHOUT_LOAD if np.isinf(exposure) else None,
                        "mode": "" if np.isnan(now.exposure[0]) else words[int(now.mode[0])],
                    }
                )
        unit, length = laminates_in(shown).system.stress, laminates_in(shown).system.length
        return Answer(
            kind=self.kind,
            sentence=f"plies of element {self.element}, zone {zone.name}, by {check.label}, {source.steps[step].label}",
            columns=[
                Column(name="ply", values=[r["position"] for r in rows]),
                Column(name="sheet", values=[r["sheet"] for r in rows]),
                Column(name="material", values=[r["material"] for r in rows]),
                Column(name="angle", unit="°", values=[r["angle"] for r in rows]),
                Column(name="place", values=[r["place"] for r in rows]),
                Column(name="z", unit=length, values=[r["z"] for r in rows]),
                *(Column(name=f"strain {n}", unit="", values=[r["strain"][i] for r in rows]) for i, n in enumerate(FLAT)),
                *(Column(name=f"stress {n}", unit=unit, values=[r["stress"][i] for r in rows]) for i, n in enumerate(FIVE)),
                *(Column(name=n, unit="", values=[r[n] for r in rows]) for n in ("index", "exposure", "reserve")),
                Column(name="mode", values=[r["mode"] for r in rows]),
            ],
            caveats=assumed(shown),
            more={
                "element": self.element,
                "zone": zone.name,
                "thickness": zone.laminate.thickness,
                "unit": unit,
                "length": length,
                "plies": rows,
                "remarks": remarks(rows),
            },
        )


def _rank(row: dict[str, Any]) -> float:
    """By how much a row is exposed: what fails without load before all others."""
    return np.inf if row["state"] == WITHOUT_LOAD else float(row["exposure"])


def remarks(rows: list[dict[str, Any]]) -> list[str]:
    """Whether the worst ply makes sense: which side is compressed, whether it fails in its weak direction, what else is near."""
    there = [r for r in rows if r["exposure"] is not None or r["state"] == WITHOUT_LOAD]
    if not there:
        return ["No ply has a value here."]
    worst = max(there, key=_rank)
    name = worst["sheet"] or f"ply {worst['position']}"
    mode: str = worst["mode"]
    across, shear = worst["stress"][1:3]
    weak = not mode.startswith("fibre")
    far = f"{WITHOUT_LOAD}, of the change of temperature alone" if worst["state"] else "is nearest to failure"
    said = [f"{name} at {worst['angle']:g}°, {worst['place']}, {far}: {mode}."]
    if weak and mode.startswith(("matrix", "between", "shear", "interaction")):
        largest = "shear" if abs(shear) > abs(across) else "stress across the fibres"
        said.append(
            f"That is the weak direction of a ply: its {largest} counts there, whose strength is a fraction of the fibres'."
        )
    elif not weak:
        said.append("Fibres fail first: the strong direction carries the load. Look at the load and at buckling before the ply.")
    ends = rows[0]["strain"], rows[-1]["strain"]
    if all(v is not None for e in ends for v in e):
        # The sum of the two strains does not depend on the angle of the ply.
        low, high = (e[0] + e[1] for e in ends)
        if low * high < 0:
            side = "bottom" if low < 0 else "top"
            on_it = (worst["z"] < (rows[0]["z"] + rows[-1]["z"]) / 2) == (side == "bottom")
            said.append(f"The {side} is the compressed side; the worst ply is on {'it' if on_it else 'the other, stretched side'}.")
        else:
            said.append(f"The wall is {'stretched' if low > 0 else 'compressed'} through its whole thickness.")
    near = [r for r in there if _rank(r) >= 0.9 * _rank(worst) and r["position"] != worst["position"]]
    others = sorted({r["sheet"] or f"ply {r['position']}" for r in near})
    if others:
        said.append(f"Within a tenth of it: {', '.join(others[:6])}{' …' if len(others) > 6 else ''}.")
    return said
