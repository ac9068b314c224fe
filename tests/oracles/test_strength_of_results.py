"""Plies of a result against a criterion, by hand: section forces on a sheet of two zones, stress by layers, first failure."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

import ironstone
from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.engine.strength.failure import strength_answer
from ironstone.store import Review, intake
from tests.oracles.test_strength import CARBON
from tests.writing import write_vtu

SQUARES = np.array([[x, y, 0.0] for y in (0, 1) for x in range(5)])
CELLS = [(9, [i, i + 1, i + 6, i + 5]) for i in range(4)]
PLIES = [{"sheet": n, "material": "carbon", "thickness": 0.5, "angle": a} for n, a in (("a", 0), ("b", 90), ("c", 0))]


def file(*zones: dict) -> bytes:
    known = {"version": 1, "units": "mm-N-s-t-MPa", "materials": {"carbon": CARBON.constants}, "zones": list(zones)}
    return json.dumps(known).encode()


def zone(name: str, where: str, plies: list[dict]) -> dict:
    return {"name": name, "where": where, "plies": plies}


THICK, THIN = zone("thick", "part:part 1", PLIES), zone("thin", "part:part 2", PLIES[:1])


@pytest.fixture
def sheet(tmp_path: Path) -> Review:
    """Four squares in two parts, pulled along x by 1, 2, 3, 4 N/mm times 10 and 40 at the load factors 1 and 4."""
    files = []
    for step, factor in enumerate((1.0, 4.0)):
        force = np.zeros((4, 3))
        force[:, 0] = 10 * factor * np.arange(1, 5)
        data = {"section_force": force, "part": np.array([1, 1, 2, 2], dtype=np.int32)}
        files.append(write_vtu(tmp_path / f"s_{step}.vtu", SQUARES, CELLS, {}, data, load_factor=factor))
    review = Review.create(tmp_path / "sheet.ironstone")
    intake(review, files, "sheet", "mm-N-s-t-MPa")
    return review


def test_the_worst_ply_of_two_zones_is_the_one_by_hand(sheet: Review) -> None:
    """Pull on [0/90/0]: strain of the cross-ply; the crossed ply fails across its fibres. The thin zone carries all in its own."""
    answer = strength_answer(sheet.result(), file(THICK, THIN), "l.json", "max-stress", 1)
    q = CARBON.reduced_stiffness
    a11, a22, a12 = q[0, 0] + q[1, 1] / 2, q[1, 1] + q[0, 0] / 2, 1.5 * q[0, 1]
    strain = np.linalg.solve([[a11, a12], [a12, a22]], [80.0, 0.0])
    crossed = (q[0, 1] * strain[1] + q[1, 1] * strain[0]) / 40.0
    fibres = 160.0 / 0.5 / 1500.0
    worst = answer["worst"]
    assert max(crossed, fibres) == fibres
    assert (worst["zone"], worst["element"], worst["mode"]) == ("thin", sheet.result().mesh.element_ids[3], "fibre, tension")
    assert worst["index"] == pytest.approx(fibres) and worst["reserve"] == pytest.approx(1 / fibres)
    assert answer["failed_elements"] == [] and answer["share_of_plies_failed"] == 0
    assert answer["plies_present"] == 2 * 3 + 2, "a ply that is not there does not count"
    first = answer["first_failure"]
    assert not first["fails"] and first["load_factor"] == pytest.approx(4.0 / fibres)
    alone = strength_answer(sheet.result(), file(THICK), "l.json", "max-stress", 1)["worst"]
    assert (alone["position"], alone["sheet"], alone["angle"]) == (2, "b", 90) and alone["index"] == pytest.approx(crossed)


def test_python_asks_the_same_question_as_the_command(sheet: Review) -> None:
    answer = ironstone.ask(sheet, "strength", laminate=file(THICK, THIN).decode(), criterion="max-stress", step=1)
    assert answer.more == strength_answer(sheet.result(), file(THICK, THIN), "l.json", "max-stress", 1)
    assert answer.columns[1].values == answer.more["exposure"] and answer.figures[1].value == answer.more["worst"]["reserve"]


def test_first_failure_lies_between_two_steps_where_the_exposure_reaches_one(sheet: Review) -> None:
    weak = {**CARBON.constants, "Xt": 200.0}
    data = json.loads(file(THICK, THIN)) | {"materials": {"carbon": weak}}
    answer = strength_answer(sheet.result(), json.dumps(data).encode(), "l.json", "max-stress", 1)
    # The fibres of the thin zone: 40 f N/mm on 0.5 mm reach 200 MPa at f = 2.5.
    assert answer["first_failure"]["fails"] and answer["first_failure"]["load_factor"] == pytest.approx(2.5)
    assert answer["exposure"] == [pytest.approx(0.4), pytest.approx(1.6)]
    assert answer["failed_count"] == 2 and answer["share_of_plies_failed"] == pytest.approx(2 / 8)


def test_stress_by_layers_is_taken_as_that_of_the_plies(tmp_path: Path) -> None:
    """Two layers, bottom and top in each; the second ply's top is the worst."""
    table = np.zeros((4, 2, 2, 6))
    table[..., 1] = np.array([[5.0, 10.0], [15.0, 30.0]])
    table[2, 1, 1, 1] = 44.0
    path = write_vtu(tmp_path / "layers.vtu", SQUARES, CELLS, {}, {"stress": table.reshape(4, -1)})
    with Review.create(tmp_path / "l.ironstone") as review:
        intake(review, [path], "layers", "mm-N-s-t-MPa")
        review.correct_fields(review.result().id, ["stress"], {"columns": "layers with bottom, top"})
        source = review.result()
        answer = strength_answer(source, file(zone("all", "all", PLIES[:2])), "l.json", "max-stress", 0)
    assert (answer["worst"]["position"], answer["worst"]["element"]) == (2, source.mesh.element_ids[2])
    assert answer["worst"]["index"] == pytest.approx(44 / 40) and answer["failed_count"] == 1


