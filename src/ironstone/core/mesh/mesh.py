"""The mesh of a result: nodes, elements of mixed shapes, parts and sets, with the adjacencies that readings need."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import NotFound
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.jacobians import size_ratios
from ironstone.core.wanted import still_wanted

Float = NDArray[np.float64]
Int = NDArray[np.int64]


@dataclass(frozen=True)
class Block:
    """The elements of one shape: their positions (e,), nodes (e, size) and first corners (e,)."""

    cell: Cell
    elements: Int
    nodes: Int
    first: Int

    @property
    def corners(self) -> Int:
        """The corners of each element, (e, size)."""
        return self.first[:, None] + np.arange(self.cell.size)

    def some(self, chosen: NDArray[Any] | slice) -> Block:
        """Some of the elements, by a mask, by positions in this block or as a run of it."""
        if not isinstance(chosen, slice) and chosen.dtype == bool and chosen.all():
            return self
        return Block(self.cell, self.elements[chosen], self.nodes[chosen], self.first[chosen])

    def pieces(self, count: int = 16_384) -> Iterator[Block]:
        """The block in runs of at most ``count`` elements, so that work on large meshes stays in bounded memory."""
        for start in range(0, len(self.elements), count):
            still_wanted()
            yield self.some(slice(start, start + count))


@dataclass(frozen=True, eq=False)
class Mesh:
    """Nodes and elements after welding.

    points: (nodes, 3) in the result's length unit. types: (elements,) VTK cell types. offsets: (elements + 1,) into
    connectivity: (corners,) node positions; corner k is node ``connectivity[k]`` as seen by its element. ids are the file's.
    part: (elements,) position in part_names. material: (elements,) a number for each material, None where the file names none.
    breaks: (elements,) a number for each thickness and property of a shell, across which nothing is averaged; None for none.
    """

    points: Float
    types: NDArray[np.uint8]
    offsets: Int
    connectivity: Int
    node_ids: Int
    element_ids: Int
    part: NDArray[np.int32]
    part_names: tuple[str, ...]
    node_sets: dict[str, Int] = field(default_factory=dict)
    element_sets: dict[str, Int] = field(default_factory=dict)
    material: NDArray[np.int32] | None = None
    material_names: tuple[str, ...] = ()
    breaks: NDArray[np.int32] | None = None

    @property
    def material_or_part_names(self) -> tuple[str, ...]:
        if self.material is None:
            return self.part_names
        count = int(self.material.max(initial=-1)) + 1
        return self.material_names or tuple(f"material {i + 1}" for i in range(count))

    @property
    def material_or_part(self) -> NDArray[np.int32]:
        """Material of each element; its part where the file names no materials."""
        return self.part if self.material is None else self.material

    @cached_property
    def corner_element(self) -> Int:
        """Element of each corner, (corners,)."""
        return np.repeat(np.arange(len(self.types)), np.diff(self.offsets))

    @cached_property
    def dimensions(self) -> NDArray[np.int8]:
        """Of each element: 3 a solid, 2 a face, 1 a bar, 0 a point, (elements,)."""
        lookup = np.zeros(256, dtype=np.int8)
        for vtk, cell in CELLS.items():
            lookup[vtk] = cell.dimension
        result: NDArray[np.int8] = lookup[self.types]
        return result

    @cached_property
    def blocks(self) -> tuple[Block, ...]:
        result = []
        for vtk in np.flatnonzero(np.bincount(self.types, minlength=256)).tolist():
            cell = CELLS[vtk]
            elements = np.flatnonzero(self.types == vtk)
            if len(elements) == len(self.types):
                # One shape throughout: its tables are those of the mesh, not copies.
                result.append(Block(cell, elements, self.connectivity.reshape(-1, cell.size), self.offsets[:-1]))
                break
            first = self.offsets[elements]
            result.append(Block(cell, elements, self.connectivity[first[:, None] + np.arange(cell.size)], first))
        return tuple(result)

    @cached_property
    def _corners_by_node(self) -> tuple[Int, Int]:
        """All corners in the order of their nodes, and where those of each node begin, (nodes + 1,)."""
        counts = np.bincount(self.connectivity, minlength=len(self.points))
        return np.argsort(self.connectivity, kind="stable"), np.concatenate([[0], np.cumsum(counts)])

    @cached_property
    def first_corner(self) -> Int:
        """One corner of each node, (nodes,); 0 for a node no element uses."""
        first = np.zeros(len(self.points), dtype=np.int64)
        first[self.connectivity[::-1]] = np.arange(len(self.connectivity))[::-1]
        return first

    def owners(self, corners: Any) -> Any:
        """The element of each of some corners, or of one."""
        if len(self.blocks) == 1 and "corner_element" not in vars(self):
            return corners // self.blocks[0].cell.size
        return self.corner_element[corners]

    def corners_at(self, node: int) -> Int:
        """The corners that meet at a node, in order."""
        corners, begins = self._corners_by_node
        return corners[begins[node] : begins[node + 1]]

    def corners_of(self, elements: Int) -> Int:
        """All corners of some elements, in order."""
        counts = self.offsets[elements + 1] - self.offsets[elements]
        begins = np.cumsum(counts) - counts
        corners: Int = np.arange(counts.sum()) + np.repeat(self.offsets[elements] - begins, counts)
        return corners

    def middles(self, elements: Int) -> Float:
        """The mean place of each element's nodes, (len(elements), 3)."""
        counts = self.offsets[elements + 1] - self.offsets[elements]
        corners = self.points[self.connectivity[self.corners_of(elements)]]
        result: Float = np.add.reduceat(corners, np.cumsum(counts) - counts, axis=0) / counts[:, None]
        return result

    @cached_property
    def volumes(self) -> Float:
        """Volume, area or length of each element by its own quadrature, (elements,)."""
        result = np.zeros(len(self.types))
        for block in self.blocks:
            for piece in block.pieces():
                result[piece.elements] = quadrature_weights(self, piece).sum(1)
        return result

    @cached_property
    def planar(self) -> bool:
        """Whether every element is flat and all of them lie in one plane z = constant."""
        flat = all(block.cell.dimension == 2 for block in self.blocks)
        return flat and bool(np.ptp(self.points[:, 2]) <= 1e-9 * max(self.size, 1e-300))

    def encloses(self, part: int) -> bool:
        """Whether a part, by position, has an inside: solids, or the faces of a planar model."""
        own = self.dimensions[self.part == part]
        return bool(len(own)) and bool((own == (2 if self.planar else 3)).all())

    @cached_property
    def size(self) -> float:
        """Diagonal of the box that holds the model."""
        low, high = self.box
        return float(np.linalg.norm(high - low))

    @cached_property
    def box(self) -> tuple[Float, Float]:
        """The least and the greatest of each coordinate, (3,) each; zeros without points."""
        if not len(self.points):
            return np.zeros(3), np.zeros(3)
        # Column by column: along the rows NumPy takes ten times as long.
        return tuple(np.array([end(self.points[:, k]) for k in range(3)]) for end in (np.min, np.max))  # type: ignore[return-value]

    @cached_property
    def middle(self) -> Float:
        """The middle of the box that holds the model, (3,): what is drawn is told from there, so that single precision is enough
        wherever the model lies."""
        low, high = self.box
        return (low + high) / 2

    def node_position(self, node_id: int) -> int:
        return _position(self.node_ids, node_id, "node")

    def element_position(self, element_id: int) -> int:
        return _position(self.element_ids, element_id, "element")


def _position(ids: Int, wanted: int, what: str) -> int:
    found = np.flatnonzero(ids == wanted)
    if not len(found):
        raise NotFound(
            f"There is no {what} {wanted} in this result.",
            f"{what.capitalize()} numbers here run from {ids.min()} to {ids.max()}." if len(ids) else "",
        )
    return int(found[0])


def quadrature_weights(mesh: Mesh, block: Block, turned: bool = False, rule: tuple[Float, Float] | None = None) -> Float:
    """Quadrature weight times the volume (area, length) ratio at each quadrature point, (elements, points).

    turned: an axisymmetric model, x the radius: times the way round, 2 pi x. rule: natural coordinates (q, 3) and weights (q,) in
    place of the element's own.
    """
    xi, weights = rule or block.cell.quadrature
    if block.cell.dimension == 0:
        return np.ones((len(block.elements), len(xi)))
    ratio = size_ratios(block.cell, xi, mesh.points[block.nodes])
    if turned:
        ratio = ratio * 2.0 * np.pi * np.abs(mesh.points[block.nodes, 0] @ block.cell.shape(xi).T)
    return ratio * weights
