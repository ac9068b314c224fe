"""What was told wrongly once, each held against hand calculation or brute force: cuts, reserves, lines, shares, first failures."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.curves.arithmetic import evaluate_curve
from ironstone.core.curves.curves import Curve, loops, moving_mean
from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Memory, Setup
from ironstone.core.field.recover import internal_force
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.gauss import extrapolation, gauss_points
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.reading.cuts import band, iso_surface
from ironstone.core.reading.linearised import linearise
from ironstone.core.reading.profile import line_of
from ironstone.core.reading.reading import Reading
from ironstone.core.strength.criteria import CRITERIA, criterion_of
from ironstone.engine.base import ask
from ironstone.engine.reading.profiles import ProfileQuestion
from ironstone.engine.strength.failure import Strength
from ironstone.engine.strength.metals import Utilisation
from ironstone.engine.strength.stack import Stack
from ironstone.store import Review, intake
from tests.models import field, memory, mesh_of
from tests.oracles.boxes import BY_NAME, box
from tests.oracles.test_coupons_and_parts import limits
from tests.oracles.test_profiles import graded
from tests.oracles.test_strength import CARBON
from tests.writing import write_vtu

XX = Reading("stress", "xx")

# Reserves


states = st.tuples(st.floats(-2000, 2000), st.floats(-300, 300), st.floats(-120, 120)).map(np.array)


@given(states, states, st.sampled_from(sorted(CRITERIA)))
@settings(max_examples=300)
def test_the_reserve_is_the_first_load_at_which_a_ply_fails(scaled: np.ndarray, fixed: np.ndarray, name: str) -> None:
    """Against loads tried one by one: below the reserve no index is above 1, just beyond it one is; 0 where heat alone fails it."""
    criterion = criterion_of(name)
    found = criterion.check(CARBON, scaled[None], fixed[None])
    reserve, index = float(found.reserve[0]), float(found.index[0])
    assert not (index > 1.0 + 1e-6 and reserve >= 1.0), "index above 1 never goes with a reserve of 1 or more"

    def index_at(factors: np.ndarray) -> np.ndarray:
        return criterion.check(CARBON, factors[:, None] * scaled + fixed).index

    alone = float(index_at(np.zeros(1))[0])
    if abs(alone - 1.0) > 1e-6:
        assert (reserve == 0.0) == (alone > 1.0)
    if 0.0 < reserve < 1e6:
        tried = np.linspace(0.0, reserve * (1 - 1e-6), 400)
        assert index_at(tried).max() <= 1.0 + 1e-5
        assert index_at(np.array([reserve * (1 + 1e-6) + 1e-9])).max() >= 1.0 - 1e-4
    elif reserve == np.inf:
        assert index_at(np.geomspace(1e-3, 1e3, 400)).max() <= 1.0 + 1e-6


def test_a_ply_that_heat_brings_just_to_failure_carries_no_load() -> None:
    """Index exactly 1 without load, and any shear makes it more; a load that takes it back is carried until it fails otherwise."""
    criterion = criterion_of("hashin")
    fixed = np.array([[0.0, CARBON.constants["Yt"], 0.0]])
    assert criterion.check(CARBON, np.array([[0.0, 0.0, 1.0]]), fixed).reserve[0] == 0.0
    assert criterion.check(CARBON, np.array([[0.0, 1.0, 0.0]]), fixed).reserve[0] == 0.0
    assert criterion.check(CARBON, np.array([[0.0, -1.0, 0.0]]), fixed).reserve[0] > CARBON.constants["Yt"]


def hot_sheet(folder: Path, strain: list[float], temperature: float) -> Review:
    """Two crossed plies on one square, cooled so far that the free laminate carries stress."""
    points, cells = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], dtype=float), [(9, [0, 1, 2, 3])]
    files = [
        write_vtu(folder / f"s_{k}.vtu", points, cells, {}, {"midplane_strain": np.array([strain]) * k}, load_factor=float(k))
        for k in (1, 2)
    ]
    plies = [
        {"sheet": s, "material": "carbon", "thickness": 0.2, "angle": a} for s, a in (("A", 0), ("B", 90), ("C", 90), ("D", 0))
    ]
    stated = {
        "version": 1,
        "units": "mm-N-s-t-MPa",
        "temperature": temperature,
        "materials": {"carbon": CARBON.constants},
        "zones": [{"name": "all", "where": "all", "plies": plies}],
    }
    review = Review.create(folder / "hot.ironstone")
    result = intake(review, files, "hot", "mm-N-s-t-MPa")
    review.set_laminates(result, stated, "hot.json")
    return review


def test_what_fails_without_load_is_told_ranked_first_and_counted(tmp_path: Path) -> None:
    with hot_sheet(tmp_path, [1e-4, 0.0, 0.0], -250.0) as review:
        answer = ask(review, Strength(criterion="max-stress", step=0)).more
        worst = answer["worst"]
        assert worst["index"] > 1.0 and worst["reserve"] == 0.0 and worst["state"] == "fails without load"
        assert worst["exposure"] is None and answer["failed_count"] == 1
        assert answer["first_failure"]["fails"] and answer["first_failure"]["reserve"] == 0.0
        rows = ask(review, Stack(element=answer["failed_elements"][0], criterion="max-stress", step=0)).more
        assert any("fails without load" in r for r in rows["remarks"])
        json.dumps(answer)


# First failure and first yield


def test_the_first_failure_between_steps_is_that_of_a_place_by_itself(tmp_path: Path) -> None:
    """Two squares: the strain of the first grows from nothing to 1.9 times its limit, that of the second from 0.9 to 1.3 times. The
    largest of both passes 1 at 10 % of the way; by itself the second is there after a quarter of it, before the first."""
    points = np.array([[x, y, 0.0] for y in (0, 1) for x in (0, 1, 2)])
    cells = [(9, [0, 1, 4, 3]), (9, [1, 2, 5, 4])]
    limit = CARBON["Xt"] / CARBON["E1"]
    files = []
    for k, (one, two) in enumerate(((0.0, 0.9), (1.9, 1.3))):
        strain = np.zeros((2, 3))
        strain[:, 0] = np.array([one, two]) * limit
        strain[:, 1] = -CARBON["nu12"] * strain[:, 0]
        files.append(write_vtu(tmp_path / f"s_{k}.vtu", points, cells, {}, {"midplane_strain": strain}, load_factor=1.0 + k))
    ply = [{"sheet": "A", "material": "carbon", "thickness": 0.2, "angle": 0}]
    stated = {
        "version": 1,
        "units": "mm-N-s-t-MPa",
        "materials": {"carbon": CARBON.constants},
        "zones": [{"name": "all", "where": "all", "plies": ply}],
    }
    with Review.create(tmp_path / "two.ironstone") as review:
        result = intake(review, files, "two", "mm-N-s-t-MPa")
        review.set_laminates(result, stated, "two.json")
        first = ask(review, Strength(criterion="max-stress")).more["first_failure"]
        assert first["at"] == pytest.approx(1.25) and first["load_factor"] == pytest.approx(1.25)
        assert first["element"] == int(review.result().mesh.element_ids[1])


def test_first_yield_is_that_of_a_corner_by_itself(tmp_path: Path) -> None:
    """As before with metals, in two parts."""
    points = np.array([[x, y, 0.0] for y in (0, 1) for x in (0, 1, 2)])
    cells = [(9, [0, 1, 4, 3]), (9, [1, 2, 5, 4])]
    files = []
    for k, (one, two) in enumerate(((0.0, 90.0), (190.0, 130.0))):
        stress = np.zeros((2, 6))
        stress[:, 0] = one, two
        part = np.array([1, 2], dtype=np.int32)
        files.append(write_vtu(tmp_path / f"s_{k}.vtu", points, cells, {}, {"stress": stress, "part": part}, load_factor=1.0 + k))
    with Review.create(tmp_path / "steel.ironstone") as review:
        intake(review, files, "steel", "mm-N-s-t-MPa")
        first = ask(review, Utilisation(allowables=limits(**{"yield": 100.0}).decode())).more["first_failure"]
        assert first["at"] == pytest.approx(1.25) and first["zone"] == "part 2"


# Lines


@pytest.mark.parametrize("shape", ["quad4", "quad8", "tri3", "tri6", "hex8", "tet10"])
@pytest.mark.parametrize("over", [(0.0, 0.0), (0.3, 0.0), (0.001, 0.02), (2.0, 1.7), (0.7, 0.013)])
@pytest.mark.parametrize("samples", [11, 101])
def test_a_line_that_begins_or_ends_outside_has_the_thickness_between_its_borders(
    shape: str, over: tuple[float, float], samples: int
) -> None:
    """Stress 100 + 50 (2 x / t - 1) through a wall of 2: membrane 100, bending -50 at the start, whatever the line overhangs by."""
    mesh = box(BY_NAME[shape], size=(2.0, 30.0, 15.0), counts=(2, 3, 2))
    source = graded(mesh, lambda p: 100.0 + 50.0 * (p[:, 0] - 1.0))
    z = 0.0 if BY_NAME[shape].dimension == 2 else 5.1
    line = line_of(f"line:{-over[0]},12.3,{z}:{2.0 + over[1]},12.3,{z}", mesh, samples)
    parts = linearise(XX, source, line)
    assert parts.thickness == pytest.approx(2.0, abs=1e-6)
    assert (parts.membrane[0], parts.bending[0]) == (pytest.approx(100.0, abs=1e-4), pytest.approx(-50.0, abs=1e-4))
    inside = line.distance[line.inside]
    assert (inside.min(), inside.max()) == (pytest.approx(over[0], abs=1e-6), pytest.approx(over[0] + 2.0, abs=1e-6))


def test_a_line_that_leaves_at_a_flat_angle_ends_where_it_leaves() -> None:
    mesh = box(BY_NAME["quad4"], size=(10.0, 2.0, 1.0), counts=(5, 1, 1))
    line = line_of("line:1,1.9,0:9,2.1,0", mesh, 201)
    assert line.points[line.inside][-1] == pytest.approx([5.0, 2.0, 0.0], abs=1e-4)
    # Flatter than a line is taken to run along the outside: it goes on to where it is far from it, and so has left.
    long = box(BY_NAME["quad4"], size=(100.0, 2.0, 1.0), counts=(50, 1, 1))
    flat = line_of("line:10,1.9,0:90,2.5,0", long, 201)
    assert flat.points[flat.inside][-1] == pytest.approx([10.0 + 0.1 / 0.0075, 2.0, 0.0], abs=1e-3)


def test_a_line_beside_a_curved_side_along_its_generator_is_read_there() -> None:
    """A tube of straight elements: its generator between two rows of nodes lies outside the flat sides by their rise."""
    angle = np.linspace(0.0, np.pi / 2, 9)
    points = np.array([[r * np.cos(a), r * np.sin(a), z] for z in (0.0, 4.0) for r in (1.0, 2.0) for a in angle])
    at = np.arange(len(points)).reshape(2, 2, 9)
    cells = [
        (
            12,
            [
                at[k, i, j]
                for k, i, j in (
                    (0, 0, a),
                    (0, 1, a),
                    (0, 1, a + 1),
                    (0, 0, a + 1),
                    (1, 0, a),
                    (1, 1, a),
                    (1, 1, a + 1),
                    (1, 0, a + 1),
                )
            ],
        )
        for a in range(8)
    ]
    mesh = mesh_of(points, [(t, [int(n) for n in c]) for t, c in cells])
    middle = (angle[3] + angle[4]) / 2
    x, y = 2.0 * np.cos(middle), 2.0 * np.sin(middle)
    line = line_of(f"line:{x},{y},0.5:{x},{y},3.5", mesh, 11)
    assert line.inside.all()


def test_a_line_from_bar_to_bar_is_outside_between_them() -> None:
    """Two long bars that meet in a gable: a line from foot to foot touches them at its ends alone."""
    mesh = mesh_of(np.array([[0, 0, 0], [1, 10, 0], [2, 0, 0]], dtype=float), [(3, [0, 1]), (3, [1, 2])])
    line = line_of("line:0,0,0:2,0,0", mesh, 2)
    assert line.element[0] == 0 and line.element[-1] == 1
    assert (line.element[(line.distance > 1e-5) & (line.distance < 2 - 1e-5)] == -1).all()


def test_the_measure_in_view_is_linearised_and_what_cannot_be_is_refused() -> None:
    mesh = box(BY_NAME["hex8"], size=(2.0, 3.0, 1.5))
    stress = np.zeros((2, len(mesh.connectivity), 6))
    x = mesh.points[mesh.connectivity][:, 0]
    stress[:, :, 0], stress[:, :, 1] = 100.0 + 50.0 * (x - 1.0), -30.0
    stress[1] *= 3.0
    source = memory(mesh, (field("stress", "stress", "corner"), stress))
    line = line_of("line:0,1.1,0.7:2,1.1,0.7", mesh)
    yy = linearise(Reading("stress", "yy"), source, line)
    assert yy.measures == pytest.approx([-30.0, 0.0, -30.0, -30.0, 0.0, 0.0], abs=1e-9)
    mises = linearise(Reading("stress", "von-mises"), source, line)
    assert mises.measures[0] == pytest.approx(np.sqrt(100.0**2 + 30.0**2 + 100.0 * 30.0))
    assert mises.measures[0] == pytest.approx(mises.von_mises()["membrane"])
    less = linearise(Reading("stress", "xx", step=1, against=Reading("stress", "xx", step=0)), source, line)
    assert less.measures[:2] == pytest.approx([200.0, -100.0])
    told = linearise(Reading("stress", "xx", unit="GPa"), source, line)
    assert told.measures[0] == pytest.approx(0.1) and told.membrane[0] == pytest.approx(0.1)
    with pytest.raises(Impossible, match="of one step"):
        linearise(Reading("stress", "xx", over="largest"), source, line)
    with pytest.raises(Impossible, match="not straight"):
        linearise(XX, source, line_of("arc:0,0,0.7:0,0,1:1.5,0.2,0:40", mesh))


def test_a_line_through_two_materials_is_told() -> None:
    plain = box(BY_NAME["hex8"], size=(2.0, 3.0, 1.5))
    material = [int(m[0] > 1.0) for m in plain.middles(np.arange(8))]
    cells = [(12, plain.connectivity[8 * e : 8 * e + 8].tolist()) for e in range(8)]
    mesh = mesh_of(plain.points, cells, material=material, names=("core", "skin"))
    parts = linearise(XX, graded(mesh, lambda p: p[:, 0]), line_of("line:0,1.1,0.7:2,1.1,0.7", mesh))
    assert any("'core' and 'skin'" in n for n in parts.notes)


def test_a_distance_counts_from_the_nearest_place_of_the_line_not_from_a_sample(bar_files: list[Path], tmp_path: Path) -> None:
    with Review.create(tmp_path / "bar.ironstone") as review:
        intake(review, bar_files)
        answer = ask(
            review,
            ProfileQuestion(
                field="stress", measure="xx", path="line:0,0.5,0.5:3,0.5,0.5", samples=4, distance="1.37,0.9,0.5", step=0
            ),
        )
        assert answer.columns[0].values[0] == pytest.approx(-1.37)


# Cuts of what is not linear


def turning(mesh: Mesh, shear: bool = False) -> Memory:
    """A stress that changes its sign in the middle of a box of 2 x 3 x 1.5: von Mises |x - 1|."""
    stress = np.zeros((len(mesh.points), 6))
    stress[:, 3 if shear else 0] = mesh.points[:, 0] - 1.0
    return memory(mesh, (field("stress", "stress", "node"), stress))


@pytest.mark.parametrize("shape", ["hex8", "hex20", "tet4", "tet10", "wedge6", "pyramid5", "quad4", "tri6"])
def test_a_band_of_von_mises_is_found_in_one_element_too(shape: str) -> None:
    """|x - 1| below 0.2: a fifth of the box, in one cell whose corners all have 1."""
    source = turning(box(BY_NAME[shape], counts=(1, 1, 1)))
    found = band(Reading("stress", "von-mises"), source, -1.0, 0.2)
    assert found.share == pytest.approx(0.2, abs=0.004 + 1.5 * found.off)
    level = iso_surface(Reading("stress", "von-mises"), source, 0.2)
    assert level.low == pytest.approx(0.2, abs=0.05)


def test_what_cannot_be_looked_at_finely_enough_says_by_how_much_it_may_be_off() -> None:
    """A von Mises of two parts, sqrt(x^2 + 3 y^2), below 1 about the middle of four bricks: an ellipse, within what is told."""
    mesh = box(BY_NAME["hex8"], size=(2.0, 2.0, 1.0), counts=(2, 2, 1))
    stress = np.zeros((len(mesh.points), 6))
    stress[:, 0], stress[:, 3] = mesh.points[:, 0] - 1.0, mesh.points[:, 1] - 1.0
    source = memory(mesh, (field("stress", "stress", "node"), stress))
    found = band(Reading("stress", "von-mises"), source, -1.0, 0.9)
    expected = np.pi * 0.9 * 0.9 / np.sqrt(3.0)
    assert found.size == pytest.approx(expected, rel=0.003 + 2 * found.off)


# Shares by volume


def test_a_share_of_solid_and_shell_counts_the_shell_by_its_thickness(tmp_path: Path) -> None:
    """A cube that has not yielded, and a shell of 1 x 1 and thickness 0.1 that has: 0.1 of 1.1, in millimetres and in metres."""
    for scale, units, unit in ((1.0, "mm-N-s-t-MPa", 1.0), (1e-3, "m-N-s-kg-Pa", 1e6)):
        folder = tmp_path / units
        folder.mkdir()
        cube = box(BY_NAME["hex8"], size=(1.0, 1.0, 1.0), counts=(1, 1, 1)).points
        points = np.concatenate([cube, [[2, 0, 0], [3, 0, 0], [3, 1, 0], [2, 1, 0]]]) * scale
        brick = box(BY_NAME["hex8"], size=(1.0, 1.0, 1.0), counts=(1, 1, 1)).connectivity.tolist()
        stress = np.zeros((2, 6))
        stress[:, 0] = np.array([50.0, 150.0]) * unit
        for known in (True, False):
            data = {"stress": stress, **({"thickness": np.array([0.0, 0.1 * scale])} if known else {})}
            file = write_vtu(folder / f"both_{known}.vtu", points, [(12, brick), (9, [8, 9, 10, 11])], {}, data)
            with Review.create(folder / f"both_{known}.ironstone") as review:
                intake(review, [file], "both", units)
                answer = ask(review, Utilisation(allowables=limits(**{"yield": 100.0}).decode()))
                share = answer.more["yielded"][0]
                assert share == (pytest.approx(0.1 / 1.1) if known else None), "a volume that is not known forms no share"
                assert known or any("unknown thickness" in c for c in answer.caveats)


# Gauss points, internal forces, curves


@pytest.mark.parametrize(("name", "vtk", "count"), [("hex8", 12, 27), ("quad4", 9, 9), ("tri3", 5, 6), ("wedge6", 13, 18)])
def test_more_gauss_points_than_an_element_has_functions_are_levelled_to_what_it_has(name: str, vtk: int, count: int) -> None:
    """A linear field comes to the nodes exactly; of noise the mean over the element stays, whatever the corners have."""
    cell = CELLS[vtk]
    xi = gauss_points(cell, count)
    to_nodes = extrapolation(cell, count)
    slope = np.array([2.0, -3.0, 1.5])[: cell.dimension]
    assert to_nodes @ (4.0 + xi[:, : cell.dimension] @ slope) == pytest.approx(4.0 + cell.nodes[:, : cell.dimension] @ slope)
    values = np.random.default_rng(3).normal(size=count)
    from ironstone.core.mesh.gauss import gauss_weights

    weight = gauss_weights(cell, count)
    quadrature, w = cell.quadrature
    mean = w @ (cell.shape(quadrature) @ (to_nodes @ values)) / w.sum()
    assert mean == pytest.approx(weight @ values / weight.sum())


@pytest.mark.parametrize("name", ["tet4", "tri3", "line2"])
def test_forces_of_straight_simplices_are_those_of_full_quadrature(name: str) -> None:
    """Against the integral of B'S at many points, by the element's own slopes, for a stress that varies; also inside out."""
    mesh = box(BY_NAME[name])
    if name == "tet4":
        flipped = mesh.connectivity.reshape(-1, 4).copy()
        flipped[::2] = flipped[::2][:, [0, 2, 1, 3]]
        mesh = mesh_of(mesh.points, [(10, c) for c in flipped.tolist()])
    stress = np.random.default_rng(2).normal(size=(len(mesh.connectivity), 6))
    source = memory(mesh, (field("stress", "stress", "corner"), stress), setup=Setup())
    found = internal_force(source, 0, stress)
    expected = np.zeros_like(found)
    cell = CELLS[BY_NAME[name].vtk]
    xi, weights = cell.quadrature
    pairs = np.array([[0, 3, 5], [3, 1, 4], [5, 4, 2]])
    for e in range(len(mesh.types)):
        nodes = mesh.connectivity[e * cell.size : (e + 1) * cell.size]
        for x, w in zip(xi, weights, strict=True):
            natural = cell.gradient(x[None])[0]
            jacobian = mesh.points[nodes].T @ natural
            slopes = natural @ np.linalg.pinv(jacobian)
            ratio = np.sqrt(np.linalg.det(jacobian.T @ jacobian))
            tensor = (cell.shape(x[None])[0] @ stress[e * cell.size : (e + 1) * cell.size])[pairs]
            expected[nodes] += w * ratio * slopes @ tensor
    assert found == pytest.approx(expected, abs=1e-9)


@pytest.mark.parametrize("samples", [2, 3, 4, 5, 6, 10, 11])
def test_smoothing_delays_nothing(samples: int) -> None:
    """A straight rise stays where it is, and the energy of an ellipse is not moved about by the number of samples."""
    rise = np.arange(40.0)
    inner = slice(samples, -samples)
    assert moving_mean(rise, samples)[inner] == pytest.approx(rise[inner])
    angle = np.linspace(0, 6 * np.pi, 1201)
    x, y = 10 * np.cos(angle), 100 * np.cos(angle) - 12 * np.sin(angle)
    plain = loops(Curve(x, y)).cycles
    smooth = loops(Curve(x, moving_mean(y, samples))).cycles
    assert len(plain) == len(smooth)
    for a, b in zip(plain, smooth, strict=True):
        assert b.energy == pytest.approx(a.energy, rel=0.01)


def test_the_slope_at_a_turn_is_that_of_one_way() -> None:
    u = np.array([0.0, 1.0, 2.0, 1.99, 1.0, 0.0])
    force = np.array([0.0, 10.0, 20.0, 20.0, 20.0, 20.0])
    slope, _ = evaluate_curve("d(F, u)", {"F": (force, "kN"), "u": (u, "mm")})
    assert np.nanmin(slope) >= -1e-9 and np.nanmax(slope) <= 10.0 + 1e-9
