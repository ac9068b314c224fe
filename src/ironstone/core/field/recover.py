"""Fields worked out here when the file has none: strain from displacement, stress from strain, nodal force from stress.

Strain is taken with the elements' own shape-function derivatives (Zienkiewicz and Taylor, The Finite Element Method, vol. 1);
large strains after Bonet and Wood, Nonlinear Continuum Mechanics (2008), from memory.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field, Source, Step, constants_of, displacement_of, stress_of, thickness_of
from ironstone.core.field.loadings import computed, loadings
from ironstone.core.field.tensors import components
from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.jacobians import cofactors, gradients, inverses, natural_slopes, ratios, small_runs
from ironstone.core.mesh.mesh import Float, Int, Mesh, quadrature_weights

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")
SMALL, GREEN_LAGRANGE, LOGARITHMIC = "strain from displacement", "Green-Lagrange strain", "logarithmic strain"
ELASTIC_STRESS = "elastic stress from strain"
INTERNAL_FORCE = "internal force"
VELOCITY, ACCELERATION = "velocity from displacement", "acceleration from displacement"
PENETRATION = "penetration into other parts"
# How far faces that lie on each other part: square to them, and the two ways in them, by the column of each.
OPENINGS = {"opening between faces": 0, "sliding between faces, along": 1, "sliding between faces, across": 2}
RATES = {VELOCITY: "velocity", ACCELERATION: "acceleration"}
STRAINS = (SMALL, GREEN_LAGRANGE, LOGARITHMIC)


def offered(
    source_fields: dict[str, Field],
    constants: bool,
    stress_unit: str,
    force_unit: str,
    steps: Sequence[Step] = (),
    bars_alone: bool = False,
    bodies: int = 0,
    length_unit: str = "",
    faces: int = 0,
) -> list[Field]:
    """Which fields can be recovered from those a result has.

    constants: the materials' are stated. bars_alone: the mesh has nothing but bars, which have no strain tensor. bodies: how many
    parts enclose something. faces: how many of the three ways faces may part in, 0 where none may lie on another.
    """
    moved = displacement_of(source_fields)
    strain = next((f for f in source_fields.values() if f.kind == "strain" and f.rank == "tensor" and f.plain), None)
    stress = stress_of(source_fields)
    guessed = next(iter(source_fields.values())).unit_guessed if source_fields else False
    found = []
    if moved is not None and not bars_alone:
        said = {
            SMALL: "small strain, from shape-function derivatives",
            GREEN_LAGRANGE: "half of C less one",
            LOGARITHMIC: "half the logarithm of C, material directions",
        }
        found += [
            Field(n, "strain", "tensor", "corner", TENSOR, "", moved.precision, recovered=f"{said[n]}, of '{moved.name}'")
            for n in STRAINS
        ]
    if moved is not None and len(steps) > 2 and steps[0].kind == "time" and len(loadings(steps)) == 1:
        for name, kind in RATES.items():
            if any(f.kind == kind for f in source_fields.values()):
                continue
            unit = f"{moved.unit}/{steps[0].unit}{'²' if kind == 'acceleration' else ''}" if moved.unit and steps[0].unit else ""
            found.append(
                Field(name, kind, "vector", "node", moved.components, unit, moved.precision, unit_guessed=moved.unit_guessed,
                      recovered=f"differences over neighbouring steps, of '{moved.name}'")
            )  # fmt: skip
    if constants and (strain is not None or (moved is not None and not bars_alone)):
        basis = strain.name if strain is not None else SMALL
        found.append(
            Field(ELASTIC_STRESS, "stress", "tensor", "corner", TENSOR, stress_unit, "double", unit_guessed=guessed,
                  recovered=f"isotropic elasticity, of '{basis}'")
        )  # fmt: skip
    if stress is not None:
        found.append(
            Field(INTERNAL_FORCE, "internal force", "vector", "node", ("x", "y", "z"), force_unit, stress.precision,
                  unit_guessed=guessed, recovered=f"the integral of B'S over the elements, of '{stress.name}'")
        )  # fmt: skip
    if bodies > 1:
        shape = f"of the shape at true scale, of '{moved.name}'" if moved is not None else "of the shape as it is"
        found.append(
            Field(PENETRATION, "depth inside", "scalar", "node", ("value",), moved.unit if moved is not None else length_unit,
                  moved.precision if moved is not None else "double", unit_guessed=guessed,
                  recovered=f"the shortest way out of any other part through its faces, {shape}; no value outside")
        )  # fmt: skip
    if moved is not None and faces:
        how = (
            "what the face across moves outwards from this one: they part where it is above zero",
            "what the face across moves along this one, as near to x as the face allows",
            "what the face across moves across this one, square to its normal and to along",
        )
        found += [
            Field(name, "opening", "scalar", "node", ("value",), moved.unit, moved.precision, unit_guessed=guessed,
                  recovered=f"{how[column]}, of '{moved.name}'; no value where no other face lies on it")
            for name, column in list(OPENINGS.items())[:faces]
        ]  # fmt: skip
    return [f for f in found if f.name not in source_fields]


def displacement_gradients(source: Source, step: int, elements: Int | None = None) -> Float:
    """du_i/dx_j at every corner of some elements (all), (corners, 3, 3), in the order of ``corners_of``.

    Bars and beams have none: displacements of their nodes do not tell bending from turning.
    """
    mesh = source.mesh
    moved = displacement_of(source.fields)
    if moved is None:
        raise Impossible("This result has no displacement at its nodes.", "A strain cannot be recovered from it.")
    chosen = np.arange(len(mesh.types)) if elements is None else elements
    place = np.full(len(mesh.types), -1, dtype=np.int64)
    counts = mesh.offsets[chosen + 1] - mesh.offsets[chosen]
    place[chosen] = np.cumsum(counts) - counts
    result = np.full((int(counts.sum()), 3, 3), np.nan)
    nodes = np.unique(mesh.connectivity[mesh.corners_of(chosen)])
    vectors = np.full((len(mesh.points), 3), np.nan)
    if len(nodes) > 512:
        vectors[nodes] = np.asarray(source.values(moved.name, step), dtype=np.float64)[nodes]
    else:
        vectors[nodes] = source.rows(moved.name, step, nodes)
    for block in mesh.blocks:
        here = np.flatnonzero(place[block.elements] >= 0)
        if block.cell.dimension < 2 or not len(here):
            continue
        for part in block.some(here).pieces():
            own = vectors[part.nodes]
            gradient = gradients(block.cell, _inward(block.cell.nodes, block.cell.name), mesh.points[part.nodes], own)
            if source.setup.model == "axisymmetric":
                radius = mesh.points[part.nodes, 0]
                with np.errstate(invalid="ignore", divide="ignore"):
                    hoop = vectors[part.nodes, 0] / radius
                gradient[..., 2, 2] = np.where(radius > 1e-9 * mesh.size, hoop, gradient[..., 0, 0])
            result[place[part.elements][:, None] + np.arange(block.cell.size)] = gradient
    return result


def _inward(nodes: Float, name: str) -> Float:
    """The nodes themselves; a pyramid's apex a little inside, where its rational functions still have derivatives."""
    if not name.startswith("pyramid"):
        return nodes
    centre = np.array([0.375, 0.375, 0.25])
    return np.where((nodes[:, 2:3] > 0.99), nodes + 0.02 * (centre - nodes), nodes)


