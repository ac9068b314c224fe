"""Recipes: an extraction that is stored and run over files, some of them broken; exit statuses; values by hand."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from typer.testing import CliRunner

import ironstone
from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.engine.base import ask, keep, question_of, thing_of
from ironstone.engine.kept.exhibits import keep_answer
from ironstone.engine.recipes.made import offers_of, recipe_of
from ironstone.engine.recipes.many import orders, run_all
from ironstone.engine.recipes.recipe import filled, recipe_in, schema
from ironstone.engine.recipes.replay import replay
from ironstone.engine.recipes.summary import worst_of_all
from ironstone.store import Review, intake
from tests.writing import bar_of_hexahedra, write_vtu

RECIPE = {
    "version": 1,
    "title": "bar in tension",
    "units": "mm-N-s-t-MPa",
    "parameters": {"allowed": 100.0, "part": "all"},
    "ask": [
        {"name": "peak", "kind": "read", "field": "stress", "measure": "von-mises", "extremes": True, "take": "highest",
         "unit": "kPa", "at_most": "{allowed}"},
        {"name": "lowest", "kind": "read", "field": "stress", "measure": "xx", "extremes": True, "take": "lowest"},
        {"name": "tip", "kind": "trace", "field": "displacement", "measure": "x", "at": "set:end", "reduce": "max", "take": "last",
         "unit": "um", "at_least": 1.0},
    ],
    "tables": [
        {"name": "tip over steps", "kind": "trace", "field": "displacement", "measure": "x", "at": "set:end", "reduce": "max"}
    ],
}  # fmt: skip


def bar(path: Path, factor: float, field: str = "stress") -> Path:
    """Three cubes of axial stress 10, 20, 30 MPa times a factor, their end moved by 0.02 mm times it."""
    points, cells, ids = bar_of_hexahedra()
    stress = np.zeros((24, 6))
    stress[:, 0] = factor * np.repeat([10.0, 20.0, 30.0], 8)
    moved = np.zeros((24, 3))
    moved[:, 0] = factor * 0.02 * points[:, 0] / points[:, 0].max()
    end = (points[:, 0] == points[:, 0].max()).astype(np.uint8)
    write_vtu(path, points, cells, {"displacement": moved, field: stress, "end": end, "GlobalIds": ids})
    return path


def run(folder: Path, *words: str, recipe: dict | None = None) -> tuple[int, str, str]:
    (folder / "recipe.json").write_text(json.dumps(recipe or RECIPE))
    done = CliRunner().invoke(app, ["run", str(folder / "recipe.json"), *words])
    return done.exit_code, done.stdout, done.stderr


def test_values_tables_and_a_summary_are_written_for_each_file_and_the_status_says_what_they_came_to(tmp_path: Path) -> None:
    soft, hard = bar(tmp_path / "soft.vtu", 1.0), bar(tmp_path / "hard.vtu", 4.0)
    status, said, _ = run(tmp_path, str(soft), str(hard), "-o", str(tmp_path / "out"), "--set", "allowed=100000")
    assert status == 1 and "hard: limit broken" in said and "soft: limits kept" in said
    values = json.loads((tmp_path / "out" / "hard" / "values.json").read_text())["values"]
    assert values["peak"]["value"] == pytest.approx(120_000.0) and values["peak"]["unit"] == "kPa"
    assert values["peak"]["kept"] is False and values["lowest"]["kept"] is None
    assert values["lowest"]["value"] == pytest.approx(40.0)
    assert values["tip"]["value"] == pytest.approx(80.0) and values["tip"]["kept"] is True
    assert "von Mises" in values["peak"]["sentence"] and "node" in values["peak"]["place"]
    summary = (tmp_path / "out" / "summary.csv").read_text().splitlines()
    assert summary[0].startswith("run,came to,peak,lowest,tip") and summary[2].startswith("soft,limits kept,30000,10,20")
    assert json.loads((tmp_path / "out" / "summary.json").read_text())["worst"]["peak"]["run"] == "hard"
    assert (tmp_path / "out" / "soft" / "tables" / "tip over steps.csv").read_text().count("\n") == 3
    assert {p.name for p in (tmp_path / "out" / "soft").iterdir()} == {
        "values.json", "values.txt", "values.csv", "values.xlsx", "log.txt", "tables"
    }, "no review is left behind"  # fmt: skip
    assert run(tmp_path, str(soft), "-o", str(tmp_path / "fine"), "--set", "allowed=100000")[0] == 0


def test_a_broken_file_and_a_missing_field_do_not_stop_the_rest(tmp_path: Path) -> None:
    good, other = bar(tmp_path / "good.vtu", 1.0), bar(tmp_path / "other.vtu", 1.0, field="strain")
    broken = tmp_path / "broken.vtu"
    broken.write_bytes(good.read_bytes()[:400])
    status, said, _ = run(
        tmp_path, str(broken), str(good), str(other), "-o", str(tmp_path / "out"), "--jobs", "2", "--set", "allowed=1e9"
    )
    assert status == 2 and "good: limits kept" in said
    runs = {r["run"]: r for r in json.loads((tmp_path / "out" / "summary.json").read_text())["runs"]}
    assert {n: r["status"] for n, r in runs.items()} == {"broken": 2, "good": 0, "other": 2}
    assert "broken.vtu" in runs["broken"]["errors"][0]
    assert any("stress" in e for e in runs["other"]["errors"])
    assert json.loads((tmp_path / "out" / "other" / "values.json").read_text())["values"]["tip"]["value"] == pytest.approx(20.0)


def test_one_value_is_printed_alone_for_the_loop_of_an_optimiser(tmp_path: Path) -> None:
    file = bar(tmp_path / "bar.vtu", 2.0)
    status, said, _ = run(tmp_path, str(file), "--value", "peak", "--set", "allowed=1e9")
    assert (status, float(said)) == (0, pytest.approx(60_000.0))
    assert run(tmp_path, str(file), "--value", "peak")[0] == 1, "the limit is broken, the value printed all the same"
    status, said, error = run(tmp_path, str(file), "--value", "height")
    assert status == 2 and said == "" and "peak, lowest, tip" in error
    assert run(tmp_path, str(file), str(file), "--value", "peak")[0] == 2


def test_what_was_done_is_not_done_again_unless_something_it_hangs_on_has_changed(tmp_path: Path) -> None:
    file, out = bar(tmp_path / "bar.vtu", 1.0), str(tmp_path / "out")
    recipe = {**RECIPE, "parameters": {"allowed": 1e9}}
    assert "done before" not in run(tmp_path, str(file), "-o", out, recipe=recipe)[1]
    assert "done before" in run(tmp_path, str(file), "-o", out, recipe=recipe)[1]
    assert "done before" not in run(tmp_path, str(file), "-o", out, "--fresh", recipe=recipe)[1]
    assert "done before" not in run(tmp_path, str(file), "-o", out, "--set", "allowed=2e9", recipe=recipe)[1]
    bar(file, 3.0)
    again = run(tmp_path, str(file), "-o", out, "--set", "allowed=2e9", recipe=recipe)[1]
    assert "done before" not in again and "90000 kPa" in again


def test_a_run_that_was_killed_goes_on_where_it_stopped_and_two_at_a_time_say_the_same_as_one(tmp_path: Path) -> None:
    files = [str(bar(tmp_path / f"bar_{k}.vtu", 1.0 + k)) for k in range(4)]
    (tmp_path / "recipe.json").write_text(json.dumps({**RECIPE, "parameters": {"allowed": 1e9}}))
    command = [sys.executable, "-m", "ironstone", "run", str(tmp_path / "recipe.json"), *files, "-o", str(tmp_path / "out")]
    going = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert going.stdout
    for line in going.stdout:
        if line.startswith("bar_0"):
            os.kill(going.pid, signal.SIGKILL)
            break
    going.wait()
    done = [p.name for p in (tmp_path / "out").iterdir() if (p / "values.json").exists()]
    assert "bar_0" in done and len(done) < 4
    again = subprocess.run([*command, "--jobs", "2"], capture_output=True, text=True, check=False)
    assert again.returncode == 0, again.stderr
    assert again.stdout.count("done before") == len(done)
    alone = subprocess.run([*command[:-1], str(tmp_path / "alone")], capture_output=True, text=True, check=False)
    assert alone.returncode == 0
    for k in range(4):
        one, two = (json.loads((tmp_path / f / f"bar_{k}" / "values.json").read_text())["values"] for f in ("alone", "out"))
        assert one == two, "to the last digit"


def test_a_series_is_one_run_and_files_of_one_name_are_told_apart(tmp_path: Path) -> None:
    for k in range(3):
        bar(tmp_path / f"load_{k}.vtu", 1.0 + k)
    recipe = recipe_in(json.dumps({**RECIPE, "parameters": {"allowed": 1e9}}))
    (one,) = orders(recipe, [f"ramp={tmp_path}/load_*.vtu"], tmp_path / "out")
    (came,) = run_all([one])
    assert came["run"] == "ramp" and came["values"]["tip"]["value"] == pytest.approx(60.0), "the last of three steps"
    (tmp_path / "b").mkdir()
    bar(tmp_path / "b" / "load_0.vtu", 1.0)
    with pytest.raises(IronstoneError, match="Two runs are called 'load_0'"):
        orders(recipe, [str(tmp_path / "load_0.vtu"), str(tmp_path / "b" / "load_0.vtu")], tmp_path / "out")
    with pytest.raises(IronstoneError, match="no file"):
        orders(recipe, [f"ramp={tmp_path}/none_*.vtu"], tmp_path / "out")


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"version": 2}, "version"),
        ({"ask": [], "tables": []}, "nothing is asked"),
        ({"asks": []}, "asks is not known here"),
        ({"units": "mm-kg"}, "no unit system"),
        ({"ask": [{"name": "a", "kind": "nonsense"}]}, "no question called 'nonsense'"),
        ({"ask": [{"name": "a", "kind": "modes"}, {"name": "a", "kind": "modes"}]}, "two are called 'a'"),
        ({"keep": [{"kind": "nonsense"}]}, "can be kept"),
    ],
)
def test_a_recipe_that_is_none_says_what_is_wrong(change: dict, says: str) -> None:
    with pytest.raises(IronstoneError, match=says):
        recipe_in(json.dumps({**RECIPE, **change}))
    with pytest.raises(IronstoneError, match="not written as a recipe is"):
        recipe_in("{ nonsense")


def test_a_wrong_word_of_a_question_is_an_error_of_that_value_alone(tmp_path: Path) -> None:
    file = bar(tmp_path / "bar.vtu", 1.0)
    ask = [
        {"name": "wrong", "kind": "read", "feild": "stress"},
        {"name": "no limit", "kind": "read", "field": "stress", "extremes": True, "take": "highest", "at_most": "{none}"},
        {"name": "by number", "kind": "read", "field": "displacement", "measure": "x", "at": "node:1", "take": "value"},
    ]
    (one,) = orders(recipe_in(json.dumps({"version": 1, "ask": ask})), [str(file)], tmp_path / "out")
    (came,) = run_all([one])
    assert came["status"] == 2
    assert "'wrong'" in came["values"]["wrong"]["error"] and "feild" in came["values"]["wrong"]["error"]
    assert "no parameter 'none'" in came["values"]["no limit"]["error"]
    assert came["values"]["by number"]["value"] is not None
    assert any("remeshed model" in c for c in came["values"]["by number"]["caveats"])
    assert worst_of_all(recipe_in(json.dumps({"version": 1, "ask": ask})), [came]) == {}


def test_a_recipe_is_run_from_python_in_one_line(tmp_path: Path) -> None:
    (tmp_path / "recipe.json").write_text(json.dumps(RECIPE))
    (came,) = ironstone.run(tmp_path / "recipe.json", [bar(tmp_path / "bar.vtu", 1.0)], tmp_path / "out", allowed=1e9)
    assert came["values"]["peak"]["value"] == pytest.approx(30_000.0) and (tmp_path / "out" / "summary.csv").exists()


def test_parameters_keep_their_kind_where_a_word_is_one_and_are_text_within() -> None:
    assert filled({"a": "{n}", "b": ["set:{s}"], "c": 2, "d": "{n} of {s}"}, {"n": 3, "s": "end"}) == {
        "a": 3, "b": ["set:end"], "c": 2, "d": "3 of end"
    }  # fmt: skip


def test_recipes_in_json_and_yaml_are_the_same_and_keep_to_the_schema_that_is_printed() -> None:
    said = CliRunner().invoke(app, ["recipe", "--schema"])
    published = json.loads(said.stdout)
    assert published == schema()
    jsonschema.Draft202012Validator.check_schema(published)
    jsonschema.validate(RECIPE, published)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({"version": 1, "ask": [{"kind": "read"}]}, published)
    text = "version: 1\nask:\n- name: peak\n  kind: read\n  field: stress\n  extremes: true\n  take: highest\n  at_most: 30.0\n"
    plain = {"name": "peak", "kind": "read", "field": "stress", "extremes": True, "take": "highest", "at_most": 30.0}
    assert recipe_in(text) == recipe_in(json.dumps({"version": 1, "ask": [plain]}))


def test_what_is_kept_in_a_review_becomes_a_recipe_that_another_file_is_held_to(tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone", "bar") as review:
        result = intake(review, [bar(tmp_path / "bar.vtu", 1.0)], None, "mm-N-s-t-MPa")
        with pytest.raises(IronstoneError, match="Nothing is kept"):
            recipe_of(review)
        reading = {"field": "stress", "measure": "von-mises", "step": 0}
        words = {"result": result, "name": "peak by hand", "reading": reading, "at": "max", "expected": 30.0, "tolerance": 0.1}
        keep(review, thing_of("check", words))
    out = tmp_path / "made.json"
    assert CliRunner().invoke(app, ["recipe", str(tmp_path / "r.ironstone"), "-o", str(out)]).exit_code == 0
    made = json.loads(out.read_text())
    assert made["ask"][0]["at_least"] == pytest.approx(27.0) and made["ask"][0]["at_most"] == pytest.approx(33.0)
    jsonschema.validate(made, schema())
    near, far = bar(tmp_path / "near.vtu", 1.05), bar(tmp_path / "far.vtu", 1.2)
    assert run(tmp_path, str(near), "-o", str(tmp_path / "a"), recipe=made)[0] == 0
    assert run(tmp_path, str(far), "-o", str(tmp_path / "b"), recipe=made)[0] == 1


def test_a_review_is_replayed_on_a_stiffer_bar_and_says_what_changed_and_what_is_gone(tmp_path: Path) -> None:
    path = tmp_path / "r.ironstone"
    with Review.create(path, "bar") as review:
        result = intake(review, [bar(tmp_path / "bar.vtu", 1.0)], "bar", "mm-N-s-t-MPa")
        review.set_constants(result, review.result().mesh.material_or_part_names[0], {"young": 210e3, "poisson": 0.3})
        for name, field, at, expected in (("peak", "stress", "max", 30.0), ("tip", "displacement", "max", 0.02)):
            measure = "von-mises" if field == "stress" else "x"
            reading = {"field": field, "measure": measure, "step": 0}
            words = {"result": result, "name": name, "reading": reading, "at": at, "expected": expected, "tolerance": 0.1}
            keep(review, thing_of("check", words))
        keep(review, thing_of("path", {"result": result, "name": "axis", "path": "line:0,0.5,0.5:3,0.5,0.5"}))
        profile = ask(review, question_of("profile", {"result": result, "field": "stress", "measure": "xx", "named": "axis"}))
        keep_answer(review, "Along the axis", profile)
        keep_answer(review, "Energy", ask(review, question_of("balance", {"result": result})))
    before = path.read_bytes()
    stiffer, same, bare = (
        bar(tmp_path / "stiffer.vtu", 0.8),
        bar(tmp_path / "same.vtu", 1.0),
        bar(tmp_path / "bare.vtu", 1.0, "strain"),
    )
    found = replay(path, [stiffer])
    by_title = {i.title: i for i in found.items}
    assert by_title["peak"].then == pytest.approx(30.0) and by_title["peak"].now == pytest.approx(24.0)
    assert by_title["peak"].change == pytest.approx(-0.2)
    assert (by_title["peak"].verdict_then, by_title["peak"].verdict_now, by_title["peak"].status) == ("agrees", "fails", "changed")
    assert by_title["Along the axis"].status == "changed" and by_title["Along the axis"].change == pytest.approx(-0.2)
    assert found.status == 1 and found.notes == [], "path and constants went along"
    unchanged = replay(path, [same])
    assert {i.status for i in unchanged.items} == {"same"} and unchanged.status == 0
    loosely = [i for i in replay(path, [stiffer], tolerance=0.5).items if i.title not in ("peak", "tip")]
    assert {i.status for i in loosely} == {"same"}, "a fifth is within a half"
    done = CliRunner().invoke(app, ["replay", str(path), str(bare), "--json"])
    gone = {i["title"]: i for i in json.loads(done.stdout)["items"]}
    assert done.exit_code == 2 and gone["peak"]["status"] == "gone" and gone["peak"]["now"] is None
    assert "cannot be read any more" in gone["Along the axis"]["said"]
    assert path.read_bytes() == before, "the review is as it was"
    assert CliRunner().invoke(app, ["replay", str(path), str(stiffer)]).stdout.count("changed") >= 3


def test_what_is_to_be_a_parameter_is_chosen_of_what_a_recipe_offers(tmp_path: Path) -> None:
    path = tmp_path / "r.ironstone"
    with Review.create(path, "Bar") as review:
        result = intake(review, [bar(tmp_path / "bar.vtu", 1.0)], "bar", "mm-N-s-t-MPa")
        words = {"field": "stress", "measure": "von-mises", "step": 0}
        keep(review, thing_of("check", {"result": result, "name": "1st peak!", "reading": words, "at": "max", "expected": 30.0}))
        offered = {o.name: o.value for o in offers_of(recipe_of(review))}
        assert offered["p_1st_peak_at_most"] > 30.0 and "p_1st_peak_step" in offered
        made = recipe_of(review, None, ["p_1st_peak_at_most"])
    assert made["ask"][0]["at_most"] == "{p_1st_peak_at_most}" and list(made["parameters"]) == ["p_1st_peak_at_most"]
    (tmp_path / "made.json").write_text(json.dumps(made))
    run = CliRunner().invoke
    base = ["run", str(tmp_path / "made.json"), str(tmp_path / "bar.vtu"), "-o", str(tmp_path / "o")]
    assert run(app, base).exit_code == 0
    assert run(app, [*base, "--set", "p_1st_peak_at_most=29"]).exit_code == 1
    told = run(app, ["recipe", str(path), "--offers"])
    assert "p_1st_peak_at_most = " in told.stdout and "at most of 1st peak!" in told.stdout
    wrong = run(app, ["recipe", str(path), "--parameter", "nothing"])
    assert wrong.exit_code == 2 and "p_1st_peak_at_least" in wrong.stderr
