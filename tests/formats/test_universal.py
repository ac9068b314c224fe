"""Universal files: written here by hand after the published layouts, and against the package pyuff."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import pyuff

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.formats.out import write
from ironstone.formats.registry import RawArray, RawStep, steps_of
from ironstone.formats.tables import read_table
from ironstone.store import Review, intake
from tests.models import crooked


def block(number: int, *lines: str) -> str:
    return "\n".join(["    -1", f"{number:6d}", *lines, "    -1"]) + "\n"


NODES = block(
    2411,
    *(
        line
        for i, (x, y, z) in enumerate([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)])
        for line in (f"{10 * (i + 1):10d}{1:10d}{1:10d}{11:10d}", f"{x:25.16E}{y:25.16E}{z:25.16E}".replace("E", "D"))
    ),
)
QUAD = block(2412, f"{5:10d}{44:10d}{2:10d}{3:10d}{7:10d}{4:10d}", "".join(f"{n:10d}" for n in (10, 20, 30, 40)))
GROUP = block(2467, f"{1:10d}" + f"{0:10d}" * 6 + f"{3:10d}", "clamped",
              f"{7:10d}{10:10d}{0:10d}{0:10d}{7:10d}{40:10d}{0:10d}{0:10d}",
              f"{8:10d}{5:10d}{0:10d}{0:10d}")  # fmt: skip


def results(
    location: int, kind: int, width: int, rows: list[str], time: float = 0.25, data_type: int = 2, name: str = "run"
) -> str:
    character = {1: 1, 3: 2, 6: 4}[width]
    head = [f"{1:10d}", name, f"{location:10d}", "case A", "NONE", "NONE", "NONE", "NONE",
            f"{1:10d}{4:10d}{character:10d}{kind:10d}{data_type:10d}{width:10d}", f"{1:10d}" * 8, f"{0:10d}" * 2,
            f"{time:13.5E}" + f"{0.0:13.5E}" * 5, f"{0.0:13.5E}" * 6]  # fmt: skip
    return block(2414, *head, *rows)


def reals(*values: float) -> str:
    return "".join(f"{v:13.5E}" for v in values)


def test_nodes_elements_groups_and_results_at_nodes(tmp_path: Path) -> None:
    moved = results(1, 8, 3, [row for n in (10, 20, 30, 40) for row in (f"{n:10d}", reals(n / 10, 0.0, -1.0))])
    path = tmp_path / "plate.unv"
    path.write_text(NODES + QUAD + GROUP + moved)
    (step,) = steps_of(path)
    assert step.node_ids is not None and step.node_ids.tolist() == [10, 20, 30, 40]
    assert step.element_ids is not None and step.element_ids.tolist() == [5]
    assert step.types.tolist() == [9] and step.connectivity.tolist() == [0, 1, 2, 3]
    assert step.part_names == ("property 2",) and step.material_names == ("material 3",)
    assert step.node_sets["clamped"].tolist() == [0, 3] and step.element_sets["clamped"].tolist() == [0]
    assert step.point_data["displacement"].values[:, 0].tolist() == [1.0, 2.0, 3.0, 4.0]
    assert (step.time, step.kind, step.loading) == (0.25, "time", "case A")


def test_data_at_nodes_on_elements_belong_to_the_corners_in_the_files_own_order(tmp_path: Path) -> None:
    """A symmetric tensor is written xx, xy, yy, xz, yz, zz."""
    stress = results(
        3, 2, 6, [f"{5:10d}{1:10d}{4:10d}{6:10d}", *(reals(i, 10 + i, 20 + i, 30 + i, 40 + i, 50 + i) for i in range(4))]
    )
    path = tmp_path / "plate.unv"
    path.write_text(NODES + QUAD + stress)
    (step,) = steps_of(path)
    array = step.corner_data["stress"]
    assert array.components == ("xx", "xy", "yy", "xz", "yz", "zz")
    assert array.values[2].tolist() == [2, 12, 22, 32, 42, 52]


def test_two_times_are_two_steps_and_what_a_dataset_leaves_out_has_no_value(tmp_path: Path) -> None:
    rows = [f"{10:10d}", reals(1.0), f"{30:10d}", reals(3.0)]
    path = tmp_path / "plate.uff"
    path.write_text(NODES + QUAD + results(1, 5, 1, rows, 0.0) + results(1, 5, 1, rows, 1.0))
    steps = list(steps_of(path))
    assert [s.time for s in steps] == [0.0, 1.0]
    values = steps[1].point_data["temperature"].values[:, 0]
    assert values[[0, 2]].tolist() == [1.0, 3.0] and np.isnan(values[[1, 3]]).all()


def test_numbers_without_a_blank_between_them_are_told_apart(tmp_path: Path) -> None:
    """Fixed columns: a minus sign may fill the blank."""
    rows = [row for n in (10, 20, 30, 40) for row in (f"{n:10d}", "-1.00000E+00-2.00000E+00-3.00000E+00".replace("-1", " -1", 1))]
    rows = [r if r.strip().isdigit() else " -1.00000E+00 -2.00000E+00 -3.00000E+00" for r in rows]
    path = tmp_path / "plate.uff"
    path.write_text(NODES + QUAD + results(1, 8, 3, rows))
    (step,) = steps_of(path)
    assert step.point_data["displacement"].values[3].tolist() == [-1.0, -2.0, -3.0]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (NODES, "holds no elements"),
        (NODES + QUAD.replace("        30", "        99"), "names node 99"),
        (NODES + QUAD.replace("        44", "       944"), "descriptor 944"),
        ((NODES + QUAD)[:-40], "ends inside the dataset|is damaged"),
        (NODES + QUAD.replace("        20", "        2x"), "dataset 2412 .* is damaged"),
        ("hello\n" + NODES, "is no universal file"),
    ],
)
def test_what_is_wrong_with_a_file_is_told_with_its_place(tmp_path: Path, text: str, words: str) -> None:
    path = tmp_path / "bad.uff"
    path.write_text(text)
    with pytest.raises(IronstoneError, match=words):
        list(steps_of(path))


def test_pyuff_reads_the_nodes_and_nodal_results_we_write(tmp_path: Path) -> None:
    mesh = crooked(CELLS[12])
    step = RawStep(mesh.points, mesh.types, mesh.offsets, mesh.connectivity, {"displacement": RawArray(mesh.points * 3)}, time=0.5,
                   node_ids=mesh.node_ids)  # fmt: skip
    path = tmp_path / "cube.uff"
    write(path, iter([step]))
    file = pyuff.UFF(str(path))
    kinds = [int(k) for k in file.get_set_types()]
    nodes = file.read_sets(kinds.index(2411))
    assert nodes["node_nums"] == pytest.approx(mesh.node_ids)
    assert np.stack([nodes["x"], nodes["y"], nodes["z"]], 1) == pytest.approx(mesh.points)
    result = file.read_sets(kinds.index(2414))
    assert np.array(result["data_at_node"]) == pytest.approx(3 * mesh.points, rel=1e-5, abs=1e-5)


def test_curves_that_pyuff_writes_come_in_as_a_record(tmp_path: Path) -> None:
    path = tmp_path / "record.uff"
    time = np.arange(50) * 0.01
    file = pyuff.UFF(str(path))
    rest = {f"{axis}_{what}": 0 for axis in ("abscissa", "ordinate", "orddenom", "z_axis") for what in
            ("len_unit_exp", "force_unit_exp", "temp_unit_exp", "spec_data_type")}  # fmt: skip
    for label, values in (("gauge 1", np.sin(time)), ("gauge 2", np.cos(time))):
        one = pyuff.prepare_58(
            **{**rest, "abscissa_spec_data_type": 17, "ordinate_spec_data_type": 8},
            binary=0, func_type=1, ver_num=0, load_case_id=0, rsp_ent_name="NONE", rsp_node=1, rsp_dir=1, ref_ent_name="NONE",
            ref_node=1, ref_dir=1, data=values, x=time, id1=label, id2="NONE", id3="NONE", id4="NONE", id5="NONE", ord_data_type=4,
            num_pts=len(time), abscissa_spacing=1, abscissa_min=0.0, abscissa_inc=0.01, z_axis_value=0.0,
            abscissa_axis_units_lab="s", ordinate_axis_units_lab="mm", orddenom_axis_units_lab="NONE", z_axis_axis_units_lab="NONE",
            return_full_dict=True,
        )  # fmt: skip
        file.write_sets(one, "add")
    table = read_table(path)
    assert table.names[1:] == ("gauge 1", "gauge 2")
    assert table.units == ("s", "mm", "mm")
    assert table.column("gauge 2")[0] == pytest.approx(np.cos(time), abs=1e-5)


def complex_rows(values: np.ndarray) -> list[str]:
    """Rows of a dataset at nodes 10, 20, ..: real and imaginary part of each component side by side."""
    pairs = np.stack([values.real, values.imag], axis=-1).reshape(len(values), -1)
    rows = []
    for i, row in enumerate(pairs.tolist()):
        rows += [f"{10 * (i + 1):10d}", *(reals(*row[k : k + 6]) for k in range(0, len(row), 6))]
    return rows


def test_a_complex_result_is_a_harmonic_at_its_frequency(tmp_path: Path) -> None:
    rng = np.random.default_rng(4)
    moved = rng.normal(size=(4, 3)) + 1j * rng.normal(size=(4, 3))
    text = results(1, 8, 3, complex_rows(moved), data_type=5).replace(f"{4:10d}{2:10d}{8:10d}", f"{5:10d}{2:10d}{8:10d}")
    path = tmp_path / "sweep.unv"
    path.write_text(NODES + QUAD + text.replace(reals(0.25, 0, 0, 0, 0, 0), reals(0.0, 12.5, 0, 0, 0, 0)))
    (step,) = steps_of(path)
    array = step.point_data["displacement"]
    assert array.harmonic and (step.kind, step.time) == ("frequency", 12.5)
    assert array.values[:, :3] + 1j * array.values[:, 3:] == pytest.approx(moved, rel=1e-5, abs=1e-5)


def test_measured_modes_that_pyuff_writes_have_points_lines_and_complex_shapes(tmp_path: Path) -> None:
    """Datasets 15, 82 and 55 by an outside package: geometry without elements, complex modes with their frequency."""
    labels, xyz = [1, 2, 3, 4], np.array([[0.0, 0, 0], [1, 0, 0], [2, 0, 0.5], [3, 1, 0]])
    rng = np.random.default_rng(5)
    shapes = rng.normal(size=(2, 4, 3)) + 1j * rng.normal(size=(2, 4, 3))
    path = tmp_path / "measured.uff"
    file = pyuff.UFF(str(path))
    zeros = np.zeros(4)
    file.write_sets({"type": 15, "node_nums": labels, "def_cs": zeros, "disp_cs": zeros, "color": zeros,
                     "x": xyz[:, 0], "y": xyz[:, 1], "z": xyz[:, 2]}, "add")  # fmt: skip
    file.write_sets({"type": 82, "trace_num": 1, "n_nodes": 4, "color": 0, "id": "outline", "nodes": np.array([1, 2, 0, 3])}, "add")
    for k, shape in enumerate(shapes):
        file.write_sets({
            "type": 55, "analysis_type": 3, "data_ch": 3, "spec_data_type": 8, "load_case": 1, "mode_n": k + 1,
            "eig": complex(-1.0, 2 * np.pi * (10 + k)), "modal_a": 1 + 0j, "modal_b": 1 + 0j, "node_nums": labels,
            "r1": shape[:, 0], "r2": shape[:, 1], "r3": shape[:, 2], "id1": "NONE", "id2": "NONE", "id3": "NONE", "id4": "NONE",
            "id5": "NONE", "model_type": 1, "data_type": 5, "n_data_per_node": 3,
        }, "add")  # fmt: skip
    steps = list(steps_of(path))
    assert [(s.kind, round(s.time or 0, 4)) for s in steps] == [("mode", 10.0), ("mode", 11.0)]
    assert sorted(steps[0].types.tolist()) == [1, 1, 3], "one line, and two points that no line meets"
    for step, shape in zip(steps, shapes, strict=True):
        array = step.point_data["displacement"]
        assert array.values[:, :3] + 1j * array.values[:, 3:] == pytest.approx(shape, rel=1e-4, abs=1e-4)


@pytest.mark.parametrize("text", ["NONE", "mode {}"], ids=["no text", "a text of its own each"])
def test_modes_of_one_frequency_stay_apart_and_a_free_body_has_modes_at_nothing(tmp_path: Path, text: str) -> None:
    """Dataset 55 by an outside package: three rigid motions at 0 Hz, and two modes at the same frequency. A text that each mode has
    of its own makes no set of one mode."""
    path = tmp_path / "free.uff"
    numbers, zeros, ones = np.arange(1, 5), np.zeros(4), np.ones(4, dtype=int)
    sets = [pyuff.prepare_15(node_nums=numbers, def_cs=ones, disp_cs=ones, color=ones, x=zeros + numbers, y=zeros, z=zeros)]
    frequencies = [0.0, 0.0, 0.0, 12.5, 12.5]
    for k, f in enumerate(frequencies, start=1):
        sets.append(
            pyuff.prepare_55(
                id1="NONE", id2=text.format(k), id3="NONE", id4="NONE", id5="NONE", model_type=1, analysis_type=2, data_ch=2,
                spec_data_type=8, data_type=2, n_data_per_node=3, r1=zeros + k, r2=zeros, r3=zeros, node_nums=numbers, load_case=1,
                mode_n=k, freq=f, modal_m=0.0, modal_damp_vis=0.0, modal_damp_his=0.0,
            )
        )  # fmt: skip
    pyuff.UFF(str(path)).write_sets(sets, mode="overwrite")
    steps = list(steps_of(path))
    assert [(s.kind, s.time) for s in steps] == [("mode", f) for f in frequencies]
    assert [s.point_data["displacement"].values[0, 0] for s in steps] == [1, 2, 3, 4, 5]
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [path])
        source = review.result()
        assert [s.label for s in source.steps][2:4] == ["mode 3, 0 Hz", "mode 4, 12.5 Hz"]
        assert source.values("displacement", 4)[0, 0] == 5.0
    # Written by this program and read again.
    write(tmp_path / "again.uff", iter(steps))
    again = list(steps_of(tmp_path / "again.uff"))
    assert [(s.kind, s.time) for s in again] == [("mode", f) for f in frequencies]


def test_a_response_is_told_by_amplitude_and_phase_in_the_unit_of_a_ratio(tmp_path: Path) -> None:
    path = tmp_path / "response.uff"
    frequency = np.arange(1, 40) * 0.5
    response = 1e-3 / (1 - (frequency / 9.0) ** 2 + 0.04j * frequency)
    rest = {f"{axis}_{what}": 0 for axis in ("abscissa", "ordinate", "orddenom", "z_axis") for what in
            ("len_unit_exp", "force_unit_exp", "temp_unit_exp", "spec_data_type")}  # fmt: skip
    one = pyuff.prepare_58(
        **{**rest, "abscissa_spec_data_type": 18, "ordinate_spec_data_type": 8, "orddenom_spec_data_type": 13},
        binary=0, func_type=4, ver_num=0, load_case_id=0, rsp_ent_name="NONE", rsp_node=1, rsp_dir=1, ref_ent_name="NONE",
        ref_node=1, ref_dir=1, data=response, x=frequency, id1="tip", id2="NONE", id3="NONE", id4="NONE", id5="NONE",
        ord_data_type=6, num_pts=len(frequency), abscissa_spacing=1, abscissa_min=0.5, abscissa_inc=0.5, z_axis_value=0.0,
        abscissa_axis_units_lab="Hz", ordinate_axis_units_lab="mm", orddenom_axis_units_lab="N", z_axis_axis_units_lab="NONE",
        return_full_dict=True,
    )  # fmt: skip
    pyuff.UFF(str(path)).write_sets(one, "add")
    table = read_table(path)
    assert table.names[1:] == ("tip (amplitude)", "tip (phase)", "tip (real)", "tip (imaginary)")
    assert table.units == ("Hz", "mm/N", "deg", "mm/N", "mm/N")
    amplitude, phase = (np.array(table.column(n)[0]) for n in table.names[1:3])
    assert amplitude * np.exp(1j * np.radians(phase)) == pytest.approx(response, rel=1e-5)
