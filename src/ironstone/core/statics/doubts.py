"""Whether a result makes sense: checks made without being asked for, each with what to do about it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.field.fields import Mirror, Source, displacement_of, stress_of
from ironstone.core.field.recover import small_strain
from ironstone.core.mesh.jacobians import gradients
from ironstone.core.mesh.mesh import Block, Float, Int, Mesh
from ironstone.core.reading.extremes import extremes, meeting
from ironstone.core.reading.reading import Reading
from ironstone.core.statics.balance import AGREES, LOADS_NOT_KNOWN, balance, force_field, held_state, present
from ironstone.core.statics.sense import orientations


@dataclass(frozen=True)
class Doubt:
    """One check. verdict: 'agrees', 'doubtful', 'fails' or 'not checked'; node: where to look, by position, -1 nowhere."""

    name: str
    verdict: str
    said: str
    do: str = ""
    node: int = -1


def doubts(source: Source, step: int, held: Mapping[str, str] | None = None) -> list[Doubt]:
    """Every check of a step, in the order an analyst asks: does it balance, does it move as it should, is its peak real.

    held: what is already known of sets being held, which else takes every step to find out.
    """
    found = [_balanced(source, step), _held(source, held or {})]
    moved = displacement_of(source.fields)
    if moved is None:
        found.append(Doubt("displacement", "not checked", "The result has no displacement."))
    else:
        try:
            shift = present(source, moved, step)
        except IronstoneError as error:
            return [*found, Doubt("displacement", "not checked", error.message), _peak(source, step)]
        found += [_size(source.mesh, shift), _rigid(source.mesh, shift), _distorted(source.mesh, shift)]
        found += [_patterns(source, step), _symmetric(source, step, shift)]
    found.append(_peak(source, step))
    return found


def _balanced(source: Source, step: int) -> Doubt:
    try:
        answer = balance(source, step, {})
    except IronstoneError as error:
        return Doubt("balance", "not checked", str(error))
    if answer.verdict == "nothing to balance":
        return Doubt("balance", "not checked", "There is no force at this step.")
    if answer.verdict == LOADS_NOT_KNOWN:
        said = "The reactions do not hold themselves, and the file holds no loads."
        return Doubt("balance", "not checked", said, "Bring the loads with the file, or a stress they can be recovered from.")
    said = f"Residual: {answer.force_share:.2g} of all forces, {answer.moment_share:.2g} of their moments."
    do = "" if answer.verdict == "agrees" else "Look for loads or supports that are not in the file, or moments of nodes that are."
    return Doubt("balance", answer.verdict, said, do)


def _held(source: Source, known: Mapping[str, str]) -> Doubt:
    """Sets with a reaction that are held in part alone: a reaction summed over them is easily taken for that of the whole set."""
    name = "supports"
    states = {n: known.get(n) or held_state(source, nodes) for n, nodes in source.mesh.node_sets.items()}
    if not states or "unknown" in states.values():
        return Doubt(name, "not checked", "The result has no sets, or no reactions, to tell what is held.")
    by = {s: ", ".join(n for n, state in states.items() if state == s) for s in ("held", "partly", "free")}
    if not by["held"] and not by["partly"]:
        return Doubt(name, "doubtful", f"No set is held; free: {by['free']}.", "Make a set of the supports, or ask for reactions.")
    said = "; ".join(f"{word}: {by[s]}" for s, word in (("held", "held"), ("partly", "held in part"), ("free", "free")) if by[s])
    do = "Sum reactions over sets that are held: elsewhere they mean nothing." if by["partly"] else ""
    return Doubt(name, "doubtful" if by["partly"] else "agrees", f"{said[0].upper()}{said[1:]}.", do)


def _size(mesh: Mesh, shift: Float) -> Doubt:
    """Common practice, no source: a structure that moves by a tenth of its size is rarely meant to."""
    length = np.linalg.norm(shift, axis=1)
    share = float(length.max(initial=0.0)) / mesh.size if mesh.size else 0.0
    verdict = "agrees" if share < 0.1 else "doubtful" if share < 1.0 else "fails"
    do = "" if verdict == "agrees" else "Check units, stiffness and supports; small-displacement results mean nothing here."
    said = f"Largest displacement is {share:.2g} of the model's size."
    return Doubt("size of the motion", verdict, said, do, int(length.argmax()))


def rigid_part(points: Float, shift: Float) -> Float:
    """The rigid motion u + w x x that fits a displacement (n, 3) best (least squares), at every point."""
    away = points - points.mean(0)
    rows = np.zeros((len(points), 3, 6))
    rows[:, :, :3] = np.eye(3)
    rows[:, 0, 4], rows[:, 0, 5] = away[:, 2], -away[:, 1]
    rows[:, 1, 3], rows[:, 1, 5] = -away[:, 2], away[:, 0]
    rows[:, 2, 3], rows[:, 2, 4] = away[:, 1], -away[:, 0]
    flat = rows.reshape(-1, 6)
    motion = np.linalg.lstsq(flat.T @ flat, flat.T @ shift.ravel(), rcond=None)[0]
    fitted: Float = (flat @ motion).reshape(-1, 3)
    return fitted


def _rigid(mesh: Mesh, shift: Float) -> Doubt:
    total = float(np.linalg.norm(shift))
    if total == 0.0:
        return Doubt("rigid motion", "not checked", "Nothing moves at this step.")
    left = float(np.linalg.norm(shift - rigid_part(mesh.points, shift))) / total
    verdict = "agrees" if left > 0.05 else "doubtful" if left > 1e-3 else "fails"
    do = "" if verdict == "agrees" else "The model moves as one piece: is it held in every direction?"
    return Doubt("rigid motion", verdict, f"{left:.2g} of the motion is deformation, the rest moves and turns the whole.", do)


def _distorted(mesh: Mesh, shift: Float) -> Doubt:
    before, now = orientations(mesh), orientations(replace(mesh, points=mesh.points + shift))
    after = np.flatnonzero((before != 0) & (now != before)).tolist()
    if not after:
        return Doubt("distortion", "agrees", "No element turns inside out as deformed.")
    node = int(mesh.connectivity[mesh.offsets[after[0]]])
    said = f"{len(after)} elements turn inside out as deformed, the first is element {int(mesh.element_ids[after[0]])}."
    return Doubt("distortion", "fails", said, "Their values mean nothing: refine there, or take smaller load steps.", node)


def _symmetric(source: Source, step: int, shift: Float) -> Doubt:
    """About a coordinate plane through the middle: where the mesh and what acts on it are their own mirror image, is the motion?"""
    from scipy.spatial import cKDTree

    mesh = source.mesh
    middle = (mesh.points.min(0) + mesh.points.max(0)) / 2
    tree = cKDTree(mesh.points)
    acting = [f for f in (force_field(source, kind) for kind in ("reaction", "force")) if f is not None]
    forces = [np.nan_to_num(np.asarray(source.values(f.name, step), dtype=np.float64)) for f in acting]
    said, verdicts = [], []
    for axis in range(3):
        if np.ptp(mesh.points[:, axis]) <= 1e-9 * mesh.size:
            continue
        plane = Mirror(axis, float(middle[axis]))
        away, twin = tree.query(plane.image_of_points(mesh.points), distance_upper_bound=1e-5 * mesh.size)
        if not np.isfinite(away).all():
            continue

        def off(vectors: Float, plane: Mirror = plane, twin: Int = twin) -> float:
            return float(np.abs(plane.image_of_vectors(vectors[twin]) - vectors).max()) / max(float(np.abs(vectors).max()), 1e-300)

        moved, unlike = off(shift), max((off(f) for f in forces), default=0.0)
        if moved < AGREES:
            verdict, words = "agrees", "symmetric"
        elif unlike >= AGREES:
            verdict, words = "not checked", f"differs by {moved:.2g}, and what acts on it by {unlike:.2g}"
        else:
            verdict, words = "doubtful", f"differs by {moved:.2g}" + (", though what acts on it is symmetric" if forces else "")
        verdicts.append(verdict)
        said.append(f"{plane.words}: {words}")
    if not said:
        return Doubt("symmetry", "not checked", "The mesh is not its own mirror image about a coordinate plane.")
    verdict = next(v for v in ("doubtful", "agrees", "not checked") if v in verdicts)
    do = "Where load and supports are symmetric, the motion must be." if verdict == "doubtful" else ""
    return Doubt("symmetry", verdict, "; ".join(said) + ".", do)


def _peak(source: Source, step: int) -> Doubt:
    """A peak whose elements disagree by more than a tenth of it is not resolved (common practice, no source)."""
    stress = stress_of(source.fields)
    if stress is None:
        return Doubt("peak", "not checked", "The result has no stress.")
    reading = Reading(stress.name, "von-mises", step=step)
    _, _, high = extremes(reading, source)
    if high is None or high.node < 0 or high.value <= 0:
        return Doubt("peak", "not checked", "The highest stress is that of an element: there is no jump to judge it by.")
    where = _acted_on(source, step, high.node)
    jump = meeting(reading, source, high.node).jump_within_material
    share = jump / high.value if np.isfinite(jump) else 0.0
    verdict = "agrees" if share < 0.1 else "doubtful" if share < 0.3 else "fails"
    do = "" if verdict == "agrees" else "Refine there; a value that grows with every mesh is a singular corner, not a stress."
    said = f"At the highest von Mises stress the elements differ by {share:.2g} of it."
    if where:
        # Saint-Venant: what a support or load does close by is not what the body does (common practice, no source).
        verdict = "doubtful" if verdict == "agrees" else verdict
        said += f" It lies where the model is {where}."
        do = f"{do} Where a model is {where} its stress is seldom the real part's: look for the highest away from there.".strip()
    return Doubt("peak", verdict, said, do, high.node)


def _acted_on(source: Source, step: int, node: int) -> str:
    """'held', 'loaded' or '': what is done to a node at a step, against the largest done to any."""
    for kind, word in (("reaction", "held"), ("force", "loaded")):
        field = force_field(source, kind)
        if field is None:
            continue
        size = np.linalg.norm(np.nan_to_num(source.values(field.name, step)), axis=1)
        if size[node] > 1e-6 * float(size.max(initial=0.0)):
            return word
    return ""


def _patterns(source: Source, step: int) -> Doubt:
    """Zero-energy modes: deformation of linear quads and bricks that a point in their middle does not feel.

    The mean square of small strain over the element, less that at its centre. Common practice, no source: more than a twentieth of
    the whole calls for a look, more than a fifth is no answer.
    """
    name = "zero-energy modes"
    mesh = source.mesh
    moved = displacement_of(source.fields)
    assert moved is not None
    shift = np.nan_to_num(np.asarray(source.values(moved.name, step), dtype=np.float64))
    blocks = [b for b in mesh.blocks if b.cell.family in ("quad", "hex") and b.cell.order == 1]
    if not blocks:
        return Doubt(name, "not checked", "The model has no linear quads or bricks, whose patterns these are.")
    felt = unfelt = 0.0
    worst, node = 0.0, -1
    for block in (p for b in blocks for p in b.pieces()):
        at, weight = block.cell.quadrature
        values = shift[block.nodes]
        middle = small_strain(_slope(mesh, block, block.cell.centre, values))[:, 0]
        full = small_strain(_slope(mesh, block, at, values))
        whole = np.einsum("q,eqc->e", weight / weight.sum(), full**2)
        inner = (middle**2).sum(1)
        size = mesh.volumes[block.elements]
        hidden = np.maximum(whole - inner, 0.0) * size
        felt, unfelt = felt + float((np.minimum(inner, whole) * size).sum()), unfelt + float(hidden.sum())
        if hidden.max(initial=0.0) > worst:
            worst, node = float(hidden.max()), int(block.nodes[int(hidden.argmax()), 0])
    if felt + unfelt == 0.0:
        return Doubt(name, "not checked", "Nothing deforms at this step.")
    share = unfelt / (felt + unfelt)
    verdict = "agrees" if share < 0.05 else "doubtful" if share < 0.2 else "fails"
    do = "" if verdict == "agrees" else "Look at the mesh as deformed for a zigzag: refine, or give the elements more points."
    said = f"{share:.2g} of the deformation lies in patterns the middle of a linear element does not feel."
    return Doubt(name, verdict, said, do, node)


def _slope(mesh: Mesh, block: Block, xi: Float, values: Float) -> Float:
    """Displacement gradients (e, q, 3, 3) at natural places, of nodal values (e, size, 3)."""
    return gradients(block.cell, xi, mesh.points[block.nodes], values)


def peak_over_meshes(results: Sequence[tuple[str, Source, int]]) -> Doubt:
    """Whether the highest von Mises stress settles as meshes get finer: (name, result, step) of the same body at the same load.

    A peak that grows by more than a tenth from one mesh to the next, and no less than before, is not one to quote (common practice,
    no source).
    """
    name = "peak over meshes"
    peaks = []
    for label, source, step in results:
        stress = stress_of(source.fields)
        if stress is not None:
            _, _, high = extremes(Reading(stress.name, "von-mises", step=step), source)
            if high is not None:
                peaks.append((len(source.mesh.types), high.value, label, high.node))
    if len(peaks) < 2:
        return Doubt(name, "not checked", "The review has no other mesh of this body at this load.")
    peaks.sort()
    values = np.array([p[1] for p in peaks])
    growth = values[1:] / values[:-1] - 1
    settles = abs(growth[-1]) < 0.1
    shrinks = len(growth) > 1 and abs(growth[-1]) < 0.6 * abs(growth[-2])
    verdict = "agrees" if settles else "doubtful" if len(growth) == 1 or shrinks else "fails"
    answer = ", ".join(f"{p[1]:.4g} ({p[2]}, {p[0]} elements)" for p in peaks)
    do = "" if verdict == "agrees" else "Refine once more: what grows with every mesh is a singular corner, not a stress."
    return Doubt(name, verdict, f"Highest von Mises stress: {answer}; the last changes by {growth[-1]:+.2g}.", do)
