"""Files that open solver libraries wrote by themselves (``tools/solver_cases.py``): taken in without a hand, then held against the
solver's own numbers. ``docs/formats.md`` has a table of them, which this walks too."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ironstone.core.curves.curves import Curve, loops
from ironstone.core.field.fields import displacement_of, opening_field
from ironstone.core.geometry.inside import strictly_inside
from ironstone.core.geometry.locate import locate
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.places import AtElements, AtNodes, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.where import parse, place_of
from ironstone.core.statics.balance import balance, held_state
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from ironstone.store.source import ReviewSource
from tests.conftest import ROOT

FOLDER = ROOT / "tests" / "data" / "solvers"
CASES = {path.stem: json.loads(path.read_text()) for path in sorted(FOLDER.glob("*.json"))}
OURS = ("xx", "yy", "zz", "xy", "yz", "xz")


@pytest.fixture(scope="module")
def taken(tmp_path_factory: pytest.TempPathFactory) -> Iterator[dict[str, ReviewSource]]:
    folder = tmp_path_factory.mktemp("solvers")
    with Review.create(folder / "r.ironstone") as review:
        found = {}
        for name, case in CASES.items():
            found[name] = review.result(intake(review, [FOLDER / f for f in (case["file"], *case.get("beside", ()))], name))
        yield found


def with_key(key: str) -> list[str]:
    return [name for name, case in CASES.items() if key in case]


def at_end(source: ReviewSource, step: int, axis: int) -> float:
    """The mean of the displacement over the end x = 10, undeformed."""
    moved = displacement_of(source.fields)
    assert moved is not None
    end = np.isclose(source.mesh.points[:, 0], 10.0)
    return float(source.values(moved.name, step)[end, axis].mean())


@pytest.mark.parametrize("name", CASES)
def test_many_places_in_it_are_found_as_each_by_itself(name: str, taken: dict[str, ReviewSource]) -> None:
    mesh = taken[name].mesh
    low, high = mesh.points.min(0), mesh.points.max(0)
    points = low + np.random.default_rng(3).uniform(-0.1, 1.1, (400, 3)) * (high - low)
    element, xi = strictly_inside(mesh, points)
    held = locate(mesh, points)
    alone = np.full(len(points), -1)
    alone[held.point] = held.element
    found = np.flatnonzero(element >= 0)
    solid = (mesh.dimensions == 3).all()
    assert (element[found] == alone[found]).all() and len(found) >= (0.8 if solid else 0.0) * (alone >= 0).sum()
    assert np.abs(positions(mesh, AtSamples(element[found], xi[found])) - points[found]).max(initial=0.0) < 1e-6 * mesh.size


@pytest.mark.parametrize("name", with_key("tip"))
def test_the_end_moves_as_the_solver_says(name: str, taken: dict[str, ReviewSource]) -> None:
    assert at_end(taken[name], 0, 2) == pytest.approx(CASES[name]["tip"], rel=1e-6)


@pytest.mark.parametrize("what", ["stress", "strain"])
@pytest.mark.parametrize("name", with_key("stress"))
def test_stress_and_strain_of_the_first_element_are_the_solvers_in_every_field_of_the_kind(
    name: str, what: str, taken: dict[str, ReviewSource]
) -> None:
    """Whatever order and shear the file has them in: it proves both."""
    source = taken[name]
    fields = [f for f in source.fields.values() if f.kind == what and f.rank == "tensor" and f.stored and f.location == "element"]
    assert fields
    for field in fields:
        for k, component in enumerate(OURS):
            found = evaluate(Reading(field.name, component), source, AtElements(np.array([0]))).values[0]
            size = np.abs(CASES[name][what]).max()
            assert found == pytest.approx(CASES[name][what][k], abs=1e-6 * size), (field.name, component)
        assert any("found:" in note for note in field.notes), field.name


@pytest.mark.parametrize("name", with_key("reaction"))
def test_the_reaction_is_the_solvers_and_the_loads_no_file_has_are_recovered(name: str, taken: dict[str, ReviewSource]) -> None:
    source = taken[name]
    root = np.flatnonzero(np.isclose(source.mesh.points[:, 0], 0.0))
    found = balance(source, 0, {"root": root})
    assert found.sets[0].reaction.force == pytest.approx(CASES[name]["reaction"], abs=1e-9)
    assert held_state(source, root) == "held"
    # The stress of the elements leaves the load at the free end, and nothing else that adds up.
    assert found.applied.force == pytest.approx([0.0, 0.0, 1.0], abs=0.02)
    assert any("recovered from stress" in note for note in found.notes)
    assert found.verdict != "fails"


@pytest.mark.parametrize("name", with_key("parts"))
def test_zero_and_one_of_a_subdomain_are_parts(name: str, taken: dict[str, ReviewSource]) -> None:
    assert len(taken[name].mesh.part_names) == CASES[name]["parts"]
    assert not taken[name].mesh.element_sets


@pytest.mark.parametrize("name", with_key("end"))
def test_a_series_is_followed_as_it_was_pulled(name: str, taken: dict[str, ReviewSource]) -> None:
    source = taken[name]
    assert [at_end(source, step, 0) for step in range(len(source.steps))] == pytest.approx(CASES[name]["end"], abs=1e-6)
    assert any("'Deformation Gradient' is no symmetric tensor" in w for w in source.warnings) == (name == "rubber")


def stated_of(source: ReviewSource, statements: list[dict[str, Any]]) -> ReviewSource:
    """The result with what the file cannot say stated."""
    for one in statements:
        if "model" in one:
            source.review.set_model(source.id, one["model"])
        else:
            source.review.set_steps(source.id, one["steps"], one["values"])
    return source.review.result(source.id)


@pytest.mark.parametrize("name", with_key("points"))
def test_known_answers_are_read_where_they_are_known(name: str, taken: dict[str, ReviewSource]) -> None:
    """The solver's own number at the place, and the published one as near as a mesh of this size comes to it."""
    source = stated_of(taken[name], CASES[name]["state"])
    for point in CASES[name]["points"]:
        field = next(f for f in source.fields.values() if f.kind == point["kind"] and f.stored)
        at = place_of(parse("point:" + ",".join(map(str, point["at"]))), Reading(field.name, point["measure"]), source)
        found = evaluate(Reading(field.name, point["measure"]), source, at).values
        assert found.max() == pytest.approx(point["solver"], rel=2e-3), point
        assert found.max() == pytest.approx(point["known"], rel=point["within"]), point


