"""What forces add up to: the load balance, through a plane, through faces, at a joint; whether a result makes sense."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import Source
from ironstone.core.field.moved import degrees_of
from ironstone.core.field.sliced import at_phase
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.reading import plane_of
from ironstone.core.rounding import settle
from ironstone.core.statics.balance import Resultant, balance, beside_each_other
from ironstone.core.statics.bars import axial_force, joint
from ironstone.core.statics.doubts import Doubt, doubts, peak_over_meshes
from ironstone.core.statics.face_force import over_faces
from ironstone.core.statics.section import through_plane
from ironstone.core.units import product
from ironstone.core.verdicts import by_share, state_of, worst_of
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.reading.answers import number
from ironstone.engine.statics.particulars import (
    BalanceOut,
    BarOut,
    CutOut,
    DoubtOut,
    DoubtsOut,
    FacesOut,
    JointOut,
    ResultantOut,
)
from ironstone.engine.steps import find_step
from ironstone.engine.words import LookQuery
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# Below which share a force from stress agrees with what acts, and below which it is doubtful: stress is known at a few points only.
OF_STRESS = (0.01, 0.05)
INERTIA = "Inertia is not among the loads: in motion loads and reactions differ by mass times acceleration."


class FacesQuery(LookQuery):
    """Picked faces of solids: a drawn face and all that join it without folding by more than ``fold`` degrees."""

    step: int
    face: int = Field(ge=0)
    fold: float = Field(0.0, ge=0, le=180)
    pressure: float | None = Field(None, description="In the result's stress unit; positive pushes into the body.")


def _beside(source: ReviewSource, *sides: Resultant | None) -> list[ResultantOut]:
    """Resultants beside each other, those that are there."""
    told = beside_each_other([s for s in sides if s is not None], source.mesh.size)
    return [ResultantOut(force=s.force.tolist(), moment=s.moment.tolist()) for s in told]


def number_point(text: str | None) -> Float | None:
    if text is None:
        return None
    try:
        point = np.array([float(v) for v in text.split(",")])
    except ValueError:
        point = np.full(3, np.nan)
    if point.shape != (3,) or not np.isfinite(point).all():
        raise IronstoneError(f"'{text}' is not a point.", "Write three numbers, like 0,0,1.")
    return point


def held_sets(source: ReviewSource) -> dict[str, str]:
    """Which sets are held, as it was found when the result was taken in."""
    return {n: e["held"] for n, e in source.summary.get("sets", {}).items() if e.get("held") != "unknown"}


def turning(source: Source) -> bool:
    """Whether a result's forces, or the stress they would be recovered from, are harmonics."""
    return any(f.harmonic and f.kind in ("reaction", "force", "stress") for f in source.fields.values())


def balance_answer(source: ReviewSource, step: int, about: Any = None, deformed: bool = False, phase: str = "") -> dict[str, Any]:
    """The load balance of a step in the form the command line and the service print; of harmonics at a phase."""
    if phase and not turning(source):
        raise Impossible(f"'{source.name}' has no harmonic forces: they have no phase.", "Leave the phase out.")
    if turning(source) and not any(f.kind == "reaction" and f.location == "node" for f in source.fields.values()):
        raise Impossible(
            "The file holds no reactions, and from the stress of a harmonic motion they cannot be told from what inertia does.",
            "Have the solver write the reactions, as real and imaginary part.",
        )
    seen: Source = at_phase(source, degrees_of(phase)) if turning(source) else source
    found = balance(seen, step, source.mesh.node_sets, about, deformed, held_sets(source))
    if seen is not source:
        found = replace(found, notes=(f"At phase {degrees_of(phase):g}° of the harmonics. {INERTIA}", *found.notes))

    size = source.mesh.size
    applied, reaction, residual = beside_each_other([found.applied, found.reaction, found.residual], size)
    of_sets = beside_each_other([side for s in found.sets for side in (s.reaction, s.applied)], size)

    def reply(r: Resultant) -> dict[str, Any]:
        return {"force": [number(v) for v in r.force], "moment": [number(v) for v in r.moment]}

    return {
        "step": step,
        "about": found.about.tolist(),
        "deformed": deformed,
        "force_unit": source.system.force,
        "moment_unit": product(source.system.force, source.system.length),
        "applied": reply(applied),
        "reaction": reply(reaction),
        "residual": reply(residual),
        "force_share": number(found.force_share),
        "moment_share": number(found.moment_share),
        "verdict": found.verdict,
        "sets": [
            {
                "name": s.name,
                "nodes": s.nodes,
                "held": s.held,
                **reply(held),
                "reaction": reply(held),
                "applied": reply(loaded),
            }
            for s, held, loaded in zip(found.sets, of_sets[::2], of_sets[1::2], strict=True)
        ],
        "recovered": found.recovered,
        "free_residual": number(found.free_residual) if found.free_residual is not None else None,
        "notes": list(found.notes),
    }


