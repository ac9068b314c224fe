"""What each array of a file is: ids, a partition, a set, or a field; every guess with its reason."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.fields import RANKS
from ironstone.core.weld import SINGLE_VALUED, as_tensor, guess_kind

IDS = ("globalids", "globalnodeids", "globalelementids", "globalcellids", "nodeids", "elementids")
IGNORED = ("vtkghosttype", "vtkoriginalpointids", "vtkoriginalcellids", "connectivity")
PARTITIONS = ("part", "part_id", "partid", "material", "material_id", "materialid", "mat", "block", "block_id")
SMOOTHED_KINDS = ("stress", "strain", "plastic strain")
FEW = 64
TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")


@dataclass(frozen=True)
class Guess:
    """How one array is taken. role: ids, partition, set, field, ignored. Components are those after conversion."""

    role: str
    kind: str = ""
    rank: str = ""
    components: tuple[str, ...] = ()
    guessed: bool = False
    notes: tuple[str, ...] = ()


def classify(name: str, values: NDArray[np.generic], components: tuple[str, ...], on_elements: bool) -> Guess:
    """Classify an array (entities, components) by its name and numbers."""
    plain = name.strip().lower().replace(" ", "_")
    if plain.replace("_", "") in IDS:
        return Guess("ids")
    if plain in IGNORED:
        return Guess("ignored")
    width = values.shape[1]
    whole = values.dtype.kind in "iub"
    if width == 1 and whole:
        distinct = np.unique(values)
        if on_elements and plain in PARTITIONS:
            return Guess("partition", kind="material" if plain.startswith("mat") else "part")
        if np.isin(distinct, (0, 1)).all():
            return Guess("set")
        if on_elements and len(distinct) <= FEW:
            return Guess("partition", kind="")
        return Guess("ignored", notes=(f"'{name}' holds bare numbers and is not shown as a field.",))
    if width not in (1, 2, 3, 4, 6, 9):
        return Guess("ignored", notes=(f"'{name}' has {width} columns, which is no scalar, vector or tensor: left out.",))
    names: tuple[str, ...]
    kind, reason = guess_kind(name, 6 if width in (9, 4) else width)
    notes = [f"taken as {kind}: {reason}"] if kind else ["kind not known: the name says nothing"]
    if width in (4, 6, 9):
        rank, names = "tensor", TENSOR
        _, done = as_tensor(np.asarray(values[:1], dtype=np.float64), components)
        if done:
            notes.append(done)
        if kind == "strain":
            notes.append("shear taken as tensor shear (half the engineering shear)")
    elif width in (2, 3):
        rank, names = "vector", ("x", "y", "z")
    else:
        rank, names = RANKS[1], ("value",)
    return Guess("field", kind, rank, names, bool(kind) or rank == "tensor", tuple(notes))


def converted(values: NDArray[np.generic], components: tuple[str, ...], rank: str) -> NDArray[np.floating]:
    """Values in our component order, in the precision they came in."""
    single = values.dtype == np.float32
    floating: NDArray[np.floating] = values.astype(np.float32 if single else np.float64, copy=False)
    if rank == "tensor":
        return as_tensor(floating, components)[0]
    if rank == "vector" and floating.shape[1] == 2:
        return np.column_stack([floating, np.zeros(len(floating), dtype=floating.dtype)])
    return floating


def single_valued(kind: str) -> bool:
    """Whether a field of this kind has one value at a node by nature."""
    return kind in SINGLE_VALUED
