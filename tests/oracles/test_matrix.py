"""Every element shape x where data live x precision x units and place x every rule, against fields known in closed form.

A box of 2 x 3 x 1.5 (a rectangle, a bar) of each shape holds a stress that is linear in the place; everything that is read of it,
cut out of it and summed over it is known by hand. Elements of the second order may have sides as curved as they like: they still
hold a linear field exactly, and quadratic ones where their sides are straight.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache
from itertools import product
from math import factorial
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.field.fields import Memory, Setup
from ironstone.core.field.recover import displacement_gradients, internal_force, small_strain
from ironstone.core.geometry.locate import find, locate
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.gauss import gauss_points, known_counts
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes, AtSamples
from ironstone.core.reading.cuts import band, iso_surface, section
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.profile import line_of, profile
from ironstone.core.reading.reading import Reading
from ironstone.core.statics.section import through_plane
from ironstone.store import Review, intake
from tests.models import field, memory
from tests.oracles.boxes import BY_NAME, SHAPES, Shape, box
from tests.writing import write_vtu

SIZE = np.array([2.0, 3.0, 1.5])
MIXED = {
    "of solids": ("hex8", "wedge6", "tet4", "pyramid5"),
    "of quadratic solids": ("hex20", "wedge15", "tet10", "pyramid13", "hex27"),
    "of faces": ("quad4", "tri3"),
    "of quadratic faces": ("quad8", "tri6", "quad9"),
}
# Where a file holds numbers, and how exactly: double and single precision; millimetres and metres; at the origin and far from it.
PLACES = {
    "mm": (1.0, 0.0, np.float64),
    "m": (1e-3, 0.0, np.float64),
    "single precision": (1.0, 0.0, np.float32),
    "far away": (1.0, 1e5, np.float64),
}


def along(shape: Shape, p: np.ndarray) -> np.ndarray:
    """The stress xx, in lengths of the box: linear, with all directions the shape has."""
    x, y, z = p.T
    return 3.0 + 2.0 * x - (y if shape.dimension > 1 else 0.0) + (0.5 * z if shape.dimension > 2 else 0.0)


@dataclass(frozen=True)
class Case:
    """A mesh of a shape with a stress on it. scale, shift: from lengths of the box to those of the mesh."""

    shape: Shape
    mesh: Mesh
    source: Memory
    scale: float
    shift: float
    loose: float

    def at(self, *place: float) -> np.ndarray:
        return np.array(place) * self.scale + self.shift * self.scale

    def back(self, points: np.ndarray) -> np.ndarray:
        return points / self.scale - self.shift

    @property
    def span(self) -> float:
        """What a whole is of the section square to x: 1 of a bar, a length of a face, an area of a solid."""
        return float(np.prod(SIZE[1 : self.shape.dimension]) * self.scale ** (self.shape.dimension - 1))


XX = Reading("stress", "xx")


def stored(mesh: Mesh, location: str, value: Callable[[np.ndarray], np.ndarray], points: int = 1) -> np.ndarray:
    """Six columns of a stress whose first is a function of the place, as it is held at a location."""
    if location == "node":
        at = value(mesh.points)[:, None]
    elif location == "corner":
        at = value(mesh.points[mesh.connectivity])[:, None]
    elif location == "element":
        middles = [
            mesh.points[mesh.connectivity[mesh.offsets[e] : mesh.offsets[e] + CELLS[int(t)].corners]].mean(0)
            for e, t in enumerate(mesh.types)
        ]
        at = value(np.array(middles))[:, None]
    else:
        cell = CELLS[int(mesh.types[0])]
        xi = gauss_points(cell, points)
        element = np.repeat(np.arange(len(mesh.types)), len(xi))
        places = positions(mesh, AtSamples(element, np.tile(xi, (len(mesh.types), 1))))
        at = value(places).reshape(len(mesh.types), -1)
    table = np.zeros((*at.shape, 6))
    table[..., 0] = at
    return table.reshape(len(table), -1)


def untouched(p: np.ndarray) -> np.ndarray:
    return p


@cache
def straight_box(*shapes: Shape) -> Mesh:
    return box(*shapes, size=tuple(SIZE))  # type: ignore[arg-type]


def made(
    shapes: tuple[Shape, ...],
    location: str = "corner",
    where: str = "mm",
    points: int = 1,
    bend: Callable[[np.ndarray], np.ndarray] = untouched,
    value: Callable[[Shape, np.ndarray], np.ndarray] = along,
    model: str = "",
) -> Case:
    scale, shift, precision = PLACES[where]
    plain = straight_box(*shapes) if bend is untouched else box(*shapes, size=tuple(SIZE), bend=bend)  # type: ignore[arg-type]
    mesh = replace(plain, points=(plain.points + shift) * scale)
    table = stored(mesh, location, lambda p: value(shapes[0], p / scale - shift), points).astype(precision)
    own = field("stress", "stress", location, **({"points": points} if location == "gauss" else {}))
    loose = {"single precision": 1e-6, "far away": 1e-9}.get(where, 1e-11)
    return Case(shapes[0], mesh, memory(mesh, (own, table), setup=Setup(model=model)), scale, shift, 30 * loose)


def curved(p: np.ndarray) -> np.ndarray:
    """Moves what is inside the box and leaves its six sides where they are."""
    x, y, z = p.T
    bow = np.sin(np.pi * x / SIZE[0]) * np.sin(np.pi * y / SIZE[1]) * np.sin(np.pi * z / SIZE[2])
    return p + 0.12 * bow[:, None] * np.array([1.0, -0.8, 0.6])


def cases() -> list:  # type: ignore[type-arg]
    found = []
    for shape in SHAPES:
        for where in PLACES:
            locations = ("corner",) if where in ("m", "far away") else ("node", "corner")
            found += [pytest.param((shape,), loc, where, 1, id=f"{shape.name} {loc} {where}") for loc in locations]
        for count in known_counts(CELLS[shape.vtk]):
            if count > 2 or (shape.family == "line" and count > 1):
                found.append(pytest.param((shape,), "gauss", "mm", count, id=f"{shape.name} gauss {count}"))
    for name, kinds in MIXED.items():
        for where in PLACES:
            found.append(pytest.param(tuple(BY_NAME[k] for k in kinds), "corner", where, 1, id=f"mixed {name} {where}"))
    return found


CASES = cases()


@pytest.fixture(params=[c.values for c in CASES], ids=[c.id for c in CASES])
def case(request: pytest.FixtureRequest) -> Case:
    return made(*request.param)


def some(case: Case, count: int = 7) -> np.ndarray:
    """Places inside the box, in the mesh's lengths, not on borders of cells."""
    inside = np.random.default_rng(5).uniform(0.05, 0.95, (count, 3)) * SIZE
    inside[:, case.shape.dimension :] = 0.0
    return (inside + case.shift) * case.scale


