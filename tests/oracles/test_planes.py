"""The force through a plane, held against the integral it stands for, against statics, and against VTK's area of the cut.

Stress fields are polynomials written out here and integrated here with NumPy's Gauss points; nothing of the product's cutting,
interpolation or quadrature is used on this side.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from vtkmodules.util.numpy_support import numpy_to_vtk, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPlane, vtkUnstructuredGrid
from vtkmodules.vtkFiltersCore import vtkCutter

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field, Memory, Setup
from ironstone.core.field.recover import INTERNAL_FORCE
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.reading.recovered import recovered_values
from ironstone.core.statics.section import through_plane
from tests.models import mesh_of
from tests.oracles.solids import block

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")
LENGTH, HEIGHT, WIDTH, LOAD = 6.0, 2.0, 1.0, 600.0


def result(mesh: Mesh, stress: Callable[[np.ndarray], np.ndarray], *more: tuple[Field, np.ndarray], model: str = "") -> Memory:
    """A result whose stress is given at every corner; more: further fields with their arrays."""
    fields = [Field("stress", "stress", "tensor", "corner", TENSOR, "MPa"), *(f for f, _ in more)]
    arrays = {"stress": stress(mesh.points[mesh.connectivity])[None], **{f.name: a[None] for f, a in more}}
    return Memory(mesh, fields, arrays, setup=Setup(model=model))


def beam(p: np.ndarray) -> np.ndarray:
    """A cantilever's stress: xx = P (L - x) y / I, xy = -P / 2I (h^2/4 - y^2), in balance without body force.

    Timoshenko and Goodier, Theory of Elasticity (1970), art. 21; y from the middle of the height.
    """
    x, y = p[:, 0], p[:, 1] - HEIGHT / 2
    inertia = WIDTH * HEIGHT**3 / 12
    answer = np.zeros((len(p), 6))
    answer[:, 0] = LOAD * (LENGTH - x) * y / inertia
    answer[:, 3] = -LOAD / (2 * inertia) * (HEIGHT**2 / 4 - y**2)
    return answer


@pytest.mark.parametrize("name", ["hex20", "hex27", "tet10"])
@pytest.mark.parametrize("sign", [1.0, -1.0])
@pytest.mark.parametrize("at", [0.0, 2.0, 2.0 + 1e-7, 2.0 - 1e-7, 2.7, 4.0, LENGTH])
def test_the_shear_force_of_a_beam_on_node_planes_beside_them_and_at_its_ends(name: str, sign: float, at: float) -> None:
    """600 N, whatever the plane: read through the corners of 20-node bricks it would be 867."""
    source = result(block(name, (3, 2, 1), (LENGTH, HEIGHT, WIDTH)), beam)
    answer = through_plane(source, 0, np.array([at, 0.3, 0.1]), np.array([sign, 0, 0]), about=np.array([at, HEIGHT / 2, WIDTH / 2]))
    assert answer.area == pytest.approx(HEIGHT * WIDTH, rel=1e-9)
    assert answer.through.force == pytest.approx([0, -sign * LOAD, 0], abs=1e-6)
    assert answer.through.moment == pytest.approx([0, 0, -sign * LOAD * (LENGTH - at)], abs=2e-3), "P (L - x)"


@given(
    st.floats(1.2, 4.8),
    st.floats(-0.25, 0.25),
    st.floats(-0.3, 0.3),
    st.sampled_from(["hex20", "tet10"]),
    st.sampled_from([1.0, -1.0]),
)
def test_any_plane_between_the_ends_carries_the_load(at: float, slope: float, tilt: float, name: str, sign: float) -> None:
    source = result(block(name, (3, 2, 1), (LENGTH, HEIGHT, WIDTH)), beam)
    normal = sign * np.array([1.0, slope, tilt])
    answer = through_plane(source, 0, np.array([at, HEIGHT / 2, WIDTH / 2]), normal)
    assert answer.through.force == pytest.approx([0, -sign * LOAD, 0], abs=1e-5)
    assert answer.area == pytest.approx(HEIGHT * WIDTH * np.sqrt(1 + slope**2 + tilt**2), rel=1e-9)


def vtk_area(mesh: Mesh, origin: np.ndarray, normal: np.ndarray) -> float:
    grid, points, cells = vtkUnstructuredGrid(), vtkPoints(), vtkCellArray()
    points.SetData(numpy_to_vtk(np.ascontiguousarray(mesh.points), deep=True))
    cells.SetData(numpy_to_vtk(mesh.offsets, deep=True), numpy_to_vtk(mesh.connectivity, deep=True))
    grid.SetPoints(points)
    grid.SetCells(numpy_to_vtk(mesh.types, deep=True), cells)
    plane, cutter = vtkPlane(), vtkCutter()
    plane.SetOrigin(*origin)
    plane.SetNormal(*normal)
    cutter.SetInputData(grid)
    cutter.SetCutFunction(plane)
    cutter.GenerateTrianglesOn()
    cutter.Update()
    cut = cutter.GetOutput()
    corners = vtk_to_numpy(cut.GetPoints().GetData())[vtk_to_numpy(cut.GetPolys().GetConnectivityArray()).reshape(-1, 3)]
    return float(np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2)


@given(st.tuples(*[st.floats(0.2, 0.8)] * 3), st.tuples(*[st.floats(-1, 1)] * 3), st.sampled_from(["hex8", "tet4"]))
def test_the_area_is_vtks_and_a_uniform_stress_pulls_with_s_n(
    place: tuple[float, ...], direction: tuple[float, ...], name: str
) -> None:
    normal = np.array(direction)
    if np.linalg.norm(normal) < 0.1:
        return
    tensor = np.array([30.0, -20.0, 10.0, 5.0, -7.0, 11.0])
    mesh = block(name, (3, 2, 2), (1.0, 1.0, 1.0))
    answer = through_plane(result(mesh, lambda p: np.tile(tensor, (len(p), 1))), 0, np.array(place), normal)
    area = vtk_area(mesh, np.array(place), normal)
    assert answer.area == pytest.approx(area, rel=1e-6)
    full = np.array([[30, 5, 11], [5, -20, -7], [11, -7, 10.0]])
    assert answer.through.force == pytest.approx(area * full @ normal / np.linalg.norm(normal), rel=1e-6, abs=1e-6)


def test_a_ring_of_curved_bricks_is_cut_where_it_is_curved() -> None:
    """A quarter of a tube, radii 1 and 2, 20-node bricks: the section square to its axis has 3 pi / 4, corners alone 2.6 % less."""

    def bend(p: np.ndarray) -> np.ndarray:
        radius, angle = 1 + p[:, 0], p[:, 1] * np.pi / 2
        return np.stack([radius * np.cos(angle), radius * np.sin(angle), p[:, 2]], 1)

    mesh = block("hex20", (2, 3, 2), (1.0, 1.0, 1.0), bend)

    def pull(p: np.ndarray) -> np.ndarray:
        answer = np.zeros((len(p), 6))
        answer[:, 2] = 8.0
        return answer

    for height in (0.3, 0.5):
        answer = through_plane(result(mesh, pull), 0, np.array([0, 0, height]), np.array([0, 0, 1.0]))
        assert answer.area == pytest.approx(0.75 * np.pi, rel=2e-4), height
        assert answer.through.force == pytest.approx([0, 0, 8 * 0.75 * np.pi], rel=2e-4, abs=1e-9)
        assert answer.centre[:2] == pytest.approx([28 / (9 * np.pi)] * 2, rel=2e-4), "4/3 (R^3 - r^3)/(R^2 - r^2) / pi"
    slanted = through_plane(result(mesh, pull), 0, np.array([1.0, 1.0, 0.5]), np.array([0.2, 0.1, 1.0]))
    assert slanted.through.force[2] == pytest.approx(8 * 0.75 * np.pi, rel=1e-3), "the same section, seen along z"


def test_a_plane_beside_a_warped_layer_gives_what_the_plane_on_it_gives() -> None:
    """Bricks squeezed towards one end: on a layer of nodes the answer is the limit from either side."""

    def squeeze(p: np.ndarray) -> np.ndarray:
        return np.stack([p[:, 0], p[:, 1] * (1 - 0.2 * p[:, 0]), p[:, 2] * (1 + 0.1 * p[:, 0] * p[:, 1])], 1)

    source = result(block("hex8", (4, 3, 2), (2.0, 1.0, 1.0), squeeze), lambda p: np.tile([7.0, 2, 1, 3, 0, -2], (len(p), 1)))
    for layer in (0.5, 1.0, 1.5):
        answer = [through_plane(source, 0, np.array([layer + off, 0, 0]), np.array([1.0, 0, 0])) for off in (-1e-6, 0.0, 1e-6)]
        for other in (answer[0], answer[2]):
            assert answer[1].through.force == pytest.approx(other.through.force, rel=1e-4)
            assert answer[1].area == pytest.approx(other.area, rel=1e-4)


def test_loads_on_the_layer_itself_count_half_from_each_side() -> None:
    """A bar pulled by 10 at its middle layer and 4 at its end: 14 before the layer, 4 behind it, 9 on it, as the loads say."""
    mesh = block("hex8", (2, 1, 1), (2.0, 1.0, 1.0))
    load = np.zeros((len(mesh.points), 3))
    load[np.isclose(mesh.points[:, 0], 1.0), 0] = 10 / 4
    load[np.isclose(mesh.points[:, 0], 2.0), 0] = 4 / 4
    stress = np.zeros((16, 6))
    stress[:8, 0], stress[8:, 0] = 14.0, 4.0
    source = result(mesh, lambda p: stress, (Field("load", "force", "vector", "node", ("x", "y", "z"), "N"), load))
    for at, force in ((0.0, 14.0), (0.5, 14.0), (1.0, 9.0), (1.5, 4.0), (2.0, 4.0)):
        answer = through_plane(source, 0, np.array([at, 0, 0]), np.array([1.0, 0, 0]))
        assert answer.through.force[0] == pytest.approx(force), at
        assert answer.residual_share == pytest.approx(0.0, abs=1e-12), at
        if at == 1.0:
            assert any("runs through nodes" in n for n in answer.notes)


def test_a_layer_that_rounding_has_moved_is_the_layer_still() -> None:
    """Layers at 0.1, 0.2, 0.30000000000000004, ...: asked for at 0.3, the loads there count half, as on any layer."""
    mesh = block("hex8", (10, 1, 1), (10.0, 1.0, 1.0))
    moved = mesh_of(mesh.points * [0.1, 1, 1], [(12, mesh.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(10)])
    moved.points[:, 0] = np.array([0.1 + 0.2 if abs(x - 0.3) < 1e-9 else x for x in moved.points[:, 0]])
    load = np.zeros((len(moved.points), 3))
    load[np.isclose(moved.points[:, 0], 0.3), 0] = 10 / 4
    load[np.isclose(moved.points[:, 0], 1.0), 0] = 4 / 4
    stress = np.zeros((80, 6))
    stress[:, 0] = np.where(np.repeat(np.arange(10), 8) < 3, 14.0, 4.0)
    source = result(moved, lambda p: stress, (Field("load", "force", "vector", "node", ("x", "y", "z"), "N"), load))
    answer = through_plane(source, 0, np.array([0.3, 0, 0]), np.array([1.0, 0, 0]))
    assert answer.through.force[0] == pytest.approx(9.0) and answer.residual_share == pytest.approx(0.0, abs=1e-9)


def test_a_curved_element_is_cut_along_its_curve() -> None:
    """A quarter of a tube, radii 1 and 2, cut along x = 1.3: a strip from y = 0 to sqrt(4 - 1.3^2), one high."""

    def bend(p: np.ndarray) -> np.ndarray:
        radius, angle = 1 + p[:, 0], p[:, 1] * np.pi / 2
        return np.stack([radius * np.cos(angle), radius * np.sin(angle), p[:, 2]], 1)

    source = result(block("hex20", (2, 4, 1), (1.0, 1.0, 1.0), bend), lambda p: np.tile([8.0, 0, 0, 0, 0, 0], (len(p), 1)))
    answer = through_plane(source, 0, np.array([1.3, 0, 0]), np.array([1.0, 0, 0]))
    high = np.sqrt(4 - 1.3**2)
    assert answer.area == pytest.approx(high, rel=4e-4) and answer.through.force == pytest.approx(
        [8 * high, 0, 0], rel=4e-4, abs=1e-9
    )
    assert answer.centre == pytest.approx([1.3, high / 2, 0.5], rel=4e-4)
    assert answer.centre[0] == pytest.approx(1.3, abs=1e-6), "every point of the cut lies on the plane"


def test_where_the_section_steps_the_smaller_one_is_taken_and_said() -> None:
    """Two cubes behind the plane, one of them in front: what goes through is what the one in front carries."""
    both = block("hex8", (1, 2, 1), (1.0, 2.0, 1.0))
    front = block("hex8", (1, 1, 1), (1.0, 1.0, 1.0))
    points = np.concatenate([both.points, front.points + [1, 0, 0]])
    same = {tuple(p): i for i, p in enumerate(both.points.tolist())}
    cells = [(12, both.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(2)]
    cells.append((12, [same.get(tuple(points[len(both.points) + n].tolist()), len(both.points) + n) for n in front.connectivity]))
    stress = np.zeros((24, 6))
    stress[16:, 0] = 5.0
    answer = through_plane(result(mesh_of(points, cells), lambda p: stress), 0, np.array([1.0, 0, 0]), np.array([1.0, 0, 0]))
    assert answer.area == pytest.approx(1.0) and answer.through.force[0] == pytest.approx(5.0)
    assert any("section changes at the plane, from 2 to 1" in n for n in answer.notes)


def plate(thickness: float | None, bent: bool = False) -> Memory:
    """Two quadrilaterals, 2 x 3, pulled along x by 50 MPa; bent: the second stands up, so that the model is no plane."""
    points = np.array([[0, 0, 0], [1, 0, 0], [2, 0, 0], [0, 3, 0], [1, 3, 0], [2, 3, 0.0]])
    if bent:
        points[[2, 5]] = [[1, 0, 1], [1, 3, 1]]
    mesh = mesh_of(points, [(9, [0, 1, 4, 3]), (9, [1, 2, 5, 4])])
    more = []
    if thickness is not None:
        more = [(Field("t", "thickness", "scalar", "element", ("value",), "mm"), np.full((2, 1), thickness))]
    return result(mesh, lambda p: np.tile([-50.0, 0, 0, 0, 0, 0], (len(p), 1)), *more)


@pytest.mark.parametrize("at", [0.0, 0.5, 1.0, 2.0])
def test_a_planar_model_counts_with_its_thickness(at: float) -> None:
    """-750 N: 50 MPa on 3 x 5; without a thickness -150 for a thickness of 1, and said."""
    answer = through_plane(plate(5.0), 0, np.array([at, 0, 0]), np.array([1.0, 0, 0]))
    assert answer.through.force == pytest.approx([-750, 0, 0]) and answer.area == pytest.approx(15)
    bare = through_plane(plate(None), 0, np.array([at, 0, 0]), np.array([1.0, 0, 0]))
    assert bare.through.force == pytest.approx([-150, 0, 0])
    assert any("thickness of 1" in n for n in bare.notes)


def test_shells_count_with_their_thickness_and_not_without_one() -> None:
    answer = through_plane(plate(2.0, bent=True), 0, np.array([0.5, 0, 0]), np.array([1.0, 0, 0]))
    assert answer.through.force == pytest.approx([-300, 0, 0]) and any("membrane force alone" in n for n in answer.notes)
    with pytest.raises(Impossible, match="thickness is missing"):
        through_plane(plate(None, bent=True), 0, np.array([0.5, 0, 0]), np.array([1.0, 0, 0]))


def test_bars_across_the_plane_carry_their_axial_force() -> None:
    """Two bars at 45 degrees with 10 N each, tension: 2 x 10 cos 45 on the normal's side."""
    points = np.array([[0, -1, 0], [0, 1, 0], [1, 0, 0.0]])
    mesh = mesh_of(points, [(3, [0, 2]), (3, [2, 1])])
    fields = [Field("N", "axial force", "scalar", "element", ("value",), "N")]
    source = Memory(mesh, fields, {"N": np.full((1, 2, 1), 10.0)})
    answer = through_plane(source, 0, np.array([0.4, 0, 0]), np.array([1.0, 0, 0]))
    assert answer.through.force == pytest.approx([20 * np.cos(np.pi / 4), 0, 0], abs=1e-12)


