"""The command line as the plan has it: JSON keys that stay, errors on standard error with status 2, the review unchanged."""

from __future__ import annotations

import hashlib
import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.store import Review
from tests.conftest import DATA

runner = CliRunner()


def reply(*args: str | Path | int) -> dict:
    answer = runner.invoke(app, [*map(str, args), "--json"])
    assert answer.exit_code == 0, answer.output + answer.stderr
    found: dict = json.loads(answer.stdout)
    return found


def said(*args: str | Path | int) -> str:
    answer = runner.invoke(app, [*map(str, args)])
    assert answer.exit_code == 0, answer.output + answer.stderr
    return answer.stdout.strip()


def refused(*args: str | Path | int) -> str:
    answer = runner.invoke(app, [*map(str, args)])
    assert answer.exit_code == 2
    assert answer.stdout == ""
    assert "Traceback" not in answer.stderr
    return answer.stderr


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path) -> Path:
    path = tmp_path / "cli.ironstone"
    reply("intake", path, *bar_files)
    return path


def test_intake_and_contents_say_what_is_inside(bar_files: list[Path], tmp_path: Path) -> None:
    path = tmp_path / "new.ironstone"
    taken = reply("intake", path, *bar_files)
    assert taken["results"][0]["name"] == "bar"
    found = reply("contents", path)["results"][0]
    assert {"name", "nodes", "elements", "parts", "sets", "steps", "fields", "warnings"} <= set(found)
    assert found["nodes"] == 16 and found["elements"] == 3
    assert found["steps"][1] == {"index": 1, "kind": "time", "value": 0.5, "unit": "s", "label": "t = 0.5 s"}
    stress = next(f for f in found["fields"] if f["name"] == "stress")
    assert (stress["kind"], stress["location"], stress["unit"], stress["guessed"]) == ("stress", "corner", "MPa", True)


def test_read_at_a_node_lists_every_element_and_the_jump(review: Path) -> None:
    answer = reply("read", review, "--field", "stress", "--measure", "xx", "--at", "node:5", "--step", "first")
    assert sorted(v["value"] for v in answer["values"]) == [10.0, 20.0]
    assert answer["jump"] == pytest.approx(10.0)
    assert set(answer["values"][0]) == {"place", "value", "element", "node", "part", "xyz"}
    assert answer["step"]["index"] == 0


def test_read_chooses_steps_and_units(review: Path) -> None:
    read = ("read", review, "--field", "stress", "--measure", "von-mises", "--at", "element:0")
    assert reply(*read)["values"][0]["value"] == pytest.approx(20.0), "the last step is the usual one"
    assert reply(*read, "--step", "t=0.1", "--unit", "kPa")["values"][0]["value"] == pytest.approx(10_000.0)
    assert reply(*read, "--step", "1")["sentence"].startswith("von Mises of stress, mean of each element")


def test_extremes_say_where(review: Path) -> None:
    answer = reply("read", review, "--field", "stress", "--measure", "xx", "--extremes", "--step", "0")
    assert answer["max"]["value"] == 30.0 and answer["max"]["element"] == 2 and answer["max"]["part"] == "part 2"
    assert answer["min"]["value"] == 10.0


def test_read_at_a_point_and_over_a_set(review: Path) -> None:
    point = reply("read", review, "--field", "displacement", "--measure", "x", "--at", "point:1.5,0.5,0.5", "--step", "0")
    assert point["values"][0]["value"] == pytest.approx(0.015)
    tip = reply("read", review, "--field", "displacement", "--measure", "x", "--at", "set:tip", "--step", "0")
    assert [v["value"] for v in tip["values"]] == pytest.approx([0.03] * 4)


def test_a_missing_value_is_null(tmp_path: Path, bar_files: list[Path]) -> None:
    from tests.writing import HEX, write_vtu

    path = write_vtu(tmp_path / "gap.vtu", HEX, [(12, list(range(8)))], {"stress": np.full((8, 6), np.nan)})
    reply("intake", tmp_path / "gap.ironstone", path)
    answer = reply("read", tmp_path / "gap.ironstone", "--field", "stress", "--at", "node:0", "--extremes")
    assert answer["values"][0]["value"] is None
    assert answer["max"] is None


