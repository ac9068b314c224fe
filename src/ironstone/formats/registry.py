"""Which module reads which suffix, and the neutral form every reader returns."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from importlib import import_module
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError


@dataclass
class RawArray:
    """An array as the file has it: (entities, components), with the component names the file gives."""

    values: NDArray[np.generic]
    components: tuple[str, ...] = ()


@dataclass
class RawStep:
    """One stored state as the file has it, before any welding or guessing."""

    points: NDArray[np.floating]
    types: NDArray[np.uint8]
    offsets: NDArray[np.int64]
    connectivity: NDArray[np.int64]
    point_data: dict[str, RawArray] = field(default_factory=dict)
    cell_data: dict[str, RawArray] = field(default_factory=dict)
    time: float | None = None


Reader = Callable[[Path], RawStep]
READERS: dict[str, str] = {".vtu": "ironstone.formats.vtu"}


def register(suffix: str, module: str) -> None:
    """Let ``module.read(path)`` read files that end in ``suffix``."""
    READERS[suffix.lower()] = module


def reader_for(path: Path) -> Reader:
    module = READERS.get(path.suffix.lower())
    if module is None:
        raise IronstoneError(f"{path.name} is not in a format that is read here.", f"Formats read: {', '.join(sorted(READERS))}.")
    read: Reader = import_module(module).read
    return read
