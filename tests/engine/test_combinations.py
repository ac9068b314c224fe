"""Steps made of others: superposition against closed forms and the definition, what does not add, what governs where."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from openpyxl import Workbook
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.core.field.combined import combination_of
from ironstone.core.field.loadings import axis_of
from ironstone.engine.base import ask, question_of
from ironstone.engine.carrier import Answer
from ironstone.engine.compare.combinations import bring_combinations
from ironstone.engine.steps import find_step
from ironstone.store import Review, intake
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu

LENGTH, STIFFNESS, POINT, SPREAD = 2.0, 50.0, 3.0, 4.0
MESH = box(BY_NAME["hex8"], counts=(8, 1, 1), size=(LENGTH, 0.2, 0.2))
CELLS = [(int(t), MESH.connectivity[a:b].tolist()) for t, a, b in zip(MESH.types, MESH.offsets[:-1], MESH.offsets[1:], strict=True)]
# Loads by step: the force at the tip, and the load along the beam.
LOADS = [(POINT, 0.0), (0.0, SPREAD), (-POINT, 0.0)]


def sinking(x: np.ndarray, force: float, load: float) -> np.ndarray:
    """Of a cantilever, from tables of beams (from memory): P x^2 (3 L - x) / 6EI and q x^2 (6 L^2 - 4 L x + x^2) / 24EI."""
    of_load = load * x**2 * (6 * LENGTH**2 - 4 * LENGTH * x + x**2) / (24 * STIFFNESS)
    return -(force * x**2 * (3 * LENGTH - x) / (6 * STIFFNESS) + of_load) * 1e-2


def stresses(force: float, load: float, seed: int) -> np.ndarray:
    noise = np.random.default_rng(seed).normal(size=(len(CELLS), 6))
    return noise * (abs(force) + abs(load)) * np.sign(force + load)


def files(folder: Path, name: str, loads: list[tuple[float, float]], scale: float = 1.0, extra: bool = False) -> list[Path]:
    made = []
    for step, (force, load) in enumerate(loads):
        moved = np.zeros((len(MESH.points), 3))
        moved[:, 2] = scale * sinking(MESH.points[:, 0], force, load)
        cells: dict[str, np.ndarray] = {
            "stress": stresses(force, load, step),
            "axial_force": np.full(len(CELLS), force - 2 * load),
            "thickness": np.full(len(CELLS), 0.2),
            "damage": np.full(len(CELLS), 0.1 * (step + 1)),
        }
        if extra:
            cells["plastic_strain"] = np.full(len(CELLS), 0.01)
        made.append(write_vtu(folder / f"{name}_{step}.vtu", MESH.points, CELLS, {"displacement": moved}, cells))
    return made


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "r.ironstone") as made:
        intake(made, files(tmp_path, "beam", LOADS), name="beam")
        yield made


def state(review: Review, *texts: str) -> None:
    review.set_combinations(review.result("beam").id, [combination_of(t) for t in texts])


def answered(review: Review, kind: str, **words: Any) -> Answer:
    return ask(review, question_of(kind, words))


def test_the_tip_sinks_by_the_sum_of_both_loads(review: Review) -> None:
    state(review, "both=0:1.35,1:1.5")
    tip = answered(review, "read", field="displacement", measure="z", at=f"point:{LENGTH},0,0", step="both")
    expected = sinking(np.array([LENGTH]), 1.35 * POINT, 1.5 * SPREAD)[0]
    assert [v["value"] for v in tip.more["values"]] == pytest.approx([expected])
    assert "at combination both" in tip.sentence
    assert "1.35 x step 1 + 1.5 x step 2" in tip.caveats[0]


def test_components_are_added_before_the_measure(review: Review) -> None:
    state(review, "both=0:1.35,1:-0.5")
    source = review.result("beam")
    step = find_step(source, "both")
    s = 1.35 * stresses(*LOADS[0], 0) - 0.5 * stresses(*LOADS[1], 1)
    xx, yy, zz, xy, yz, xz = s.T
    expected = np.sqrt(0.5 * ((xx - yy) ** 2 + (yy - zz) ** 2 + (zz - xx) ** 2) + 3 * (xy**2 + yz**2 + xz**2))
    assert source.read("stress", "von-mises", at="elements", step=step).values == pytest.approx(expected)
    assert source.rows("stress", step, np.array([3])) == pytest.approx(s[[3]])
    assert source.history("stress", np.array([0, step]), np.array([2]))[1] == pytest.approx(s[[2]])


def test_what_adds_what_stays_and_what_has_no_value(review: Review) -> None:
    state(review, "both=0:2,1:3")
    source = review.result("beam")
    step = find_step(source, "both")
    assert source.values("axial_force", step) == pytest.approx(np.full((len(CELLS), 1), 2 * POINT + 3 * (-2 * SPREAD)))
    assert source.values("thickness", step) == pytest.approx(np.full((len(CELLS), 1), 0.2))
    assert np.isnan(source.values("damage", step)).all()


def test_the_history_of_a_result_is_that_of_its_own_steps(review: Review) -> None:
    before = answered(review, "trace", field="displacement", measure="z", at=f"point:{LENGTH},0,0")
    state(review, "both=0:1,1:1")
    source = review.result("beam")
    after = answered(review, "trace", field="displacement", measure="z", at=f"point:{LENGTH},0,0")
    assert [c.values for c in after.columns] == [c.values for c in before.columns] and after.sentence == before.sentence
    assert find_step(source, "last") == 2 and len(axis_of(source.steps).values) == 3


def test_a_step_of_another_result_on_the_mesh_is_added_and_one_on_another_mesh_refused(review: Review, tmp_path: Path) -> None:
    intake(review, files(tmp_path, "wind", [(1.0, 1.0)]), name="wind")
    other = box(BY_NAME["hex8"], counts=(5, 1, 1), size=(LENGTH, 0.2, 0.2))
    cells = [(12, other.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(5)]
    moved = {"displacement": np.zeros((len(other.points), 3))}
    intake(review, [write_vtu(tmp_path / "o.vtu", other.points, cells, moved)], name="coarse")
    state(review, "all=0:1,0@wind:0.6")
    source = review.result("beam")
    tip = source.read("displacement", "z", at=f"point:{LENGTH},0,0", step=3).values
    expected = sinking(np.array([LENGTH]), POINT + 0.6, 0.6)[0]
    assert tip == pytest.approx(np.full(len(tip), expected))
    seen = source.revision
    review.rename_result(review.result("wind").id, "gale")
    assert "0.6 x gale, step 1" in review.result("beam").steps[3].notes[0]
    seen = review.result("beam").revision
    review.set_units(review.result("gale").id, "m-N-s-kg-Pa")
    assert review.result("beam").revision != seen
    with pytest.raises(IronstoneError, match="another mesh"):
        state(review, "no=0:1,0@coarse:1")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("both", "no combination"),
        ("=0:1", "no combination"),
        ("both=0", "no step with a factor"),
        ("both=0:a", "no step with a factor"),
        ("both=0:nan", "no step with a factor"),
        ("both=3:1", "no step 3"),
        ("both=0:0", "no step with a factor"),
        ("last=0:1", "names a step already"),
        ("7=0:1", "no number"),
        ("both=0@nothing:1", "nothing"),
    ],
)
def test_what_is_no_combination_is_refused_and_nothing_is_stated(review: Review, text: str, said: str) -> None:
    with pytest.raises(IronstoneError, match=said):
        state(review, "good=0:1", text)
    assert len(review.result("beam").steps) == 3


def test_what_does_not_follow_in_proportion_is_doubted(tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, files(tmp_path, "beam", LOADS, scale=200.0, extra=True), name="beam")
        review.set_steps(1, "time", "0, 1, 2")
        state(review, "both=0:1,1:1", "one=0:1.5")
        notes = " ".join(review.result("beam").steps[3].notes)
        for word in ("one load history", "plastic strain", "Displacements are large"):
            assert word in notes
        assert "history" not in " ".join(review.result("beam").steps[4].notes)


def test_small_loads_of_an_elastic_model_leave_no_doubt(review: Review) -> None:
    state(review, "both=0:1,1:1")
    assert len(review.result("beam").steps[3].notes) == 1


def test_a_combination_is_replaced_taken_away_and_brought_back_by_undo(review: Review) -> None:
    state(review, "both=0:1,1:1", "other=1:2")
    state(review, "both=0:3")
    steps = review.result("beam").steps
    assert [s.name for s in steps[3:]] == ["both", "other"] and "3 x step 1" in steps[3].notes[0]
    review.remove_combination(1, "both")
    assert [s.name for s in review.result("beam").steps[3:]] == ["other"]
    review.undo()
    assert [s.name for s in review.result("beam").steps[3:]] == ["both", "other"]


def test_a_table_of_factors_makes_a_combination_a_row(review: Review, tmp_path: Path) -> None:
    bring_combinations(review, 1, b"name;0;step 2;2\nuls;1,35;1,5;\nsls;1,0;;0,5\n", "factors.csv")
    assert [c.terms for c in review.result("beam").combinations] == [
        combination_of("a=0:1.35,1:1.5").terms,
        combination_of("a=0:1,2:0.5").terms,
    ]
    book = Workbook()
    for row in (["name", "0", "1"], ["again", 2, 0.25]):
        book.active.append(row)  # type: ignore[union-attr]
    book.save(tmp_path / "f.xlsx")
    bring_combinations(review, 1, (tmp_path / "f.xlsx").read_bytes(), "f.xlsx")
    assert review.result("beam").combinations[-1].terms == combination_of("a=0:2,1:0.25").terms
    for data, said in ((b"name,0\n", "no row"), (b"name,9\na,1\n", "'9' in the header"), (b"name,0\na,x\n", "Row 2")):
        with pytest.raises(IronstoneError, match=said):
            bring_combinations(review, 1, data, "f.csv")


def test_the_case_that_governs_is_that_of_the_largest_by_element_and_part(review: Review) -> None:
    state(review, "a=0:1,1:1", "b=0:-2,1:0.5", "c=2:3")
    source = review.result("beam")
    each = np.stack([source.read("stress", "von-mises", at="elements", step=3 + k).values for k in range(3)])
    found = answered(review, "governing", field="stress", measure="von-mises", by="element")
    rows = {int(r["of"]): r for r in found.more["rows"]}
    for k, element in enumerate(source.mesh.element_ids):
        assert rows[int(element)]["value"] == pytest.approx(each[:, k].max())
        assert rows[int(element)]["case"] == f"combination {'abc'[int(each[:, k].argmax())]}"
    counts = [c["elements"] for c in found.more["cases"]]
    assert counts == np.bincount(each.argmax(0), minlength=3).tolist()
    smallest = answered(review, "governing", field="axial_force", take="smallest", cases=["0", "b"])
    assert smallest.columns[2].values == ["combination b"] and smallest.figures[0].value == pytest.approx(-2 * POINT - SPREAD)
    picture = source.read("stress", "von-mises", at="elements", step=3, over="largest", when=True)
    assert picture.values.tolist() == (3 + each.argmax(0)).tolist()
    assert (
        picture.resolved.naming is not None and "case at which it is largest over all combinations" in picture.resolved.sentence()
    )


def test_an_envelope_needs_two_cases(review: Review) -> None:
    with pytest.raises(IronstoneError, match="two or more"):
        answered(review, "governing", field="stress", cases=["0"])


def test_on_the_command_line_a_combination_is_stated_named_as_a_step_and_said_to_govern(tmp_path: Path) -> None:
    path = str(tmp_path / "r.ironstone")
    with Review.create(tmp_path / "r.ironstone") as made:
        intake(made, files(tmp_path, "beam", LOADS), name="beam")
    run = CliRunner().invoke
    assert run(app, ["state", path, "--combination", "uls=0:1.35,1:1.5", "--combination", "up=2:1"]).exit_code == 0
    read = run(app, ["read", path, "--field", "displacement", "--measure", "z", "--at", "point:2,0,0", "--step", "uls", "--json"])
    found = json.loads(read.stdout)
    assert found["values"][0]["value"] == pytest.approx(sinking(np.array([LENGTH]), 1.35 * POINT, 1.5 * SPREAD)[0])
    steps = json.loads(run(app, ["contents", path, "--json"]).stdout)["results"][0]["steps"]
    assert [s["label"] for s in steps[3:]] == ["combination uls", "combination up"] and steps[3]["made_of"] == "0:1.35,1:1.5"
    told = run(app, ["governing", path, "--field", "axial_force", "--take", "magnitude", "--json"])
    assert json.loads(told.stdout)["rows"][0]["case"] == "combination uls"
    wrong = run(app, ["state", path, "--combination", "uls=9:1"])
    assert wrong.exit_code == 2 and "no step 9" in wrong.stderr
