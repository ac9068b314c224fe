"""Which module reads which suffix, and the neutral form every reader returns."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from importlib import import_module
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS

EXPORT_AGAIN = "Export the file again, or leave it out."


@dataclass(frozen=True)
class Plies:
    """How the columns of an array that was put together of one a ply go on: ``count`` layers (times the places in each), split in
    which way; what was taken for what; whether all came as whole numbers."""

    count: int
    way: str
    note: str
    whole: bool


@dataclass
class RawArray:
    """An array as the file has it: (entities, components), with the component names the file gives.

    harmonic: the first half of the columns are real parts, the second imaginary ones. plies: of an array put together of several.
    """

    values: NDArray[np.generic]
    components: tuple[str, ...] = ()
    harmonic: bool = False
    plies: Plies | None = None


@dataclass
class RawStep:
    """One stored state as the file has it, before any welding or guessing.

    corner_data: values of each element at each of its nodes, in the order of ``connectivity``. Parts, materials, ids and sets
    where the format itself knows them; None or empty where it does not. same_mesh: the mesh is that of the step before in the
    same file, and its arrays are left empty. pieces: which piece or block each point came with, where there are several. kind:
    of ``time``: time, frequency, mode, load factor. totals: numbers of the whole model at this step, such as an energy, by name.
    """

    points: NDArray[np.floating]
    types: NDArray[np.uint8]
    offsets: NDArray[np.int64]
    connectivity: NDArray[np.int64]
    point_data: dict[str, RawArray] = field(default_factory=dict)
    cell_data: dict[str, RawArray] = field(default_factory=dict)
    time: float | None = None
    corner_data: dict[str, RawArray] = field(default_factory=dict)
    kind: str = "time"
    loading: str = ""
    part: NDArray[np.int32] | None = None
    part_names: tuple[str, ...] = ()
    material: NDArray[np.int32] | None = None
    material_names: tuple[str, ...] = ()
    node_ids: NDArray[np.int64] | None = None
    element_ids: NDArray[np.int64] | None = None
    node_sets: dict[str, NDArray[np.int64]] = field(default_factory=dict)
    element_sets: dict[str, NDArray[np.int64]] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)
    same_mesh: bool = False
    pieces: NDArray[np.int64] | None = None
    totals: dict[str, float] = field(default_factory=dict)


Reader = Callable[[Path], Iterator[RawStep]]
READERS: dict[str, str] = {
    ".vtu": "ironstone.formats.vtu",
    ".pvd": "ironstone.formats.collections",
    ".pvtu": "ironstone.formats.collections",
    ".vtm": "ironstone.formats.collections",
    ".vtk": "ironstone.formats.legacy",
    ".vtkhdf": "ironstone.formats.vtkhdf",
    ".xdmf": "ironstone.formats.xdmf",
    ".xmf": "ironstone.formats.xdmf",
    ".exo": "ironstone.formats.exodus",
    ".e": "ironstone.formats.exodus",
    ".ex2": "ironstone.formats.exodus",
    ".uff": "ironstone.formats.universal",
    ".unv": "ironstone.formats.universal",
}


# What the formats are called, by the module that reads them, in the order they are told.
TITLES: dict[str, str] = {
    "ironstone.formats.vtu": "VTU",
    "ironstone.formats.collections": "its collections (PVD, PVTU, VTM)",
    "ironstone.formats.legacy": "legacy VTK",
    "ironstone.formats.vtkhdf": "VTKHDF",
    "ironstone.formats.xdmf": "XDMF with its data",
    "ironstone.formats.exodus": "Exodus II",
    "ironstone.formats.universal": "universal files",
}
# Data that another file describes: chosen along with it.
BESIDE = (".h5", ".hdf5", ".bin")


def register(suffix: str, module: str, title: str = "") -> None:
    """Let ``module.read(path)`` read files that end in ``suffix``: a generator of the steps in the file. title: what it is called.

    The module must be one that can be imported by name: files are read in a process of their own.
    """
    READERS[suffix.lower()] = module
    TITLES.setdefault(module, title or suffix.lstrip(".").upper())


def reader_for(path: Path) -> Reader:
    module = READERS.get(path.suffix.lower())
    if module is None and path.suffix.lower() in BESIDE:
        raise IronstoneError(
            f"{path.name} holds data that another file describes.",
            "Choose the XDMF file along with it: both are needed. Where there is none, export the result as XDMF, VTKHDF or VTU.",
        )
    if module is None:
        raise IronstoneError(f"{path.name} is not in a format that is read here.", f"Formats read: {', '.join(sorted(READERS))}.")
    read: Reader = import_module(module).read
    return read


def apart(paths: Sequence[Path]) -> tuple[list[Path], list[Path]]:
    """Files that hold steps, and those that hold the data these describe, such as the HDF5 file of an XDMF one, the pieces of a
    collection.

    A reader's module says which by ``companions(path)``, names of files beside the one it reads.
    """
    named: dict[str, Path] = {}
    for path in paths:
        module = READERS.get(path.suffix.lower())
        answer = getattr(import_module(module), "companions", None) if module and path.is_file() else None
        named |= dict.fromkeys(answer(path) if answer else (), path)
    beside = [p for p in paths if p.name in named]
    for path in beside:
        needs = named[path.name]
        below = path.suffix.lower() in READERS and needs.parent.resolve() in path.resolve().parents
        if not below and path.parent.resolve() != needs.parent.resolve():
            raise IronstoneError(f"{path.name} is not beside {needs.name}, which needs it.", "Put both files in one folder.")
    return [p for p in paths if p not in beside], beside


def steps_of(path: Path, before: RawStep | None = None) -> Iterator[RawStep]:
    """The steps of one file, by the reader its suffix names, each with a mesh that can be. Raises IronstoneError.

    before: a step whose mesh was found to be one that can be; the same is not looked at again.
    """
    from ironstone.formats.cells import known_cells

    for read in reader_for(path)(path):
        step = known_cells(read, path)
        if before is None or not same_mesh(step, before):
            check(step, path)
        check_data(step, path)
        before = step
        step.notes += _unpacked(step, path)
        yield step


# A step that holds more than this, and so many times what its file does, is told: few results are packed as well as that.
MUCH, MANY_TIMES = 1024**3, 100


def _unpacked(step: RawStep, path: Path) -> list[str]:
    data = (a.values for table in (step.point_data, step.cell_data, step.corner_data) for a in table.values())
    held = sum(values.nbytes for values in (step.points, step.connectivity, *data))
    packed = path.stat().st_size if path.exists() else held
    if held < max(MUCH, MANY_TIMES * packed):
        return []
    return [
        f"{path.name} unpacks to {held / 1e9:.3g} GB, {held // max(packed, 1)} times its size: check that it is what you expect."
    ]


def vertices(step: RawStep) -> RawStep:
    """A step that has points alone as one whose elements are these points: places with values."""
    count = len(step.points)
    every = np.arange(count, dtype=np.int64)
    return replace(
        step,
        types=np.full(count, 1, dtype=np.uint8),
        offsets=np.arange(count + 1, dtype=np.int64),
        connectivity=every,
        cell_data={},
    )


def same_mesh(a: RawStep, b: RawStep) -> bool:
    """Whether two steps have one mesh, number by number."""
    return all(
        getattr(a, name) is getattr(b, name) or np.array_equal(getattr(a, name), getattr(b, name))
        for name in ("points", "types", "offsets", "connectivity")
    )


def check(raw: RawStep, path: Path) -> None:
    """Refuse a mesh that cannot be: points at infinity, elements that name points there are not, or of the wrong size."""
    count = len(raw.points)
    if count == 0 or len(raw.types) == 0:
        raise IronstoneError(f"{path.name} holds no mesh: it is empty or was cut off while it was written.", EXPORT_AGAIN)
    if not np.isfinite(raw.points).all():
        bad = int(np.flatnonzero(~np.isfinite(raw.points).all(1))[0])
        raise IronstoneError(f"{path.name}: point {bad} has no finite coordinates.", EXPORT_AGAIN)
    low, high = (int(raw.connectivity.min()), int(raw.connectivity.max())) if raw.connectivity.size else (0, 0)
    if low < 0:
        raise IronstoneError(
            f"{path.name}: an element names point {low}, counted from 0: there is none before the first.",
            "The file may count from 0 where its format counts from 1. Export it again.",
        )
    if high >= count:
        raise IronstoneError(f"{path.name}: an element names point {high}, but there are only {count} points.", EXPORT_AGAIN)
    unknown = [t for t in np.flatnonzero(np.bincount(raw.types, minlength=256)).tolist() if t not in CELLS]
    if unknown:
        raise IronstoneError(
            f"{path.name} has elements of VTK cell type {', '.join(map(str, unknown))}, which are not read yet.",
            f"Types read: {', '.join(f'{v} ({c.name})' for v, c in sorted(CELLS.items()))}.",
        )
    expected = np.zeros(256, dtype=np.int64)
    for vtk, cell in CELLS.items():
        expected[vtk] = cell.size
    sizes = np.diff(raw.offsets)
    wrong = np.flatnonzero(sizes != expected[raw.types])
    if len(wrong) or len(raw.offsets) != len(raw.types) + 1 or raw.offsets[-1] != len(raw.connectivity):
        e = int(wrong[0]) if len(wrong) else len(raw.types) - 1
        size = int(sizes[e]) if e < len(sizes) else 0
        raise IronstoneError(f"{path.name}: element {e} is a {CELLS[int(raw.types[e])].name} but has {size} nodes.", EXPORT_AGAIN)


def check_data(raw: RawStep, path: Path) -> None:
    """Refuse arrays that have more or fewer rows than the mesh has places for."""
    for data, entities, what in (
        (raw.point_data, len(raw.points), "points"),
        (raw.cell_data, len(raw.types), "elements"),
        (raw.corner_data, len(raw.connectivity), "corners"),
    ):
        for name, array in data.items():
            if len(array.values) != entities:
                raise IronstoneError(f"{path.name}: '{name}' has {len(array.values)} rows for {entities} {what}.", EXPORT_AGAIN)


def joined(names: list[str], read: Callable[[str], NDArray[np.generic]], count: int) -> dict[str, RawArray]:
    """Scalars whose names differ by a component's ending joined into vectors and tensors: ux, uy, uz are u.

    Formats that know scalars alone write them so; the endings are x, y, z and xx .. xz, with or without '_' before them.
    """
    groups: dict[tuple[str, tuple[str, ...]], dict[str, str]] = {}
    used: set[str] = set()
    every: tuple[tuple[str, ...], ...] = (
        ("xx", "yy", "zz", "xy", "yz", "xz"),
        ("xx", "yy", "zz", "xy", "yz", "zx"),
        ("xx", "yy", "zz", "xy"),
        ("x", "y", "z"),
        ("x", "y"),
    )
    for endings in every:
        stems: dict[str, dict[str, str]] = {}
        for name in names:
            low = name.lower()
            for ending in endings:
                if name not in used and low.endswith(ending) and len(name) > len(ending):
                    stems.setdefault(name[: -len(ending)], {})[ending] = name
        for stem, found in stems.items():
            complete = len(found) == len(endings)
            if complete and not (len(endings) < 4 and stem[-1:].lower() in "xyz"):
                groups[stem, endings] = found
                used |= set(found.values())
    result = {}
    for name in names:
        if name not in used:
            result[name] = RawArray(np.asarray(read(name)).reshape(count, -1))
            continue
        for (stem, endings), found in groups.items():
            if found[endings[0]] == name:
                columns = [np.asarray(read(found[e])).reshape(count) for e in endings]
                whole = stem.rstrip("_ -.") or stem
                result[whole] = RawArray(np.stack(columns, axis=1), endings)
    return result
