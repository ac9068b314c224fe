"""What the tests share: the demo's review, made once, and small results of one's own."""

from __future__ import annotations

import fcntl
import os
import shutil
from collections import defaultdict
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, settings

from ironstone import demo_motion, demo_review, demo_studies
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource
from tests.readers import fork_readers
from tests.writing import bar_of_hexahedra, write_vtu

fork_readers()

# Reviews of tests are many and soon gone: where memory takes them they do not wait for the disk.
MEMORY = Path("/dev/shm")
if MEMORY.is_dir() and shutil.disk_usage(MEMORY).free > 8 * 1024**3:
    os.environ.setdefault("PYTEST_DEBUG_TEMPROOT", str(MEMORY))
    # What browsers keep beside their pages.
    os.environ.setdefault("TMPDIR", str(MEMORY))

ROOT = Path(__file__).resolve().parent.parent
DATA = ROOT / "demo" / "data" / "flexure"

# Other work on the machine makes a single example slow: that is no failure of the rule.
settings.register_profile("ironstone", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("ironstone")


# Looking, which waits for the machine most, comes first, so that at the end no worker is left alone with something long. The first
# worker makes the demo's review; what comes before all needs none and keeps the second busy meanwhile.
FIRST = ("test_additions", "bench/test_field", "bench/test_bench", "bench/test_", "demo/", "store/", "oracles/test_s", "formats/")


def _rank(item: pytest.Item) -> int:
    return next((k for k, name in enumerate(FIRST) if f"tests/{name}" in item.path.as_posix()), len(FIRST))


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    items.sort(key=_rank)


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """How long the tests of each kind took, set-up included."""
    seconds: dict[str, float] = defaultdict(float)
    counts: dict[str, int] = defaultdict(int)
    for reports in terminalreporter.stats.values():
        for report in reports:
            if isinstance(report, pytest.TestReport):
                kind = report.nodeid.split("/")[1] if report.nodeid.count("/") > 1 else "others"
                seconds[kind] += report.duration
                counts[kind] += report.when == "call"
    terminalreporter.section("seconds of each kind of test")
    for kind in sorted(seconds, key=lambda k: -seconds[k]):
        terminalreporter.write_line(f"{seconds[kind]:7.1f} s  {counts[kind]:5d}  {kind}")


def _made_once(factory: pytest.TempPathFactory, name: str, make: Callable[[Path], None]) -> Path:
    """A review made once for all who test at the same time."""
    own = factory.getbasetemp()
    folder = own.parent if "PYTEST_XDIST_WORKER" in os.environ else own
    path = folder / "demo" / name
    path.parent.mkdir(exist_ok=True)
    with (folder / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        make(path)
    return path


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo's review, as `make demo` makes it. Not to be changed: copy it."""
    return _made_once(tmp_path_factory, "brake_flexure.ironstone", lambda path: demo_review.make(path, DATA))


@pytest.fixture(scope="session")
def studies_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo's second review, of models held against each other. Not to be changed: copy it."""
    return _made_once(tmp_path_factory, "models_compared.ironstone", lambda path: demo_studies.make(path, DATA.parent))


@pytest.fixture(scope="session")
def motion_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo's third review, of a post in motion. Not to be changed: copy it."""
    return _made_once(tmp_path_factory, "drive_in_motion.ironstone", lambda path: demo_motion.make(path, DATA.parent))


@pytest.fixture
def demo_copy(demo_file: Path, tmp_path: Path) -> Path:
    return Path(shutil.copy(demo_file, tmp_path / "demo.ironstone"))


@pytest.fixture(scope="session")
def flexure(demo_file: Path) -> Iterator[ReviewSource]:
    with Review.open(demo_file) as review:
        yield review.result()


@pytest.fixture
def bar_files(tmp_path: Path) -> list[Path]:
    """Two steps of a bar of three cubes, corners of their own: axial stress 10, 20, 30 MPa, step two doubled."""
    points, cells, ids = bar_of_hexahedra()
    files = []
    for step in range(2):
        stress = np.zeros((24, 6))
        stress[:, 0] = np.repeat([10.0, 20.0, 30.0], 8) * (1 + step)
        moved = np.zeros((24, 3))
        moved[:, 0] = 0.01 * points[:, 0] * (1 + step)
        reaction = np.zeros((24, 3))
        reaction[points[:, 0] == 0.0, 0] = -2.5 * (1 + step)
        files.append(
            write_vtu(
                tmp_path / f"bar_{step + 9}.vtu",
                points,
                cells,
                {
                    "stress": stress,
                    "displacement": moved,
                    "reaction": reaction,
                    "fixed": (points[:, 0] == 0.0).astype(np.uint8),
                    "tip": (points[:, 0] == 3.0).astype(np.uint8),
                    "GlobalIds": ids,
                },
                {"part": np.array([1, 1, 2], dtype=np.int32), "axial": np.array([1.0, 2.0, 3.0])},
                time=0.5 * step,
            )
        )
    return files


@pytest.fixture
def bar(bar_files: list[Path], tmp_path: Path) -> Iterator[ReviewSource]:
    with Review.create(tmp_path / "bar.ironstone") as review:
        intake(review, bar_files)
        yield review.result()