def near(case: Case, value: object, size: float = 10.0) -> object:
    return pytest.approx(value, abs=case.loose * size)


def test_a_place_is_found_and_the_value_read_there(case: Case) -> None:
    for point in some(case):
        at = find(case.mesh, point)
        assert positions(case.mesh, at)[0] == pytest.approx(point, abs=1e-8 * case.scale)
        expected = along(case.shape, case.back(point[None]))[0]
        assert evaluate(XX, case.source, at).values == near(case, expected)


def test_at_nodes_every_element_has_the_value_and_all_means_agree(case: Case) -> None:
    nodes = np.arange(0, len(case.mesh.points), 3)
    for averaging in ("off", "part", "material", "all"):
        found = evaluate(replace(XX, averaging=averaging), case.source, AtNodes(nodes))
        count = np.diff(found.offsets)
        expected = np.repeat(along(case.shape, case.back(case.mesh.points[nodes])), count)
        assert found.values == near(case, expected), averaging


def test_the_mean_of_an_element_is_its_integral_over_its_volume(case: Case) -> None:
    """Of a linear field and a straight element that of its centre of volume, which quadrature by VTK's cells would find too."""
    values = evaluate(XX, case.source, AtElements(np.arange(len(case.mesh.types)))).values
    total = float((values * case.mesh.volumes).sum() / case.mesh.volumes.sum())
    middle = np.where(np.arange(3) < case.shape.dimension, SIZE / 2, 0.0)
    assert total == near(case, along(case.shape, middle[None])[0])
    assert case.mesh.volumes.sum() == pytest.approx(np.prod(SIZE[: case.shape.dimension] * case.scale), rel=1e-8)