def cut_force(source: ReviewSource, step: int, origin: str, normal: str, about: str | None = None) -> CutOut:
    """Force and moment through a plane, from stress, checked by what acts beyond it."""
    place = number_point(origin)
    assert place is not None
    found = through_plane(source, step, place, np.array(plane_of(normal)), number_point(about))
    sides = _beside(source, found.through, found.beyond)
    return CutOut(
        through=sides[0],
        beyond=sides[1] if found.beyond else None,
        area=found.area,
        area_unit=f"{source.system.length}²",
        centre=settle(found.centre, source.mesh.size).tolist(),
        residual_share=found.residual_share,
        verdict=by_share(found.residual_share, *OF_STRESS),
        force_unit=source.system.force,
        moment_unit=product(source.system.force, source.system.length),
        note=" ".join([*found.notes, *(["Of the half alone, without its mirror image."] if source.setup.mirror else [])]),
    )


def face_force(source: ReviewSource, query: FacesQuery) -> FacesOut:
    """Force and moment through picked faces, from stress and as they are loaded and held; pressure times area."""
    if query.pressure is not None and not np.isfinite(query.pressure):
        raise IronstoneError("That pressure is no number.", f"Write it in {source.system.stress}.")
    found = over_faces(source, query.step, query.look(), query.face, query.fold, query.pressure)
    sides = iter(_beside(source, found.through, found.acting, found.pushed))
    return FacesOut(
        through=next(sides) if found.through else None,
        acting=next(sides) if found.acting else None,
        pushed=next(sides) if found.pushed else None,
        count=found.count,
        area=found.area,
        area_unit=f"{source.system.length}²",
        projected=settle(found.area_vector, found.area, "single").tolist(),
        centre=settle(found.centre, source.mesh.size).tolist(),
        inner=found.inner,
        residual_share=found.residual_share,
        verdict=by_share(found.residual_share, *OF_STRESS),
        force_unit=source.system.force,
        moment_unit=product(source.system.force, source.system.length),
        stress_unit=source.system.stress,
        note="Of the half alone, without its mirror image." if source.setup.mirror else "",
    )


def joint_forces(source: ReviewSource, node: int, step: int) -> JointOut:
    """The forces of the bars that meet at a node, and what acts on it."""
    found = joint(source, source.mesh.node_position(node), step)
    _, where = axial_force(source, step)
    bars = [
        BarOut(element=int(source.mesh.element_ids[e]), axial=float(n), pull=p.tolist())
        for e, n, p in zip(found.elements, found.axial, found.pulls, strict=True)
    ]
    return JointOut(
        node=node,
        bars=bars,
        applied=found.applied.tolist(),
        reaction=found.reaction.tolist(),
        residual=found.residual.tolist(),
        force_unit=source.system.force,
        source=where,
    )


def sense_checks(review: Review, source: ReviewSource, step: int) -> list[DoubtOut]:
    """Whether the result makes sense at a step; each check with what to do about it."""
    mesh = source.mesh
    return [
        DoubtOut(
            name=d.name,
            verdict=d.verdict,
            said=d.said,
            do=d.do,
            node=int(mesh.node_ids[d.node]) if d.node >= 0 else None,
            xyz=mesh.points[d.node].tolist() if d.node >= 0 else None,
        )
        for d in [*doubts(source, step, held_sets(source)), _over_meshes(review, source, step)]
    ]


def _over_meshes(review: Review, source: ReviewSource, step: int) -> Doubt:
    return peak_over_meshes([(s.name, s, at) for s, at in same_body(review, source, step)])