def small_strain(gradient: Float) -> Float:
    """The symmetric part of du/dx (..., 3, 3) as components (..., 6)."""
    return components((gradient + np.swapaxes(gradient, -1, -2)) / 2.0)


def green_lagrange(gradient: Float) -> Float:
    """(F'F - 1)/2 with F = 1 + du/dX."""
    turned = np.swapaxes(gradient, -1, -2)
    return components((gradient + turned + turned @ gradient) / 2.0)


def logarithmic(gradient: Float) -> Float:
    """ln(F'F)/2 by its eigenvectors (Hencky's strain in material directions)."""
    deformation = gradient + np.eye(3)
    stretch = np.swapaxes(deformation, -1, -2) @ deformation
    missing = np.asarray(~np.isfinite(stretch).all((-1, -2)))
    values, vectors = np.linalg.eigh(np.where(missing[..., None, None], np.eye(3), stretch))
    logs = np.log(np.maximum(values, 1e-300)) / 2.0
    result = components((vectors * logs[..., None, :]) @ np.swapaxes(vectors, -1, -2))
    return np.where(missing[..., None], np.nan, result)


STRAIN_OF: dict[str, Callable[[Float], Float]] = {
    SMALL: small_strain,
    GREEN_LAGRANGE: green_lagrange,
    LOGARITHMIC: logarithmic,
}


