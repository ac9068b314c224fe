"""Slopes, sizes and forces of elements by closed formulas, held against LAPACK's determinants and inverses, and virtual work."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.field.fields import Field, Memory
from ironstone.core.field.recover import internal_force
from ironstone.core.field.tensors import matrices
from ironstone.core.mesh.jacobians import gradients, size_ratios
from ironstone.core.mesh.mesh import Mesh, quadrature_weights
from tests.oracles.boxes import SHAPES, Shape, box

CHANCE = np.random.default_rng(41)


def bent(shape: Shape) -> Mesh:
    """A box of a shape whose nodes are moved about a little, so that no two elements are alike."""
    mesh = box(shape, counts=(2, 2, 2), size=(2.0, 3.0, 1.5))
    free = np.arange(3) < (3 if shape.dimension == 3 else 2)
    mesh.points[:] += 0.04 * CHANCE.normal(size=mesh.points.shape) * free
    return mesh


@pytest.mark.parametrize("shape", SHAPES, ids=lambda s: s.name)
def test_sizes_and_slopes_are_those_of_the_jacobian_of_each_place(shape: Shape) -> None:
    mesh = bent(shape)
    nodal = CHANCE.normal(size=(len(mesh.points), 2))
    (block,) = mesh.blocks
    xi, _ = block.cell.quadrature
    nodes, own = mesh.points[block.nodes], nodal[block.nodes]
    sizes, slopes = size_ratios(block.cell, xi, nodes), gradients(block.cell, xi, nodes, own)
    natural = block.cell.gradient(xi)
    for e in range(len(nodes)):
        for q in range(len(xi)):
            jacobian = nodes[e].T @ natural[q]
            assert sizes[e, q] == pytest.approx(np.sqrt(np.linalg.det(jacobian.T @ jacobian)), rel=1e-12)
            by_space = own[e].T @ natural[q] @ np.linalg.pinv(jacobian)
            np.testing.assert_allclose(slopes[e, q], by_space, rtol=1e-9, atol=1e-9)


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.dimension > 1], ids=lambda s: s.name)
@pytest.mark.parametrize("turned_over", [False, True])
def test_forces_do_the_work_of_the_stress_in_any_motion(shape: Shape, turned_over: bool) -> None:
    """Sum of f . u over the nodes = integral of S : grad u over the body, for a motion that is no solution of anything; also where
    the elements are numbered inside out."""
    mesh = bent(shape)
    if turned_over:
        mesh.points[:, 0] *= -1.0
    (block,) = mesh.blocks
    stress = CHANCE.normal(size=(len(mesh.connectivity), 6))
    if shape.dimension == 2:
        stress[:, [2, 4, 5]] = 0.0
    motion = CHANCE.normal(size=mesh.points.shape)
    source = Memory(mesh, [Field("s", "stress", "tensor", "corner", ("xx",), "")], {"s": stress[None]})
    force = internal_force(source, 0, stress)
    xi, _ = block.cell.quadrature
    slopes = gradients(block.cell, xi, mesh.points[block.nodes], motion[block.nodes])
    inside = matrices(np.einsum("qn,enc->eqc", block.cell.shape(xi), stress[block.corners]))
    work = (quadrature_weights(mesh, block) * (inside * slopes).sum((-1, -2))).sum()
    assert (force * motion).sum() == pytest.approx(work, rel=1e-9)


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.dimension == 3], ids=lambda s: s.name)
def test_an_element_without_extent_has_no_slope(shape: Shape) -> None:
    mesh = box(shape, counts=(1, 1, 1), size=(1.0, 1.0, 1.0))
    (block,) = mesh.blocks
    flat = mesh.points[block.nodes] * np.array([1.0, 1.0, 0.0])
    assert np.isnan(gradients(block.cell, block.cell.quadrature[0], flat, flat)).all()