def same_body(review: Review, source: ReviewSource, step: int) -> list[tuple[ReviewSource, int]]:
    """The results of the review that hold the same body at the same load as a step: the same box within 1 %, the same parts."""
    box = np.array([source.mesh.points.min(0), source.mesh.points.max(0)])
    here = source.steps[step]
    found = [(source, step)]
    for other in review.results():
        mesh = other.mesh
        if other.id == source.id or len(mesh.part_names) != len(source.mesh.part_names):
            continue
        if np.abs(np.array([mesh.points.min(0), mesh.points.max(0)]) - box).max() > 0.01 * source.mesh.size:
            continue
        same = [s.index for s in other.steps if s.kind == here.kind and np.isclose(s.value, here.value, rtol=1e-6, atol=1e-12)]
        if same:
            found.append((other, same[0]))
    return found


class Balance(Question):
    """Applied force against reaction at a step, over the model and set by set."""

    kind: ClassVar[str] = "balance"
    sets: ClassVar[bool] = True
    more: ClassVar[type[BaseModel]] = BalanceOut
    step: int | str = "last"
    about: str | None = None
    deformed: bool = False
    phase: str = Field("", max_length=40, description="Of harmonics, degrees.")

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        reply = balance_answer(source, find_step(source, self.step), number_point(self.about), self.deformed, self.phase)
        rows = [("applied", "", reply["applied"]), ("reaction", "", reply["reaction"]), ("residual", "", reply["residual"])]
        rows += [(s["name"], s["held"], s["reaction"]) for s in reply["sets"]]
        about = ", ".join(f"{v:g}" for v in reply["about"])
        return Answer(
            kind=self.kind,
            sentence=f"load balance of {source.name}, {source.steps[reply['step']].label}, moments about ({about})",
            unit=reply["force_unit"],
            columns=[
                Column(name="of", values=[name for name, _, _ in rows]),
                Column(name="held", values=[held for _, held, _ in rows]),
                *_components([r for _, _, r in rows], reply["force_unit"], reply["moment_unit"]),
            ],
            caveats=[str(n) for n in reply["notes"]],
            verdict=reply["verdict"],
            state=state_of(reply["verdict"]),
            more=reply,
        )


class ThroughPlane(Question):
    """Force and moment through a plane, from stress, beside what acts beyond it."""

    kind: ClassVar[str] = "through-plane"
    more: ClassVar[type[BaseModel]] = CutOut
    step: int | str = "last"
    origin: str
    normal: str
    about: str | None = None

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        step = find_step(source, self.step)
        reply = cut_force(source, step, self.origin, self.normal, self.about)
        rows = [("through", reply.through)] + ([("beyond", reply.beyond)] if reply.beyond else [])
        when = source.steps[step].label
        return Answer(
            kind=self.kind,
            sentence=f"force through the plane at ({self.origin}) square to ({self.normal}), {source.name}, {when}",
            unit=reply.force_unit,
            columns=[
                Column(name="of", values=[name for name, _ in rows]),
                *_components([r.model_dump() for _, r in rows], reply.force_unit, reply.moment_unit),
            ],
            figures=[Figure(label="Area", value=reply.area, unit=reply.area_unit)],
            caveats=[reply.note] if reply.note else [],
            verdict=reply.verdict,
            state=state_of(reply.verdict),
            more=reply.model_dump(),
        )


class Doubts(Question):
    """Whether a result makes sense at a step: balance, motion, distortion, symmetry, peaks; each with what to do about it."""

    kind: ClassVar[str] = "sense"
    sets: ClassVar[bool] = True
    more: ClassVar[type[BaseModel]] = DoubtsOut
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        step = find_step(source, self.step)
        reply = sense_checks(review, source, step)
        worst = worst_of([d.verdict for d in reply])
        return Answer(
            kind=self.kind,
            sentence=f"sense checks of {source.name}, {source.steps[step].label}",
            columns=[
                Column(name=name, values=[getattr(d, name) for d in reply]) for name in ("name", "verdict", "said", "do", "node")
            ],
            verdict=worst,
            state=state_of(worst),
            more={"doubts": [d.model_dump() for d in reply]},
        )


def _components(rows: Sequence[Mapping[str, Any]], force: str, moment: str) -> list[Column]:
    """Columns of the components of resultants."""
    return [
        Column(name=f"{what} {axis}", unit=unit, values=[r[what][i] for r in rows])
        for what, unit in (("force", force), ("moment", moment))
        for i, axis in enumerate("xyz")
    ]