def test_highest_and_lowest_are_those_of_the_corners(case: Case) -> None:
    _, low, high = extremes(XX, case.source)
    every = along(case.shape, case.back(case.mesh.points))
    assert low is not None and high is not None
    assert (low.value, high.value) == (near(case, every.min()), near(case, every.max()))


def test_a_profile_follows_the_field_and_stands_twice_at_every_border(case: Case) -> None:
    start, end = case.at(*(SIZE * [0.03, 0.11, 0.07])), case.at(*(SIZE * [0.96, 0.83, 0.91]))
    for a in range(case.shape.dimension, 3):
        start[a] = end[a] = case.shift * case.scale
    words = ":".join(",".join(repr(float(v)) for v in p) for p in (start, end))
    found = profile(XX, case.source, line_of(f"line:{words}", case.mesh, 23))
    line = found.line
    assert line.inside.all()
    assert found.values == near(case, along(case.shape, case.back(line.points)), 20.0)
    twice = np.flatnonzero(np.diff(line.distance) == 0.0)
    assert (line.element[twice] != line.element[twice + 1]).all() and len(twice) >= 1
    # Between two samples it never changes the element without saying so.
    assert (line.element[1:][np.diff(line.distance) > 0] == line.element[:-1][np.diff(line.distance) > 0]).all()


def test_a_section_has_its_area_and_values(case: Case) -> None:
    found = section(XX, case.source, case.at(0.7, 0.0, 0.0), np.array([1.0, 0.0, 0.0]))
    assert found.size == pytest.approx(case.span, rel=1e-6)
    corners = np.array([[0.7, y, z] for y in (0.0, SIZE[1]) for z in (0.0, SIZE[2])])
    every = along(case.shape, corners)
    assert (found.low, found.high) == (near(case, every.min(), 100.0), near(case, every.max(), 100.0))


def test_where_a_value_is_reached_is_a_plane_and_holds_that_value(case: Case) -> None:
    value = 4.37
    found = iso_surface(XX, case.source, value)
    assert (found.low, found.high) == (near(case, value, 100.0), near(case, value, 100.0))
    assert found.size == pytest.approx(level_size(case, value), rel=max(1e-6, 30 * case.loose))


def test_a_band_has_its_share(case: Case) -> None:
    source = case.source if case.shape.dimension > 1 else with_sizes(case, 0.25)
    found = band(XX, source, 3.21, 4.37)
    whole = np.prod(SIZE[: case.shape.dimension])
    share = float((below(case, 4.37) - below(case, 3.21)) / whole)
    assert found.share == pytest.approx(share, rel=max(1e-6, 30 * case.loose))
    assert found.size == pytest.approx(share * whole * case.scale**case.shape.dimension, rel=max(1e-6, 30 * case.loose))


SLOPE = np.array([2.0, -1.0, 0.5])


def corner_cut_off(case: Case, value: float, power: int) -> float:
    """The sum of (-1)^k max(c - a.v, 0)^power over the corners v of the box: with c - a.v what is left of a value beyond each."""
    n = case.shape.dimension
    slope, size = np.abs(SLOPE[:n]), SIZE[:n]
    # Where the field falls along an axis it is counted from the other end.
    reach = value - 3.0 - float((SLOPE[:n] * size)[SLOPE[:n] < 0].sum())
    left = [(sum(corner), reach - float((slope * size * corner).sum())) for corner in product((0, 1), repeat=n)]
    total = sum((-1) ** count * rest**power for count, rest in left if rest > 0.0)
    return float(total / np.prod(slope))


def below(case: Case, value: float) -> float:
    """How much of the box has less than a value: the corner a plane cuts off, sum / n! (from memory)."""
    return corner_cut_off(case, value, case.shape.dimension) / factorial(case.shape.dimension)


def level_size(case: Case, value: float) -> float:
    """Area (length, count) of the plane on which the field has a value, inside the box: how fast what lies below it grows."""
    n = case.shape.dimension
    grown = corner_cut_off(case, value, n - 1) / factorial(n - 1)
    return float(grown * np.linalg.norm(SLOPE[:n]) * case.scale ** (n - 1))


