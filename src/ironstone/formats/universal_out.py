"""Universal files, written: 164, 2411, 2412, 2467, 2414. Layouts after the published descriptions, from memory."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TextIO

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.cells import CELLS
from ironstone.formats.registry import RawArray, RawStep
from ironstone.formats.universal import BEAMS, ORDER, RESULTS

_WRITTEN = {1: 161, 3: 21, 21: 24, 5: 91, 22: 92, 9: 94, 23: 95, 10: 111, 13: 112, 26: 113, 12: 115, 25: 116, 24: 118}


def write(path: Path, steps: Iterator[RawStep], units: str = "") -> list[str]:
    """Write steps of one mesh; returns what the format could not carry, in words."""
    lost: list[str] = []
    with path.open("w", encoding="ascii", errors="replace") as out:
        for index, step in enumerate(steps):
            if index == 0:
                mesh = step
                _write_mesh(out, step, lost, units)
            for number, (target, location) in enumerate((("point_data", 1), ("cell_data", 2), ("corner_data", 3))):
                for name, array in getattr(step, target).items():
                    _write_results(out, mesh, step, index, name, array, location, 10 * index + number)
    return lost


def _block(out: TextIO, number: int, lines: list[str]) -> None:
    out.write("\n".join([f"{-1:6d}", f"{number:6d}", *lines, f"{-1:6d}"]) + "\n")


def _write_mesh(out: TextIO, step: RawStep, lost: list[str], units: str) -> None:
    if units:
        _block(out, 164, [f"{9:10d}{units[:20]:>20s}{2:10d}", f"{1.0:25.17e}{1.0:25.17e}{1.0:25.17e}", f"{0.0:25.17e}"])
    ids, labels = _ids(step)
    lines = []
    for label, point in zip(ids.tolist(), step.points.astype(float).tolist(), strict=True):
        lines += [f"{label:10d}{1:10d}{1:10d}{11:10d}", "".join(f"{v:25.16e}" for v in point)]
    _block(out, 2411, lines)
    lines = []
    part = step.part if step.part is not None else np.zeros(len(step.types), dtype=np.int32)
    material = step.material if step.material is not None else part
    for e, vtk in enumerate(step.types.tolist()):
        if vtk not in _WRITTEN:
            lost.append(f"elements of shape {CELLS[vtk].name}: the format has no such shape")
            continue
        nodes = ids[step.connectivity[step.offsets[e] : step.offsets[e + 1]]]
        if vtk in ORDER:
            turned = np.empty_like(nodes)
            turned[ORDER[vtk]] = nodes
            nodes = turned
        lines.append(f"{labels[e]:10d}{_WRITTEN[vtk]:10d}{part[e] + 1:10d}{material[e] + 1:10d}{7:10d}{len(nodes):10d}")
        if _WRITTEN[vtk] in BEAMS:
            lines.append(f"{0:10d}{1:10d}{1:10d}")
        lines += ["".join(f"{n:10d}" for n in nodes[i : i + 8].tolist()) for i in range(0, len(nodes), 8)]
    _block(out, 2412, lines)
    groups = [(n, 7, ids[m]) for n, m in step.node_sets.items()] + [(n, 8, labels[m]) for n, m in step.element_sets.items()]
    lines = []
    for number, (name, kind, tags) in enumerate(groups, start=1):
        lines += [f"{number:10d}" + f"{0:10d}" * 6 + f"{len(tags):10d}", name[:80]]
        entries = [f"{kind:10d}{tag:10d}{0:10d}{0:10d}" for tag in tags.tolist()]
        lines += ["".join(entries[i : i + 2]) for i in range(0, len(entries), 2)]
    if lines:
        _block(out, 2467, lines)


def _ids(step: RawStep) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Labels of nodes and elements, which must be above zero here."""
    nodes = step.node_ids if step.node_ids is not None else np.arange(len(step.points))
    elements = step.element_ids if step.element_ids is not None else np.arange(len(step.types))
    return nodes + (1 if nodes.min(initial=1) < 1 else 0), elements + (1 if elements.min(initial=1) < 1 else 0)


def _write_results(
    out: TextIO, mesh: RawStep, step: RawStep, index: int, name: str, array: RawArray, location: int, label: int
) -> None:
    values = np.asarray(array.values, dtype=np.float64)
    character = {1: 1, 3: 2, 6: 4}.get(values.shape[1], 0)
    if values.shape[1] == 6:
        values = values[:, [0, 3, 1, 5, 4, 2]]
    result = next((k for k, v in RESULTS.items() if v == name), 94)
    analysis = {"mode": 2, "time": 4, "frequency": 5}.get(step.kind, 1)
    value = step.time or 0.0
    ids, labels = _ids(mesh)
    lines = [f"{label + 1:10d}", name[:80], f"{location:10d}", step.loading or "NONE", *["NONE"] * 4]
    lines.append(f"{1:10d}{analysis:10d}{character:10d}{result:10d}{4:10d}{values.shape[1]:10d}")
    lines.append(f"{0:10d}" * 5 + f"{index + 1:10d}" * 2 + f"{0:10d}")
    lines.append(f"{0:10d}{0:10d}")
    lines.append(_e13([value, value if step.kind in ("mode", "frequency") else 0.0, 0.0, 0.0, 0.0, 0.0]))
    lines.append(_e13([0.0] * 6))
    if location == 3:
        for e, element in enumerate(labels.tolist()):
            table = values[mesh.offsets[e] : mesh.offsets[e + 1]]
            if np.isnan(table).any():
                continue
            vtk = int(mesh.types[e])
            if vtk in ORDER:
                turned = np.empty_like(table)
                turned[ORDER[vtk]] = table
                table = turned
            lines.append(f"{element:10d}{1:10d}{len(table):10d}{table.shape[1]:10d}")
            lines += _rows_of(table.ravel())
    else:
        for tag, row in zip((ids if location == 1 else labels).tolist(), values, strict=True):
            if not np.isnan(row).any():
                lines.append(f"{tag:10d}" + (f"{len(row):10d}" if location == 2 else ""))
                lines += _rows_of(row)
    _block(out, 2414, lines)


def _rows_of(numbers: NDArray[np.float64]) -> list[str]:
    return [_e13(numbers[i : i + 6].tolist()) for i in range(0, len(numbers), 6)]


def _e13(numbers: list[float]) -> str:
    return "".join(f"{v:13.5e}" for v in numbers)