@pytest.mark.parametrize("name", with_key("frequencies"))
def test_modes_without_a_word_of_their_frequency_are_modes_once_that_is_stated(name: str, taken: dict[str, ReviewSource]) -> None:
    assert {s.kind for s in taken[name].steps} == {"number"}
    source = stated_of(taken[name], CASES[name]["state"])
    assert [s.kind for s in source.steps] == ["mode"] * len(CASES[name]["frequencies"])
    assert [s.value for s in source.steps] == pytest.approx(CASES[name]["frequencies"])
    assert [s.value for s in source.steps] == pytest.approx(CASES[name]["known"], rel=CASES[name]["within"])
    end = np.isclose(source.mesh.points[:, 0], 1.0)
    for step, largest in enumerate(CASES[name]["largest"]):
        assert np.abs(source.values("displacement", step)[end]).max() == pytest.approx(largest, rel=1e-6)


@pytest.mark.parametrize("name", with_key("sweep"))
def test_real_and_imaginary_arrays_are_one_harmonic_at_the_frequencies_that_are_stated(
    name: str, taken: dict[str, ReviewSource]
) -> None:
    source, case = stated_of(taken[name], CASES[name]["state"]), CASES[name]
    assert [(s.kind, s.value) for s in source.steps] == [("frequency", f) for f in case["sweep"]]
    field = next(f for f in source.fields.values() if f.kind == "displacement" and f.stored)
    assert field.harmonic
    end = AtNodes(np.flatnonzero(np.isclose(source.mesh.points[:, 0], 1.0)))
    for step, (real, imaginary) in enumerate(case["complex_end"]):
        for phase, expected in (("0", real), ("90", -imaginary), ("magnitude", np.hypot(real, imaginary))):
            found = evaluate(Reading(field.name, "z", step=step, phase=phase), source, end).values.mean()
            assert found == pytest.approx(expected, rel=1e-5), (step, phase)


