"""The matrix, continued: faces that are picked, gauges, layers and the stress of extreme fibres, on every shape."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Memory
from ironstone.core.geometry.locate import find
from ironstone.core.geometry.nearest import nearest
from ironstone.core.geometry.surface import Look, skin
from ironstone.core.mesh.places import AtElements, AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.gauges import strain_along
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.trace import trace
from ironstone.core.statics.face_force import over_faces
from tests.models import field, memory
from tests.oracles.boxes import SHAPES, Shape
from tests.oracles.test_matrix import PLACES, SIZE, along, curved, made

SOLIDS = [s for s in SHAPES if s.dimension == 3]
WHERE = [w for w in PLACES if w != "single precision"]


def side(source: Memory, axis: int, at: float) -> int:
    """A drawn face on the side where a coordinate is at a value."""
    drawn = skin(source.mesh, Look(detail=8 if any(b.cell.order > 1 for b in source.mesh.blocks) else 1))
    reach = 1e-9 * float(np.abs(source.mesh.points).max())
    for face in range(len(drawn.face_element)):
        if (np.abs(drawn.points[drawn.face == face][:, axis] - at) < max(reach, 1e-9)).all():
            return face
    raise AssertionError("no face there")


@pytest.mark.parametrize("where", WHERE)
@pytest.mark.parametrize("shape", SOLIDS, ids=lambda s: s.name)
def test_a_picked_face_carries_the_stress_over_its_side(shape: Shape, where: str) -> None:
    """The side x = 2 of a stress s_xx = 3 + 2x - y + z/2: its middle's value times its area, its moment about the middle."""
    case = made((shape,), where=where)
    found = over_faces(case.source, 0, Look(), side(case.source, 0, float(case.at(SIZE[0])[0])), 20.0, pressure=2.0)
    middle = np.array([[SIZE[0], SIZE[1] / 2, SIZE[2] / 2]])
    area = SIZE[1] * SIZE[2] * case.scale**2
    pull = float(along(shape, middle)[0]) * area
    assert found.area == pytest.approx(area)
    assert found.area_vector == pytest.approx([area, 0, 0], abs=1e-7 * area)
    assert found.centre == pytest.approx((middle[0] + case.shift) * case.scale)
    assert found.through is not None and found.pushed is not None
    assert found.through.force == pytest.approx([pull, 0, 0], abs=1e-7 * pull)
    # M_y = integral of z s_xx, M_z = - integral of y s_xx, about the middle; second moments of a rectangle.
    about_y, about_z = 0.5 * SIZE[1] * SIZE[2] ** 3 / 12, SIZE[2] * SIZE[1] ** 3 / 12
    assert found.through.moment == pytest.approx(np.array([0, about_y, about_z]) * case.scale**3, abs=2e-7 * pull * case.scale * 3)
    assert found.pushed.force == pytest.approx([-2 * area, 0, 0], abs=1e-7 * area)


@pytest.mark.parametrize("shape", [s for s in SOLIDS if s.quadratic], ids=lambda s: s.name)
def test_a_picked_face_of_curved_elements_carries_the_same(shape: Shape) -> None:
    case = made((shape,), bend=curved)
    found = over_faces(case.source, 0, Look(), side(case.source, 0, SIZE[0]), 20.0)
    assert found.area == pytest.approx(SIZE[1] * SIZE[2])
    assert found.through is not None
    assert found.through.force[0] == pytest.approx(float(along(shape, np.array([[2.0, 1.5, 0.75]]))[0]) * 4.5)


@pytest.mark.parametrize("where", WHERE)
@pytest.mark.parametrize("shape", [s for s in SHAPES if s.dimension > 1], ids=lambda s: s.name)
def test_a_gauge_on_the_surface_reads_the_strain_along_it_and_its_mean_over_its_length(shape: Shape, where: str) -> None:
    case = made((shape,), where=where)
    table = np.asarray(case.source.values("stress", 0))
    source = memory(case.mesh, (field("strain", "strain", "corner"), table))
    at = np.array([[0.6, 0.7, 0.0], [1.1, 2.2, 0.0], [1.3, 1.4, 0.0]])
    places = (at + case.shift) * case.scale
    c, s = np.cos(0.4), np.sin(0.4)
    directions = np.array([[1.0, 0, 0], [c, s, 0], [c, s, 0.3]])
    length = np.array([0.0, 0.0, 0.5]) * case.scale
    found = strain_along(Reading("strain", "xx"), source, nearest(case.mesh, places), directions, length)
    # The strain has xx alone; along a gauge it is linear, so its mean is that of its middle.
    assert found == pytest.approx(along(shape, at) * np.array([1.0, c * c, c * c]), rel=1e-5)


