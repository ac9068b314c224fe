"""The force through a plane, integrated from the stress of the elements it cuts and checked by what acts beyond it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source, stress_of, thickness_of
from ironstone.core.field.tensors import matrices
from ironstone.core.geometry.cut import ABOVE, BELOW, Samples, cut, distances
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.corners import corner_components
from ironstone.core.rounding import settle
from ironstone.core.statics.balance import Resultant, applied_forces, force_field, resultant, round_axis
from ironstone.core.statics.bars import axial_force

SAME_AREA = 1e-6


@dataclass(frozen=True)
class CutForce:
    """The force that what lies on the normal's side of a plane exerts through it, and what acts beyond it to check it by.

    through: from stress. beyond: applied forces and reactions of the nodes on the normal's side; the two are equal and opposite to
    the far side's. residual_share: |through - beyond| against the larger. area: of the cut; of an axisymmetric model that of the
    whole turn. notes: what was assumed, or left out.
    """

    through: Resultant
    beyond: Resultant | None
    area: float
    centre: Float
    residual_share: float | None
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class _Side:
    """The cut as the limit from one side. moment: about the origin of the coordinates; first: the integral of the place; reach:
    of all forces on it without their signs, what rounding is told by."""

    force: Float
    moment: Float
    area: float
    first: Float
    bars: int
    reach: float


def through_plane(source: Source, step: int, origin: Float, normal: Float, about: Float | None = None) -> CutForce:
    """Force and moment through a plane, integrated from the stress inside the elements it cuts.

    What lies on the normal's side pulls with S n on each unit of area. Stress is interpolated with the elements' own functions,
    faces count with their thickness, bars with their axial force. Where the plane runs through a layer of nodes the answer is the
    mean of its limits from both sides; where the body changes its section there, that of the smaller one, which is what both
    sides share; on the outside of the body, that of its only side. about: the middle of the cut where None.
    Raises Impossible where nothing is cut, or a stress or thickness is missing there.
    """
    mesh = source.mesh
    if not 0 <= step < len(source.steps):
        raise Impossible(f"There is no step {step}.", f"Steps run from 0 to {len(source.steps) - 1}.")
    length = float(np.linalg.norm(normal))
    if not np.isfinite(length) or length == 0.0:
        raise Impossible("The plane has no normal.", "Give three numbers that are not all zero.")
    normal = np.asarray(normal, dtype=np.float64) / length
    turned = source.setup.model == "axisymmetric"
    if turned and abs(normal[1]) < 1.0 - 1e-9:
        raise Impossible(
            "That plane does not cut a body of revolution in one section.",
            "Cut square to the axis: give a normal along y. Forces across the radius hold themselves round the axis.",
        )
    away = distances(mesh, origin, normal)
    sides = [_side(source, step, origin, normal, side) for side in ((BELOW, ABOVE) if (away == 0.0).any() else (BELOW,))]
    weights, notes = _taken(sides)
    found = [(w, s) for w, s in zip(weights, sides, strict=True) if w]
    area = sum(w * s.area for w, s in found)
    force, moment, first = (sum((w * getattr(s, n) for w, s in found), np.zeros(3)) for n in ("force", "moment", "first"))
    centre = first / area if area else _middle_of_bars(source, away)
    if turned:
        # Round the axis only what points along it is left, and what turns about it.
        centre = centre * [0, 1, 0]
        force, moment = (getattr(round_axis(Resultant(force, moment)), n) for n in ("force", "moment"))
        notes.append("Of the whole turn: radial forces hold themselves round the axis.")
    centre = settle(centre, mesh.size)
    point = centre if about is None else np.asarray(about, dtype=np.float64)
    reach = sum(w * s.reach for w, s in found)
    stress = stress_of(source.fields)
    precision = stress.precision if stress is not None else "double"
    lever = float(np.abs(mesh.points - point).max(initial=0.0))
    through = Resultant(settle(force, reach, precision), settle(moment - np.cross(point, force), reach * lever, precision))
    notes += _kinds_of_cut(source, any(s.bars for _, s in found))
    given, loads = force_field(source, "reaction"), applied_forces(source, step)
    if given is None and loads is None:
        return CutForce(through, None, area, centre, None, tuple(notes))
    # Nodes on the plane belong to the side their elements were left out of: half to each where both were taken.
    share = (away > 0.0) + (weights[0] if len(sides) == 2 else 1.0) * (away == 0.0)
    acting = np.zeros_like(mesh.points) if loads is None else loads
    if given is not None:
        acting = acting + np.nan_to_num(np.asarray(source.values(given.name, step), dtype=np.float64))
    acting = acting * share[:, None]
    beyond = resultant(mesh.points, acting, point)
    if turned:
        beyond = round_axis(beyond)
    # Where the two all but vanish they are held against a thousandth of everything that acts beyond the plane.
    reach = max(float(np.linalg.norm(v)) for v in (force, beyond.force))
    reach = max(reach, 1e-3 * float(np.linalg.norm(acting, axis=1).sum()))
    off = float(np.linalg.norm(force - beyond.force)) / reach if reach else 0.0
    return CutForce(through, beyond, area, centre, off, tuple(notes))


def _taken(sides: list[_Side]) -> tuple[list[float], list[str]]:
    """How much of each side's limit is taken, and what is to be said of it."""
    there = [s.area > 0.0 or s.bars > 0 for s in sides]
    if not any(there):
        raise Impossible("The plane does not cut an element.", "Move it into the model.")
    if len(sides) == 1:
        return [1.0], []
    if there != [True, True]:
        return [float(t) for t in there], ["The plane lies on the outside of the body: its only side is taken."]
    below, above = (s.area for s in sides)
    if abs(below - above) <= SAME_AREA * max(below, above):
        return [0.5, 0.5], ["The plane runs through nodes: the mean of the elements on both sides is taken."]
    said = f"The section changes at the plane, from {below:.6g} to {above:.6g}: that of the smaller one is taken."
    return ([1.0, 0.0] if below < above else [0.0, 1.0]), [said]


