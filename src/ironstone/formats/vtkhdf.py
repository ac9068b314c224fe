"""VTKHDF, the HDF5 form of VTK's unstructured grids, with steps; component names are kept in an attribute of our own.

After the published description of the format (version 2): pieces and steps lie one after the other in each array, with offsets.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import h5py
import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.formats.merged import merged, without_ghosts
from ironstone.formats.registry import EXPORT_AGAIN, RawArray, RawStep
from ironstone.formats.wanted import left_out

NAMES = "ComponentNames"


def opened(path: Path) -> h5py.File:
    """An HDF5 file for reading. Raises IronstoneError where it is damaged, or has data that lie in other files."""
    try:
        file = h5py.File(path, "r")
    except FileNotFoundError:
        raise
    except OSError as error:
        raise IronstoneError(f"{path.name} is damaged, or is no HDF5 file.", EXPORT_AGAIN) from error
    try:
        _refuse_what_lies_elsewhere(file, path)
    except BaseException:
        file.close()
        raise
    return file


# A compressed array is at most a thousand times what it takes in the file (deflate's own limit); a little more is no array at all.
MOST_TIMES = 1100
SMALL = 64 * 1024**2


def _refuse_what_lies_elsewhere(file: h5py.File, path: Path) -> None:
    """Every link and array of a file, before any is read: external links, external storage and virtual arrays would bring other
    files' content in; an array that holds next to nothing of what it says is its size would fill the memory with made-up values."""
    waiting, seen = [file["/"]], set()
    size = path.stat().st_size
    while waiting:
        group = waiting.pop()
        for name in group:
            where = f"{group.name.rstrip('/')}/{name}"
            if isinstance(group.get(name, getlink=True), h5py.ExternalLink):
                raise IronstoneError(f"{path.name}: '{where}' is a link to another file, which is not followed.", TAKE_OUT)
            try:
                item = group[name]
            except KeyError:
                continue
            if isinstance(item, h5py.Group):
                key = h5py.h5o.get_info(item.id).addr
                if key not in seen:
                    seen.add(key)
                    waiting.append(item)
            elif isinstance(item, h5py.Dataset):
                if item.external or item.is_virtual:
                    raise IronstoneError(f"{path.name}: '{where}' is kept in other files, which are not read.", TAKE_OUT)
                claimed = item.size * item.dtype.itemsize if item.size else 0
                if claimed > max(MOST_TIMES * min(item.id.get_storage_size(), size), SMALL):
                    raise IronstoneError(
                        f"{path.name}: '{where}' is said to hold {claimed / 1e9:.3g} GB, of which the file has "
                        f"{item.id.get_storage_size()} bytes.",
                        EXPORT_AGAIN,
                    )
                piece = int(np.prod(item.chunks)) * item.dtype.itemsize if item.chunks else 0
                if piece > max(2 * claimed, SMALL):
                    raise IronstoneError(
                        f"{path.name}: '{where}' is kept in pieces of {piece / 1e9:.3g} GB, and holds {claimed / 1e9:.3g} GB.",
                        EXPORT_AGAIN,
                    )


TAKE_OUT = "Export the file so that it holds all its data itself."


COLLECTIONS = ("PartitionedDataSetCollection", "MultiBlockDataSet")


def read(path: Path) -> Iterator[RawStep]:
    """Read the steps of one VTKHDF file; one without steps has one. Blocks of a collection are parts of one mesh."""
    with opened(path) as file:
        root = file.get("VTKHDF")
        kind = _kind(root)
        if root is not None and kind in COLLECTIONS:
            blocks = [(n, g) for n, g in root.items() if n != "Assembly" and _kind(g) == "UnstructuredGrid"]
            blocks.sort(key=lambda b: int(b[1].attrs.get("Index", 0)))
            if not blocks:
                raise IronstoneError(f"{path.name} holds no unstructured grid among its blocks.", "Export unstructured grids.")
            for each in zip(*(_steps(group) for _, group in blocks), strict=True):
                yield merged(each, [name for name, _ in blocks])
            return
        if root is None or kind != "UnstructuredGrid":
            raise IronstoneError(
                f"{path.name} holds no unstructured grid (its type is '{kind or 'not said'}').",
                "Export it as an unstructured grid.",
            )
        yield from _steps(root)


