"""Only the arrays that are asked for are read, from formats that allow it; numbers, sets and values are the same."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.engine.recipes.recipe import fields_asked, recipe_in
from ironstone.formats import vtkhdf
from ironstone.formats.registry import RawArray, steps_of
from ironstone.formats.wanted import left_out, only
from tests.writing import bar_of_hexahedra, write_vtu


@pytest.fixture
def many(tmp_path: Path) -> Path:
    points, cells, ids = bar_of_hexahedra()
    chance = np.random.default_rng(1)
    data = {f"field {k}": chance.normal(size=(24, 6)) for k in range(5)}
    end = (points[:, 0] == points[:, 0].max()).astype(np.uint8)
    moved = {"displacement": 0.01 * points, "stress": chance.normal(size=(24, 6)), "end": end, "GlobalIds": ids}
    return write_vtu(tmp_path / "many.vtu", points, cells, {**data, **moved}, {"energy": np.ones(3), "part": np.array([1, 1, 2])})


@pytest.mark.parametrize("mode", ["raw", "ascii", "binary"])
def test_what_is_not_asked_for_is_not_read(many: Path, tmp_path: Path, mode: str) -> None:
    points, cells, ids = bar_of_hexahedra()
    file = write_vtu(
        tmp_path / f"{mode}.vtu", points, cells,
        {"stress": np.ones((24, 6)), "other": np.ones((24, 6)), "Velocity": np.ones((24, 3)), "set a": np.ones(24, np.uint8),
         "GlobalIds": ids},
        {"energy": np.ones(3), "other of cells": np.ones(3)}, mode=mode,
    )  # fmt: skip
    with only(frozenset({"stress", "energy"})):
        (step,) = steps_of(file)
    assert set(step.point_data) == {"stress", "Velocity", "set a", "GlobalIds"} and set(step.cell_data) == {"energy"}
    (whole,) = steps_of(file)
    assert {"other", "stress"} <= set(whole.point_data)
    assert np.array_equal(whole.point_data["stress"].values, step.point_data["stress"].values)


def test_of_a_vtkhdf_too(tmp_path: Path, many: Path) -> None:
    (raw,) = steps_of(many)
    with vtkhdf.Writer(tmp_path / "m.vtkhdf", raw.points, raw.types, raw.offsets, raw.connectivity) as writer:
        writer.step(0.0, {n: RawArray(a.values, ()) for n, a in raw.point_data.items()}, {})
    with only(frozenset({"field 3"})):
        (step,) = steps_of(tmp_path / "m.vtkhdf")
    assert {"field 3", "displacement", "end", "GlobalIds"} == set(step.point_data)


def test_pieces_of_a_field_and_what_the_mesh_hangs_on_stay() -> None:
    with only(frozenset({"Stress", "u"})):
        assert [left_out(n) for n in ("stress_xx", "Stress real", "strain", "U", "reaction force", "shell_thickness", "sigma")] == [
            False, False, True, False, False, False, True,
        ]  # fmt: skip
    assert not left_out("anything")


def test_a_recipe_says_which_fields_it_reads_and_which_it_cannot_know() -> None:
    read = {"name": "a", "kind": "read", "field": "stress", "measure": "xx", "extremes": True, "take": "highest"}
    plain = recipe_in(
        json.dumps({"ask": [read], "pictures": [{"name": "p", "field": "{which}"}], "parameters": {"which": "damage"}})
    )
    assert fields_asked(plain, {"which": "damage"}) == {"stress", "damage"}
    for more in ({"of": "error"}, {"criterion": "hashin"}, {"against": "step=0"}):
        assert fields_asked(recipe_in(json.dumps({"ask": [{**read, **more}]})), {}) is None
    balance = {"name": "b", "kind": "balance", "take": "figure:x"}
    assert fields_asked(recipe_in(json.dumps({"ask": [read, balance]})), {}) is None


def test_a_run_of_few_fields_comes_to_the_same_and_a_wrong_name_is_told_with_all_there_are(many: Path, tmp_path: Path) -> None:
    read = {"kind": "read", "measure": "xx", "extremes": True, "take": "highest"}
    values = {}
    for keep in ("", "--keep-reviews"):
        (tmp_path / "r.json").write_text(
            json.dumps({"ask": [{"name": "a", **read, "field": "stress"}, {"name": "b", **read, "field": "field 2"}]})
        )
        words = ["run", str(tmp_path / "r.json"), str(many), "-o", str(tmp_path / f"o{keep}"), "--json", *([keep] if keep else [])]
        done = CliRunner().invoke(app, words)
        assert done.exit_code == 0, done.stderr
        values[keep] = {n: v["value"] for n, v in json.loads(done.stdout)["values"]["many"].items()}
    assert values[""] == values["--keep-reviews"]
    (tmp_path / "r.json").write_text(json.dumps({"ask": [{"name": "a", **read, "field": "strss"}]}))
    wrong = CliRunner().invoke(app, ["run", str(tmp_path / "r.json"), str(many), "-o", str(tmp_path / "w")])
    assert wrong.exit_code == 2 and "field 4" in wrong.stdout and "stress" in wrong.stdout