@pytest.mark.parametrize("name", with_key("yields"))
def test_a_cyclic_history_of_a_stranger_is_one_act_from_its_loops(name: str, taken: dict[str, ReviewSource]) -> None:
    """What drives it and what holds it are found; force against displacement is the solver's, and so is the energy of a cycle."""
    source, case = taken[name], CASES[name]
    sets = contents(source)["sets"]
    driven = next(s["name"] for s in sets if s["name"].startswith("driven"))
    assert next(s for s in sets if s["name"].startswith("support"))["held"] == "held"
    steps = np.arange(len(source.steps))
    nodes = source.mesh.node_sets[driven]
    moved = displacement_of(source.fields)
    assert moved is not None
    x = source.history(moved.name, steps, nodes)[:, :, 0].mean(1)
    force = source.history("reaction", steps, nodes)[:, :, 0].sum(1)
    assert force == pytest.approx(case["force"], abs=1e-6 * max(case["force"]))
    found = loops(Curve(x, force, "mm", "N", "", ""))
    assert found.cycles[0].energy == pytest.approx(case["energy"], rel=0.01)
    stress = evaluate(Reading("stress", "von-mises", step=3), source, AtElements(np.array([1]))).values[0]
    assert stress == pytest.approx(case["force"][3] / case["area"], rel=1e-3) and stress == pytest.approx(case["yields"], rel=0.01)


@pytest.mark.parametrize("name", CASES)
def test_what_opens_is_a_stress_as_computed_where_there_is_one(name: str, taken: dict[str, ReviewSource]) -> None:
    source = taken[name]
    opens = opening_field(source.fields)
    assert opens is not None
    tensors = [f for f in source.fields.values() if f.kind == "stress" and f.rank == "tensor" and not f.averaged_before]
    if tensors:
        assert opens in tensors


@pytest.mark.parametrize("name", CASES)
def test_no_body_is_doubted_for_the_way_its_nodes_are_counted(name: str, taken: dict[str, ReviewSource]) -> None:
    said = " ".join(taken[name].warnings)
    assert "folded" not in said and "below zero" not in said
    assert ("the other way round" in said) == name.startswith("tetrahedra")


def test_the_table_of_the_formats_has_a_row_for_each() -> None:
    rows = [line for line in Path(ROOT / "docs" / "formats.md").read_text().splitlines() if line.startswith("| `")]
    told: dict[str, Any] = {line.split("`")[1]: line for line in rows}
    for case in CASES.values():
        assert "right" in told[case["file"]], case["file"]


@pytest.mark.parametrize(
    ("one", "other"), [("bricks", "blocks"), ("blocks", "bricks"), ("bricks", "blocks_xml"), ("blocks_xml", "blocks")]
)
def test_one_beam_that_two_libraries_solved_and_wrote_has_no_difference(
    one: str, other: str, taken: dict[str, ReviewSource]
) -> None:
    """Other numberings, other parts, shared nodes or not: their own numbers agree, so do the fields at every node."""
    source = taken[one]
    moved, theirs = displacement_of(source.fields), displacement_of(taken[other].fields)
    assert moved is not None and theirs is not None
    reading = Reading(moved.name, "z").minus(f"result={other};field={theirs.name}")
    answer = evaluate(reading, source, AtNodes(np.arange(len(source.mesh.points))))
    assert np.abs(answer.values).max() < 1e-6 * CASES[one]["tip"]


def test_tetrahedra_of_the_first_and_of_the_second_order_differ_as_their_ends_do(taken: dict[str, ReviewSource]) -> None:
    first, second = taken["tetrahedra_1"], taken["tetrahedra_2"]
    mine, theirs = displacement_of(first.fields), displacement_of(second.fields)
    assert mine is not None and theirs is not None
    reading = Reading(mine.name, "z").minus(f"result=tetrahedra_2;field={theirs.name}")
    answer = evaluate(reading, first, AtNodes(np.arange(len(first.mesh.points))))
    end = np.isclose(first.mesh.points[:, 0], 10.0)
    assert answer.values[end].mean() == pytest.approx(at_end(first, 0, 2) - at_end(second, 0, 2), rel=0.02)
    assert np.isfinite(answer.values).all()