def _kind(group: Any) -> str:
    kind = group.attrs.get("Type", b"") if isinstance(group, h5py.Group) else b""
    return kind.decode() if isinstance(kind, bytes) else str(kind)


def _steps(root: Any) -> Iterator[RawStep]:
    steps = root.get("Steps")
    count = int(steps.attrs["NSteps"]) if steps is not None else 1
    mesh: tuple[Any, ...] = ()
    before: tuple[Any, ...] | None = None
    for index in range(count):
        where = _where(root, steps, index)
        if where != before:
            mesh, before = _mesh(root, *where), where
        points, types, offsets, connectivity, pieces = mesh
        step = RawStep(
            points,
            types,
            offsets,
            connectivity,
            _data(root, "PointData", steps, index, where[2], len(points)),
            _data(root, "CellData", steps, index, where[3], len(types)),
            float(steps["Values"][index]) if steps is not None else None,
            notes=[*_left_out(root), *_beyond(root, steps)] if index == 0 else [],
            pieces=pieces,
        )
        yield without_ghosts(step) if pieces is not None else step


def _where(root: Any, steps: Any, index: int) -> tuple[int, int, int, int, int]:
    """First part, count of parts, and where the step's points, cells and connectivity begin."""
    if steps is None:
        return 0, len(root["NumberOfPoints"]), 0, 0, 0
    count = int(steps["NumberOfParts"][index]) if "NumberOfParts" in steps else 1
    begin = [
        int(np.ravel(steps[name][index])[0]) for name in ("PartOffsets", "PointOffsets", "CellOffsets", "ConnectivityIdOffsets")
    ]
    return begin[0], count, begin[1], begin[2], begin[3]


def _mesh(root: Any, part: int, parts: int, point: int, cell: int, join: int) -> tuple[Any, ...]:
    chosen = slice(part, part + parts)
    points, cells, joins = (root[n][chosen] for n in ("NumberOfPoints", "NumberOfCells", "NumberOfConnectivityIds"))
    offsets: list[Any] = [np.zeros(1, dtype=np.int64)]
    connectivity = []
    at_offset, at_join, base, total = cell + part, join, 0, 0
    for p, c, j in zip(points.tolist(), cells.tolist(), joins.tolist(), strict=True):
        own = root["Offsets"][at_offset : at_offset + c + 1].astype(np.int64)
        offsets.append(own[1:] - own[:1] + total)
        connectivity.append(root["Connectivity"][at_join : at_join + j].astype(np.int64) + base)
        at_offset, at_join, base, total = at_offset + c + 1, at_join + j, base + p, total + j
    return (
        root["Points"][point : point + int(points.sum())],
        root["Types"][cell : cell + int(cells.sum())].astype(np.uint8),
        np.concatenate(offsets),
        np.concatenate(connectivity) if connectivity else np.zeros(0, dtype=np.int64),
        np.repeat(np.arange(parts), points) if parts > 1 else None,
    )


def _data(root: Any, group: str, steps: Any, index: int, begin: int, count: int) -> dict[str, RawArray]:
    found: dict[str, RawArray] = {}
    shifts = steps.get(f"{group}Offsets") if steps is not None else None
    for name, stored in (root.get(group) or {}).items():
        if stored.dtype.kind == "f" and left_out(name):
            continue
        start = int(shifts[name][index]) if shifts is not None and name in shifts else begin
        values = stored[start : start + count]
        if values.dtype.kind not in "iufb":
            continue
        found[name] = RawArray(values.reshape(len(values), -1), tuple(str(n) for n in stored.attrs.get(NAMES, ())))
    return found


def _beyond(root: Any, steps: Any) -> list[str]:
    """Arrays with more rows than all steps together have points or cells: what lies beyond is of nothing."""
    found = []
    for group, whole in (("PointData", "Points"), ("CellData", "Types")):
        shifts = steps.get(f"{group}Offsets") if steps is not None else None
        for name, stored in (root.get(group) or {}).items():
            # A mesh that stands still is kept once, its values once a step.
            times = len(set(np.ravel(shifts[name]).tolist())) if shifts is not None and name in shifts else 1
            used = times * len(root[whole])
            if len(stored) > used:
                found.append(f"'{name}' has {len(stored)} rows where at most {used} are of anything: the rest is not read.")
    return found