def test_trace_of_a_set(review: Path) -> None:
    answer = reply("trace", review, "--field", "reaction", "--measure", "x", "--at", "set:fixed", "--reduce", "sum", "--unit", "kN")
    assert answer["x"] == [0.0, 0.5] and answer["x_unit"] == "s"
    assert answer["y"] == pytest.approx([-0.010, -0.020])
    assert answer["unit"] == "kN"
    assert "summed over set fixed" in answer["sentence"]


def test_a_reaction_over_a_free_set_is_told(review: Path) -> None:
    answer = reply("trace", review, "--field", "reaction", "--measure", "x", "--at", "set:tip", "--reduce", "sum")
    assert any("is not held" in c for c in answer["caveats"])


def test_loop_and_match_of_csv_files(tmp_path: Path) -> None:
    t = np.linspace(0, 6 * np.pi, 1201)
    rows = "\n".join(f"{np.sin(a):.9g},{3 * np.sin(a) + np.cos(a):.9g}" for a in t)
    curve = tmp_path / "curve.csv"
    curve.write_text(f"u,f\nmm,kN\n{rows}\n")
    loop = reply("loop", curve, "--x", "u", "--y", "f")
    assert (loop["x_unit"], loop["y_unit"], loop["energy_unit"]) == ("mm", "kN", "kN·mm")
    assert [c["energy"] for c in loop["cycles"]] == pytest.approx([np.pi] * 2, rel=1e-4)
    assert set(loop["cycles"][0]) >= {"energy", "closed", "secant_stiffness", "damping_ratio", "x_peak", "y_peak"}
    turned = tmp_path / "test.csv"
    flipped = "\n".join(f"{np.sin(a):.9g},{-(3 * np.sin(a) + np.cos(a)) * 1000 + 200:.9g}" for a in t)
    turned.write_text(f"u,f\nmm,N\n{flipped}\n")
    answer = reply("match", curve, turned, "--x", "u", "--y", "f", "--sign", "-1", "--zero", "200")
    assert answer["verdict"].startswith("Agrees:")
    assert answer["metrics"]["energy_total"]["ratio"] == pytest.approx(1.0)
    assert answer["corrections"] == ["f: zero shifted by -200 N", "f: sign reversed"]


def test_the_demos_loop_from_the_command_line(demo_copy: Path, tmp_path: Path) -> None:
    force = reply(
        "trace",
        demo_copy,
        "--field",
        "reaction",
        "--measure",
        "x",
        "--at",
        "set:held",
        "--reduce",
        "sum",
        "--unit",
        "kN",
        "--sign",
        "-1",
    )
    driver = reply("trace", demo_copy, "--field", "displacement", "--measure", "x", "--at", "set:driven", "--reduce", "mean")
    curve = tmp_path / "loop.csv"
    curve.write_text("u,f\nmm,kN\n" + "\n".join(f"{a},{b}" for a, b in zip(driver["y"], force["y"], strict=True)))
    assert len(reply("loop", curve, "--x", "u", "--y", "f")["cycles"]) == 5
    answer = reply(
        "match", curve, DATA / "specimen_F3.csv", "--x", "u", "--y", "f", "--test-x", "Stroke", "--test-y", "Load cell",
        "--sign", "-1", "--zero", "0.34",
    )  # fmt: skip
    assert 1.0 < answer["metrics"]["peak_positive"]["ratio"] < 1.1
    assert answer["metrics"]["determination"]["value"] > 0.98


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (("read", "--field", "stres"), "no field named 'stres'"),
        (("read", "--field", "stress", "--measure", "x"), "cannot be taken"),
        (("read", "--field", "stress", "--at", "node:999"), "no node 999"),
        (("read", "--field", "stress", "--at", "here"), "not a place"),
        (("read", "--field", "stress", "--at", "point:50,0,0"), "outside the body"),
        (("read", "--field", "stress", "--step", "7"), "no step 7"),
        (("read", "--field", "stress", "--unit", "mm"), "cannot be converted to"),
        (("read", "--field", "stress", "--averaging", "some"), "averaging must be one of"),
        (("trace", "--field", "stress", "--at", "set:tip"), "Reduce it"),
        (("contents", "--no-such"), "No such option"),
    ],
)
def test_errors_are_words_with_status_two(review: Path, args: tuple[str, ...], words: str) -> None:
    before = hashlib.sha256(review.read_bytes()).hexdigest()
    assert words in refused(args[0], review, *args[1:])
    assert hashlib.sha256(review.read_bytes()).hexdigest() == before


