"""Coupons: tests of a ply's strengths that are kept, what they say of it, and the envelope of a criterion they stand on."""

from __future__ import annotations

import copy
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError, NotFound
from ironstone.core.field.loadings import computed
from ironstone.core.field.plies import ply_state, zones_with_elements
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.failing import basis_places, exposure_through_steps, laminates_in
from ironstone.core.strength.coupons import Sample, sample_of
from ironstone.core.strength.criteria import BOND_WORDS, Criterion, check_of
from ironstone.core.strength.envelope import PLANES, envelope
from ironstone.core.strength.laminate import PlyMaterial
from ironstone.core.units import convert, known
from ironstone.engine.base import Kept, Question, by_name, readable
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.reading.answers import number
from ironstone.engine.said import CRITERION
from ironstone.engine.strength.failure import first_failure, laminated
from ironstone.engine.strength.particulars import EnvelopeMore
from ironstone.engine.weight import Reach
from ironstone.engine.words import Strict
from ironstone.formats.laminates import write_laminates
from ironstone.formats.strength_tables import PROPERTIES, parse_coupons
from ironstone.store import Review
from ironstone.store.source import ReviewSource
from ironstone.store.transactions import in_one

NUMBERS = {"mean": "mean", "b": "90 % / 95 % bound", "a": "99 % / 95 % bound"}
# Where a strength stands in the stress of a ply, and with which sign.
AXES = {"Xt": (0, 1), "Xc": (0, -1), "Yt": (1, 1), "Yc": (1, -1), "S12": (2, 1)}
_STRAINS = ("e1t", "e1c", "e2t", "e2c", "g12", "nu12")


class Coupon(Strict):
    """One test: a property with its value, or the stresses at failure."""

    specimen: str = Field("", max_length=80)
    property: str = Field("", max_length=10)
    value: float | None = Field(None, allow_inf_nan=False)
    s11: float | None = Field(None, allow_inf_nan=False)
    s22: float | None = Field(None, allow_inf_nan=False)
    s12: float | None = Field(None, allow_inf_nan=False)

    def point(self) -> list[float] | None:
        """The stress (11, 22, 12) at which it failed; None of a modulus or a strain."""
        if self.property in AXES and self.value is not None:
            axis, sign = AXES[self.property]
            return [sign * self.value if i == axis else 0.0 for i in range(3)]
        if self.property:
            return None
        return [v or 0.0 for v in (self.s11, self.s22, self.s12)]


class Coupons(Kept):
    """Coupon tests of one material: what each reached."""

    kind: ClassVar[str] = "coupons"
    name: str = Field(min_length=1, max_length=80)
    material: str = Field("", max_length=200, description="Of which material of the laminates.")
    unit: str | None = Field(None, description="Of the stresses; none: the result's.")
    coupons: list[Coupon] = Field(min_length=1, max_length=20_000)

    def check(self, review: Review) -> None:
        if self.unit and not known(self.unit):
            raise IronstoneError(f"The unit '{self.unit}' is not known.", "Write it like MPa or ksi.")
        odd = next((c.property for c in self.coupons if c.property and c.property not in PROPERTIES), None)
        if odd:
            raise IronstoneError(f"'{odd}' is no property of a ply.", f"It is one of {', '.join(PROPERTIES)}.")

    def same(self, other: Kept) -> bool:
        return isinstance(other, Coupons) and other.name == self.name

    def made(self) -> str:
        return f"Coupons '{self.name}' kept, {len(self.coupons)} of them"

    def gone(self) -> str:
        return f"Coupons '{self.name}' removed"

    def values(self, which: str, stress: str) -> Float:
        """What the coupons reached of a property, stresses in this unit."""
        found = np.array([c.value for c in self.coupons if c.property == which and c.value is not None], dtype=np.float64)
        return found if which in _STRAINS or not self.unit or not stress else convert(found, self.unit, stress)


def coupons_of(data: bytes, name: str, material: str = "") -> Coupons:
    """Coupons from the bytes of a CSV or XLSX file."""
    rows, unit = parse_coupons(data, name)
    return Coupons.stated({"name": name.rpartition(".")[0][:80] or name[:80], "material": material, "unit": unit, "coupons": rows})


def samples(coupons: Coupons, stress: str) -> dict[str, Sample]:
    """What the coupons say of each property that was tested."""
    tested = dict.fromkeys(c.property for c in coupons.coupons if c.property)
    return {which: sample_of(coupons.values(which, stress)) for which in tested}


