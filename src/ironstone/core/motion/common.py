"""Displacements of modes, harmonics and transients as arrays, and those of two results at places both have."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field, Source
from ironstone.core.field.moved import moving
from ironstone.core.geometry.nearest import is_on, nearest
from ironstone.core.mesh.interpolation import interpolation
from ironstone.core.mesh.places import AtNodes, AtSamples
from ironstone.core.motion.shapes import Shapes
from ironstone.core.reading.elsewhere import length_scale, matched, nodes_elsewhere

AXES = "xyz"
# A motion is not seen where less than this share of its square is in what was measured (common practice, no source).
UNSEEN = 0.01


def motion_field(source: Source) -> Field:
    """The displacement at the nodes, real or of harmonics. Raises Impossible where the result has none."""
    found = moving(source.fields)
    if found is None:
        raise Impossible(f"'{source.name}' has no displacement at its nodes.", "State which field is its displacement.")
    return found


def modes_of(source: Source, loading: str = "") -> list[int]:
    """Positions of the steps that are modes, of one loading where one is named. Raises Impossible where there are none."""
    found = [i for i, s in enumerate(source.steps) if s.kind == "mode" and (not loading or s.loading == loading)]
    if not found:
        kinds = ", ".join(dict.fromkeys(s.kind for s in source.steps))
        raise Impossible(
            f"'{source.name}' has no modes{f' in {loading!r}' if loading else ''}: its steps are told by {kinds}.",
            "State in Intake that its steps are modes.",
        )
    return found


def moved_at(source: Source, steps: Sequence[int], place: AtSamples | AtNodes | None = None) -> Shapes:
    """Displacement at some steps, (s, nodes or places, 3); complex where it is of harmonics."""
    field = motion_field(source)
    every = np.arange(len(source.mesh.points))
    corners = interpolation(source.mesh, place) if isinstance(place, AtSamples) else None
    rows = []
    for step in steps:
        table = np.asarray(source.values(field.name, step), dtype=np.float64)
        whole: Shapes = table[:, :3] + 1j * table[:, 3:6] if field.harmonic else table
        if corners is not None:
            rows.append(corners.matrix @ whole[source.mesh.connectivity[corners.corners]])
        else:
            rows.append(whole[place.nodes if isinstance(place, AtNodes) else every])
    return np.stack(rows)


@dataclass(frozen=True, eq=False)
class Common:
    """Displacements of two results at common places, (steps, places, 3) each; how the places were found; what is to be said.
    unseen: of the steps of each, positions of those whose motion there is hardly in what is compared."""

    first: Shapes
    second: Shapes
    how: str
    notes: tuple[str, ...]
    unseen: tuple[tuple[int, ...], tuple[int, ...]] = ((), ())


def at_common_places(first: Source, steps: Sequence[int], second: Source, others: Sequence[int]) -> Common:
    """Both at the nodes where they have one mesh; at the measured points where one has no more than points and lines between them,
    brought onto the body; else at the nodes of the coarser mesh, by the other's own interpolation at the undeformed place."""
    if matched(first, second):
        return Common(moved_at(first, steps), moved_at(second, others), "at the nodes of their common mesh", ())
    if is_measured(first) or is_measured(second):
        swap = is_measured(first) and not is_measured(second)
        points, body = (first, second) if swap else (second, first)
        told, of_points, of_body, hidden = _measured(points, others if not swap else steps, body, steps if not swap else others)
        a, b = (of_points, of_body) if swap else (of_body, of_points)
        unseen = ((), hidden) if swap else (hidden, ())
        return Common(a, b, f"at {of_points.shape[1]} measured points", tuple(told), unseen)
    swap = len(first.mesh.points) > len(second.mesh.points)
    coarse, fine = (second, first) if swap else (first, second)
    found = nodes_elsewhere(coarse, fine, np.arange(len(coarse.mesh.points)))
    if not len(found.at):
        raise Impossible(
            f"'{first.name}' and '{second.name}' have no place in common.",
            "Check the unit of their lengths, and that they are one body.",
        )
    of_coarse = moved_at(coarse, steps if coarse is first else others, AtNodes(found.at))
    of_fine = moved_at(fine, steps if fine is first else others, found.places)
    notes = []
    if len(found.at) < found.count:
        share = 100 * (1 - len(found.at) / found.count)
        notes.append(f"{share:.2g} % of the nodes of '{coarse.name}' are not in '{fine.name}' and are left out.")
    a, b = (of_fine, of_coarse) if swap else (of_coarse, of_fine)
    return Common(a, b, f"at {len(found.at)} nodes of '{coarse.name}'", tuple(notes))


def is_measured(source: Source) -> bool:
    """Whether a result has no more than points and lines between them, without a section: as measured motions come."""
    return int(source.mesh.dimensions.max(initial=0)) < 2 and not any(f.kind == "section area" for f in source.fields.values())


def _measured(
    points: Source, steps: Sequence[int], body: Source, of_body: Sequence[int]
) -> tuple[list[str], Shapes, Shapes, tuple[int, ...]]:
    """Measured motions and those of a body where they were measured, without components measured nowhere; which motions of the body
    are hardly in what is left."""
    scale = length_scale(points, body)
    where = scale * points.mesh.points
    at = nearest(body.mesh, where)
    measured = moved_at(points, steps)
    computed = moved_at(body, of_body, at.place)
    notes = []
    off = ~is_on(body.mesh, at.distance)
    if off.any():
        notes.append(
            f"{int(off.sum())} of {len(off)} points lie beside the body, {at.distance.max():.3g} at most, and are read at its "
            "nearest place."
        )
    silent = ~(np.isfinite(measured) & (measured != 0)).any(axis=0)
    if silent.all():
        raise Impossible(f"'{points.name}' moves nowhere.", "Check which of its fields is the displacement.")
    axes = [AXES[k] for k in range(3) if silent[:, k].all()]
    if axes:
        notes.append(f"Nothing was measured along {' and '.join(axes)}: not compared.")
    elif silent.any():
        notes.append(f"{int(silent.sum())} of {silent.size} components were not measured: not compared.")
    left = np.where(silent, 0.0, computed)
    size, whole = ((np.abs(np.nan_to_num(table)) ** 2).sum(axis=(1, 2)) for table in (left, computed))
    return notes, np.where(silent, 0.0, measured), left, tuple(np.flatnonzero(size < UNSEEN * whole).tolist())


def flat(shapes: Shapes) -> Shapes:
    """Shapes (s, places, 3) as rows (s, places x 3)."""
    return shapes.reshape(len(shapes), -1)


def without_gaps(first: Shapes, second: Shapes) -> tuple[Shapes, Shapes]:
    """Rows (m, k) and (n, k) without the columns in which any of them has no value."""
    known = np.isfinite(first).all(axis=0) & np.isfinite(second).all(axis=0)
    return first[:, known], second[:, known]