def test_a_body_of_revolution_is_cut_square_to_its_axis_alone() -> None:
    """A ring of radii 2 and 3 pulled along its axis (y) by 10 MPa: 10 pi (9 - 4) on the whole turn."""
    points = np.array([[2, 0, 0], [3, 0, 0], [3, 1, 0], [2, 1, 0.0]])
    mesh = mesh_of(points, [(9, [0, 1, 2, 3])])
    source = result(mesh, lambda p: np.tile([4.0, 10, 0, 0, 0, 0], (len(p), 1)), model="axisymmetric")
    for at in (0.0, 0.4, 1.0):
        answer = through_plane(source, 0, np.array([0, at, 0]), np.array([0, 1.0, 0]))
        assert answer.area == pytest.approx(5 * np.pi) and answer.through.force == pytest.approx([0, 50 * np.pi, 0])
    with pytest.raises(Impossible, match="square to the axis"):
        through_plane(source, 0, np.array([2.5, 0, 0]), np.array([1.0, 0, 0]))


def test_recovered_nodal_forces_count_with_the_thickness() -> None:
    """The plate of 5 pulled by -50 MPa: 750 N on each end, half at each of its two nodes."""
    for thickness, force in ((5.0, 750.0), (None, 150.0)):
        source = plate(thickness)
        internal = recovered_values(source, INTERNAL_FORCE, 0)
        assert internal[[0, 3], 0] == pytest.approx([force / 2] * 2) and internal[[2, 5], 0] == pytest.approx([-force / 2] * 2)
        assert internal[[1, 4]] == pytest.approx(np.zeros((2, 3)), abs=1e-9)
