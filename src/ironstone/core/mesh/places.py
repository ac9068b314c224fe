"""Places a reading is answered at; every place resolves to elements and natural coordinates, or to corners and nodes."""

from __future__ import annotations

from dataclasses import dataclass

from ironstone.core.mesh.mesh import Float, Int


@dataclass(frozen=True, eq=False)
class AtNodes:
    """Nodes by position; with averaging off a node has one answer for each element that meets there."""

    nodes: Int


@dataclass(frozen=True, eq=False)
class AtElements:
    """The mean of each element: the integral over it, divided by its volume."""

    elements: Int


@dataclass(frozen=True, eq=False)
class AtCorners:
    """Every corner of some elements, or of all (None)."""

    elements: Int | None = None


@dataclass(frozen=True, eq=False)
class AtGauss:
    """The Gauss points of some elements, for a field that has them: one answer for each, as the file holds it."""

    elements: Int


@dataclass(frozen=True, eq=False)
class AtSamples:
    """Places inside elements: element (n,) and natural coordinates (n, 3)."""

    element: Int
    xi: Float


@dataclass(frozen=True, eq=False)
class TheseCorners:
    """Corners by position."""

    corners: Int


Place = AtNodes | AtElements | AtCorners | AtGauss | AtSamples