def kind_in_words(dtype: np.dtype[Any]) -> str:
    """What an HDF5 array holds that is no array of real numbers."""
    return {"c": "complex numbers", "V": "numbers of several kinds in one"}.get(dtype.kind, "texts")


def _left_out(root: Any) -> list[str]:
    return [
        f"'{name}' is not read: it holds {kind_in_words(stored.dtype)}."
        for group in ("PointData", "CellData")
        for name, stored in (root.get(group) or {}).items()
        if stored.dtype.kind not in "iufb"
    ]


class Writer:
    """Writes a mesh once and then step after step: ``with Writer(path, ...) as w: w.step(0.5, points, cells)``; a new mesh with
    ``w.mesh(...)`` before the first step that has it."""

    def __init__(
        self,
        path: Path,
        points: NDArray[np.floating],
        types: NDArray[np.uint8],
        offsets: NDArray[np.int64],
        connectivity: NDArray[np.int64],
    ) -> None:
        self.file = h5py.File(path, "w")
        root = self.root = self.file.create_group("VTKHDF", track_order=True)
        root.attrs["Version"] = np.array([2, 0])
        root.attrs.create("Type", np.bytes_("UnstructuredGrid"))
        self.times: list[float] = []
        # Where the rows of each array begin, a step each; where the mesh of each step begins: part, points, cells, connectivity.
        self.begins: dict[str, list[int]] = {}
        self.at: list[tuple[int, int, int, int]] = []
        self._now = (0, 0, 0, 0)
        self.mesh(points, types, offsets, connectivity)

    def mesh(
        self,
        points: NDArray[np.floating],
        types: NDArray[np.uint8],
        offsets: NDArray[np.int64],
        connectivity: NDArray[np.int64],
    ) -> None:
        """The mesh of the steps that follow."""
        root = self.root
        if "Points" in root:
            self._now = (len(root["NumberOfPoints"]), len(root["Points"]), len(root["Types"]), len(root["Connectivity"]))
        for name, value in (("Points", len(points)), ("Cells", len(types)), ("ConnectivityIds", len(connectivity))):
            self._add(f"NumberOf{name}", np.array([value]))
        for name, values in (("Points", points), ("Types", types), ("Offsets", offsets), ("Connectivity", connectivity)):
            self._add(name, values)

    def _add(self, path: str, values: NDArray[Any]) -> int:
        """Write rows behind those an array has; returns where they begin."""
        if path not in self.root:
            self.root.create_dataset(path, data=values, maxshape=(None, *values.shape[1:]), chunks=True)
            return 0
        stored = self.root[path]
        begin = len(stored)
        stored.resize(begin + len(values), axis=0)
        stored[begin:] = values
        return begin

    def step(self, time: float, point_data: dict[str, RawArray], cell_data: dict[str, RawArray]) -> None:
        for group, data in (("PointData", point_data), ("CellData", cell_data)):
            for name, array in data.items():
                safe = name.replace("/", "_")
                path = f"{group}/{safe}"
                begin = self._add(path, array.values[:, 0] if array.values.shape[1] == 1 else array.values)
                if not begin and array.components:
                    self.root[path].attrs[NAMES] = list(array.components)
                self.begins.setdefault(path, []).append(begin)
        self.times.append(time)
        self.at.append(self._now)

    def __enter__(self) -> Writer:
        return self

    def __exit__(self, *_: object) -> None:
        count = len(self.times)
        steps = self.root.require_group("Steps")
        steps.attrs["NSteps"] = count
        steps["Values"] = np.array(self.times)
        at = np.array(self.at, dtype=np.int64).reshape(count, 4)
        steps["PartOffsets"], steps["NumberOfParts"] = at[:, 0], np.ones(count, dtype=np.int64)
        steps["PointOffsets"] = at[:, 1]
        steps["CellOffsets"], steps["ConnectivityIdOffsets"] = at[:, 2:3], at[:, 3:4]
        for path, begins in self.begins.items():
            group, name = path.split("/")
            steps.require_group(f"{group}Offsets")[name] = np.array(begins, dtype=np.int64)
        self.file.close()