@pytest.mark.parametrize("shape", SHAPES, ids=lambda s: s.name)
def test_a_layer_of_an_element_is_read_as_it_is_and_of_several_the_asked_one(shape: Shape) -> None:
    """Element e holds 10 e + layer, the second layer of the first element missing."""
    mesh = made((shape,)).mesh
    count = len(mesh.types)
    table = 10.0 * np.arange(count)[:, None] + np.arange(3)
    table[0, 1] = np.nan
    own = field("index", "", "element", layers=3)
    source = memory(mesh, (own, table))
    every = AtElements(np.arange(count))
    for layer in range(3):
        read = evaluate(Reading("index", "value", layer=str(layer + 1)), source, every).values
        np.testing.assert_array_equal(read, table[:, layer])
    largest = evaluate(Reading("index", "value", layer="largest"), source, every).values
    np.testing.assert_array_equal(largest, np.nanmax(table, axis=1))
    node = evaluate(Reading("index", "value", layer="2"), source, AtNodes(np.arange(len(mesh.points))))
    for n in range(len(mesh.points)):
        here = {int(mesh.corner_element[k]) for k in np.flatnonzero(mesh.connectivity == n)}
        got = node.values[node.offsets[n] : node.offsets[n + 1]]
        assert sorted(got[~np.isnan(got)]) == sorted(table[e, 1] for e in here if e)
    _, low, high = extremes(Reading("index", "value", layer="2"), source)
    assert low is not None and high is not None
    assert (high.value, high.element) == (table[-1, 1], count - 1)
    if count > 1:
        assert (low.value, low.element) == (table[1, 1], 1)


@pytest.mark.parametrize("name", ["line2", "line3"])
def test_the_stress_of_extreme_fibres_is_the_force_and_the_moment_and_belongs_to_its_bar(name: str) -> None:
    """A cantilever of bars under a tip force: s = N/A -+ M c/I at the ends of each, told apart where they meet."""
    shape = next(s for s in SHAPES if s.name == name)
    mesh = made((shape,)).mesh
    force, normal, area, second, c = 120.0, 30.0, 4.0, 1.5, 0.8
    ends = np.stack([mesh.points[mesh.connectivity[mesh.offsets[:-1] + k]][:, 0] for k in (0, 1)], axis=1)
    moment = force * (SIZE[0] - ends)
    # Ends of each bar, then the fibre below and above: the columns of a file.
    columns = np.stack([normal / area + sign * moment * c / second for sign in (-1, 1)], axis=2).reshape(len(ends), -1)
    own = field("fibre stress", "fibre stress", "element", layers=2, places=("bottom", "top"))
    source = memory(mesh, (own, columns))
    every = AtElements(np.arange(len(ends)))
    top = evaluate(Reading("fibre stress", "value", layer="1:top"), source, every).values
    assert top == pytest.approx(normal / area + force * (SIZE[0] - ends[:, 0]) * c / second)
    worst = evaluate(Reading("fibre stress", "value", layer="magnitude"), source, every)
    assert worst.values == pytest.approx(columns[np.arange(len(ends)), np.abs(columns).argmax(1)])
    assert worst.resolved.signed
    middle = int(np.flatnonzero(np.bincount(mesh.connectivity) > 1)[0])
    at = evaluate(Reading("fibre stress", "value", layer="1:top", averaging="part"), source, AtNodes(np.array([middle])))
    here = mesh.corner_element[mesh.connectivity == middle]
    assert sorted(at.values) == pytest.approx(sorted(top[here])), "never averaged across bars"
    with pytest.raises(Impossible, match="no place"):
        evaluate(Reading("fibre stress", "value", layer="1:middle"), source, every)


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.dimension > 1], ids=lambda s: s.name)
def test_what_nodes_have_is_followed_at_a_point_on_a_border_of_elements(shape: Shape) -> None:
    """Many elements meet in the middle of the box, and all say the same; a value of the elements themselves is refused there."""
    mesh = made((shape,)).mesh
    middle = SIZE / 2 * (np.arange(3) < shape.dimension)
    heat = np.stack([(k + 1) * (1.0 + mesh.points @ [2.0, -1.0, 0.5]) for k in range(3)])[:, :, None]
    own = field("heat", "temperature", "node")
    of_elements = field("share", "", "element")
    source = memory(mesh, (own, heat), (of_elements, np.tile(np.arange(len(mesh.types))[None, :, None], (3, 1, 1)).astype(float)))
    place = find(mesh, middle)
    assert len(place.element) > 1
    found = trace(Reading("heat"), source, place)
    assert found.values == pytest.approx((1.0 + middle @ [2.0, -1.0, 0.5]) * np.arange(1, 4))
    with pytest.raises(Impossible, match="values meet there"):
        trace(Reading("share"), source, place)