class CouponBasis(Question):
    """What coupons say: mean, scatter, tolerance bounds and whether they look normal, a row a property."""

    kind: ClassVar[str] = "coupon-basis"
    reach: ClassVar[Reach] = "kept"
    named: str | int = Field(description="Coupons that are kept, by name or number.")

    def answer(self, review: Review) -> Answer:
        _, coupons = by_name(review, Coupons, self.named)
        source = self.source(review)
        unit = source.system.stress if coupons.unit is None else coupons.unit
        rows = samples(coupons, unit)
        of = f" of {coupons.material}" if coupons.material else ""
        units = [("" if which in _STRAINS else unit) for which in rows]
        columns = {
            "mean": [s.mean for s in rows.values()],
            "standard deviation": [s.deviation for s in rows.values()],
            NUMBERS["b"]: [s.b for s in rows.values()],
            NUMBERS["a"]: [s.a for s in rows.values()],
        }
        return Answer(
            kind=self.kind,
            sentence=f"coupons '{coupons.name}'{of}, {len(coupons.coupons)} tests",
            columns=[
                Column(name="property", values=list(rows)),
                Column(name="unit", values=units),
                Column(name="tests", values=[s.count for s in rows.values()]),
                *(Column(name=n, values=v) for n, v in columns.items()),
                Column(name="variation", unit="", values=[s.variation for s in rows.values()]),
                Column(name="p of normality", unit="", values=[s.normal for s in rows.values()]),
            ],
            caveats=[
                "One-sided tolerance bounds of a normal population: 90 % (99 %) of it lies above, with 95 % confidence.",
                *(f"{which}: {note}" for which, s in rows.items() for note in s.notes),
            ],
        )


@in_one
def with_basis(review: Review, result: int, coupons: int | str, material: str, which: str) -> None:
    """State a material's strengths by what coupons say: their means, or one of their bounds; what was taken is written with it."""
    source = review.result(result)
    if source.laminates is None:
        raise Impossible("No laminates are stated of this result.", "Read a laminate file first.")
    content = copy.deepcopy(write_laminates(source.laminates))
    if material not in content["materials"]:
        raise NotFound(f"There is no ply material '{material}'.", f"Here: {', '.join(content['materials'])}.")
    _, found = by_name(review, Coupons, coupons)
    taken = {}
    for name, sample in samples(found, source.system.stress).items():
        value = {"mean": sample.mean, "b": sample.b, "a": sample.a}[which]
        if value is None:
            raise Impossible(f"There is no {NUMBERS[which]} of {name}.", "It takes more values, or less scatter.")
        taken[name] = value
    if not taken:
        raise Impossible(f"The coupons '{found.name}' are of no single property.", "They can stand on an envelope all the same.")
    counts = ", ".join(f"{n} of {s.count}" for n, s in samples(found, "").items())
    content["materials"][material] |= {**taken, "basis": f"{NUMBERS[which]} of the coupons '{found.name}': {counts}"}
    stated = source.correction["laminates"]
    review.set_laminates(result, content, stated["name"], by_hand=True)