def strain(name: str, source: Source, step: int, elements: Int | None = None) -> Float:
    """A recovered strain at the corners of some elements (all), (corners, 6), true tensor shear.

    Of a planar model in plane stress the third direction follows from the material's Poisson's ratio (small strain alone); a
    shell's strain is that of its surface.
    """
    result = STRAIN_OF[name](displacement_gradients(source, step, elements))
    if source.mesh.planar and source.setup.model in ("", "plane stress"):
        chosen = np.arange(len(source.mesh.types)) if elements is None else elements
        owner = source.mesh.corner_element[source.mesh.corners_of(chosen)]
        poisson = constants_of(source.mesh, source.setup, "poisson")[0][owner]
        known = name == SMALL and source.setup.model == "plane stress"
        result[:, 2] = -poisson / (1.0 - poisson) * (result[:, 0] + result[:, 1]) if known else np.nan
    return result


def elastic_stress(strains: Float, young: Float, poisson: Float) -> Float:
    """Isotropic elasticity, 2 G e + lambda tr(e) 1: (n, 6) from strains (n, 6) and constants (n,)."""
    shear = young / (2.0 * (1.0 + poisson))
    lame = young * poisson / ((1.0 + poisson) * (1.0 - 2.0 * poisson))
    result: Float = 2.0 * shear[:, None] * strains
    result[:, :3] += (lame * strains[:, :3].sum(1))[:, None]
    return result


def internal_force(source: Source, step: int, corner_stress: Float) -> Float:
    """Nodal forces that balance a stress given at the corners (corners, 6): the sum over elements of the integral of B'S.

    Faces count with their thickness (1 in a planar model whose thickness is not known), over the whole turn in an axisymmetric
    model. (nodes, 3); NaN where a stress is missing.
    """
    mesh = source.mesh
    turned = source.setup.model == "axisymmetric"
    thickness = None if turned else thickness_of(source, step)
    total = np.zeros((len(mesh.points), 3))
    for block in (piece for whole in mesh.blocks if whole.cell.dimension for piece in whole.pieces()):
        stress = corner_stress[block.corners]
        own = None if thickness is None or block.cell.dimension != 2 else thickness[block.elements]
        if block.cell.name == "tet4":
            force = _of_tetrahedra(mesh.points[block.nodes], stress.mean(1))
        elif block.cell.order == 1 and block.cell.family in ("tri", "line") and not turned:
            # Of a straight simplex the slopes are the same everywhere, and its middle has the mean of the stress.
            whole = np.array([block.cell.quadrature[1].sum()])
            force = _of_any(block.cell, (block.cell.centre, whole), mesh.points[block.nodes], stress, own, turned)
        else:
            force = _of_any(block.cell, block.cell.quadrature, mesh.points[block.nodes], stress, own, turned)
        _added(total, block.nodes, force)
    return total


def _of_any(cell: Cell, rule: tuple[Float, Float], nodes: Float, stress: Float, thickness: Float | None, turned: bool) -> Float:
    """Forces (e, size, 3) on the nodes (e, size, 3) of elements from the stress at their corners (e, size, 6), by a rule of places
    and weights. Of a solid B'S needs no inverse: the cofactors of the Jacobian are its inverse times the ratio of volume."""
    xi, weights = rule
    slopes, shape = cell.gradient(xi), cell.shape(xi)
    places, size, dimension = slopes.shape
    back = np.ascontiguousarray(slopes.transpose(1, 0, 2)).reshape(size, places * dimension)
    result = np.empty((len(nodes), size, 3))
    for run in small_runs(len(nodes), places):
        jacobian = natural_slopes(cell, xi, nodes[run])
        count = jacobian.shape[-1]
        rows, ratio = _weighed(jacobian)
        factor = weights[:, None] * ratio
        if turned:
            radius = shape @ nodes[run, :, 0].T
            factor = factor * (2.0 * np.pi * np.abs(radius))
        if thickness is not None:
            factor = factor * thickness[run]
        last = np.ascontiguousarray(stress[run].transpose(1, 2, 0), dtype=np.float64).reshape(size, 6 * count)
        inside = (shape @ last).reshape(places, 6, count)
        inside *= factor[:, None]
        pulled = np.empty((places, dimension, 3, count))
        x, y, z = (rows[:, :, i] for i in range(3))
        for i, (a, b, c) in enumerate(((0, 3, 5), (3, 1, 4), (5, 4, 2))):
            np.multiply(x, inside[:, None, a], out=pulled[:, :, i])
            pulled[:, :, i] += y * inside[:, None, b]
            pulled[:, :, i] += z * inside[:, None, c]
        force = (back @ pulled.reshape(places * dimension, 3 * count)).reshape(size, 3, count)
        if turned:
            force[:, 0] += shape.T @ (inside[:, 2] / np.maximum(radius, 1e-300))
        result[run] = force.transpose(2, 0, 1)
    return result


