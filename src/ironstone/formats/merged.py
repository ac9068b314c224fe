"""Pieces and blocks of one mesh, each read by itself, put together as one step."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ironstone.formats.registry import RawArray, RawStep

Data = dict[str, RawArray]


def merged(pieces: Sequence[RawStep], names: Sequence[str] = ()) -> RawStep:
    """One step of several, which lie side by side. names: what each is called where they are blocks: each name is a part.

    Copies of an element that a piece holds of its neighbour (``vtkGhostType``) are left out. An array that a piece lacks has no
    value there.
    """
    pieces = [without_ghosts(p) for p in pieces]
    if len(pieces) == 1 and not names:
        return pieces[0]
    counts = [len(p.points) for p in pieces]
    bases = np.concatenate([[0], np.cumsum(counts)])
    ends = np.concatenate([[0], np.cumsum([len(p.connectivity) for p in pieces])])
    first = pieces[0]
    step = replace(
        first,
        points=np.concatenate([p.points for p in pieces]),
        types=np.concatenate([p.types for p in pieces]),
        offsets=np.concatenate([[0], *(p.offsets[1:] + end for p, end in zip(pieces, ends, strict=False))]).astype(np.int64),
        connectivity=np.concatenate([p.connectivity + base for p, base in zip(pieces, bases, strict=False)]),
        point_data=_joined(pieces, lambda p: p.point_data, lambda p: len(p.points)),
        cell_data=_joined(pieces, lambda p: p.cell_data, lambda p: len(p.types)),
        notes=list(dict.fromkeys(n for p in pieces for n in p.notes)),
        totals={name: value for p in pieces for name, value in p.totals.items()},
        pieces=np.concatenate(_numbered(pieces)) if len(pieces) > 1 else None,
    )
    if names:
        distinct = tuple(dict.fromkeys(names))
        each = [distinct.index(n) for n in names]
        step.part = np.repeat(each, [len(p.types) for p in pieces]).astype(np.int32)
        step.part_names = distinct
    return step


def _numbered(pieces: Sequence[RawStep]) -> list[NDArray[np.int64]]:
    """The piece each point came with, counted through all; a piece may itself be of several."""
    found, count = [], 0
    for piece in pieces:
        own = np.zeros(len(piece.points), dtype=np.int64) if piece.pieces is None else piece.pieces
        found.append(own + count)
        count += int(own.max(initial=0)) + 1
    return found


def _joined(pieces: Sequence[RawStep], data: Callable[[RawStep], Data], count: Callable[[RawStep], int]) -> Data:
    """Arrays of all pieces one behind the other, those of one name and as many columns."""
    found: Data = {}
    for name in dict.fromkeys(n for p in pieces for n in data(p)):
        here = [data(p).get(name) for p in pieces]
        some = next(a for a in here if a is not None)
        width = some.values.shape[1]
        if any(a is not None and a.values.shape[1] != width for a in here):
            continue
        kinds = [a.values.dtype for a in here if a is not None]
        whole = all(a is not None for a in here)
        kind = np.result_type(*kinds) if whole else np.result_type(*kinds, np.float32)
        tables = [np.full((count(p), width), np.nan) if a is None else a.values for a, p in zip(here, pieces, strict=True)]
        found[name] = replace(some, values=np.concatenate(tables).astype(kind))
    return found


def without_ghosts(raw: RawStep) -> RawStep:
    """A piece without the elements that are copies of its neighbours'."""
    ghosts = raw.cell_data.get("vtkGhostType")
    if ghosts is None or not (ghosts.values[:, 0].astype(np.int64) & 1).any():
        return raw
    return only(raw, (ghosts.values[:, 0].astype(np.int64) & 1) == 0)


def only(raw: RawStep, kept: NDArray[np.bool_]) -> RawStep:
    """A step of some of its elements (elements,), with the points they use."""
    sizes = np.diff(raw.offsets)
    corners = np.repeat(kept, sizes)
    used, connectivity = np.unique(raw.connectivity[corners], return_inverse=True)
    return replace(
        raw,
        points=raw.points[used],
        types=raw.types[kept],
        offsets=np.concatenate([[0], np.cumsum(sizes[kept])]).astype(np.int64),
        connectivity=connectivity.ravel().astype(np.int64),
        point_data={n: replace(a, values=a.values[used]) for n, a in raw.point_data.items()},
        cell_data={n: replace(a, values=a.values[kept]) for n, a in raw.cell_data.items()},
        part=None if raw.part is None else raw.part[kept],
        pieces=None if raw.pieces is None else raw.pieces[used],
        node_ids=None if raw.node_ids is None else raw.node_ids[used],
    )