def _side(source: Source, step: int, origin: Float, normal: Float, side: str) -> _Side:
    mesh = source.mesh
    force, moment, first, area, bars, missing, reach = np.zeros(3), np.zeros(3), np.zeros(3), 0.0, 0, 0, 0.0
    stress = stress_of(source.fields)
    flat = (mesh.dimensions == 2).any()
    thickness = thickness_of(source, step) if flat else None
    if thickness is None and flat and not mesh.planar:
        thickness = np.full(len(mesh.types), np.nan)
    axial: Float | None = None
    for pieces in cut(mesh, origin, normal, side):
        at = pieces.samples(mesh, origin, normal)
        block, dimension = at.block, at.block.cell.dimension
        if dimension == 1:
            axial = axial_force(source, step)[0] if axial is None else axial
            pull = _bar_pull(mesh.points[block.nodes[at.owner]], normal) * axial[block.elements[at.owner]][:, None]
            bars += len(at.owner)
            size = np.zeros(len(at.owner))
        else:
            if stress is None:
                raise Impossible("This result has no stress to integrate.", "The force through a cut is taken from stress.")
            size = at.size * _width(source, at, thickness)
            corner = np.asarray(corner_components(source, stress.name, step, block.corners.ravel()), dtype=np.float64)
            tensor = np.einsum("qn,qnc->qc", at.shape, corner.reshape(*block.corners.shape, 6)[at.owner])
            pull = matrices(tensor) @ normal * size[:, None]
        missing += len(np.unique(at.owner[np.isnan(pull).any(1)]))
        force += pull.sum(0)
        reach += float(np.abs(pull).sum())
        moment += np.cross(at.points, pull).sum(0)
        first += (at.points * size[:, None]).sum(0)
        area += float(size.sum())
    if missing:
        what = "Stress or thickness" if flat else "Stress"
        raise Impossible(
            f"{what} is missing in {missing} of the elements that the plane cuts.", "Cut where every element has it, or state it."
        )
    return _Side(force, moment, area, first, bars, reach)


def _width(source: Source, at: Samples, thickness: Float | None) -> Float:
    """What a length of cut face counts for: its thickness, 1 of a planar model without one, all the way round an axis."""
    if at.block.cell.dimension != 2:
        return np.ones(len(at.owner))
    if source.setup.model == "axisymmetric":
        turn: Float = 2.0 * np.pi * np.abs(at.points[:, 0])
        return turn
    return np.ones(len(at.owner)) if thickness is None else thickness[at.block.elements[at.owner]]


def _bar_pull(ends: Float, normal: Float) -> Float:
    """Unit vectors along lines (p, n, 3) that point to the normal's side, (p, 3)."""
    along = ends[:, 1] - ends[:, 0]
    along = along / np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-300)
    result: Float = along * np.where(along @ normal < 0, -1.0, 1.0)[:, None]
    return result


def _middle_of_bars(source: Source, away: Float) -> Float:
    """A place for the moment of a cut through bars alone: the mean of the nodes nearest to the plane."""
    near = np.argsort(np.abs(away), kind="stable")[:2]
    middle: Float = source.mesh.points[near].mean(0)
    return middle


def _kinds_of_cut(source: Source, bars: bool) -> list[str]:
    mesh = source.mesh
    notes = []
    if (mesh.dimensions == 2).any() and source.setup.model != "axisymmetric":
        if mesh.planar and thickness_of(source, 0) is None:
            notes.append("No thickness is known: forces are those of a thickness of 1.")
        elif not mesh.planar:
            notes.append("Of shells the membrane force alone: stress times thickness.")
    if bars:
        notes.append("Of bars the axial force alone.")
    return notes