class Envelope(Question):
    """The envelope of a criterion in a plane of stresses, with the coupons and the way of the worst place through the steps."""

    kind: ClassVar[str] = "envelope"
    more: ClassVar[type[BaseModel]] = EnvelopeMore
    reach: ClassVar[Reach] = "kept"
    criterion: str = Field(description=CRITERION)
    plane: Literal["22-12", "11-22", "11-12"] = "22-12"
    material: str = Field("", description="Of the laminates; none: that of the place that fails first.")
    coupons: str | int = Field("", description="Coupons that are kept, by name or number; none: all of the material.")
    held: bool = Field(True, description="The third stress is that of the worst place at failure; else it is 0.")

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        shown = laminated(source, None)
        check = check_of(self.criterion)
        check.refuse_if_lacking(laminates_in(shown).materials)
        first, second = PLANES[self.plane]
        rest = 3 - first - second
        unit = source.system.stress
        way, place = self._way(source)
        material = self._material(source, place)
        # The way of a ply of another material says nothing in this envelope.
        other = place if place is not None and place["material"] != material.name else None
        if other is not None:
            way, place = np.zeros((0, 3)), None
        third = place["at_failure"][rest] if place is not None and self.held else 0.0
        line = envelope(check.criterion, material, self.plane, third)
        points = self._points(review, material.name, unit)
        labels = ("11", "22", "12")
        names = [labels[first], labels[second]]
        axes = f"stress {names[0]} and {names[1]}"
        return Answer(
            kind=self.kind,
            sentence=f"envelope of {check.criterion.label} for {material.name}, {axes}, at {labels[rest]} = {third:.4g} {unit}",
            unit=unit,
            columns=[
                Column(name="envelope " + names[0], unit=unit, values=[number(float(v)) for v in line[:, 0]]),
                Column(name="envelope " + names[1], unit=unit, values=[number(float(v)) for v in line[:, 1]]),
            ],
            caveats=self._caveats(check.criterion, material, rest, third, way, unit)
            + _of_other(other, labels[rest])
            + _of_bond(place),
            more={
                "names": names,
                "third": {"name": labels[rest], "value": third},
                "material": material.name,
                "way": [
                    {"x": float(w[first]), "y": float(w[second]), "step": k, "label": source.steps[k].label}
                    for k, w in enumerate(way)
                ],
                "ends": None
                if place is None or not place["fails"]
                else {"x": place["at_failure"][first], "y": place["at_failure"][second], "step": place["step"]},
                "place": place,
                # One whose stress is square to this plane says nothing in it.
                "coupons": [
                    {**p, "x": p["stress"][first], "y": p["stress"][second]}
                    for p in points
                    if p["stress"][first] or p["stress"][second]
                ],
                "steps": [source.steps[i].label for i in computed(source.steps)],
            },
        )

    def _caveats(self, criterion: Criterion, material: PlyMaterial, rest: int, third: float, way: Float, unit: str) -> list[str]:
        name = ("11", "22", "12")[rest]
        alone = np.zeros((1, 3))
        alone[0, rest] = third
        if float(criterion.check(material, alone).index[0]) > 1.0 - 1e-6:
            return [f"The stress {name} that is held fails by itself: look at a plane that shows it."]
        if len(way) and np.abs(way[:, rest]).max() > 1e-9:
            return [f"The way also has a stress {name}, up to {np.abs(way[:, rest]).max():.4g} {unit}, square to this plane."]
        return []

    def _way(self, source: ReviewSource) -> tuple[Float, dict[str, Any] | None]:
        """Stress (steps, 3) of the place that fails first, and where it is."""
        check = check_of(self.criterion)
        found = first_failure(source, check, exposure_through_steps(source, check)) if source.laminates else None
        if found is None:
            return np.zeros((0, 3)), None
        position = source.mesh.element_position(found["element"])
        zone = next(z for z, e in zones_with_elements(source) if position in e)
        ply, at = found["position"] - 1, basis_places(source).index(found["place"])
        rows, fixed = [], np.zeros(3)
        for step in computed(source.steps):
            state = ply_state(source, zone, step, np.array([position]))
            residual = state.residual(ply, at)
            if residual is not None:
                fixed = residual
            rows.append(state.stress(ply, at)[0, :3] + fixed)
        way = np.array(rows)
        place = {k: found[k] for k in ("element", "zone", "sheet", "position", "place", "mode", "step", "fails", "load_factor")}
        # The stress at failure: between two steps where a step before is not there yet, else that of the step times its reserve.
        here = way[found["step"]]
        if found["fails"] and found["step"] > 0:
            before, steps = way[found["step"] - 1], source.steps
            share = (found["at"] - steps[found["step"] - 1].value) / (steps[found["step"]].value - steps[found["step"] - 1].value)
            place["at_failure"] = (before + share * (here - before)).tolist()
        else:
            # What does not scale with the loads stays as it is.
            reserve = 1.0 if found["reserve"] is None else found["reserve"]
            place["at_failure"] = (fixed + reserve * (here - fixed)).tolist()
        place["material"] = zone.laminate.plies[ply].material.name
        return way, place

    def _material(self, source: ReviewSource, place: dict[str, Any] | None) -> PlyMaterial:
        here = {m.name: m for m in laminates_in(source).materials}
        if self.material and self.material not in here:
            raise NotFound(f"There is no ply material '{self.material}'.", f"Here: {', '.join(here)}.")
        return here[self.material or (place["material"] if place else next(iter(here)))]

    def _points(self, review: Review, material: str, unit: str) -> list[dict[str, Any]]:
        chosen = [by_name(review, Coupons, self.coupons)[1]] if self.coupons != "" else kept_of_material(review, material)
        found = []
        for coupons in chosen:
            for coupon in coupons.coupons:
                stress = coupon.point()
                if stress is not None:
                    told = convert(np.array(stress), coupons.unit, unit) if coupons.unit else np.array(stress)
                    found.append(
                        {"specimen": coupon.specimen, "of": coupons.name, "property": coupon.property, "stress": told.tolist()}
                    )
        return found


def _of_other(place: dict[str, Any] | None, held: str) -> list[str]:
    """That the place that fails first is of another material than the envelope, where it is."""
    if place is None:
        return []
    where = f"element {place['element']}, zone {place['zone']}"
    return [f"The ply that fails first ({where}) is of {place['material']}: its way is not drawn, and {held} is held at 0."]


def _of_bond(place: dict[str, Any] | None) -> list[str]:
    """That a bond line fails first, where one does: the envelope is that of the ply."""
    if place is None or place["mode"] != BOND_WORDS:
        return []
    return ["The bond line fails first, which no stress in the ply decides: the way ends inside this envelope."]


def kept_of_material(review: Review, material: str) -> list[Coupons]:
    """The coupons that are of a material, or of none in particular."""
    return [c for _, c in readable(review, Coupons) if c.material in ("", material)]