def test_a_failed_first_intake_leaves_no_file(tmp_path: Path) -> None:
    bad = tmp_path / "bad.vtu"
    bad.write_text("no")
    assert "bad.vtu is no VTU file" in refused("intake", tmp_path / "r.ironstone", bad)
    assert not (tmp_path / "r.ironstone").exists()
    assert "no file gone.vtu" in refused("intake", tmp_path / "r.ironstone", tmp_path / "gone.vtu")


def test_the_installed_command_speaks(demo_copy: Path) -> None:
    command = Path(sys.executable).parent / "ironstone"
    answer = subprocess.run([command, "contents", demo_copy, "--json"], capture_output=True, text=True, check=True)
    assert json.loads(answer.stdout)["results"][-1]["name"] == "flexure B2", "the newest is the last"


LUG = sorted((DATA.parent / "lug").glob("lug_coarse_*.vtu"))


@pytest.fixture(scope="module")
def lug(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("lug") / "lug.ironstone"
    reply("intake", path, *LUG[:3], "--units", "mm-N-s-t-MPa")
    reply("state", path, "--axes", "eye", "--axes-kind", "cylindrical")
    for material, young, poisson in (("material 1", "210000", "0.3"), ("material 2", "105000", "0.34")):
        reply("state", path, "--material", material, "--young", young, "--poisson", poisson)
    return path


HOOP = ("--field", "stress", "--measure", "hoop", "--axes", "eye", "--step", "first")


def test_the_lugs_question_from_the_command_line(lug: Path) -> None:
    """Hoop stress at the bond, in the lug and in the bushing: two numbers, and an average that exists in neither."""
    at = ("--at", "point:0,25,0")
    told_off = reply("read", lug, *HOOP, *at)
    by_part = {p: [v["value"] for v in told_off["values"] if v["part"] == p] for p in ("part 1", "part 2")}
    steel, bronze = (sum(v) / len(v) for v in by_part.values())
    assert steel == pytest.approx(127, rel=0.05) and bronze == pytest.approx(67, rel=0.05)
    across = reply("read", lug, *HOOP, *at, "--averaging", "all")
    assert bronze + 10 < across["values"][0]["value"] < steel - 10
    assert any("exists in neither" in c for c in across["caveats"])
    assert "hoop component of stress, in axes eye (cylindrical), each corner as computed" in told_off["sentence"]


def test_over_steps_and_when_and_against(lug: Path) -> None:
    largest = reply("read", lug, *HOOP, "--over", "largest", "--extremes")["max"]["value"]
    each = [reply("read", lug, *HOOP[:-1], str(s), "--extremes")["max"]["value"] for s in range(3)]
    assert largest == pytest.approx(max(each))
    when = reply("read", lug, *HOOP, "--over", "largest", "--when", "--extremes")
    assert when["unit"] == "s" and when["max"]["value"] == 1.0
    less = reply("read", lug, *HOOP, "--against", "averaging=all", "--at", "point:0,25,0")
    assert less["values"][0]["value"] * less["values"][-1]["value"] < 0, "above the mean on one side, below on the other"
    assert "minus the same, averaged over all elements at a node" in less["sentence"]


def test_error_energy_traction_and_directions(lug: Path) -> None:
    error = reply("read", lug, "--field", "stress", "--of", "error", "--extremes")
    assert 0.001 < error["error_total"] < 0.1
    assert error["unit"] == "" and error["max"]["value"] > error["error_total"], "the total is a mean of the elements'"
    normal = reply("read", lug, "--field", "stress", "--measure", "plane-normal", "--plane", "1,0,0", "--at", "node:400")
    along = reply("read", lug, "--field", "stress", "--measure", "xx", "--at", "node:400")
    assert [v["value"] for v in normal["values"]] == pytest.approx([v["value"] for v in along["values"]])
    first = reply("read", lug, "--field", "stress", "--measure", "principal-1", "--at", "node:400")
    assert all(abs(sum(c * c for c in v["direction"]) - 1.0) < 1e-9 for v in first["values"])
    assert "needs a plane" in refused("read", lug, "--field", "stress", "--measure", "plane-shear", "--extremes")


def test_what_the_files_do_not_say_is_stated_and_wrong_statements_are_refused(review: Path) -> None:
    found = reply("state", review, "--field", "axial", "--kind", "temperature")["results"][0]
    assert next(f for f in found["fields"] if f["name"] == "axial")["kind"] == "temperature"
    assert "needs the materials' constants" in refused("read", review, "--field", "stress", "--of", "error")
    for arguments, words in (
        (("--kind", "stress"), "Add --field"),
        (("--field", "axial", "--kind", "velocity"), "cannot be a velocity"),
        (("--axes", "a", "--third", "0,0"), "not a point"),
        (("--axes", "a", "--first", "0,0,2"), "on one line"),
        (("--model", "flat"), "is not a model"),
        (("--material", "steel", "--young", "1", "--poisson", "0"), "no material 'steel'"),
    ):
        assert words in refused("state", review, *arguments)


@pytest.mark.parametrize("suffix", ["vtu", "vtkhdf", "uff"])
def test_a_result_is_written_and_taken_in_again(review: Path, tmp_path: Path, suffix: str) -> None:
    answer = reply("export", review, tmp_path / f"bar.{suffix}")
    assert answer["steps"] == (1 if suffix == "vtu" else 2)
    reply("intake", tmp_path / "again.ironstone", tmp_path / f"bar.{suffix}")
    back = reply("read", tmp_path / "again.ironstone", "--field", "stress", "--measure", "xx", "--extremes")
    assert back["max"]["value"] == pytest.approx(60.0)
    assert "Formats written" in refused("export", review, tmp_path / "bar.doc")


def test_python_reads_in_five_lines(demo_file: Path) -> None:
    """The lines of the README."""
    import ironstone

    with ironstone.open(demo_file) as review:
        stress = review.result("lug, fine").read("stress", "hoop", axes="eye", averaging="material", step=-1)
        assert str(stress.quantity.units) == "megapascal"
        assert stress.quantity.max().to("kPa").magnitude == pytest.approx(1000 * stress.values.max())
        assert "averaged within each material" in stress.resolved.sentence()
        at = review.result("lug, fine").read("stress", "hoop", at="node:1000", axes="eye")
        assert len(at.values) == 8
        assert len(review.result("lug, fine").read("stress", at="elements").values) == 1080


def test_balance_says_what_is_left_over_and_which_sets_are_not_held(review: Path) -> None:
    """The bar's file holds reactions of -2.5 at each of four nodes and no load: its stress says what acts."""
    answer = reply("balance", review, "--about", "0,0,0", "--step", "first")
    assert {"step", "about", "applied", "reaction", "residual", "sets"} <= set(answer)
    assert answer["reaction"]["force"] == pytest.approx([-10.0, 0, 0]) and answer["verdict"] == "agrees"
    assert answer["applied"]["force"] == pytest.approx([10.0, 0, 0], abs=1e-9), "recovered from stress at free nodes"
    assert answer["reaction"]["moment"] == pytest.approx([0, -5.0, 5.0]), "4 x 2.5 at half a unit, about both axes"
    held = {s["name"]: s for s in answer["sets"]}
    assert held["fixed"]["held"] == "held" and held["fixed"]["force"] == pytest.approx([-10.0, 0, 0])
    assert held["tip"]["held"] == "free" and set(held["tip"]) >= {"name", "held", "force", "moment"}
    shown = runner.invoke(app, ["balance", str(review), "--step", "first"]).stdout
    assert shown.startswith("agrees") and "the set 'tip' is free" in shown and "holds no applied forces" in shown
    assert "is not a point" in refused("balance", review, "--about", "0,0")


def test_the_balance_of_a_loaded_model_agrees_on_both_shapes(lug: Path) -> None:
    for more in ((), ("--deformed",)):
        answer = reply("balance", lug, "--step", "first", *more)
        assert answer["verdict"] == "agrees" and answer["deformed"] is bool(more)
        assert answer["applied"]["force"][0] == pytest.approx(-answer["reaction"]["force"][0], rel=1e-6)


def test_loop_tells_envelope_ductility_and_what_repetition_leaves(tmp_path: Path) -> None:
    """Elastic-perfectly-plastic, yield at 1 mm and 10 kN, twice to 3 mm."""
    x = np.concatenate([np.linspace(0, 3, 60), *(np.linspace(a, b, 121)[1:] for a, b in ((3, -3), (-3, 3), (3, -3), (-3, 3)))])
    y, force = [0.0], 0.0
    for step in np.diff(x):
        force = float(np.clip(force + 10.0 * step, -10.0, 10.0))
        y.append(force)
    curve = tmp_path / "loop.csv"
    curve.write_text("u,F\nmm,kN\n" + "\n".join(f"{a:.6f},{b:.6f}" for a, b in zip(x, y, strict=True)))
    answer = reply("loop", curve, "--x", "u", "--y", "F")
    assert answer["envelope_x"] == pytest.approx([-3, 0, 3]) and answer["envelope_y"] == pytest.approx([-10, 0, 10])
    assert answer["yield_at"] == pytest.approx(1.0, rel=0.03)
    assert [c["ductility"] for c in answer["cycles"]] == pytest.approx([3.0, 3.0], rel=0.03)
    assert [c["retained"] for c in answer["cycles"]] == pytest.approx([1.0, 1.0])
    assert answer["cycles"][0]["energy"] == pytest.approx(4 * 10 * (3 - 1), rel=0.01), "4 Fy (mu - 1) uy"


def test_names_are_given_and_what_was_removed_comes_back(review: Path) -> None:
    assert said("rename", review, "Bars") == "The review is now called Bars."
    said("rename", review, "coarse", "--result", "bar")
    assert "coarse" in said("contents", review)
    assert "needs a name" in refused("rename", review, " ")
    flag = reply("keep", review, "flag", "node=8", "name=root")["id"]
    assert said("removed", review) == "Nothing was removed."
    said("remove", review, flag)
    assert reply("removed", review)["removed"] == [{"id": flag, "kind": "flag", "what": "Flag at node 8", "result": 1}]
    assert said("bring-back", review, flag) == "Flag at node 8 is back."
    assert [k["id"] for k in reply("kept", review, "flag")["kept"]] == [flag]
    assert "not among what was removed" in refused("bring-back", review, flag)


def test_axes_of_a_bore_are_made_from_three_nodes_round_it(lug: Path) -> None:
    with Review.open(lug) as opened:
        mesh, known = opened.result().mesh, opened.result().setup.axes["eye"]
        local = (mesh.points - known.origin) @ np.array(known.matrix).T
    radius = np.hypot(local[:, 0], local[:, 1])
    rim = np.flatnonzero((radius < radius.min() * 1.001) & (local[:, 2] < local[:, 2].min() + 1e-6))
    nodes = mesh.node_ids[rim[[0, len(rim) // 3, 2 * len(rim) // 3]]].tolist()
    made = reply("axes", lug, "bore", "how=nodes", f"nodes={nodes}")
    assert made["kind"] == "cylindrical" and f"radius {radius.min():.5g}" in made["how"]
    assert np.allclose(np.abs(np.dot(made["third"], known.matrix[2])), 1.0)
    there = ("--field", "stress", "--measure", "hoop", "--at", f"node:{nodes[1]}")
    values = [[v["value"] for v in reply("read", lug, *there, "--axes", a)["values"]] for a in ("bore", "eye")]
    assert np.allclose(*values)
    assert "three different nodes" in refused("axes", lug, "x", "how=nodes", "nodes=[1,1,1]")


def test_files_are_opened_in_a_review_beside_them_and_taken_in_once(bar_files: list[Path], tmp_path: Path) -> None:
    assert bar_files[0].with_suffix(".ironstone").name in said("open", *bar_files, "--prepare")
    review = bar_files[0].with_suffix(".ironstone")
    said("open", *bar_files, "--prepare")
    assert len(reply("contents", review)["results"]) == 1, "the same files are not taken in again"
    said("open", bar_files[0], "--prepare", "--review", review)
    assert len(reply("contents", review)["results"]) == 2
    broken = tmp_path / "broken.vtu"
    broken.write_text("<VTKFile")
    assert "broken.vtu" in refused("open", broken, "--prepare")
    assert not broken.with_suffix(".ironstone").exists()
    assert "no file" in refused("open", tmp_path / "none.vtu", "--prepare")