def test_the_force_through_a_plane_is_the_stress_over_it(case: Case) -> None:
    if case.shape.dimension == 1:
        return
    unit = 1.0 if case.shape.dimension == 3 else None
    source = case.source if unit else with_sizes(case, 0.25)
    thick = 1.0 if unit else 0.25
    found = through_plane(source, 0, case.at(0.7, 0.0, 0.0), np.array([1.0, 0.0, 0.0]))
    middle = np.array([[0.7, SIZE[1] / 2, SIZE[2] / 2 if case.shape.dimension == 3 else 0.0]])
    pull = float(along(case.shape, middle)[0]) * case.span * thick
    assert found.through.force == near_vector(case, [pull, 0.0, 0.0], pull)


def near_vector(case: Case, value: list[float], size: float) -> object:
    return pytest.approx(value, abs=max(1e-8, 30 * case.loose) * abs(size))


def with_sizes(case: Case, size: float) -> Memory:
    """The same, the thickness of faces and the section area of bars known."""
    kind = "thickness" if case.shape.dimension == 2 else "section area"
    thick = field(kind, kind, "element")
    stress = case.source.fields["stress"]
    return memory(
        case.mesh,
        (stress, np.asarray(case.source.values("stress", 0))),
        (thick, np.full((len(case.mesh.types), 1), size)),
    )


def test_nodal_forces_of_a_stress_hold_what_acts_on_the_sides(case: Case) -> None:
    """Of s_xx = 3 + 2x - y + z/2 the sides x = 0 and x = 2 feel their integral, and the volume the force -ds_xx/dx = -2."""
    if case.shape.dimension == 1:
        return
    components = np.zeros((len(case.mesh.connectivity), 6))
    components[:, 0] = along(case.shape, case.back(case.mesh.points[case.mesh.connectivity]))
    force = internal_force(case.source, 0, components)
    # The moment of all of them about the origin of x is the integral of the stress.
    total = float((force[:, 0] * case.back(case.mesh.points)[:, 0]).sum()) * case.scale
    middle = np.where(np.arange(3) < case.shape.dimension, SIZE / 2, 0.0)
    expected = along(case.shape, middle[None])[0] * np.prod(SIZE[: case.shape.dimension]) * case.scale**case.shape.dimension
    assert total == pytest.approx(expected, rel=1e-6)
    assert force.sum(0) == pytest.approx([0.0, 0.0, 0.0], abs=1e-8 * np.abs(force).sum())


CURVED = [s for s in SHAPES if s.quadratic and s.dimension == 3]


@pytest.mark.parametrize("shape", CURVED, ids=lambda s: s.name)
def test_curved_sides_change_nothing_of_a_linear_field(shape: Shape) -> None:
    case = made((shape,), bend=curved)
    test_a_place_is_found_and_the_value_read_there(case)
    test_at_nodes_every_element_has_the_value_and_all_means_agree(case)
    test_the_mean_of_an_element_is_its_integral_over_its_volume(case)
    test_a_profile_follows_the_field_and_stands_twice_at_every_border(case)
    found = section(XX, case.source, case.at(0.7, 0.0, 0.0), np.array([1.0, 0.0, 0.0]))
    assert found.size == pytest.approx(case.span, rel=2e-3)
    level = iso_surface(XX, case.source, 4.37)
    assert level.size == pytest.approx(level_size(case, 4.37), rel=0.02)
    assert (level.low, level.high) == (pytest.approx(4.37, abs=0.05), pytest.approx(4.37, abs=0.05))


def parabola(shape: Shape, p: np.ndarray) -> np.ndarray:
    x, y, z = p.T
    return x * x - 0.5 * x * y + (0.25 * y * y if shape.dimension > 1 else 0.0) + (0.3 * z * x if shape.dimension > 2 else 0.0)


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.quadratic], ids=lambda s: s.name)
def test_a_quadratic_field_is_read_exactly_inside_elements_of_the_second_order(shape: Shape) -> None:
    case = made((shape,), value=parabola)
    for point in some(case):
        found = evaluate(XX, case.source, find(case.mesh, point)).values
        assert found == pytest.approx(parabola(shape, point[None])[0], abs=1e-10)
    values = evaluate(XX, case.source, AtElements(np.arange(len(case.mesh.types)))).values
    x, w = np.polynomial.legendre.leggauss(3)
    axes = [(SIZE[a] * (x + 1) / 2, w / 2) if a < shape.dimension else (np.zeros(1), np.ones(1)) for a in range(3)]
    grid = np.array([[a, b, c] for a in axes[0][0] for b in axes[1][0] for c in axes[2][0]])
    weight = np.array([a * b * c for a in axes[0][1] for b in axes[1][1] for c in axes[2][1]])
    assert (values * case.mesh.volumes).sum() / case.mesh.volumes.sum() == pytest.approx(weight @ parabola(shape, grid), abs=1e-9)