def _weighed(jacobian: Float) -> tuple[Float, Float]:
    """dxi_a/dx (q, dimension, 3, e) of Jacobians of the same shape, and the ratio of volume (area, length) to weigh them by,
    (q, e); of a solid the ratio stands in the first already, and is 1 with the sign of its determinant."""
    if jacobian.shape[1] == 3:
        rows, det = cofactors(jacobian)
        return rows, np.where(det == 0.0, np.nan, np.sign(det))
    return inverses(jacobian), ratios(jacobian)


def _added(total: Float, nodes: Int, force: Float) -> None:
    """Add forces of elements (e, n, 3) to those of their nodes."""
    for axis in range(3):
        total[:, axis] += np.bincount(nodes.ravel(), weights=force[..., axis].ravel(), minlength=len(total))


def _of_tetrahedra(nodes: Float, stress: Float) -> Float:
    """Forces (e, 4, 3) on the nodes (e, 4, 3) of straight tetrahedra from the mean of their stress (e, 6): on each node S times a
    third of the area of the opposite face, along its normal inwards."""
    a, b, c = (nodes[:, i] - nodes[:, 0] for i in (1, 2, 3))
    normals = np.stack([np.cross(b, c), np.cross(c, a), np.cross(a, b)], axis=1)
    normals *= np.sign((a * normals[:, 0]).sum(1))[:, None, None] / 6.0
    force = np.empty((len(nodes), 4, 3))
    xx, yy, zz, xy, yz, xz = (column[:, None] for column in stress.T)
    x, y, z = (normals[..., i] for i in range(3))
    force[:, 1:, 0] = xx * x + xy * y + xz * z
    force[:, 1:, 1] = xy * x + yy * y + yz * z
    force[:, 1:, 2] = xz * x + yz * y + zz * z
    force[:, 0] = -force[:, 1:].sum(1)
    return force


def energies(
    mesh: Mesh, raw_and_smooth: Callable[[Int], tuple[Float, Float]], young: Float, poisson: Float, turned: bool
) -> NDArray[np.float64]:
    """Of each element: energy norm squared of (smooth - raw) and of raw corner stress, and its volume. Both stresses are asked for
    some corners at a time, (n, 6) each.

    The norm is the integral of s : C^-1 : s with an isotropic compliance, (elements, 3); Zienkiewicz and Zhu (1987).
    """
    result = np.full((len(mesh.types), 3), np.nan)
    for block in (piece for whole in mesh.blocks if whole.cell.dimension > 1 for piece in whole.pieces()):
        xi, _ = block.cell.quadrature
        shape = block.cell.shape(xi)
        weights = quadrature_weights(mesh, block, turned)
        e, nu = young[block.elements][:, None], poisson[block.elements][:, None]
        raw, smooth = raw_and_smooth(block.corners.ravel())
        for column, corner in enumerate((smooth - raw, raw)):
            inside = np.einsum("qn,enc->eqc", shape, corner.reshape(*block.nodes.shape, 6), optimize=True)
            square = (inside[..., :3] ** 2).sum(-1) + 2.0 * (inside[..., 3:] ** 2).sum(-1)
            density = ((1.0 + nu) * square - nu * inside[..., :3].sum(-1) ** 2) / e
            result[block.elements, column] = (weights * density).sum(1)
        result[block.elements, 2] = weights.sum(1)
    return result


def rate(name: str, source: Source, step: int, nodes: Int | None = None) -> Float:
    """Velocity or acceleration of the nodes (n, 3) at a step, by the parabola through it and its two neighbours in time.

    At the first and last step it is that of the first and last three. Uneven steps keep the parabola exact.
    """
    moved = displacement_of(source.fields)
    assert moved is not None
    count = len(computed(source.steps))
    middle = min(max(step, 1), count - 2)
    near = [middle - 1, middle, middle + 1]
    t = np.array([source.steps[i].value for i in near]) - source.steps[step].value
    if not (np.diff(t) > 0).all():
        raise Impossible(f"Time stands still about step {step}: there is no rate.", "Correct the steps' times.")
    weights = np.linalg.inv(np.vander(t, 3, increasing=True))[1 if name == VELOCITY else 2] * (1 if name == VELOCITY else 2)
    answer = [source.values(moved.name, i) if nodes is None else source.rows(moved.name, i, nodes) for i in near]
    result: Float = np.einsum("s,snc->nc", weights, np.asarray(answer, dtype=np.float64))
    return result
