"""Rules of a line or two, each against its definition on a case unlike the demo's: temperatures, jumps, pressure, kinds, words."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.curves.arithmetic import evaluate_curve
from ironstone.core.curves.curves import Curve
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field import tensors
from ironstone.core.field.fields import Field, Memory, Setup, Step
from ironstone.core.geometry.surface import Look, skin
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes
from ironstone.core.reading.averaging import corner_averaging
from ironstone.core.reading.distribution import distribution
from ironstone.core.reading.error_estimate import error_estimate
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes, meeting
from ironstone.core.reading.measures import MEASURES, measure, measures_for
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.trace import trace
from ironstone.core.rounding import settle
from ironstone.engine.reading import answers
from tests.models import field, grid_of_quads, memory, mesh_of

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")


# Temperatures


def warm() -> Memory:
    """Two quads, 20 and 100 degrees Celsius at their corners, and a step later 10 degrees more."""
    mesh = grid_of_quads(2, 1)
    values = np.repeat([20.0, 100.0], 4)[:, None]
    described = Field("T", "temperature", "scalar", "corner", ("value",), "degC")
    return Memory(mesh, [described], {"T": np.stack([values, values + 10])}, (Step(0, "time", 0.0, "s"), Step(1, "time", 2.0, "s")))


def test_twenty_degrees_are_293_kelvin_and_a_jump_of_eighty_is_eighty() -> None:
    source = warm()
    kelvin = evaluate(Reading("T", unit="K"), source, AtCorners())
    assert kelvin.values[0] == pytest.approx(293.15) and kelvin.unit == "K"
    fahrenheit = evaluate(Reading("T", unit="degF"), source, AtCorners())
    assert fahrenheit.values[[0, -1]] == pytest.approx([68.0, 212.0])
    for unit, step, size in (("degC", "K", 80.0), ("K", "K", 80.0), ("degF", "delta_degF", 144.0)):
        jump = evaluate(Reading("T", unit=unit, of="jump"), source, AtNodes(np.array([2])))
        assert jump.values == pytest.approx([size]) and jump.unit == step
        change = evaluate(Reading("T", unit=unit, step=1).minus("step=0"), source, AtCorners())
        assert change.values == pytest.approx(np.full(8, size / 8)) and change.unit == step
    assert meeting(Reading("T", unit="K"), source, 2).jump == pytest.approx(80.0)
    assert answers.read(Reading("T", unit="degC"), source, "node:3")["jump_unit"] == "K"


def test_curves_of_temperature_are_shifted_and_their_differences_are_not() -> None:
    curve = Curve(np.array([0.0, 1]), np.array([20.0, 30]), "s", "degC").in_units("s", "K")
    assert curve.y == pytest.approx([293.15, 303.15])
    known = {"T": (np.array([20.0, 30.0, 50.0]), "degC"), "step": (np.array([0.0, 1.0, 2.0]), "s")}
    assert evaluate_curve("change(T)", known)[0] == pytest.approx([0, 10, 30])
    slope, unit = evaluate_curve("d(T, step)", known)
    assert slope == pytest.approx([10, 15, 20]) and unit == "K/s"
    heat, unit = evaluate_curve("integral(T, step)", known)
    assert heat[-1] == pytest.approx(298.15 + 313.15) and unit == "K·s"
    with pytest.raises(IronstoneError):
        evaluate_curve("T + T", known)


# Curves with holes


def test_an_integral_begins_where_the_curve_does_and_ends_at_a_gap() -> None:
    step = np.arange(6.0)
    known = {"y": (np.array([np.nan, 2, 2, 2, np.nan, 2]), "N"), "u": (step, "mm"), "step": (step, "s")}
    values, unit = evaluate_curve("integral(y, u)", known)
    assert values[1:4] == pytest.approx([0, 2, 4]) and np.isnan(values[[0, 4, 5]]).all() and unit == "mm·N"
    assert evaluate_curve("integral(trim(u, u, 1 , 3), u)", {"u": (step, "mm"), "step": (step, "s")})[0][1:4] == pytest.approx(
        [0, 1.5, 4]
    )
    assert evaluate_curve("largest(y)", {"y": (np.array([1, np.nan, 3, 2.0]), "N")})[0] == pytest.approx([1, 1, 3, 3])


# Jumps


def cross() -> Memory:
    """Four bars meet at a node with forces 1, 5, -3 and 2 kN; two shells of other thickness and part stand on two of them."""
    points = np.array([[0, 0, 0], [1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [1, 0, 1], [0, 0, 1], [0, 1, 1.0]])
    cells = [(3, [0, 1]), (3, [0, 2]), (3, [0, 3]), (3, [0, 4]), (9, [0, 1, 5, 6]), (9, [0, 3, 7, 6])]
    mesh = mesh_of(points, cells, part=[0, 0, 0, 0, 1, 1], breaks=[0, 0, 0, 0, 1, 2])
    values = np.array([1.0, 5.0, -3.0, 2.0, 10.0, 40.0])[:, None]
    return memory(mesh, (field("N", "axial force", "element"), values))


def test_the_jump_of_bars_at_a_joint_is_the_spread_of_what_meets_there() -> None:
    source = cross()
    jump = evaluate(Reading("N", of="jump"), source, AtNodes(np.array([0])))
    assert jump.values == pytest.approx([43.0]), "40 less -3"
    within = evaluate(Reading("N", of="jump-within-material"), source, AtNodes(np.array([0])))
    assert sorted(within.values) == pytest.approx([8.0, 30.0]), "among the bars, and among the shells whatever their fold"
    answer = meeting(Reading("N"), source, 0)
    assert (answer.jump, answer.jump_within_material) == pytest.approx((43.0, 30.0))


def test_the_jump_field_is_at_every_node_what_a_flag_there_says() -> None:
    mesh = grid_of_quads(3, 3)
    mesh = mesh_of(
        mesh.points, [(9, mesh.connectivity[4 * i : 4 * i + 4].tolist()) for i in range(9)], part=[0, 1, 0, 1, 1, 0, 0, 0, 1]
    )
    stress = np.random.default_rng(8).normal(size=(36, 6))
    source = memory(mesh, (field("s", "stress", "corner"), stress))
    for node in range(len(mesh.points)):
        here = mesh.connectivity == node
        raw = tensors.von_mises(stress[here])
        part = mesh.part[mesh.corner_element[here]]
        whole = evaluate(Reading("s", "von-mises", of="jump"), source, AtNodes(np.array([node]))).values
        assert whole == pytest.approx([np.ptp(raw)])
        within = max(np.ptp(raw[part == p]) for p in np.unique(part))
        assert evaluate(
            Reading("s", "von-mises", of="jump-within-material"), source, AtNodes(np.array([node]))
        ).values.max() == pytest.approx(within)
        answer = answers.read(Reading("s", "von-mises", of="jump"), source, f"node:{node + 1}")
        assert answer["values"][0]["value"] == pytest.approx(np.ptp(raw)), "the jump that was asked for, not the values"


def test_averaging_still_keeps_bars_apart() -> None:
    source = cross()
    assert evaluate(Reading("N", averaging="part"), source, AtElements(np.arange(4))).values == pytest.approx([1, 5, -3, 2])
    assert len(np.unique(corner_averaging(source.mesh, "all").slot[:8])) == 8


def test_elements_may_count_by_their_volume() -> None:
    """Two quads of 1 and 3 long, 10 and 50 MPa: at the border 30 plainly, 40 by volume."""
    points = np.array([[0, 0, 0], [1, 0, 0], [4, 0, 0], [0, 1, 0], [1, 1, 0], [4, 1, 0.0]])
    stress = np.zeros((8, 6))
    stress[:, 0] = np.repeat([10.0, 50.0], 4)
    source = memory(mesh_of(points, [(9, [0, 1, 4, 3]), (9, [1, 2, 5, 4])]), (field("s", "stress", "corner"), stress))
    for weight, expected in (("plain", 30.0), ("volume", 40.0)):
        assert evaluate(Reading("s", "xx", "part", weight=weight), source, AtNodes(np.array([1]))).values == pytest.approx(
            [expected]
        )


# Hydrostatic states


@given(st.floats(1e-3, 1e9), st.sampled_from([1, -1]), st.sampled_from([np.float32, np.float64]), st.integers(0, 2**31))
def test_where_nothing_but_rounding_distorts_there_is_no_triaxiality(size: float, side: int, kind: type, seed: int) -> None:
    """The same pressure in randomly turned axes, stored in single or double precision: distortion is rounding."""
    turn = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))[0]
    full = turn @ (side * size * np.eye(3)) @ turn.T
    state = np.array([full[0, 0], full[1, 1], full[2, 2], full[0, 1], full[1, 2], full[0, 2]])
    # Each component is off by what its precision cannot hold, as solvers' own rounding leaves it.
    state = state + size * np.finfo(kind).eps * np.random.default_rng(seed + 1).uniform(-1, 1, 6)
    assert np.isnan(tensors.triaxiality(state)) and np.isnan(tensors.lode_angle(state))


def test_a_distortion_that_is_one_still_has_both() -> None:
    assert tensors.triaxiality(np.array([30.0, 0, 0, 0, 0, 0])) == pytest.approx(1 / 3)
    near = np.array([1000.1, 1000, 1000, 0, 0, 0])
    assert tensors.triaxiality(near) == pytest.approx(1000.1 / 0.1, rel=1e-3) and tensors.lode_angle(near) == pytest.approx(
        0, abs=0.1
    )


# Measures and kinds


@pytest.mark.parametrize(
    ("name", "kind"), [("equivalent-strain", "stress"), ("von-mises", "strain"), ("pressure", "strain"), ("gamma-xy", "stress")]
)
def test_a_measure_of_the_wrong_kind_is_refused_with_the_right_one(name: str, kind: str) -> None:
    with pytest.raises(Impossible, match=f"is taken of a {'strain' if kind == 'stress' else 'stress'}") as caught:
        resolve(Reading("f", name), memory(grid_of_quads(1, 1), (field("f", kind, "corner"), np.zeros((4, 6)))))
    assert "It can be read as" in caught.value.hint


@pytest.mark.parametrize("kind", ["stress", "strain", ""])
def test_what_is_offered_is_answered_and_what_is_not_is_refused(kind: str) -> None:
    offered = {m.name for m in measures_for("tensor", kind)}
    for rank, name in MEASURES:
        if rank == "tensor":
            if name in offered:
                assert measure(name, rank, "f", kind).name == name
            else:
                with pytest.raises(Impossible):
                    measure(name, rank, "f", kind)


# Words


def test_the_mean_of_an_element_is_called_one() -> None:
    source = memory(
        grid_of_quads(1, 1),
        (field("s", "stress", "corner"), np.arange(24.0).reshape(4, 6)),
        (field("u", "displacement", "node"), np.ones((4, 3))),
    )
    answer = evaluate(Reading("s", "xx"), source, AtElements(np.array([0])))
    assert "mean of each element" in answer.resolved.sentence() and "each corner" not in answer.resolved.sentence()
    for over in ("step", "largest"):
        followed = trace(Reading("s", "xx", over=over), source, AtElements(np.array([0]))).resolved.sentence()
        assert "mean of each element" in followed and "each corner" not in followed
    less = evaluate(Reading("s", "xx").minus("measure=yy"), source, AtElements(np.array([0]))).resolved.sentence()
    assert "mean of each element" in less and "each corner" not in less
    node = evaluate(Reading("u", "x", "element"), source, AtNodes(np.array([0])))
    assert node.element.tolist() == [0] and "mean of each element" in node.resolved.sentence()
    assert "as computed at the nodes" in evaluate(Reading("u", "x"), source, AtNodes(np.array([0]))).resolved.sentence()


def test_a_third_direction_from_elasticity_is_said_beside_what_uses_it() -> None:
    mesh = grid_of_quads(1, 1)
    setup = Setup(model="plane strain", constants={"part 1": {"young": 1.0, "poisson": 0.3}})
    flat = memory(mesh, (field("s", "stress", "corner", flat=True), np.zeros((4, 6))), setup=setup)
    for name in ("von-mises", "zz", "mean", "principal-1"):
        assert any("not once it yields" in c for c in resolve(Reading("s", name), flat).caveats), name
    assert not any("yields" in c for c in resolve(Reading("s", "xx"), flat).caveats)
    whole = memory(mesh, (field("s", "stress", "corner"), np.zeros((4, 6))), setup=setup)
    assert not any("yields" in c for c in resolve(Reading("s", "zz"), whole).caveats)


def test_a_numbered_step_is_called_once() -> None:
    source = Memory(
        grid_of_quads(1, 1),
        [field("s", "stress", "corner")],
        {"s": np.zeros((3, 4, 6))},
        tuple(Step(i, "number", i) for i in range(3)),
    )
    assert "at step 3 of 3," in resolve(Reading("s", "xx", step=2), source).sentence()
    assert "up to step 2 of 3" in resolve(Reading("s", "xx", step=1, over="largest", span="so-far"), source).sentence()


def test_a_constant_with_rounding_has_steps_enough() -> None:
    steps = tuple(Step(i, "time", float(i), "s") for i in range(6))
    source = Memory(grid_of_quads(1, 1), [], {}, steps)
    constant = 100.0 + 1e-12 * np.array([0, 1, -1, 1, 0, -1.0])
    assert answers.few_steps(source, constant) == []
    assert answers.few_steps(source, np.array([0, 100.0, 0, 0, 0, 0])) != []


def test_the_energy_norm_is_that_of_the_stress_as_computed() -> None:
    """Two unit quads of 80 and 120 MPa, linear elastic, E 1000: sum of s^2 V / E, whatever the averaging makes of them."""
    mesh = grid_of_quads(2, 1, 2.0, 1.0)
    stress = np.zeros((8, 6))
    stress[:, 0] = np.repeat([80.0, 120.0], 4)
    source = memory(
        mesh, (field("s", "stress", "corner"), stress), setup=Setup(constants={"part 1": {"young": 1000.0, "poisson": 0.3}})
    )
    found = error_estimate(Reading("s"), source)
    assert found.energy_norm == pytest.approx(np.sqrt((80**2 + 120**2) / 1000))
    # Averaged, the border has 100: a difference that falls from 20 to 0 over each element, a third of 20^2 in the mean.
    assert found.error_norm == pytest.approx(np.sqrt(2 * 400 / 3 / 1000))
    assert found.total == pytest.approx(found.error_norm / np.hypot(found.error_norm, found.energy_norm))


# Rounding


def test_what_the_precision_cannot_tell_from_zero_is_zero() -> None:
    assert settle(np.array([-1.623e-9, 7494.0, np.nan]), 7494.0).tolist()[:2] == [0.0, 7494.0]
    assert settle(1e-4, 7494.0, "single") == 0.0 and settle(1e-4, 7494.0) == 1e-4
    mesh = grid_of_quads(3, 1)
    forces = np.zeros((8, 3))
    forces[:4, 0], forces[4:, 0] = 0.1, -0.1
    forces[0, 0] += 3e-15
    source = memory(mesh, (field("r", "reaction", "node"), forces))
    assert trace(Reading("r", "x"), source, AtNodes(np.arange(8)), "sum").values.tolist() == [0.0]
    stress = np.zeros((12, 6))
    stress[0, 0], stress[1, 0] = 500.0, -1e-11
    _, low, high = extremes(Reading("s", "xx"), memory(mesh, (field("s", "stress", "corner"), stress)))
    assert low is not None and high is not None and (low.value, high.value) == (0.0, 500.0)


# The key's distribution


def test_the_keys_distribution_is_by_area_and_not_by_the_count_of_triangles() -> None:
    """A square of side 1 and a strip 1 x 3, each two triangles: a quarter of the area has 5 MPa, three quarters 15."""
    points = np.array([[0, 0, 0], [1, 0, 0], [4, 0, 0], [0, 1, 0], [1, 1, 0], [4, 1, 0.0]])
    drawn = skin(mesh_of(points, [(9, [0, 1, 4, 3]), (9, [1, 2, 5, 4])]), Look(detail=1))
    values = np.where(drawn.vertices.element == 0, 5.0, 15.0)
    assert distribution(drawn, values, 0.0, 20.0, 2) == pytest.approx([0.25, 0.75])