@pytest.mark.parametrize("shape", SHAPES, ids=lambda s: s.name)
def test_what_an_element_has_as_a_whole_is_the_same_everywhere_in_it(shape: Shape) -> None:
    case = made((shape,), "element")
    corners = evaluate(XX, case.source, AtCorners())
    held = np.asarray(case.source.values("stress", 0))[:, 0]
    assert corners.values == pytest.approx(held[corners.element])
    for point in some(case):
        at = find(case.mesh, point)
        assert evaluate(XX, case.source, at).values == pytest.approx(held[at.element])


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.dimension > 1], ids=lambda s: s.name)
def test_strain_from_displacement_is_the_gradient_of_a_linear_motion(shape: Shape) -> None:
    plain = box(shape, size=tuple(SIZE))  # type: ignore[arg-type]
    slope = np.array([[1e-3, 4e-4, -2e-4], [2e-4, -5e-4, 3e-4], [1e-4, -6e-4, 7e-4]])
    if shape.dimension == 2:
        slope[2], slope[:, 2] = 0.0, 0.0
    source = memory(plain, (field("displacement", "displacement", "node"), plain.points @ slope.T))
    found = small_strain(displacement_gradients(source, 0))
    both = (slope + slope.T) / 2
    expected = [both[0, 0], both[1, 1], both[2, 2], both[0, 1], both[1, 2], both[0, 2]]
    assert found == pytest.approx(np.tile(expected, (len(found), 1)), abs=1e-9)


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.dimension == 2], ids=lambda s: s.name)
def test_of_a_body_of_revolution_a_share_goes_all_the_way_round(shape: Shape) -> None:
    """s = 3 + 2x - y with x the radius: the share below 5 is that of the integral of x."""
    case = made((shape,), model="axisymmetric")
    share = band(XX, case.source, -100.0, 3.9).share
    x, w = np.polynomial.legendre.leggauss(300)
    radius, weight = SIZE[0] * (x + 1) / 2, SIZE[0] * w / 2
    height = np.clip(SIZE[1] - (2.0 * radius - 0.9), 0.0, SIZE[1])
    height = np.where(2.0 * radius - 0.9 < 0.0, SIZE[1], height)
    expected = (weight * radius * height).sum() / (weight * radius).sum() / SIZE[1]
    assert share == pytest.approx(float(expected), rel=1e-3)


@pytest.mark.parametrize("shape", SHAPES, ids=lambda s: s.name)
def test_written_and_taken_in_again_it_reads_the_same(shape: Shape, tmp_path: Path) -> None:
    case = made((shape,), "node")
    cells = [
        (int(t), case.mesh.connectivity[case.mesh.offsets[e] : case.mesh.offsets[e + 1]].tolist())
        for e, t in enumerate(case.mesh.types)
    ]
    file = write_vtu(tmp_path / "box.vtu", case.mesh.points, cells, {"stress": np.asarray(case.source.values("stress", 0))})
    with Review.create(tmp_path / "box.ironstone") as review:
        intake(review, [file])
        source = review.result()
        for point in some(case, 3):
            found = evaluate(XX, source, find(source.mesh, point)).values
            assert found == pytest.approx(along(shape, point[None])[0], abs=1e-9)


def test_a_place_on_a_border_belongs_to_all_that_meet_there() -> None:
    for shape in SHAPES:
        mesh = box(shape, size=tuple(SIZE))  # type: ignore[arg-type]
        corner = np.flatnonzero(np.bincount(mesh.connectivity) > 1)[:5]
        found = locate(mesh, mesh.points[corner])
        for k, node in enumerate(corner):
            meeting = set(mesh.corner_element[mesh.corners_at(int(node))].tolist())
            assert set(found.element[found.point == k].tolist()) == meeting, shape.name
