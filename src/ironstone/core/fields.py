"""Fields and steps as a result declares them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh import Int, Mesh

RANKS = {1: "scalar", 2: "vector", 3: "vector", 6: "tensor"}


@dataclass(frozen=True)
class Field:
    """One field of a result. ``location`` is node, element or corner; ``notes`` are the guesses behind this entry.

    unit_guessed: the file states no unit and nobody has confirmed one.
    averaged_before: the values were averaged over elements before they came, and cannot be un-averaged.
    """

    name: str
    kind: str
    rank: str
    location: str
    components: tuple[str, ...]
    unit: str
    precision: str = "double"
    guessed: bool = False
    unit_guessed: bool = False
    notes: tuple[str, ...] = ()
    averaged_before: bool = False


@dataclass(frozen=True)
class Step:
    """One stored state. ``kind`` is time, load factor, frequency, mode or number."""

    index: int
    kind: str
    value: float
    unit: str = ""
    loading: str = ""

    @property
    def label(self) -> str:
        if self.kind == "time":
            return f"t = {self.value:.4g} {self.unit}".rstrip()
        if self.kind == "number":
            return f"step {self.index}"
        return f"{self.kind} {self.value:.4g} {self.unit}".rstrip()


class Source(Protocol):
    """What the evaluator needs of a result, wherever its arrays are kept."""

    @property
    def mesh(self) -> Mesh: ...

    @property
    def fields(self) -> Mapping[str, Field]: ...

    @property
    def steps(self) -> Sequence[Step]: ...

    @property
    def revision(self) -> str:
        """Changes when anything a reading depends on is corrected."""
        ...

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        """All values of a field at a step, (entities, components)."""
        ...

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        """Values of a few entities, (len(entities), components), without reading the whole step."""
        ...
