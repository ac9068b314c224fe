"""XDMF: an XML file that describes, and an HDF5 (or binary, or the XML itself) that holds; single grids and series in time.

After the published description of the XDMF 3 model and format. Mixed topologies, references and inclusions of another grid's
mesh, and slabs of larger arrays are followed; other arithmetic between data items is not.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import h5py
import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.formats.merged import merged
from ironstone.formats.registry import EXPORT_AGAIN, RawArray, RawStep
from ironstone.formats.vtkhdf import kind_in_words, opened

_TYPES = {
    "triangle": 5, "quadrilateral": 9, "tetrahedron": 10, "pyramid": 14, "wedge": 13, "hexahedron": 12, "edge_3": 21,
    "triangle_6": 22, "tri_6": 22, "quadrilateral_8": 23, "quad_8": 23, "quadrilateral_9": 28, "quad_9": 28,
    "tetrahedron_10": 24, "tet_10": 24, "pyramid_13": 27, "wedge_15": 26, "wedge_18": 32, "hexahedron_20": 25, "hex_20": 25,
    "hexahedron_27": 29, "hex_27": 29, "polyvertex": 1, "polyline": 3,
}  # fmt: skip
_MIXED = {4: 5, 5: 9, 6: 10, 7: 14, 8: 13, 9: 12, 34: 21, 35: 28, 36: 22, 37: 23, 38: 24, 39: 27, 40: 26, 41: 32, 48: 25, 50: 29}


def read(path: Path) -> Iterator[RawStep]:
    """Read the steps an XDMF file describes. Its heavy data must lie beside it."""
    try:
        tree = ElementTree.parse(path)
    except ElementTree.ParseError as error:
        raise IronstoneError(f"{path.name} is no XML that can be read: {error}.", EXPORT_AGAIN) from error
    document = _Document(path, tree.getroot())
    try:
        yield from document.steps()
    finally:
        for file in document.files.values():
            file.close()


def companions(path: Path) -> set[str]:
    """Names of the files that hold the data an XDMF file describes. Empty for one that cannot be read."""
    try:
        items = ElementTree.parse(path).iter("DataItem")
    except ElementTree.ParseError:
        return set()
    return {
        Path((item.text or "").strip().partition(":")[0]).name
        for item in items
        if item.get("Format", "XML").upper() in ("HDF", "BINARY")
    }


# Meshes that are kept while a file is read: one a block where there are blocks.
MESHES = 64


class _NotNumbers(Exception):
    """An array of something else than real numbers."""


class _Document:
    def __init__(self, path: Path, root: ElementTree.Element) -> None:
        self.path = path
        self.root = root
        self.files: dict[str, h5py.File] = {}
        self.meshes: dict[tuple[str, str], tuple[Any, ...]] = {}
        if root.tag != "Xdmf":
            raise IronstoneError(
                f"{path.name} is no XDMF file: it begins with <{root.tag}>.", "Check that the right file was chosen."
            )

    def steps(self) -> Iterator[RawStep]:
        moments = self._moments()
        if not moments:
            raise IronstoneError(f"{self.path.name} describes no grid.", EXPORT_AGAIN)
        for index, (time, grids) in enumerate(moments):
            blocks: dict[str, RawStep] = {}
            for grid in grids:
                apart = grid.findall("Grid") if grid.get("GridType", "Uniform") == "Collection" else []
                for k, own in enumerate(apart or [grid]):
                    name = (own.get("Name") or f"block {k + 1}") if apart else ""
                    blocks[name] = self._read(own, index, blocks.get(name))
            names = list(blocks)
            step = merged([blocks[n] for n in names], names if len(names) > 1 else ())
            step.time = time
            yield step

    def _read(self, grid: ElementTree.Element, index: int, step: RawStep | None) -> RawStep:
        """What a grid holds, added to what another of the same moment has."""
        topology, geometry = self._part(grid, "Topology"), self._part(grid, "Geometry")
        if topology is None or geometry is None:
            raise IronstoneError(f"{self.path.name}: grid {index + 1} has no topology or no geometry.", EXPORT_AGAIN)
        key = self._key(topology), self._key(geometry)
        if key not in self.meshes:
            self.meshes = {k: v for k, v in list(self.meshes.items())[-MESHES:]}
            self.meshes[key] = (self._points(geometry), *self._cells(topology))
        points, types, offsets, connectivity = self.meshes[key]
        if step is None:
            step = RawStep(points, types, offsets, connectivity)
        elif len(points) != len(step.points) or len(types) != len(step.types):
            raise IronstoneError(
                f"{self.path.name} has fields on meshes of different size at one moment.", "Export them on one mesh, or apart."
            )
        for attribute in grid.findall("Attribute"):
            centre = attribute.get("Center", "Node").lower()
            target = {"node": step.point_data, "cell": step.cell_data}.get(centre)
            item = attribute.find("DataItem")
            if target is None or item is None:
                step.notes.append(f"'{attribute.get('Name', '')}' is given per {centre}, which is not read.")
                continue
            rows = len(points) if centre == "node" else len(types)
            try:
                values = self._item(item)
            except _NotNumbers as error:
                step.notes.append(f"'{attribute.get('Name', '')}' is not read: {error}.")
                continue
            target[attribute.get("Name") or f"array {len(target)}"] = RawArray(values.reshape(rows, -1))
        return step

    def _key(self, part: ElementTree.Element) -> str:
        """What tells a topology or geometry from another: where its data lie, else which element of the document it is."""
        item = part.find("DataItem")
        text = (item.text or "").strip() if item is not None and len(item) == 0 else ""
        return text if item is not None and item.get("Format", "XML").upper() == "HDF" and text else str(id(part))

    def _moments(self) -> list[tuple[float | None, list[ElementTree.Element]]]:
        """The steps: their time, and the grids that hold what is known at it. Series of one file that go over the same times, such
        as one for each field, are one series."""
        domain = self.root.find("Domain")
        series: list[list[tuple[float | None, ElementTree.Element]]] = []
        alone: list[tuple[float | None, ElementTree.Element]] = []
        for top in domain.findall("Grid") if domain is not None else []:
            if top.get("GridType", "Uniform") != "Collection" or top.get("CollectionType", "Spatial") != "Temporal":
                alone.append((self._time(top), top))
                continue
            own = top.findall("Grid")
            listed = self._listed(top, len(own))
            series.append(
                [(t if t is not None else u, g) for t, u, g in zip((self._time(g) for g in own), listed, own, strict=True)]
            )
        if alone and series:
            # A mesh kept apart, with the steps in a collection, is no step of its own.
            alone = [(t, g) for t, g in alone if g.find("Attribute") is not None or g.find("Time") is not None]
        if alone:
            series.append(alone)
        timed = [(t, g) for own in series for t, g in own if t is not None]
        if len(series) == 1 or len(timed) < sum(map(len, series)):
            return [(t, [g]) for own in series for t, g in own]
        times = sorted({t for t, _ in timed})
        return [(time, [g for t, g in timed if t == time]) for time in times]

    def _time(self, grid: ElementTree.Element) -> float | None:
        time = grid.find("Time")
        return float(time.get("Value", "nan")) if time is not None and time.get("Value") else None

    def _listed(self, top: ElementTree.Element, count: int) -> list[float | None]:
        time = top.find("Time")
        item = time.find("DataItem") if time is not None else None
        if time is None or item is None:
            return [None] * count
        numbers = self._item(item).ravel().astype(float).tolist()
        if time.get("TimeType", "").lower() == "hyperslab" and len(numbers) >= 2:
            return [numbers[0] + k * numbers[1] for k in range(count)]
        return [*numbers[:count], *[None] * (count - len(numbers))]

    def _part(self, grid: ElementTree.Element, tag: str) -> ElementTree.Element | None:
        """Topology or geometry of a grid, followed where it points at another's."""
        own = grid.find(tag)
        if own is not None and own.find("DataItem") is not None:
            return own
        includes = [c for c in grid if c.tag.endswith("}include")]
        if own is None and not includes:
            return None
        named = re.search(r'@Name\s*=\s*["\']([^"\']+)', includes[0].get("xpointer", "")) if includes else None
        for other in self.root.iter("Grid"):
            found = other.find(tag)
            if found is None or found.find("DataItem") is None:
                continue
            holders = {other.get("Name")} | {g.get("Name") for g in self.root.iter("Grid") if other in list(g)}
            if named is None or named.group(1) in holders:
                return found
        return None

    def _points(self, geometry: ElementTree.Element) -> NDArray[Any]:
        kind = geometry.get("GeometryType", geometry.get("Type", "XYZ")).upper()
        items = [self._item(i) for i in geometry.findall("DataItem")]
        if kind in ("XYZ", "XY"):
            flat = items[0].reshape(-1, len(kind))
        elif kind in ("X_Y_Z", "X_Y"):
            flat = np.stack([i.ravel() for i in items], axis=1)
        else:
            raise IronstoneError(f"{self.path.name} has a geometry of type {kind}, which is not read.", EXPORT_AGAIN)
        return flat if flat.shape[1] == 3 else np.column_stack([flat, np.zeros(len(flat), dtype=flat.dtype)])

    def _cells(self, topology: ElementTree.Element) -> tuple[Any, ...]:
        kind = topology.get("TopologyType", topology.get("Type", "")).lower()
        item = topology.find("DataItem")
        assert item is not None
        data = self._item(item).ravel().astype(np.int64)
        if kind == "mixed":
            return self._mixed(data)
        if kind not in _TYPES:
            raise IronstoneError(f"{self.path.name} has elements of type '{kind}', which are not read.", EXPORT_AGAIN)
        vtk = _TYPES[kind]
        size = CELLS[vtk].size
        if len(data) % size:
            raise IronstoneError(f"{self.path.name}: {len(data)} nodes do not make whole elements of {size}.", EXPORT_AGAIN)
        count = len(data) // size
        return np.full(count, vtk, dtype=np.uint8), size * np.arange(count + 1), data

    def _mixed(self, data: NDArray[np.int64]) -> tuple[Any, ...]:
        types, starts, at = [], [], 0
        while at < len(data):
            kind = int(data[at])
            counted = kind in (1, 2)
            vtk = {1: 1, 2: 3}[kind] if counted else _MIXED.get(kind)
            if vtk is None or (counted and data[at + 1] != CELLS[vtk].size):
                raise IronstoneError(f"{self.path.name} has a mixed element of type {kind}, which is not read.", EXPORT_AGAIN)
            at += 2 if counted else 1
            types.append(vtk)
            starts.append(at)
            at += CELLS[vtk].size
        sizes = np.array([CELLS[t].size for t in types], dtype=np.int64)
        if at != len(data):
            raise IronstoneError(f"{self.path.name}: the last mixed element is incomplete.", EXPORT_AGAIN)
        offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int64)
        within = np.arange(offsets[-1]) - np.repeat(offsets[:-1], sizes)
        return np.array(types, dtype=np.uint8), offsets, data[np.repeat(np.array(starts), sizes) + within]

    def _item(self, item: ElementTree.Element) -> NDArray[Any]:
        if item.get("Reference"):
            raise IronstoneError(f"{self.path.name} refers from one data item to another, which is not read.", EXPORT_AGAIN)
        if item.get("ItemType", "Uniform") == "HyperSlab":
            slab, whole = (self._item(child) for child in item.findall("DataItem")[:2])
            start, stride, count = slab.reshape(3, -1).astype(int)
            chosen = tuple(slice(s, s + t * c, t) for s, t, c in zip(start, stride, count, strict=True))
            return whole[chosen]
        text = (item.text or "").strip()
        shape = tuple(int(v) for v in item.get("Dimensions", "").split())
        form = item.get("Format", "XML").upper()
        if form == "HDF":
            name, _, inside = text.partition(":")
            file = self._file(name)
            if inside not in file:
                raise IronstoneError(f"{name} has no data '{inside}', which {self.path.name} names.", EXPORT_AGAIN)
            if file[inside].dtype.kind not in "iufb":
                raise _NotNumbers(f"'{inside}' of {name} holds {kind_in_words(file[inside].dtype)}")
            return np.asarray(file[inside][()])
        named = item.get("NumberType", item.get("DataType", "Float")).lower()
        kind = {"float": "f", "int": "i", "uint": "u", "char": "i", "uchar": "u"}[named]
        size = 1 if "char" in named else int(item.get("Precision", "4"))
        if form == "BINARY":
            order = ">" if item.get("Endian", "Native").lower() == "big" else "<"
            number = int(np.prod(shape)) if shape else -1
            beside = self._beside(text)
            return np.fromfile(beside, f"{order}{kind}{size}", number, offset=int(item.get("Seek", "0"))).reshape(shape or (-1,))
        numbers = np.array(text.split(), dtype=f"{kind}{max(size, 4)}")
        return numbers.reshape(shape) if shape else numbers

    def _beside(self, name: str) -> Path:
        """A file next to this one; of a full path the name alone counts, a way out of the folder is refused."""
        name = Path(name).name if Path(name).is_absolute() else name
        if Path(name).name != name or name in ("", ".", ".."):
            raise IronstoneError(
                f"{self.path.name} names data at '{name}', outside its own folder.", "Put both files in one folder."
            )
        beside = self.path.parent / name
        if not beside.is_file():
            raise IronstoneError(f"{self.path.name} needs {name}, which is not beside it.", "Choose both files together.")
        return beside

    def _file(self, name: str) -> h5py.File:
        if name not in self.files:
            self.files[name] = opened(self._beside(name))
        return self.files[name]
