"""Steps as the reader left them, in runs on one mesh each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

from ironstone.core.errors import IronstoneError
from ironstone.core.field.stacked import Stack
from ironstone.formats.registry import RawStep
from ironstone.store.doings import Doings
from ironstone.store.plan import Plan, another_body, differs, first_look, one_series

# Below this a step stays mapped between the two passes: to open it again would cost more than it holds.
SMALL_STEP = 2 * 1024**2


@dataclass
class Read:
    """A step as the reader left it: in a file, and mapped from it where it is small."""

    stored: Path
    size: int
    step: RawStep | None

    def __post_init__(self) -> None:
        if self.size > SMALL_STEP:
            self.step = None


@dataclass
class Run:
    """Steps on one mesh: what is settled of them, the file they begin with, and which steps of the whole they are."""

    plan: Plan
    path: Path
    doings: Doings = field(default_factory=Doings)
    read: list[Read] = field(default_factory=list)
    steps: list[int] = field(default_factory=list)


def run_for(runs: list[Run], raw: RawStep, count: int, path: Path, ordered: Sequence[Path], stacks: dict[str, Stack]) -> Run:
    """The run a step belongs to: that of the step before, one that had its mesh already, or a new one of the same series."""
    if runs and raw.same_mesh:
        return _before(runs, count)
    unlike = ""
    for run in reversed(runs):
        why = differs(run.plan.first, raw)
        if not why:
            return run
        unlike = unlike or why
    if runs and (not one_series(ordered) or another_body(_before(runs, count).plan.first, raw)):
        raise IronstoneError(
            f"{path.name} holds another mesh than {runs[0].path.name}: {unlike}.",
            "Take it in as a result of its own. Steps of one run whose mesh changes are files of one name with a number each.",
        )
    plan = first_look(raw)
    plan.stacks = stacks
    runs.append(Run(plan, path))
    return runs[-1]


def _before(runs: list[Run], count: int) -> Run:
    """The run of the step before."""
    return next(run for run in runs if run.steps[-1] == count - 1)
