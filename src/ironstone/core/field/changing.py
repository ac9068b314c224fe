"""A result that has a new mesh at some of its steps: one source for each mesh, seen as one result.

As it is at a step it is an ordinary source, with that step's mesh; what is asked of a step that has another mesh is refused, so
that no number of one mesh is ever taken for the same number of another.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field, Setup, Source, Step, Through, other_mesh
from ironstone.core.mesh.mesh import Int, Mesh


class AtStep(Through):
    """A changing result as it is at the steps of one of its meshes. first: where those steps begin among all."""

    def __init__(self, source: Source, whole: Changing, first: int) -> None:
        super().__init__(source)
        self.whole, self.first = whole, first

    @property
    def name(self) -> str:
        return self.whole.name

    @property
    def steps(self) -> Sequence[Step]:
        return self.whole.steps

    @property
    def revision(self) -> str:
        return self.whole.revision

    def at(self, step: int) -> Source:
        return self.whole.at(step)

    def _own(self, step: int) -> int:
        """A step as the source of this mesh counts it. Raises Impossible for one that has another mesh."""
        if self.whole.at(step) is not self:
            raise other_mesh(self.steps[step])
        return step - self.first

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        return self.source.values(field, self._own(step))

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        return self.source.rows(field, self._own(step), entities)

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        return self.source.history(field, np.array([self._own(int(s)) for s in steps], dtype=np.int64), entities)


class Changing:
    """One result made of the runs of steps that share a mesh, in order."""

    def __init__(self, name: str, runs: Sequence[Source]) -> None:
        self.name = name
        every = [s for run in runs for s in run.steps]
        self.steps: Sequence[Step] = tuple(replace(s, index=i) for i, s in enumerate(every))
        begins = np.cumsum([0, *(len(run.steps) for run in runs)])
        self._runs = [AtStep(run, self, int(begin)) for run, begin in zip(runs, begins, strict=False)]
        self._run_of = np.repeat(np.arange(len(runs)), np.diff(begins))
        self.fields: Mapping[str, Field] = {n: f for run in runs for n, f in run.fields.items()}
        self.setup: Setup = runs[0].setup
        self.revision = "+".join(run.revision for run in runs)

    def at(self, step: int) -> Source:
        return self._runs[int(self._run_of[step])]

    @property
    def mesh(self) -> Mesh:
        raise Impossible(f"'{self.name}' has a new mesh at some of its steps.", "Name the step.")

    def other(self, name: str) -> Source:
        return self._runs[0].source.other(name)

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        return self.at(step).values(field, step)

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        return self.at(step).rows(field, step, entities)

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        return self.at(int(steps[0])).history(field, steps, entities)
