"""Fields with layers and harmonics against their definition: rows built by loops, answers worked out by hand."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

import ironstone
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import Field, Memory, Step, displacement_of, stress_of
from ironstone.core.field.tensors import von_mises
from ironstone.core.geometry.surface import skin
from ironstone.core.mesh.places import AtElements, AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.trace import trace
from ironstone.core.statics.arrows import arrows
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from ironstone.store.export import export
from tests.models import grid_of_quads
from tests.writing import bar_of_hexahedra, write_vtu

PLACES = ("bottom", "middle", "top")
TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")
RANDOM = np.random.default_rng(3)
PLIES = RANDOM.normal(size=(2, 3, 4, 3, 6)) * 50  # steps, elements, layers, places, components
PLIES[:, 1, 2:] = np.nan  # the second element has two layers only
STEPS = (Step(0, "time", 0.0, "s"), Step(1, "time", 1.0, "s"))


def layered() -> Memory:
    field = Field("ply stress", "stress", "tensor", "element", TENSOR, "MPa", layers=4, places=PLACES)
    return Memory(grid_of_quads(3, 1), [field], {"ply stress": PLIES.reshape(2, 3, -1)}, STEPS)


EVERY = AtElements(np.arange(3))


def read(source: Memory, **words: object) -> np.ndarray:
    return evaluate(Reading("ply stress", "xx", step=1, **words), source, EVERY).values  # type: ignore[arg-type]


def test_a_layer_and_place_is_the_one_that_was_asked_for() -> None:
    source = layered()
    for layer in range(4):
        for p, place in enumerate(PLACES):
            np.testing.assert_array_equal(read(source, layer=f"{layer + 1}:{place}"), PLIES[1, :, layer, p, 0])
    np.testing.assert_array_equal(read(source, layer="2"), PLIES[1, :, 1, 1, 0], "the middle, where no place is named")
    np.testing.assert_array_equal(read(source), PLIES[1, :, 0, 1, 0], "the bottom layer, where none is named")


def test_no_layer_is_no_value_and_never_zero() -> None:
    assert np.isnan(read(layered(), layer="3")).tolist() == [False, True, False]


def test_the_largest_over_layers_and_places_is_that_of_all_of_them() -> None:
    source = layered()
    stress = PLIES[1, ..., 0]
    np.testing.assert_array_equal(read(source, layer="largest"), np.nanmax(stress, axis=(1, 2)))
    np.testing.assert_array_equal(read(source, layer="smallest:top"), np.nanmin(stress[:, :, 2], axis=1))
    np.testing.assert_array_equal(read(source, layer="2:largest"), stress[:, 1].max(1))
    flat = stress.reshape(3, -1)
    far = [row[np.nanargmax(np.abs(row))] for row in flat]
    np.testing.assert_array_equal(read(source, layer="magnitude"), far)


def test_a_measure_is_taken_in_each_layer_before_the_largest_is() -> None:
    answer = evaluate(Reading("ply stress", "von-mises", step=0, layer="largest"), layered(), EVERY).values
    np.testing.assert_allclose(answer, np.nanmax(von_mises(PLIES[0]), axis=(1, 2)))


def test_the_sentence_says_which_layer_and_no_two_are_the_same() -> None:
    source = layered()
    said = [
        resolve(Reading("ply stress", "xx", layer=w), source).sentence()
        for w in ("1", "1:top", "largest", "largest:top", "1:largest")
    ]
    assert len(set(said)) == 5
    assert "in layer 1 of 4, top" in said[1] and "largest over all layers" in said[2]


def test_traces_and_extremes_follow_a_layer() -> None:
    source = layered()
    answer = trace(Reading("ply stress", "xx", layer="2:top"), source, AtElements(np.array([2]))).values
    np.testing.assert_array_equal(answer, PLIES[:, 2, 1, 2, 0])
    _, low, high = extremes(Reading("ply stress", "xx", step=0, layer="4:bottom"), source)
    assert low and high and high.value == np.nanmax(PLIES[0, :, 3, 0, 0])


@pytest.mark.parametrize(
    ("layer", "words"), [("5", "no layer '5'"), ("1:outside", "no place 'outside'"), ("largest:smallest", "two")]
)
def test_what_is_not_there_is_told(layer: str, words: str) -> None:
    with pytest.raises(Impossible, match=words):
        read(layered(), layer=layer)


def harmonic() -> Memory:
    field = Field("u", "displacement", "vector", "node", ("x", "y", "z"), "mm", harmonic=True)
    mesh = grid_of_quads(3, 1)
    count = len(mesh.points)
    real, imaginary = (RANDOM.normal(size=(2, count, 3)) for _ in range(2))
    return Memory(mesh, [field], {"u": np.concatenate([real, imaginary], axis=2)}, STEPS)


def test_a_phase_turns_the_real_part_into_the_imaginary_one() -> None:
    source = harmonic()
    nodes = AtNodes(np.arange(len(source.mesh.points)))
    re, im = np.split(source.arrays["u"][1], 2, axis=1)
    for degrees in (0.0, 37.5, 90.0, 200.0):
        a = np.radians(degrees)
        answer = evaluate(Reading("u", "y", step=1, phase=str(degrees)), source, nodes).values
        np.testing.assert_allclose(answer, re[:, 1] * np.cos(a) - im[:, 1] * np.sin(a), atol=1e-12)
    answer = evaluate(Reading("u", "y", step=1, phase="magnitude"), source, nodes).values
    np.testing.assert_allclose(answer, np.abs(re[:, 1] + 1j * im[:, 1]))


def test_the_peak_of_a_measure_is_its_largest_over_the_cycle_and_not_that_of_the_magnitudes() -> None:
    source = harmonic()
    nodes = AtNodes(np.arange(len(source.mesh.points)))
    re, im = np.split(source.arrays["u"][0], 2, axis=1)
    fine = np.radians(np.arange(0, 360, 0.01))
    moved = re[..., None] * np.cos(fine) - im[..., None] * np.sin(fine)
    true = np.linalg.norm(moved, axis=1).max(1)
    answer = evaluate(Reading("u", "magnitude", phase="peak"), source, nodes).values
    np.testing.assert_allclose(answer, true, rtol=1e-7)
    assert (np.linalg.norm(np.hypot(re, im), axis=1) > answer + 1e-6).any(), "the magnitudes together are more than the peak"
    with pytest.raises(Impossible, match="one component"):
        evaluate(Reading("u", "magnitude", phase="magnitude"), source, nodes)


def test_the_phase_of_the_peak_is_where_it_is_largest() -> None:
    """Of a component -arg X; of a length, and of one that is no quadratic form, where the finest of samples is largest."""
    source = harmonic()
    nodes = AtNodes(np.arange(len(source.mesh.points)))
    re, im = np.split(source.arrays["u"][0], 2, axis=1)
    angle = evaluate(Reading("u", "y", phase="angle"), source, nodes)
    assert angle.unit == "deg" and not angle.resolved.signed and "the phase of its peak" in angle.resolved.sentence()
    a = np.radians(angle.values)
    np.testing.assert_allclose(re[:, 1] * np.cos(a) - im[:, 1] * np.sin(a), np.hypot(re[:, 1], im[:, 1]))
    assert ((angle.values >= 0.0) & (angle.values < 360.0)).all()
    length = evaluate(Reading("u", "magnitude", phase="angle"), source, nodes).values
    a = np.radians(length)
    there = np.linalg.norm(re * np.cos(a)[:, None] - im * np.sin(a)[:, None], axis=1)
    np.testing.assert_allclose(there, evaluate(Reading("u", "magnitude", phase="peak"), source, nodes).values, rtol=1e-9)
    with pytest.raises(Impossible, match="at one step"):
        evaluate(Reading("u", "y", phase="angle", over="largest"), source, nodes)
    with pytest.raises(IronstoneError, match="cannot be converted"):
        evaluate(Reading("u", "y", phase="angle", unit="mm"), source, nodes)
    turned = evaluate(Reading("u", "y", phase="angle", unit="rad"), source, nodes).values
    np.testing.assert_allclose(turned, np.radians(angle.values))


def test_a_trace_of_a_harmonic_at_a_node_has_its_phase() -> None:
    source = harmonic()
    answer = trace(Reading("u", "x", phase="90"), source, AtNodes(np.array([2]))).values
    np.testing.assert_allclose(answer, -source.arrays["u"][:, 2, 3], atol=1e-12)


def test_layers_and_harmonics_come_in_from_a_file_and_their_columns_can_be_stated(tmp_path: Path) -> None:
    points, cells, ids = bar_of_hexahedra()
    plies = np.arange(3 * 36, dtype=float).reshape(3, 36)
    moved = RANDOM.normal(size=(24, 3))
    data = {"GlobalIds": ids, "displacement_real": 0 * moved, "displacement_imag": 0 * moved}
    file = write_vtu(tmp_path / "plies.vtu", points, cells, data, {"stress": plies})
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [file])
        source = review.result()
        entry = next(f for f in contents(source)["fields"] if f["name"] == "stress")
        assert (entry["layers"], entry["guessed"]) == (6, True)
        assert {e["name"]: e["value"] for e in entry["entries"]}["columns"] == "layers"
        assert source.fields["displacement"].harmonic
        at = AtElements(np.arange(3))
        np.testing.assert_array_equal(evaluate(Reading("stress", "yy", layer="2"), source, at).values, plies[:, 7])
        review.correct_fields(source.id, ["stress"], {"columns": "layers with bottom, middle, top"})
        source = review.result()
        assert (source.fields["stress"].layers, source.fields["stress"].places) == (2, PLACES)
        np.testing.assert_array_equal(evaluate(Reading("stress", "yy", layer="2:bottom"), source, at).values, plies[:, 19])
        with pytest.raises(IronstoneError, match="can be: Gauss points; layers"):
            review.correct_fields(source.id, ["stress"], {"columns": "rows"})
        review.undo()
        assert review.result().fields["stress"].layers == 6


def test_what_is_made_of_plain_fields_leaves_harmonics_and_layers_out_and_says_so(tmp_path: Path) -> None:
    """A displacement, a reaction and a thickness in two parts or in layers: nothing takes six columns for three."""
    points, cells, ids = bar_of_hexahedra()
    held = np.where(points[:, :1] == 0.0, 1.0, 0.0) * np.ones(3)
    data = {"GlobalIds": ids, "fixed": (points[:, 0] == 0.0).astype(np.uint8)}
    data |= {f"displacement_{end}": 0.01 * points for end in ("real", "imag")} | {
        f"reaction_{end}": held for end in ("real", "imag")
    }
    file = write_vtu(tmp_path / "harmonic.vtu", points, cells, data, {"stress": np.ones((3, 36))})
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [file])
        source = review.result()
        assert displacement_of(source.fields) is None and stress_of(source.fields) is None
        assert "set_means" not in source.summary or not source.summary["set_means"]
        # The balance is of one phase: half a turn on, what holds is turned about.
        now, then = (ironstone.ask(review, "balance", phase=phase).more["reaction"]["force"] for phase in ("0", "180"))
        assert now[0] == pytest.approx(4.0)
        assert then == pytest.approx([-v for v in now])
        assert ironstone.ask(review, "sense").sentence
        with pytest.raises(Impossible, match="layers or a phase"):
            arrows("displacement", source, skin(source.mesh), 0, 0.1)


@pytest.mark.parametrize("suffix", ["vtu", "vtkhdf"])
def test_layers_and_harmonics_that_are_written_and_read_back_are_the_same(tmp_path: Path, suffix: str) -> None:
    points, cells, ids = bar_of_hexahedra()
    plies = RANDOM.normal(size=(3, 36))
    data = {"GlobalIds": ids, "displacement_real": 0.01 * points, "displacement_imag": -0.02 * points}
    file = write_vtu(tmp_path / "first.vtu", points, cells, data, {"stress": plies})
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [file])
        first = review.result()
        export(first, tmp_path / f"again.{suffix}", [0])
        intake(review, [tmp_path / f"again.{suffix}"])
        again = review.result()
        assert again.name != first.name and again.fields["displacement"].harmonic and again.fields["stress"].layers == 6
        np.testing.assert_array_equal(again.values("stress", 0), plies)
        for phase in ("0", "-90"):
            reading = Reading("displacement", "y", phase=phase)
            told = [evaluate(reading, s, AtNodes(np.arange(len(s.mesh.points)))).values for s in (first, again)]
            np.testing.assert_allclose(told[0], told[1], rtol=1e-6)
