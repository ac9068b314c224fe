"""Questions of motion, asked of files as others write them: VTK's own writer, pyuff, meshio."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import meshio
import numpy as np
import pytest
import pyuff
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.engine.base import ask, keep, question_of, thing_of
from ironstone.engine.reading.pictures import ArrowsQuery, drawn_arrows
from ironstone.store import Review, intake
from ironstone.store.describe import rail
from tests.writing import bar_of_hexahedra, write_vtu

RHO, SPAN, COUNT = 7.85e-9, 1000.0, 20
# beta L of a cantilever (from memory).
BETA = (1.875104, 4.694091, 7.854757)


def bending(x: np.ndarray, k: int) -> np.ndarray:
    b = BETA[k]
    s = (np.cosh(b) + np.cos(b)) / (np.sinh(b) + np.sin(b))
    return np.cosh(b * x) - np.cos(b * x) - s * (np.sinh(b * x) - np.sin(b * x))


def beam(count: int = COUNT) -> tuple[np.ndarray, list[tuple[int, list[int]]]]:
    """Bricks 20 x 20 along x, nodes shared."""
    x = np.linspace(0, SPAN, count + 1)
    square = np.array([[-10, -10], [10, -10], [10, 10], [-10, 10]], dtype=float)
    points = np.concatenate([np.column_stack([np.full(4, at), square]) for at in x])
    return points, [(12, [*range(4 * i, 4 * i + 4), *range(4 * i + 4, 4 * i + 8)]) for i in range(count)]


def shapes_of(points: np.ndarray) -> list[np.ndarray]:
    """First bending along y and z, second along z: sections stay plane and upright to the axis."""
    found = []
    for k, axis in ((0, 1), (0, 2), (1, 2)):
        x = points[:, 0] / SPAN
        shape = np.zeros((len(points), 3))
        shape[:, axis] = bending(x, k)
        slope = (bending(np.minimum(x + 1e-5, 1), k) - bending(np.maximum(x - 1e-5, 0), k)) / (2e-5 * SPAN)
        shape[:, 0] = -points[:, axis] * slope
        found.append(shape)
    return found


FREQUENCIES = (16.1, 16.15, 101.0)


def modes_written(folder: Path, name: str, count: int = COUNT, turn: float = 0.0, factor: float = 1.0) -> list[Path]:
    """Modes as solvers write them, a file a mode, frequency and number in the field data; turn: of the first two in their plane."""
    points, cells = beam(count)
    first, second, third = shapes_of(points)
    c, s = np.cos(turn), np.sin(turn)
    files = []
    for k, shape in enumerate((c * first + s * second, c * second - s * first, third)):
        path = folder / f"{name}_{k}.vtu"
        write_vtu(path, points, cells, {"displacement": shape}, totals={"Frequency": factor * FREQUENCIES[k], "Mode": k + 1.0})
        files.append(path)
    return files


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "motion.ironstone") as opened:
        yield opened


def with_modes(review: Review, folder: Path, name: str = "model", **more: float) -> int:
    result = intake(review, modes_written(folder, name, **more), name)  # type: ignore[arg-type]
    review.set_constants(result, review.result(result).mesh.material_or_part_names[0], {"density": RHO})
    return result


def asked(review: Review, kind: str, **words: object):
    return ask(review, question_of(kind, words))


def test_modes_of_a_cantilever_have_the_effective_masses_of_the_handbooks(review: Review, tmp_path: Path) -> None:
    with_modes(review, tmp_path)
    found = asked(review, "modes")
    assert [m["frequency"] for m in found.more["modes"]] == pytest.approx(FREQUENCIES)
    total = found.more["total_mass"]
    assert total == pytest.approx(RHO * SPAN * 400)
    share = np.array([m["effective_mass"] for m in found.more["modes"]]) / total
    assert share[:, 1] == pytest.approx([0.613, 0, 0], abs=0.003)
    assert share[:, 2] == pytest.approx([0, 0.613, 0.188], abs=0.003)
    assert share[0, 0] == 0.0, "what is rounding is nothing"
    assert [m["near"] for m in found.more["modes"]] == [[2], [1], []]
    assert found.state == "doubt" and "61 % along y" in found.verdict
    assert [s.label for s in review.result().steps] == ["mode 1, 16.1 Hz", "mode 2, 16.15 Hz", "mode 3, 101 Hz"]


def test_without_a_mass_the_modes_say_so_and_a_stated_total_is_spread(review: Review, tmp_path: Path) -> None:
    intake(review, modes_written(tmp_path, "bare"), "bare")
    bare = asked(review, "modes")
    assert bare.more["total_mass"] is None and bare.more["modes"][0]["effective_mass"] == [None] * 3
    assert any("mass is not known" in c for c in bare.caveats) and bare.verdict == ""
    stated = asked(review, "modes", total=2.0)
    assert stated.more["modes"][0]["effective_mass"][1] == pytest.approx(2 * 0.613, rel=0.01)
    keep(review, thing_of("mass", {"result": review.result().id, "total": 3000.0, "unit": "kg"}))
    kept = asked(review, "modes")
    assert kept.more["total_mass"] == pytest.approx(3.0) and "stated total" in kept.figures[1].how
    assert kept.more["modes"][0]["effective_mass"][1] == pytest.approx(3 * 0.613, rel=0.01)
    with pytest.raises(IronstoneError, match="cannot be converted"):
        keep(review, thing_of("mass", {"result": review.result().id, "total": 3.0, "unit": "N"}))
    review.set_constants(review.result().id, review.result().mesh.material_or_part_names[0], {"density": RHO})
    assert asked(review, "modes").more["total_mass"] == pytest.approx(RHO * 20 * 20 * SPAN), "densities tell it better"


def test_shapes_are_scaled_to_one_or_to_unit_mass_and_what_they_move_stays(review: Review, tmp_path: Path) -> None:
    intake(review, modes_written(tmp_path, "bare"), "bare")
    with pytest.raises(Impossible, match="Without the mass"):
        asked(review, "modes", scaled="mass")
    assert [m["largest"] for m in asked(review, "modes", scaled="one").more["modes"]] == pytest.approx([1.0] * 3)
    with_modes(review, tmp_path)
    filed, one, mass = (asked(review, "modes", scaled=how) for how in ("file", "one", "mass"))
    assert "as the file has them" in filed.sentence and "largest motion of 1" in one.sentence and "unit modal mass" in mass.sentence
    for a, b, c in zip(filed.more["modes"], one.more["modes"], mass.more["modes"], strict=True):
        assert b["largest"] == pytest.approx(1.0) and c["modal_mass"] == pytest.approx(1.0)
        assert b["modal_mass"] == pytest.approx(a["modal_mass"] / a["largest"] ** 2)
        for scaled in (b, c):
            assert scaled["effective_mass"] == pytest.approx(a["effective_mass"])
            # Effective mass is participation squared times modal mass.
            again = [p**2 * scaled["modal_mass"] for p in scaled["participation"]]
            assert again == pytest.approx(a["effective_mass"], abs=1e-9)


def test_a_result_without_modes_says_what_its_steps_are(review: Review, bar_files: list[Path]) -> None:
    intake(review, bar_files, "bar")
    for kind, words in (("modes", {}), ("mac", {"other": "bar"})):
        with pytest.raises(Impossible, match="no modes: its steps are told by time"):
            asked(review, kind, **words)
    with pytest.raises(Impossible, match="no sweep"):
        asked(review, "response", field="displacement", measure="x", at="node:1")


def test_modes_of_another_mesh_with_turned_shapes_are_paired_as_a_whole(review: Review, tmp_path: Path) -> None:
    with_modes(review, tmp_path)
    with_modes(review, tmp_path, "finer", count=33, turn=np.radians(40), factor=1.02)
    found = asked(review, "mac", result="model", other="finer")
    assert [(p["of"], p["with"], p["together"]) for p in found.more["pairs"]] == [(1, 1, True), (2, 2, True), (3, 3, False)]
    assert [p["mac"] for p in found.more["pairs"]] == pytest.approx([1, 1, 1], abs=2e-3)
    assert [p["deviation"] for p in found.more["pairs"]] == pytest.approx([1 / 1.02 - 1] * 3)
    assert found.more["matrix"][0][0] == pytest.approx(np.cos(np.radians(40)) ** 2, abs=5e-3)
    assert found.state == "good"
    assert "at 84 nodes of 'model'" in found.sentence, "at the nodes of the coarser one"
    with pytest.raises(IronstoneError, match="held against those of another"):
        asked(review, "mac", result="model", other="model")


def test_two_views_of_modes_go_together_by_shape_and_not_by_number(review: Review, tmp_path: Path) -> None:
    with_modes(review, tmp_path)
    files = modes_written(tmp_path, "crossed", factor=0.97)
    intake(review, [files[k].rename(tmp_path / f"order_{n}.vtu") for n, k in enumerate((2, 0, 1))], "crossed")
    found = asked(review, "matched-steps", result="model", other="crossed")
    assert found.more["steps"][2] == 0, "the second bending stands first there"
    assert set(found.more["steps"][:2]) == {1, 2}
    assert found.more["same"] == [True] * 3


def file_of_a_test(path: Path) -> Path:
    """Two accelerometer lines across z alone, beside the surface, by pyuff: second bending first and reversed, then the first."""
    x = np.linspace(100, 1000, 10)
    numbers, ones = np.arange(1, 11), np.ones(10, dtype=int)
    sets = [pyuff.prepare_15(node_nums=numbers, def_cs=ones, disp_cs=ones, color=ones, x=x, y=0 * x, z=0 * x + 12.0)]
    for k, (shape, f) in enumerate(((-bending(x / SPAN, 1), 99.0), (bending(x / SPAN, 0), 16.0)), start=1):
        sets.append(
            pyuff.prepare_55(
                id1="test", id2="NONE", id3="NONE", id4="NONE", id5="NONE", model_type=1, analysis_type=2, data_ch=2,
                spec_data_type=8, data_type=2, n_data_per_node=3, r1=0 * x, r2=0 * x, r3=shape, node_nums=numbers, load_case=1,
                mode_n=k, freq=f, modal_m=0.0, modal_damp_vis=0.0, modal_damp_his=0.0,
            )
        )  # fmt: skip
    pyuff.UFF(str(path)).write_sets(sets, mode="overwrite")
    return path


def test_measured_shapes_of_a_universal_file_are_held_against_the_model(review: Review, tmp_path: Path) -> None:
    with_modes(review, tmp_path)
    intake(review, [file_of_a_test(tmp_path / "test.uff")], "tested")
    for of, other in (("model", "tested"), ("tested", "model")):
        found = asked(review, "mac", result=of, other=other)
        pairs = {(p["of"], p["with"]): p for p in found.more["pairs"]}
        assert set(pairs) == ({(2, 2), (3, 1)} if of == "model" else {(2, 2), (1, 3)})
        assert all(p["mac"] == pytest.approx(1.0, abs=1e-3) for p in pairs.values())
        turned = pairs[(3, 1) if of == "model" else (1, 3)]
        assert turned["reversed"]
        assert any("Nothing was measured along x and y" in c for c in found.caveats)
        assert any("beside the body" in c for c in found.caveats), "12 is 2 above the face at 10"
        hidden = found.more["of_alone" if of == "model" else "with_alone"]
        assert hidden == [], "the bending along y cannot be seen there"
        assert any("Mode 1 of 'model' moves along what was not measured" in c for c in found.caveats)


def test_the_command_holds_modes_against_a_file_and_keeps_nothing_of_it(review: Review, tmp_path: Path) -> None:
    with_modes(review, tmp_path)
    file, path = file_of_a_test(tmp_path / "test.uff"), str(review.path)
    before = [r.name for r in review.results()]
    run = CliRunner().invoke(app, ["mac", path, "--of", "model", "--with", str(file), "--json"])
    assert run.exit_code == 0, run.output
    said = json.loads(run.output)
    assert [(p["of"], p["with"]) for p in said["pairs"]] == [(2, 2), (3, 1)]
    assert len(said["matrix"]) == 3 and len(said["matrix"][0]) == 2
    assert {"mac", "deviation"} <= set(said["pairs"][0])
    listed = json.loads(CliRunner().invoke(app, ["modes", path, "--json"]).output)
    assert {"number", "frequency", "participation", "effective_mass"} <= set(listed["modes"][0])
    assert [r.name for r in review.results()] == before


# A sweep -------------------------------------------------------------------------------------------------------------------------

OWN, ZETA = 20.0, 0.02
SWEPT = np.concatenate([np.linspace(5, 18, 14), np.linspace(18.5, 21.5, 13), np.linspace(22, 60, 20)])


def transfer(f: np.ndarray) -> np.ndarray:
    r = f / OWN
    return 1.0 / (1 - r**2 + 2j * ZETA * r)


def sweep_written(folder: Path) -> list[Path]:
    """A body of one brick that moves along z as one mass does, and a sound pressure at its nodes, by meshio."""
    points = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=float)
    brick = [("hexahedron", np.array([[0, 4, 6, 2, 1, 5, 7, 3]]))]
    files = []
    for k, f in enumerate(SWEPT):
        h = transfer(np.array([f]))[0]
        moved = np.zeros((8, 3), dtype=complex)
        moved[:, 2] = 3e-3 * h
        moved[4:, 0] = 1j * 1e-3 * h
        # As a wave goes by: every node half a turn from the next.
        sound = 2.0 * np.exp(1j * np.pi * np.arange(8))
        data = {
            "displacement_real": moved.real, "displacement_imag": moved.imag,
            "pressure_real": sound.real, "pressure_imag": sound.imag, "lower": (np.arange(8) < 4).astype(np.uint8),
        }  # fmt: skip
        path = folder / f"sweep_{k:02d}.vtu"
        meshio.Mesh(points, brick, point_data=data, field_data={}).write(path)
        files.append(path)
    return files


@pytest.fixture
def swept(review: Review, tmp_path: Path) -> Review:
    result = intake(review, sweep_written(tmp_path), "sweep", "m-N-s-kg-Pa")
    review.set_steps(result, "frequency", " ".join(str(f) for f in SWEPT))
    return review


def test_a_response_is_that_of_one_mass_with_its_damping(swept: Review) -> None:
    found = asked(swept, "response", field="displacement", measure="z", at="node:1", unit="mm")
    expected = 3.0 * transfer(SWEPT)
    assert found.more["real"] == pytest.approx(expected.real, abs=1e-9)
    assert found.more["imaginary"] == pytest.approx(expected.imag, abs=1e-9)
    assert found.more["phase"] == pytest.approx(np.degrees(np.angle(expected)), abs=1e-6)
    (peak,) = found.more["peaks"]
    assert peak["frequency"] == pytest.approx(OWN * np.sqrt(1 - 2 * ZETA**2), rel=1e-5)
    assert peak["amplitude"] == pytest.approx(3.0 / (2 * ZETA * np.sqrt(1 - ZETA**2)), rel=1e-4)
    assert peak["damping"] == pytest.approx(ZETA, rel=2e-3)
    assert found.unit == "mm" and "mag" in found.sentence


def test_a_measure_that_is_no_component_has_its_peak_over_the_cycle_and_no_phase(swept: Review) -> None:
    """z and x a quarter turn apart: the largest of the length over a cycle is that of z."""
    found = asked(swept, "response", field="displacement", measure="magnitude", at="node:7", unit="mm")
    assert found.more["amplitude"] == pytest.approx(3.0 * np.abs(transfer(SWEPT)), rel=2e-3)
    assert found.more["phase"] == [None] * len(SWEPT)
    assert any("no phase" in c for c in found.caveats)


def test_levels_of_sound_are_of_the_root_mean_square_and_spread_over_a_set_by_energy(swept: Review) -> None:
    level = 20 * np.log10(2 / np.sqrt(2) / 20e-6)
    found = asked(swept, "response", field="pressure", measure="value", at="node:1", db=True, reference=20e-6)
    assert found.more["amplitude"] == pytest.approx([level] * len(SWEPT))
    assert found.more["level_unit"] == "dB" and "root mean square" in found.sentence
    lines = int(((SWEPT > 1000 * 10**-1.75) & (SWEPT < 1000 * 10**-1.65)).sum())
    band = next(level for centre, level in found.more["bands"] if round(centre) == 20)
    assert band == pytest.approx(level + 10 * np.log10(lines)), "the energies of its lines added up"
    assert sum("third octave is the sum" in c for c in found.caveats) == int(np.ptp(np.diff(SWEPT)) > 1e-3 * np.diff(SWEPT).mean())
    spread = asked(swept, "response", field="pressure", measure="value", at="set:lower", db=True)
    assert spread.more["amplitude"] == pytest.approx([level] * len(SWEPT)), "by energy, though its nodes move against each other"
    weighted = asked(swept, "response", field="pressure", measure="value", at="node:1", db=True, weighting="A")
    assert weighted.more["amplitude"][0] < level - 60, "5 Hz is hardly heard"
    with pytest.raises(IronstoneError, match="those of a level"):
        asked(swept, "response", field="pressure", measure="value", at="node:1", weighting="A")


def test_reactions_of_a_harmonic_motion_are_not_made_up_from_its_stress(motion_file: Path) -> None:
    with Review.open(motion_file) as opened, pytest.raises(Impossible, match="cannot be told from what inertia does"):
        asked(opened, "balance", result="post, sweep")


def test_arrows_of_a_harmonic_stand_as_they_do_at_the_phase_in_view(swept: Review) -> None:
    source = swept.result()
    # Beside the resonance both parts are there.
    step = int(np.argmax(np.abs(transfer(SWEPT)))) + 1
    h = 3e-3 * transfer(SWEPT)[step]
    for phase, expected in (("0", h.real), ("90", -h.imag), ("180", -h.real), ("peak", h.real)):
        head, arrays = drawn_arrows(source, ArrowsQuery(field="displacement", step=step, spacing=0.0, phase=phase))
        assert arrays["values"][:, 2] == pytest.approx(np.full(8, expected), rel=1e-6, abs=1e-12)
        assert arrays["displacement"][:, 2] == pytest.approx(np.full(8, expected), rel=1e-6, abs=1e-12)
        assert head["field"] == f"displacement at phase {0 if phase == 'peak' else phase}°" and head["unit"] == "m"


def test_the_command_prints_a_response(swept: Review) -> None:
    words = [
        "response",
        str(swept.path),
        "--field",
        "displacement",
        "--measure",
        "z",
        "--at",
        "node:1",
        "--db",
        "--reference",
        "1e-6",
        "--json",
    ]
    run = CliRunner().invoke(app, words)
    assert run.exit_code == 0, run.output
    said = json.loads(run.output)
    assert said["amplitude"] == pytest.approx(20 * np.log10(3e-3 * np.abs(transfer(SWEPT)) / 1e-6), abs=1e-6)
    assert {"frequency", "amplitude", "phase", "peaks"} <= set(said)


def test_the_command_holds_a_response_against_a_file_and_keeps_nothing_of_it(swept: Review, tmp_path: Path) -> None:
    h = 3.0 * transfer(SWEPT)
    rows = "".join(f"{f:.6g},{abs(v):.9g},{np.degrees(np.angle(v)):.9g}\n" for f, v in zip(SWEPT, h, strict=True))
    (tmp_path / "shaker.csv").write_text("frequency,amplitude,phase\nHz,mm,deg\n" + rows)
    words = ["response", str(swept.path), "--field", "displacement", "--measure", "z", "--at", "node:1"]
    done = CliRunner().invoke(app, [*words, "--test", str(tmp_path / "shaker.csv"), "--json"])
    assert done.exit_code == 0, done.output
    held = json.loads(done.stdout)["agreement"]
    assert held["frac"] == pytest.approx(1.0, abs=1e-6) and held["state"] == "good" and held["pairs"][0]["verdict"] == "agrees"
    told = CliRunner().invoke(app, [*words, "--test", str(tmp_path / "shaker.csv")])
    assert "1 of 1 peaks agree" in told.stdout
    missing = CliRunner().invoke(app, [*words, "--test", str(tmp_path / "none.csv"), "--json"])
    assert missing.exit_code == 2 and "none.csv" in missing.stderr
    (tmp_path / "load.csv").write_text("frequency,force\nHz,N\n" + "".join(f"{f},1\n" for f in SWEPT))
    other = CliRunner().invoke(app, [*words, "--test", str(tmp_path / "load.csv")])
    assert other.exit_code == 2 and "is in N" in other.stderr
    assert swept.items("test") == []


def test_a_response_leaves_as_a_universal_file_that_is_read_back(swept: Review, tmp_path: Path) -> None:
    """By pyuff, and as a test record of the product itself."""
    file = tmp_path / "response.uff"
    words = ["response", str(swept.path), "--field", "displacement", "--measure", "z", "--at", "node:1", "--unit", "mm"]
    run = CliRunner().invoke(app, [*words, "-o", str(file)])
    assert run.exit_code == 0, run.output
    read = pyuff.UFF(str(file)).read_sets(0)
    assert read["type"] == 58
    assert read["x"] == pytest.approx(SWEPT)
    assert read["data"] == pytest.approx(3.0 * transfer(SWEPT), rel=1e-4)
    refused = CliRunner().invoke(app, [*words[:5], "magnitude", *words[6:], "-o", str(file)])
    assert refused.exit_code == 2 and "without a phase" in refused.output + refused.stderr


# Shares of modes -----------------------------------------------------------------------------------------------------------------


def motion_written(folder: Path, q: np.ndarray, count: int = COUNT) -> list[Path]:
    points, cells = beam(count)
    shapes = np.stack(shapes_of(points))
    return [
        write_vtu(
            folder / f"motion_{count}_{k:03d}.vtu",
            points,
            cells,
            {"displacement": np.einsum("m,mnd->nd", row, shapes)},
            time=0.01 * k,
        )
        for k, row in enumerate(q)
    ]


@pytest.mark.parametrize("count", [COUNT, 40])
def test_what_each_mode_adds_at_a_place_is_what_was_put_there(review: Review, tmp_path: Path, count: int) -> None:
    """On the mesh of the modes, and on another one."""
    with_modes(review, tmp_path)
    t = 0.01 * np.arange(40)
    q = np.stack([0.2 * np.sin(9 * t), 1.5 * np.cos(7 * t), 0.4 * np.sin(40 * t)], axis=1)
    result = intake(review, motion_written(tmp_path, q, count), "motion")
    review.set_constants(result, review.result(result).mesh.material_or_part_names[0], {"density": RHO})
    found = asked(review, "mode-shares", result="motion", modes="model", at="point:1000,0,0", measure="z", step=7, chosen=[2])
    tip = [0.0, 2.0, bending(np.ones(1), 1)[0]]
    exact = 1e-6 if count == COUNT else 0.02
    assert [m["value"] for m in found.more["modes"]] == pytest.approx(q[7] * tip, rel=exact, abs=exact)
    assert found.more["rebuilt"] == pytest.approx(q[:, 1] * 2.0, rel=exact, abs=2 * exact)
    assert found.more["whole"] == pytest.approx(q @ tip, rel=exact, abs=exact)
    assert found.more["left_here"] == pytest.approx(0.0, abs=exact if count != COUNT else 1e-5)
    assert [m["chosen"] for m in found.more["modes"]] == [False, True, False]
    with pytest.raises(IronstoneError, match="numbered from 1 to 3"):
        asked(review, "mode-shares", result="motion", modes="model", at="node:1", measure="z", chosen=[4])


def test_a_motion_in_time_tells_its_spectrum_decay_and_shock(review: Review, tmp_path: Path) -> None:
    t = 0.01 * np.arange(160)
    q = np.zeros((160, 3))
    q[:, 1] = np.exp(-0.02 * 2 * np.pi * 6 * t) * np.cos(2 * np.pi * 6 * t)
    intake(review, motion_written(tmp_path, q), "motion")
    words = {"field": "displacement", "measure": "z", "at": "point:1000,0,0"}
    decay = asked(review, "decay", **words)
    assert decay.more["damping"] == pytest.approx(0.02, rel=0.02)
    assert decay.more["frequency"] == pytest.approx(6.0, rel=0.005)
    spectrum = asked(review, "spectrum", **words)
    top = int(np.argmax(spectrum.more["amplitude"]))
    assert spectrum.more["frequency"][top] == pytest.approx(6.0, abs=spectrum.more["resolution"])
    assert "Hann window" in spectrum.sentence and f"{spectrum.more['resolution']:.4g} Hz apart" in spectrum.sentence
    changing = asked(review, "spectrogram", **words, lasts=0.5)
    assert changing.more["lasts"] == pytest.approx(0.5) and changing.more["resolution"] == pytest.approx(2.0)
    assert changing.columns[1].values == pytest.approx([6.0] * len(changing.more["time"])), "one tone all along"
    dies = np.array(changing.columns[2].values, dtype=float)
    assert dies[-1] / dies[0] == pytest.approx(np.exp(-0.02 * 2 * np.pi * 6 * np.ptp(changing.more["time"])), rel=0.05)
    assert np.array(changing.more["amplitude"]).shape == (len(changing.more["frequency"]), len(changing.more["time"]))
    with pytest.raises(Impossible, match="is of an acceleration"):
        asked(review, "shock", **words)
    shock = asked(review, "shock", **{**words, "field": "acceleration from displacement"}, damping=0.05, low=1.0, high=20.0)
    at = np.array(shock.more["frequency"])
    assert at[int(np.argmax(shock.more["response"]))] == pytest.approx(6.0, rel=0.05), "it shakes most what has its own frequency"


def bouncing(folder: Path) -> tuple[list[Path], float]:
    """A brick of 2 kg that falls on a spring and damper which let go of it: the motion of one mass, at small steps, as arrays of a
    file; and its restitution exp(-zeta w T) by the closed form of the linear contact (from memory)."""
    w, zeta, v0, mass = 2 * np.pi * 40.0, 0.15, -3.0, 2.0
    wd = w * np.sqrt(1 - zeta**2)
    # It lets go where the force comes back to zero.
    leaves = (np.pi - np.arctan2(2 * zeta * np.sqrt(1 - zeta**2), 1 - 2 * zeta**2)) / wd + 0.0
    points, cells, _ = bar_of_hexahedra(1, shared=True)
    t = np.linspace(-0.01, 0.03, 801)
    s = np.clip(t, 0.0, None)
    swing = np.exp(-zeta * w * s)
    u, v = v0 / wd * swing * np.sin(wd * s), v0 * swing * (np.cos(wd * s) - zeta * w / wd * np.sin(wd * s))
    force = np.where(t > 0, -mass * (w**2 * u + 2 * zeta * w * v), 0.0)
    out = np.flatnonzero((force < 0) & (t > 0.2 * leaves))[0]
    v[out:], force[out:] = v[out], 0.0
    v[t <= 0] = v0
    files = []
    for k, (time, speed, push) in enumerate(zip(t, v, force, strict=True)):
        data = {"velocity": np.tile([0.0, 0.0, speed], (8, 1)), "reaction": np.tile([0.0, 0.0, push / 8], (8, 1)),
                "all": np.r_[np.ones(7), 0].astype(np.uint8)}  # fmt: skip
        files.append(write_vtu(folder / f"bounce_{k:04d}.vtu", points, cells, data, time=time))
    return files, -v[-1] / v0


def test_a_bounce_tells_its_restitution_and_its_impulse_is_its_change_of_momentum(review: Review, tmp_path: Path) -> None:
    files, expected = bouncing(tmp_path)
    result = intake(review, files, "bounce", "m-N-s-kg-Pa")
    speed = {"field": "velocity", "measure": "z", "at": "node:0"}
    pushes = {"field": "reaction", "measure": "z", "at": "set:all", "reduce": "sum"}
    source = review.result()
    node = int(source.mesh.node_ids[0])
    words = {"speed": {**speed, "at": f"node:{node}"}, "force": pushes, "mass": 2.0}
    found = asked(review, "rebound", **words)
    assert found.more["before"] == pytest.approx(-3.0)
    assert found.more["restitution"] == pytest.approx(expected, rel=1e-4)
    # Schwager and Poeschel (2007), from memory: a contact of spring and damper that ends where it would pull.
    z = 0.15
    turn = np.pi - np.arctan(2 * z * np.sqrt(1 - z**2) / (1 - 2 * z**2))
    assert found.more["restitution"] == pytest.approx(np.exp(-z / np.sqrt(1 - z**2) * turn), rel=2e-3)
    # The set holds seven of the eight nodes that push.
    assert found.more["impulse"] == pytest.approx(7 / 8 * found.more["momentum"], rel=0.01)
    assert found.state == "bad" and "12.6 % off" in found.verdict
    assert found.more["begins"] == pytest.approx(0.0, abs=1e-4)
    review.set_constants(result, source.mesh.material_or_part_names[0], {"density": 2.0})
    whole = asked(review, "rebound", **{**words, "mass": None, "part": source.mesh.part_names[0]})
    assert whole.more["mass"] == pytest.approx(2.0)
    plain = asked(review, "rebound", at=f"node:{node}", axis="z", pushed="all", part=source.mesh.part_names[0])
    assert plain.more == whole.more and len(plain.more["force"]) == len(plain.more["time"])
    with pytest.raises(IronstoneError, match="cannot be told"):
        asked(review, "rebound", speed=words["speed"])
    with pytest.raises(IronstoneError, match="What moves is not named"):
        asked(review, "rebound", mass=2.0)
    with pytest.raises(Impossible, match="no speed"):
        asked(review, "rebound", speed=pushes, begins=0.0, ends=0.01)


def test_a_mode_without_a_frequency_is_no_frequency_of_its_number(review: Review, tmp_path: Path) -> None:
    points, cells = beam(2)
    files = [
        write_vtu(tmp_path / f"mode_{k}.vtu", points, cells, {"displacement": points}, totals={"Mode": k + 1.0}) for k in range(2)
    ]
    intake(review, files, "bare")
    assert [s.kind for s in review.result().steps] == ["number"] * 2
    assert any("no frequency" in w for w in review.result().warnings)
    with pytest.raises(Impossible, match="no modes"):
        asked(review, "modes")


def test_modes_are_opened_at_the_lowest(review: Review, tmp_path: Path) -> None:
    intake(review, modes_written(tmp_path, "modes"), "modes")
    assert rail(review.result())["opening_step"] == 0
