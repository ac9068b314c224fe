from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ironstone.core.errors import IronstoneError
from ironstone.formats import end_ahead, load, numbered_order, read_series, series, start_ahead
from ironstone.formats.registry import RawStep, steps_of
from tests.conftest import DATA
from tests.writing import COMPRESSORS, HEX, MODES, bar_of_hexahedra, write_vtu


def read(path: Path) -> RawStep:
    (step,) = steps_of(path)
    return step


@pytest.mark.parametrize("mode", MODES)
@pytest.mark.parametrize("compressor", COMPRESSORS)
def test_every_encoding_reads_the_same(tmp_path: Path, mode: str, compressor: str) -> None:
    points, cells, _ = bar_of_hexahedra()
    stress = np.random.default_rng(0).normal(size=(24, 6))
    path = write_vtu(tmp_path / "a.vtu", points, cells, {"stress": stress}, time=1.5, mode=mode, compressor=compressor)
    raw = read(path)
    assert raw.points == pytest.approx(points)
    assert raw.point_data["stress"].values == pytest.approx(stress)
    assert raw.types.tolist() == [12, 12, 12]
    assert raw.time == 1.5


def test_component_names_come_through(tmp_path: Path) -> None:
    names = ("xx", "yy", "zz", "yz", "xz", "xy")
    path = write_vtu(tmp_path / "a.vtu", HEX, [(12, list(range(8)))], {"stress": np.zeros((8, 6))}, components={"stress": names})
    assert read(path).point_data["stress"].components == names


def test_files_are_taken_in_the_order_of_their_numbers() -> None:
    names = ["run_10.vtu", "run_2.vtu", "run_1.vtu"]
    assert [p.name for p in numbered_order([Path(n) for n in names])] == ["run_1.vtu", "run_2.vtu", "run_10.vtu"]


def test_no_vtu_is_told_so(tmp_path: Path) -> None:
    path = tmp_path / "notes.vtu"
    path.write_text("ordinary text\n")
    with pytest.raises(IronstoneError, match=r"notes\.vtu is no VTU file"):
        read(path)
    path.write_bytes(b"")
    with pytest.raises(IronstoneError, match="empty"):
        read(path)


def test_an_index_out_of_range_is_caught(tmp_path: Path) -> None:
    path = write_vtu(tmp_path / "a.vtu", HEX, [(12, list(range(8)))], mode="ascii")
    path.write_text(path.read_text().replace("0 1 2 3 4 5", "0 1 2 3 4 99"))
    with pytest.raises(IronstoneError, match="names point 99, but there are only 8"):
        read(path)


def test_a_place_that_is_no_number_is_caught(tmp_path: Path) -> None:
    points = HEX.copy()
    points[3, 1] = np.nan
    path = write_vtu(tmp_path / "a.vtu", points, [(12, list(range(8)))])
    with pytest.raises(IronstoneError, match="point 3 has no finite"):
        read(path)


@pytest.mark.parametrize("share", [0.02, 0.3, 0.6, 0.95])
def test_a_truncated_file_is_a_clear_error(tmp_path: Path, share: float) -> None:
    whole = (DATA / "flexure_005.vtu").read_bytes()
    path = tmp_path / "cut.vtu"
    path.write_bytes(whole[: int(len(whole) * share)])
    with pytest.raises(IronstoneError, match=r"cut\.vtu"):
        list(read_series([path], tmp_path))


@pytest.mark.usefixtures("plain_readers")
def test_a_reader_started_ahead_reads_the_next_file_and_one_that_died_is_replaced(tmp_path: Path) -> None:
    path = write_vtu(tmp_path / "a.vtu", HEX, [(12, list(range(8)))])

    def points_read() -> int:
        ((_, stored),) = read_series([path], tmp_path)
        return len(load(stored).points)

    start_ahead()
    ahead = series._ahead[0]
    assert points_read() == 8
    assert not series._ahead
    assert ahead.poll() is not None, "it has read, and is ended"
    start_ahead()
    series._ahead[0].kill()
    series._ahead[0].wait()
    assert points_read() == 8, "by one of its own"
    start_ahead()
    waiting = series._ahead[0]
    end_ahead()
    assert waiting.poll() is not None


@pytest.mark.usefixtures("one_reader")
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_a_mutated_file_never_ends_the_service(tmp_path: Path, data: st.DataObject) -> None:
    """Whatever is done to the bytes, the answer is a step or an error of the family; the child may die, we do not."""
    points, cells, _ = bar_of_hexahedra(2)
    whole = bytearray(write_vtu(tmp_path / "ok.vtu", points, cells, {"stress": np.zeros((16, 6))}, mode="ascii").read_bytes())
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(whole) - 1))
        if data.draw(st.booleans()):
            whole[at] = data.draw(st.integers(0, 255))
        else:
            del whole[at : at + data.draw(st.integers(1, 200))]
    path = tmp_path / "mutated.vtu"
    path.write_bytes(bytes(whole))
    folder = tmp_path / "steps"
    folder.mkdir(exist_ok=True)
    try:
        for _, pickled in read_series([path], folder):
            step = load(pickled)
            assert step.same_mesh or len(step.points)
    except IronstoneError as error:
        assert "mutated.vtu" in error.message
    finally:
        shutil.rmtree(folder)
