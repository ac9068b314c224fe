"""The laminates of a result: what is stated, what they are like, and what they lack for each criterion."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import Field, displacement_of
from ironstone.core.field.plies import basis_of
from ironstone.core.reading.plies import has_shear
from ironstone.core.strength.criteria import BOND, CRITERIA, check_of
from ironstone.core.strength.zones import drop_offs, placed
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.strength.failure import content_of
from ironstone.engine.strength.particulars import LaminatesMore
from ironstone.engine.weight import Reach
from ironstone.formats.laminates import write_laminates
from ironstone.formats.strength_tables import materials_into, plies_into
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class LaminatesOf(Question):
    """The laminates stated of a result: zones with their stacks, thickness, symmetry, drop-offs, and what the materials lack."""

    kind: ClassVar[str] = "laminates"
    more: ClassVar[type[BaseModel]] = LaminatesMore
    reach: ClassVar[Reach] = "kept"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        basis = basis_of(source.fields)
        more: dict[str, Any] = {
            "name": None,
            "edited": False,
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
            "edited": bool(stated.get("edited")),
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
            sentence=f"laminates of {source.name}, {stated['name']}" + (", edited here" if stated.get("edited") else ""),
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
    while True:
        seen = review.correction(result)
        # A table may take long to read: nothing is locked meanwhile, and it is read again where something else was stated.
        content = _content(review.result(result), data, name)
        with review.writing():
            if review.correction(result) != seen:
                continue
            if content["zones"] or _is_whole(data, name):
                review.set_laminates(result, content, name)
            else:
                # Kept until the table of plies comes.
                review.set_ply_materials(result, content["materials"])
            return


def _is_whole(data: bytes, name: str) -> bool:
    """Whether a file is a whole laminate file, and no table."""
    return name.lower().endswith(".json") or data.lstrip()[:1] == b"{"


def _content(source: ReviewSource, data: bytes, name: str) -> dict[str, Any]:
    """What a file states of laminates, with what is known of them already; without zones where it has materials alone."""
    if _is_whole(data, name):
        return _whole(source, data, name)
    waiting = source.correction.get("ply materials") or {}
    before = write_laminates(source.laminates) if source.laminates else {"materials": waiting} if waiting else {}
    try:
        content = plies_into(before, data, name, source.system)
    except IronstoneError as no_plies:
        if "has no column" not in no_plies.message:
            raise
        content = materials_into(before, data, name, source.system)
    if not content["zones"] and arrays_of(source):
        content["zones"] = zones_from_arrays(source, content["materials"])
    if content["zones"] and not content["materials"]:
        raise Impossible("These are stacks of materials that are not known.", "Read the table of materials first, or both as JSON.")
    return content


FROM_ARRAYS = "from arrays"
# More stacks than this are no zones any more.
MOST_STACKS = 400


def _whole(source: ReviewSource, data: bytes, name: str) -> dict[str, Any]:
    """What a laminate file holds; zones that are 'from arrays' as the result's arrays have them."""
    try:
        stated = json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError):
        return content_of(data, name)
    if isinstance(stated, dict) and stated.get("zones") == FROM_ARRAYS:
        materials = stated.get("materials")
        stated["zones"] = zones_from_arrays(source, materials if isinstance(materials, dict) else {})
        data = json.dumps(stated).encode()
    return content_of(data, name)


def arrays_of(source: ReviewSource) -> tuple[Field, Field] | None:
    """The arrays that hold angle and thickness of each ply, where a result has them."""
    found = [
        next((f for f in source.fields.values() if f.kind == kind and f.location == "element" and f.stored), None)
        for kind in ("ply angle", "ply thickness")
    ]
    return (found[0], found[1]) if found[0] and found[1] else None


def zones_from_arrays(source: ReviewSource, materials: Mapping[str, Any]) -> list[dict[str, Any]]:
    """A zone for every stack that differs in the arrays of a result: angle and thickness by ply, and the material's number in the
    order of the materials, from 1, where there are several. A ply without thickness does not lie there."""
    arrays = arrays_of(source)
    if arrays is None:
        raise Impossible(
            "This result has no arrays of plies.",
            "Name them ply_angle and ply_thickness, a column a ply; or say in Intake what they are.",
        )
    angle, thickness = (np.asarray(source.values(f.name, 0), dtype=np.float64) for f in arrays)
    if angle.shape != thickness.shape:
        raise Impossible(
            f"'{arrays[0].name}' has {angle.shape[1]} plies, '{arrays[1].name}' {thickness.shape[1]}.",
            "Write as many columns in both.",
        )
    names = list(materials)
    which = next((f for f in source.fields.values() if f.kind == "ply material" and f.stored), None)
    if which is None and len(names) != 1:
        raise Impossible(f"There are {len(names)} materials.", "An array ply_material says which each ply is of, from 1.")
    number = np.ones_like(angle) if which is None else np.asarray(source.values(which.name, 0), dtype=np.float64)
    there = np.isfinite(angle) & (np.nan_to_num(thickness) > 0)
    if not ((number[there] >= 1) & (number[there] <= len(names))).all():
        raise Impossible("A ply is of a material that is not there.", f"Materials by number: {', '.join(names)}.")
    table = np.round(np.concatenate([np.where(there, v, 0.0) for v in (angle, thickness, number)], axis=1), 9)
    stacks, of = np.unique(table, axis=0, return_inverse=True)
    if len(stacks) > MOST_STACKS:
        raise Impossible(f"The arrays hold {len(stacks)} different stacks, more than {MOST_STACKS}.", "State the zones in a file.")
    zones: list[dict[str, Any]] = []
    for k, row in enumerate(stacks):
        a, t, m = np.split(row, 3)
        plies = [
            {"sheet": "", "material": names[int(m[i]) - 1], "thickness": float(t[i]), "angle": float(a[i])}
            for i in np.flatnonzero(t > 0)
        ]
        members = source.mesh.element_ids[of.ravel() == k].tolist()
        if plies:
            where = f"elements:{','.join(map(str, members))}"
            zones.append({"name": f"stack {len(zones) + 1}", "where": where, "plies": plies})
    return zones