def test_from_the_command_line(sheet: Review, tmp_path: Path) -> None:
    path = tmp_path / "l.json"
    path.write_bytes(file(THICK, THIN))
    words = ["strength", str(sheet.path), "--laminate", str(path), "--criterion", "tsai-wu"]
    ran = CliRunner().invoke(app, [*words, "--json"])
    assert ran.exit_code == 0, ran.stderr
    answer = json.loads(ran.stdout)
    assert {"worst", "failed_elements", "share_of_plies_failed", "first_failure"} <= set(answer)
    assert {"element", "zone", "sheet", "position", "place", "mode", "index", "reserve"} <= set(answer["worst"])
    assert "worst: element" in CliRunner().invoke(app, words).stdout


@pytest.mark.parametrize(
    ("zones", "said"),
    [
        ((zone("a", "part:roof", PLIES),), "is of 'part:roof', which is not in this result"),
        ((zone("a", "part:part 1", PLIES), zone("b", "part:part 1", PLIES)), "is of zone 'a' and of zone 'b'"),
        ((zone("a", "feet", PLIES),), "which is not in this result"),
    ],
)
def test_zones_that_do_not_fit_are_told(sheet: Review, zones: tuple[dict, ...], said: str) -> None:
    with pytest.raises(IronstoneError, match=said):
        strength_answer(sheet.result(), file(*zones), "l.json", "max-stress", 0)


def test_a_result_without_anything_to_go_by_says_what_it_takes(bar_files: list[Path], tmp_path: Path) -> None:
    with Review.create(tmp_path / "b.ironstone") as review:
        intake(review, bar_files, "bar", "mm-N-s-t-MPa")
        with pytest.raises(IronstoneError, match="nothing that stress of plies follows from"):
            strength_answer(review.result(), file(zone("a", "part:part 1", PLIES)), "l.json", "max-stress", 0)
