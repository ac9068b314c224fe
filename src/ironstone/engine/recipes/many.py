"""A recipe over many files: which runs there are, some at a time in processes of their own."""

from __future__ import annotations

import glob
import os
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from multiprocessing import get_context
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.engine.recipes.recipe import Recipe, Value, parameters_of
from ironstone.engine.recipes.run import Order, carried_out, done_before, file_name, not_done
from ironstone.formats import keep_readers, readers_kept

if TYPE_CHECKING:
    from ironstone.engine.recipes.cluster import Cluster

# A process is left after so many runs: what libraries keep of files does not add up.
RUNS_A_PROCESS = 20
# What the environment of a process that does runs tells its libraries. One thread each for linear algebra: several processes
# beside each other share the cores, and threads that wait for each other take them away. Memory of arrays is kept for the next
# ones: given back and taken anew it costs a sixth of the time (glibc's own words, see mallopt(3)).
SURROUNDINGS = {
    "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "MKL_NUM_THREADS": "1",
    "MALLOC_ARENA_MAX": "1", "MALLOC_MMAP_THRESHOLD_": str(32 * 1024**2), "MALLOC_TRIM_THRESHOLD_": str(256 * 1024**2),
}  # fmt: skip
Told = Callable[[dict[str, Any], bool], None]


def orders(
    recipe: Recipe, texts: Sequence[str], folder: Path, parameters: Mapping[str, Value] | None = None, keep_review: bool = False
) -> list[Order]:
    """The runs of some files: each file one, or NAME=FILES for a series, several parted by commas, * and ? in their names.

    Raises IronstoneError where a file is not there, or two runs have one name.
    """
    stated = parameters_of(recipe, parameters or {})
    written = recipe.model_dump_json()
    found: list[Order] = []
    for text in texts:
        name, files = _named(text)
        found.append(Order(written, name, tuple(str(f) for f in files), str(folder / file_name(name)), stated, keep_review))
    folders = [o.folder.lower() for o in found]
    again = next((o for o in found if folders.count(o.folder.lower()) > 1), None)
    if again is not None:
        raise IronstoneError(f"Two runs are called '{again.name}'.", "Name them: ONE=FILE OTHER=FILE.")
    return found


def _named(text: str) -> tuple[str, list[Path]]:
    """The name of a run, and its files."""
    name, equals, rest = text.partition("=")
    if Path(text).is_file() or not equals or not name:
        if not Path(text).is_file():
            raise NotFound(f"There is no file {text}.", "Check the name and the folder; a series is written NAME=FILES.")
        return Path(text).stem, [Path(text)]
    files = []
    for pattern in rest.split(","):
        some = sorted(glob.glob(pattern)) if any(c in pattern for c in "*?[") else [pattern]
        files += [Path(f) for f in some]
        if not some or not all(Path(f).is_file() for f in some):
            raise NotFound(f"There is no file {pattern}.", f"Check the files of '{name}'.")
    return name, files


def run_all(
    found: Sequence[Order], jobs: int = 1, fresh: bool = False, told: Told | None = None, cluster: Cluster | None = None
) -> list[dict[str, Any]]:
    """Do runs, ``jobs`` at a time, or on a cluster; what each came to, in their order. A run whose process dies is tried once more,
    alone.

    told(run, before) hears of each as it ends, and whether it was done before.
    """
    tell = told or (lambda run, before: None)
    came_to: dict[str, dict[str, Any]] = {}
    left = []
    for order in found:
        before = None if fresh else done_before(order)
        if before is None:
            left.append(order)
        else:
            came_to[order.name] = before
            tell(before, True)
    done: Iterable[dict[str, Any]]
    if cluster is not None and left:
        from ironstone.engine.recipes.cluster import on_cluster

        done = on_cluster(left, cluster)
    else:
        done = _one_by_one(left) if jobs <= 1 or len(left) <= 1 else _at_a_time(left, jobs)
    for run in done:
        came_to[run["run"]] = run
        tell(run, False)
    return [came_to[o.name] for o in found]


def _one_by_one(left: Sequence[Order]) -> Iterable[dict[str, Any]]:
    # A reader's imports take longer than most files: one for many runs.
    with readers_kept():
        for order in left:
            yield carried_out(order)


@contextmanager
def _surrounded() -> Iterator[None]:
    """Processes that are started within have the surroundings of one that does runs."""
    before = {name: os.environ.get(name) for name in SURROUNDINGS}
    os.environ.update(SURROUNDINGS)
    try:
        yield
    finally:
        for name, value in before.items():
            if value is None:
                os.environ.pop(name, None)
            else:
                os.environ[name] = value


def _at_a_time(left: Sequence[Order], jobs: int) -> Iterable[dict[str, Any]]:
    """Runs in processes of their own; those that were under way when one died are tried again, each alone."""
    with _surrounded():
        yield from _beside_each_other(left, jobs)


def _beside_each_other(left: Sequence[Order], jobs: int) -> Iterable[dict[str, Any]]:
    waiting, again = list(left), []
    while waiting:
        under_way: dict[Future[dict[str, Any]], Order] = {}
        pool = ProcessPoolExecutor(min(jobs, len(waiting)), get_context("spawn"), keep_readers, max_tasks_per_child=RUNS_A_PROCESS)
        try:
            # No more are handed out than are done at a time: what waits here is not lost with a process.
            while waiting or under_way:
                while waiting and len(under_way) < jobs:
                    # A pool that broke takes no more: what it was not given waits for the next.
                    under_way[pool.submit(carried_out, waiting[0])] = waiting[0]
                    del waiting[0]
                ended, _ = wait(under_way, return_when=FIRST_COMPLETED)
                for future in ended:
                    run = future.result()
                    del under_way[future]
                    yield run
        except BrokenProcessPool:
            again += list(under_way.values())
        finally:
            pool.shutdown(wait=False, cancel_futures=True)
    for order in again:
        yield _alone(order)


def _alone(order: Order) -> dict[str, Any]:
    with ProcessPoolExecutor(1, get_context("spawn")) as pool:
        try:
            return pool.submit(carried_out, order).result()
        except BrokenProcessPool:
            said = "Its process was ended twice: the files ask for more memory than there is, or somebody ended it."
            return not_done(order, said)
