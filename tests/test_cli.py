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

from ironstone.cli import app
from tests.conftest import DATA

runner = CliRunner()


def told(*args: str | Path) -> dict:
    answer = runner.invoke(app, [*map(str, args), "--json"])
    assert answer.exit_code == 0, answer.output + answer.stderr
    found: dict = json.loads(answer.stdout)
    return found


def refused(*args: str | Path) -> str:
    answer = runner.invoke(app, [*map(str, args)])
    assert answer.exit_code == 2
    assert answer.stdout == ""
    assert "Traceback" not in answer.stderr
    return answer.stderr


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path) -> Path:
    path = tmp_path / "cli.ironstone"
    told("intake", path, *bar_files)
    return path


def test_intake_and_contents_say_what_is_inside(bar_files: list[Path], tmp_path: Path) -> None:
    path = tmp_path / "new.ironstone"
    taken = told("intake", path, *bar_files)
    assert taken["results"][0]["name"] == "bar"
    found = told("contents", path)["results"][0]
    assert {"name", "nodes", "elements", "parts", "sets", "steps", "fields", "warnings"} <= set(found)
    assert found["nodes"] == 16 and found["elements"] == 3
    assert found["steps"][1] == {"index": 1, "kind": "time", "value": 0.5, "unit": "s", "label": "t = 0.5 s"}
    stress = next(f for f in found["fields"] if f["name"] == "stress")
    assert (stress["kind"], stress["location"], stress["unit"], stress["guessed"]) == ("stress", "corner", "MPa", True)


def test_read_at_a_node_lists_every_element_and_the_jump(review: Path) -> None:
    answer = told("read", review, "--field", "stress", "--measure", "xx", "--at", "node:5", "--step", "first")
    assert sorted(v["value"] for v in answer["values"]) == [10.0, 20.0]
    assert answer["jump"] == pytest.approx(10.0)
    assert set(answer["values"][0]) == {"place", "value", "element", "node", "part", "xyz"}
    assert answer["step"]["index"] == 0


def test_read_chooses_steps_and_units(review: Path) -> None:
    read = ("read", review, "--field", "stress", "--measure", "von-mises", "--at", "element:0")
    assert told(*read)["values"][0]["value"] == pytest.approx(20.0), "the last step is the usual one"
    assert told(*read, "--step", "t=0.1", "--unit", "kPa")["values"][0]["value"] == pytest.approx(10_000.0)
    assert told(*read, "--step", "1")["sentence"].startswith("von Mises of stress, each corner as computed")


def test_extremes_say_where(review: Path) -> None:
    answer = told("read", review, "--field", "stress", "--measure", "xx", "--extremes", "--step", "0")
    assert answer["max"]["value"] == 30.0 and answer["max"]["element"] == 2 and answer["max"]["part"] == "part 2"
    assert answer["min"]["value"] == 10.0


def test_read_at_a_point_and_over_a_set(review: Path) -> None:
    point = told("read", review, "--field", "displacement", "--measure", "x", "--at", "point:1.5,0.5,0.5", "--step", "0")
    assert point["values"][0]["value"] == pytest.approx(0.015)
    tip = told("read", review, "--field", "displacement", "--measure", "x", "--at", "set:tip", "--step", "0")
    assert [v["value"] for v in tip["values"]] == pytest.approx([0.03] * 4)


def test_a_missing_value_is_null(tmp_path: Path, bar_files: list[Path]) -> None:
    from tests.writing import HEX, write_vtu

    path = write_vtu(tmp_path / "gap.vtu", HEX, [(12, list(range(8)))], {"stress": np.full((8, 6), np.nan)})
    told("intake", tmp_path / "gap.ironstone", path)
    answer = told("read", tmp_path / "gap.ironstone", "--field", "stress", "--at", "node:0", "--extremes")
    assert answer["values"][0]["value"] is None
    assert answer["max"] is None


def test_trace_of_a_set(review: Path) -> None:
    answer = told("trace", review, "--field", "reaction", "--measure", "x", "--at", "set:fixed", "--reduce", "sum", "--unit", "kN")
    assert answer["x"] == [0.0, 0.5] and answer["x_unit"] == "s"
    assert answer["y"] == pytest.approx([-0.010, -0.020])
    assert answer["unit"] == "kN"
    assert "summed over set fixed" in answer["sentence"]


def test_a_reaction_over_a_free_set_is_told(review: Path) -> None:
    answer = told("trace", review, "--field", "reaction", "--measure", "x", "--at", "set:tip", "--reduce", "sum")
    assert any("is not held" in c for c in answer["caveats"])


def test_loop_and_match_of_csv_files(tmp_path: Path) -> None:
    t = np.linspace(0, 6 * np.pi, 1201)
    rows = "\n".join(f"{np.sin(a):.9g},{3 * np.sin(a) + np.cos(a):.9g}" for a in t)
    curve = tmp_path / "curve.csv"
    curve.write_text(f"u,f\nmm,kN\n{rows}\n")
    loop = told("loop", curve, "--x", "u", "--y", "f")
    assert (loop["x_unit"], loop["y_unit"], loop["energy_unit"]) == ("mm", "kN", "kN·mm")
    assert [c["energy"] for c in loop["cycles"]] == pytest.approx([np.pi] * 2, rel=1e-4)
    assert set(loop["cycles"][0]) >= {"energy", "closed", "secant_stiffness", "damping_ratio", "x_peak", "y_peak"}
    turned = tmp_path / "test.csv"
    flipped = "\n".join(f"{np.sin(a):.9g},{-(3 * np.sin(a) + np.cos(a)) * 1000 + 200:.9g}" for a in t)
    turned.write_text(f"u,f\nmm,N\n{flipped}\n")
    answer = told("match", curve, turned, "--x", "u", "--y", "f", "--sign", "-1", "--zero", "200")
    assert answer["verdict"].startswith("Agrees:")
    assert answer["metrics"]["energy_total"]["ratio"] == pytest.approx(1.0)
    assert answer["corrections"] == ["f: zero shifted by -200 N", "f: sign turned"]


def test_the_demos_loop_from_the_command_line(demo_copy: Path, tmp_path: Path) -> None:
    force = told(
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
    driver = told("trace", demo_copy, "--field", "displacement", "--measure", "x", "--at", "set:driven", "--reduce", "mean")
    curve = tmp_path / "loop.csv"
    curve.write_text("u,f\nmm,kN\n" + "\n".join(f"{a},{b}" for a, b in zip(driver["y"], force["y"], strict=True)))
    assert len(told("loop", curve, "--x", "u", "--y", "f")["cycles"]) == 5
    answer = told(
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
        (("read", "--field", "stress", "--unit", "mm"), "cannot be turned into"),
        (("read", "--field", "stress", "--averaging", "some"), "not an averaging"),
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
    assert json.loads(answer.stdout)["results"][0]["name"] == "flexure B2"
