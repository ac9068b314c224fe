"""Sections, iso-surfaces, bands, points and ways of a million hexahedra beside VTK's filters: ``python -m bench.cuts``.

The mesh is welded, the value a smooth one at the nodes; ours keeps a value for every corner. Best of three, in one run.
"""

from __future__ import annotations

import argparse
import time
from typing import Any

import numpy as np
from vtkmodules.vtkCommonCore import vtkSMPTools
from vtkmodules.vtkCommonDataModel import vtkPlane, vtkUnstructuredGrid
from vtkmodules.vtkFiltersCore import vtkContour3DLinearGrid, vtkContourGrid, vtkCutter, vtkPlaneCutter
from vtkmodules.vtkFiltersGeneral import vtkTableBasedClipDataSet

from bench.__main__ import best, line
from bench.models import plain_mesh, side_for
from ironstone.core.geometry.cut import cut
from ironstone.core.geometry.geodesic import shortest_way
from ironstone.core.geometry.levels import at_value, in_band
from ironstone.core.geometry.locate import locate
from ironstone.core.geometry.nearest import outside_of
from ironstone.core.geometry.routes import outside, route
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples
from ironstone.formats.out import grid_of
from ironstone.formats.registry import RawArray, RawStep


def grid_with(mesh: Mesh, value: Float) -> vtkUnstructuredGrid:
    """A mesh with one value at its nodes, as VTK has it."""
    grid = grid_of(RawStep(mesh.points, mesh.types, mesh.offsets, mesh.connectivity, {"value": RawArray(value)}))
    grid.GetPointData().SetActiveScalars("value")
    return grid


def ran(filter_: Any, grid: vtkUnstructuredGrid) -> float:
    filter_.SetInputData(grid)

    def run() -> Any:
        filter_.Modified()
        filter_.Update()
        return filter_.GetOutputDataObject(0)

    return best(run)[0]


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--elements", type=int, default=1_000_000)
    side = side_for(options.parse_args().elements)
    vtkSMPTools.SetBackend("STDThread")
    mesh = plain_mesh(side)
    mesh.blocks  # noqa: B018
    middle = mesh.points.mean(0)
    value = np.linalg.norm((mesh.points - middle) * [1.0, 0.8, 1.2], axis=1) / side
    grid = grid_with(mesh, value)
    print(f"{len(mesh.types):,} linear hexahedra")
    plane = vtkPlane()
    normal = np.array([1.0, 0.3, 0.2]) / np.linalg.norm([1.0, 0.3, 0.2])
    origin = middle + 0.21
    plane.SetOrigin(*origin)
    plane.SetNormal(*normal)
    ours, _ = best(lambda: list(cut(mesh, origin, normal)))
    for peer in (vtkCutter(), vtkPlaneCutter()):
        (peer.SetCutFunction if isinstance(peer, vtkCutter) else peer.SetPlane)(plane)
        line("section by a plane", ours, ran(peer, grid), 2, peer.GetClassName())
    corner = value[mesh.connectivity]

    def answer(element: Int, xi: Float) -> Float:
        found: Float = positions(mesh, AtSamples(element, xi), value[:, None])[:, 0]
        return found

    ours, _ = best(lambda: list(at_value(mesh, corner, answer, 0.3)))
    for contour in (vtkContourGrid(), vtkContour3DLinearGrid()):
        contour.SetValue(0, 0.3)
        line("iso-surface", ours, ran(contour, grid), 2, contour.GetClassName())
    ours, band = best(lambda: in_band(mesh, corner, answer, 0.25, 0.35))
    clip = vtkTableBasedClipDataSet()
    clip.SetValue(0.25)
    once = ran(clip, grid)
    second = vtkTableBasedClipDataSet()
    second.SetValue(0.35)
    second.InsideOutOn()
    line("value band", ours, once + ran(second, clip.GetOutput()), 2, "two of VTK's clips")
    volume, _ = best(lambda: sum(p.sizes(mesh).sum() for p in band.pieces))
    print(f"  its volume: {volume:.3f} s more")
    thrown = np.random.default_rng(1).uniform(0, side, (1000, 3))
    locate(mesh, thrown[:1])
    found, _ = best(lambda: locate(mesh, thrown))
    print(f"  a thousand points located: {1000 * found:.0f} ms (target 50: {'met' if found <= 0.05 else 'MISSED'})")
    begun = time.perf_counter()
    outside(mesh)
    made = time.perf_counter() - begun
    nodes = outside(mesh).nodes
    way, _ = best(lambda: route(mesh, int(nodes[0]), int(nodes[-1])))
    begun = time.perf_counter()
    outside_of(mesh)
    found_by = time.perf_counter() - begun
    straight, _ = best(lambda: shortest_way(mesh, int(nodes[0]), int(nodes[-1]), 101))
    verdict = "met" if straight <= 0.5 else "MISSED"
    print(f"  drawn straight over the faces: {straight:.2f} s (target 0.5: {verdict}), after {found_by:.2f} s, once")
    print(
        f"  way over the surface: the graph {made:.2f} s, once; a way {way:.2f} s (target 0.5: {'met' if way <= 0.5 else 'MISSED'})"
    )


if __name__ == "__main__":
    main()
