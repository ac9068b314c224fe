"""Exodus II, a layout of netCDF files: classic ones by SciPy, those on HDF5 by h5py.

After the published description of the format (Schoof and Yarberry 1994): blocks of elements, node and side sets, variables per
step; scalars whose names differ by a component's ending are joined. Checked against VTK's own reader in the tests.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.io import netcdf_file

from ironstone.core.errors import IronstoneError
from ironstone.formats.registry import EXPORT_AGAIN, RawArray, RawStep, joined
from ironstone.formats.vtkhdf import opened

_SHAPES = {
    ("sph", 1): 1, ("cir", 1): 1, ("poi", 1): 1, ("bea", 2): 3, ("tru", 2): 3, ("bar", 2): 3, ("edg", 2): 3, ("bar", 3): 21,
    ("bea", 3): 21, ("tru", 3): 21, ("edg", 3): 21, ("tri", 3): 5, ("tri", 6): 22, ("qua", 4): 9, ("qua", 8): 23, ("qua", 9): 28,
    ("she", 3): 5, ("she", 4): 9, ("she", 8): 23, ("she", 9): 28, ("she", 6): 22, ("tet", 4): 10, ("tet", 10): 24, ("pyr", 5): 14,
    ("pyr", 13): 27, ("wed", 6): 13, ("wed", 15): 26, ("hex", 8): 12, ("hex", 20): 25, ("hex", 27): 29,
}  # fmt: skip
# Where our nodes lie in the file's order: it numbers the sides between bottom and top before those of the top.
_ORDER = {
    25: [*range(12), *range(16, 20), *range(12, 16)],
    26: [*range(9), *range(12, 15), *range(9, 12)],
    29: [*range(12), *range(16, 20), *range(12, 16), 23, 24, 25, 26, 21, 22, 20],
}


class _Variables:
    """Variables by name, whichever library holds the file."""

    def __init__(self, path: Path) -> None:
        with path.open("rb") as stream:
            head = stream.read(8)
        self.classic = head[:3] == b"CDF"
        if not self.classic and head[:4] != b"\x89HDF":
            raise IronstoneError(
                f"{path.name} is no Exodus II file: it is neither netCDF nor HDF5.", "Check that the right file was chosen."
            )
        if self.classic and head[3:4] == b"\x05":
            raise IronstoneError(
                f"{path.name} is a netCDF file of the 64-bit data kind, which is not read.", "Export it as netCDF-4."
            )
        try:
            self.file: Any = netcdf_file(path, "r", mmap=False) if self.classic else opened(path)
        except (ValueError, TypeError, KeyError, IndexError) as error:
            raise IronstoneError(f"{path.name} is damaged or incomplete.", EXPORT_AGAIN) from error
        self.names = set(self.file.variables if self.classic else self.file)

    def __contains__(self, name: str) -> bool:
        return name in self.names

    def get(self, name: str, step: int | None = None) -> NDArray[Any]:
        stored = self.file.variables[name] if self.classic else self.file[name]
        values = np.asarray(stored[step] if step is not None else stored[:])
        return values.astype(values.dtype.newbyteorder("="), copy=False)

    def texts(self, name: str) -> list[str]:
        if name not in self:
            return []
        return [b"".join(row.tolist()).split(b"\0")[0].decode(errors="replace").strip() for row in self.get(name).astype("S1")]

    def attribute(self, name: str, key: str) -> str:
        stored = self.file.variables[name] if self.classic else self.file[name]
        value = getattr(stored, key, b"") if self.classic else stored.attrs.get(key, b"")
        value = value[0] if isinstance(value, np.ndarray) else value
        return value.decode() if isinstance(value, bytes) else str(value)


def read(path: Path) -> Iterator[RawStep]:
    """Read the steps of one Exodus II file; one without steps has one, without a time."""
    held = _Variables(path)
    blocks = sorted((n for n in held.names if re.fullmatch(r"connect\d+", n)), key=lambda n: int(n[7:]))
    if "coord" in held:
        points = held.get("coord").T
    elif not any(n in held for n in ("coordx", "coordy", "coordz")):
        raise IronstoneError(f"{path.name} holds no nodes.", EXPORT_AGAIN)
    else:
        points = np.stack([held.get(n) for n in ("coordx", "coordy", "coordz") if n in held], axis=1)
    points = np.column_stack([points, np.zeros((len(points), 3 - points.shape[1]))]).astype(np.float64)
    types, connectivity, sizes, part, notes = [], [], [], [], []
    for index, name in enumerate(blocks):
        kinds, nodes, counts, note = _block(held, name, path)
        notes += note
        types.append(kinds)
        connectivity.append(nodes)
        sizes.append(counts)
        part.append(np.full(len(kinds), index, dtype=np.int32))
    if not blocks:
        notes.append("The file has nodes and no blocks of elements: each node is taken as a point of its own.")
        types, connectivity = [np.full(len(points), 1, dtype=np.uint8)], [np.arange(len(points))]
        sizes, part = [np.ones(len(points), dtype=np.int64)], [np.zeros(len(points), dtype=np.int32)]
    offsets = np.concatenate([[0], np.cumsum(np.concatenate(sizes))]).astype(np.int64)
    numbers = held.get("eb_prop1").tolist() if "eb_prop1" in held else list(range(1, len(blocks) + 1))
    given, place = held.texts("eb_names"), [int(n[7:]) - 1 for n in blocks]
    names = tuple(
        given[i] if i < len(given) and given[i] else f"block {numbers[i] if i < len(numbers) else i + 1}" for i in place
    ) or ("nodes",)
    notes += [f"'{n}' holds sides, of which the elements are kept." for n in held.texts("ss_names") if n]
    mesh: dict[str, Any] = {
        "part": np.concatenate(part),
        "part_names": names,
        "node_ids": held.get("node_num_map").astype(np.int64) if "node_num_map" in held else np.arange(1, len(points) + 1),
        "element_ids": held.get("elem_num_map").astype(np.int64) if "elem_num_map" in held else np.arange(1, len(offsets)),
        "node_sets": _sets(held, "node_ns", "ns_names", "ns_prop1", "node set"),
        "element_sets": _sets(held, "elem_ss", "ss_names", "ss_prop1", "side set"),
        "notes": notes,
    }
    times = held.get("time_whole").astype(float).tolist() if "time_whole" in held else []
    arrays = (points, np.concatenate(types), offsets, np.concatenate(connectivity))
    of_block = {number + 1: len(t) for number, t in zip(place, types, strict=True)} if blocks else {}
    for index, time in enumerate(times or [None]):
        step = RawStep(*arrays, time=time, **mesh)
        if time is not None:
            step.point_data = _nodal(held, index, len(points))
            step.cell_data = _elemental(held, index, of_block)
        yield step


def _block(held: _Variables, name: str, path: Path) -> tuple[NDArray[np.uint8], Any, NDArray[np.int64], list[str]]:
    """Of a block: VTK type of each element, its nodes one after the other, how many each has, and what was left out.

    Elements with more nodes than are known of their shape (face and body centres) are read by the largest that is.
    """
    kind = held.attribute(name, "elem_type").lower()
    number, nodes = name[7:], held.get(name).astype(np.int64) - 1
    if kind.startswith("nfaced"):
        raise IronstoneError(f"{path.name}: block {number} has polyhedra ('nfaced'), which are not read.", EXPORT_AGAIN)
    if kind.startswith("nsided"):
        counts = held.get(f"ebepecnt{number}").astype(np.int64) if f"ebepecnt{number}" in held else np.zeros(0, dtype=np.int64)
        if counts.sum() != nodes.size or not np.isin(counts, (3, 4)).all():
            most = int(counts.max(initial=0))
            raise IronstoneError(
                f"{path.name}: block {number} has polygons ('nsided') of up to {most} corners; those of 3 and 4 are read.",
                EXPORT_AGAIN,
            )
        return np.where(counts == 3, 5, 9).astype(np.uint8), nodes.ravel(), counts, []
    shape, size = kind[:3], nodes.shape[1]
    known = max((n for s, n in _SHAPES if s == shape and n <= size), default=0)
    # A bar of a single node, or a hexahedron of six: no such shape is part of what the file says.
    if not known or (known < size and known < 3):
        raise IronstoneError(
            f"{path.name}: block {number} has elements '{kind}' of {size} nodes, which are not read.", EXPORT_AGAIN
        )
    note = [f"Block {number}: elements '{kind}' of {size} nodes are read by their first {known}."] if known < size else []
    vtk = _SHAPES[shape, known]
    nodes = nodes[:, :known]
    nodes = nodes[:, _ORDER[vtk]] if vtk in _ORDER else nodes
    return np.full(len(nodes), vtk, dtype=np.uint8), nodes.ravel(), np.full(len(nodes), known), note


def _sets(held: _Variables, prefix: str, names: str, numbers: str, word: str) -> dict[str, NDArray[np.int64]]:
    found = sorted((n for n in held.names if re.fullmatch(prefix + r"\d+", n)), key=lambda n: int(n[len(prefix) :]))
    given = held.texts(names)
    number = held.get(numbers).tolist() if numbers in held else []
    result = {}
    for name in found:
        i = int(name[len(prefix) :]) - 1
        title = given[i] if i < len(given) and given[i] else f"{word} {number[i] if i < len(number) else i + 1}"
        result[title] = np.unique(held.get(name).astype(np.int64) - 1)
    return result


def _nodal(held: _Variables, step: int, count: int) -> dict[str, RawArray]:
    names = held.texts("name_nod_var")

    def one(name: str) -> NDArray[Any]:
        if "vals_nod_var" in held:
            whole: NDArray[Any] = held.get("vals_nod_var", step)[names.index(name)]
            return whole
        return held.get(f"vals_nod_var{names.index(name) + 1}", step)

    return joined(names, one, count)


def _elemental(held: _Variables, step: int, counts: dict[int, int]) -> dict[str, RawArray]:
    names = held.texts("name_elem_var")

    def one(name: str) -> NDArray[Any]:
        pieces = []
        for block, count in counts.items():
            stored = f"vals_elem_var{names.index(name) + 1}eb{block}"
            # A variable that a block does not have is missing there, not zero.
            pieces.append(held.get(stored, step) if stored in held else np.full(count, np.nan))
        return np.concatenate(pieces)

    return joined(names, one, sum(counts.values())) if counts else {}
