"""A source that is asked for the same few rows at one step after another."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.fields import Source, Through
from ironstone.core.field.loadings import computed
from ironstone.core.mesh.mesh import Int


class Ahead(Through):
    """A source that is asked for the same few rows at one step after another: they are read for all of these steps at once."""

    # So many numbers are held at most; what is more is read step by step.
    MOST = 4_000_000

    def __init__(self, source: Source, steps: Int) -> None:
        super().__init__(source)
        self._steps, self._at = steps, {int(step): i for i, step in enumerate(steps)}
        self._held: dict[tuple[str, bytes], NDArray[np.floating]] = {}
        self._left = self.MOST
        self._others: dict[str, Source] = {}

    def other(self, name: str) -> Source:
        """Another result, looked up once and read ahead as well; step by step where its mesh changes."""
        if name not in self._others:
            found = self.source.other(name)
            plain = all(found.at(int(step)) is found for step in computed(found.steps))
            self._others[name] = Ahead(found, np.array(computed(found.steps))) if plain else found
        return self._others[name]

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        key = (field, entities.tobytes())
        if key not in self._held:
            here = self.source.rows(field, step, entities)
            if step not in self._at or len(self._steps) * here.size > self._left:
                return here
            self.history(field, self._steps, entities)
        found: NDArray[np.floating] = self._held[key][self._at[step]]
        return found

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        key = (field, entities.tobytes())
        if not np.array_equal(steps, self._steps):
            return self.source.history(field, steps, entities)
        if key not in self._held:
            table = self.source.history(field, steps, entities)
            if table.size > self._left:
                return table
            self._left -= table.size
            self._held[key] = table
        return self._held[key]
