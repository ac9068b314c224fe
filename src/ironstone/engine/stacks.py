"""The laminates of a result: what is stated, what they are like, and what they lack for each criterion."""

from __future__ import annotations

from typing import Any, ClassVar

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import displacement_of
from ironstone.core.field.plies import basis_of
from ironstone.core.reading.plies import has_shear
from ironstone.core.strength.criteria import BOND, CRITERIA, check_of
from ironstone.core.strength.zones import drop_offs, placed
from ironstone.engine.base import Answer, Column, Question
from ironstone.engine.strength import content_of
from ironstone.formats.laminates import write_laminates
from ironstone.formats.strength_tables import materials_into, plies_into
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class LaminatesOf(Question):
    """The laminates stated of a result: zones with their stacks, thickness, symmetry, drop-offs, and what the materials lack."""

    kind: ClassVar[str] = "laminates"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        basis = basis_of(source.fields)
        more: dict[str, Any] = {
            "name": None,
            "content": None,
            "zones": [],
            "sheets": [],
            "criteria": [],
            "drop_offs": [],
            "basis": None if basis is None else basis.name,
            "shear": has_shear(source),
            "thermal": False,
            "places": [],
            "moves": displacement_of(source.fields) is not None,
        }
        stated = source.correction.get("laminates")
        if source.laminates is None or not stated:
            return Answer(kind=self.kind, sentence=f"no laminates are stated of {source.name}", more=more)
        known = source.laminates
        mesh, length = source.mesh, source.system.length
        counts = [len(e) for e in placed(mesh, known)]
        zones: list[dict[str, Any]] = [
            {
                "name": z.name,
                "where": z.where,
                "elements": n,
                "thickness": z.laminate.thickness,
                "offset": z.laminate.offset,
                "symmetric": z.laminate.symmetric,
                "balanced": z.laminate.balanced,
                "plies": [
                    {"sheet": p.sheet, "material": p.material.name, "thickness": p.thickness, "angle": p.angle}
                    for p in z.laminate.plies
                ],
            }
            for z, n in zip(known.zones, counts, strict=True)
        ]
        criteria = []
        for name in CRITERIA:
            check, bond = check_of(name), check_of(f"{name}+{BOND}")
            criteria.append(
                {
                    "name": name,
                    "label": check.label,
                    "lacking": check.lacking(known.materials),
                    "bond_lacking": bond.lacking(known.materials),
                    "assumed": usual_of(name, source),
                }
            )
        field = next((f for f in source.fields.values() if f.of_plies), None)
        more |= {
            "name": stated["name"],
            "content": write_laminates(known),
            "zones": zones,
            "sheets": list(known.sheets),
            "criteria": criteria,
            "drop_offs": [
                {"from": one, "to": other, "ends": list(ends), "begins": list(begins)}
                for one, other, ends, begins in drop_offs(known)
                if ends or begins
            ],
            "thermal": known.turns,
            "places": list(field.places) if field else [],
            "length": length,
            "stress": source.system.stress,
        }
        rows = [(z["name"], k + 1, p) for z in zones for k, p in enumerate(z["plies"])]
        return Answer(
            kind=self.kind,
            sentence=f"laminates of {source.name}, {stated['name']}",
            columns=[
                Column(name="zone", values=[r[0] for r in rows]),
                Column(name="position", values=[r[1] for r in rows]),
                Column(name="sheet", values=[r[2]["sheet"] for r in rows]),
                Column(name="material", values=[r[2]["material"] for r in rows]),
                Column(name="thickness", unit=length, values=[r[2]["thickness"] for r in rows]),
                Column(name="angle", unit="°", values=[r[2]["angle"] for r in rows]),
            ],
            more=more,
        )


# What a criterion takes where a material does not state it.
_USUAL = {
    "tsai-wu": (("F12", "F12 as half the root, negative"),),
    "hashin": (("S23", "S23 as half of Yc"),),
    "puck": (("ptp", "inclination 0.35 in tension"), ("pcp", "inclination 0.30 in compression")),
}


def usual_of(criterion: str, source: ReviewSource) -> list[str]:
    """What is taken of materials that do not state it, in words."""
    materials = source.laminates.materials if source.laminates else ()
    found = [f"{words} of {m.name}" for m in materials for name, words in _USUAL.get(criterion, ()) if name not in m.constants]
    if criterion == "max-strain":
        without = [m.name for m in materials if "e1t" not in m.constants]
        found += [f"ultimate strains of {n} as strength over modulus" for n in without]
    return found


def bring_laminates(review: Review, result: int, data: bytes, name: str) -> None:
    """State laminates from a file: JSON, a table of plies, or a table of materials (CSV, XLSX)."""
    source = review.result(result)
    if name.lower().endswith(".json") or data.lstrip()[:1] == b"{":
        review.set_laminates(result, content_of(data, name), name)
        return
    waiting = source.correction.get("ply materials") or {}
    before = write_laminates(source.laminates) if source.laminates else {"materials": waiting} if waiting else {}
    try:
        content = plies_into(before, data, name, source.system)
    except IronstoneError as no_plies:
        if "has no column" not in no_plies.message:
            raise
        content = materials_into(before, data, name, source.system)
    if not content["zones"]:
        # Kept until the table of plies comes.
        review.set_ply_materials(result, content["materials"])
        return
    if not content["materials"]:
        raise Impossible("These are stacks of materials that are not known.", "Read the table of materials first, or both as JSON.")
    review.set_laminates(result, content, name)
