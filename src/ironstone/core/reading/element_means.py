"""The mean of a reading over each element: of what it keeps at Gauss points by their own weights, else of what its corners have."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ironstone.core.field.axes import rotate
from ironstone.core.field.fields import Source, rows_of
from ironstone.core.field.gauss_fields import gauss_count, gauss_rows
from ironstone.core.field.volumes import is_turned
from ironstone.core.mesh.gauss import gauss_points, gauss_weights, known_counts
from ironstone.core.mesh.mesh import Block, Float, Int, Mesh, quadrature_weights
from ironstone.core.reading.averaging import RUN
from ironstone.core.reading.corners import averaged_components, element_rows, measure_first, measured, take_measure
from ironstone.core.reading.error_estimate import errors_of
from ironstone.core.reading.reading import GROUPED
from ironstone.core.reading.resolved import Resolved
from ironstone.core.wanted import still_wanted


def element_means(resolved: Resolved, source: Source, elements: Int) -> Float:
    """The reading as the mean of each of some elements, a run of them at a time."""
    found = np.empty(len(elements))
    for start in range(0, len(elements), RUN):
        run = slice(start, start + RUN)
        still_wanted(f"means of elements, {start:,} of {len(elements):,}" if start else "")
        found[run] = _means_of_run(resolved, source, elements[run])
    return found


def _means_of_run(resolved: Resolved, source: Source, elements: Int) -> Float:
    if resolved.reading.of == "error":
        return errors_of(resolved, source)[elements] * resolved.factor
    if resolved.field.location == "element" and not resolved.by_place:
        raw = rows_of(source, resolved.field.name, resolved.reading.step, elements)
        if resolved.by_element:
            raw = rotate(raw, element_rows(source, resolved.axes.kind)[elements])
        return resolved.scaled(measured(resolved, source, raw, elements, None))
    # Components come back told in the axes: nothing is left to turn.
    settled = replace(resolved, by_place=False)
    return take_measure(settled, source, _mean_components(resolved, source, elements), elements, None)


def _mean_components(resolved: Resolved, source: Source, elements: Int) -> Float:
    """Volume mean of the components (or of the measure, taken first) over each element, (elements, c).

    Of what is kept at Gauss points by their own weights; else of what the corners have, as the reading averages it.
    """
    mesh = source.mesh
    wanted = np.full(len(mesh.types), -1, dtype=np.int64)
    wanted[elements] = np.arange(len(elements))
    result: Float | None = None
    turned = is_turned(source)
    reading = resolved.reading
    from_gauss = resolved.field.location == "gauss" and reading.of == "value" and reading.averaging not in GROUPED
    # Jumps, and measures averaged at the nodes, come as the measure itself.
    taken = reading.of != "value" or (measure_first(resolved) and reading.averaging in GROUPED)
    for block in mesh.blocks:
        here = wanted[block.elements] >= 0
        for chosen in block.some(here).pieces():
            still_wanted()
            if from_gauss:
                inner, weights, places = _inside_gauss(resolved, source, chosen, turned)
            else:
                xi, _ = block.cell.quadrature
                shape = block.cell.shape(xi)
                at = averaged_components(resolved, source, chosen.corners.ravel()).reshape(*chosen.corners.shape, -1)
                weights = quadrature_weights(mesh, chosen, turned)
                inner = np.einsum("qn,enc->eqc", shape, at, optimize=True).reshape(-1, at.shape[2])
                places = _inner_points(mesh, shape, chosen.nodes)
            count = weights.shape[1]
            if not taken and measure_first(resolved):
                inner = measured(resolved, source, inner, np.repeat(chosen.elements, count), places)[:, None]
            elif not taken and resolved.by_place:
                inner = rotate(inner, resolved.axes.at(places()))
            inner = inner.reshape(len(chosen.elements), count, -1)
            means = np.einsum("eq,eqc->ec", weights, inner, optimize=True) / weights.sum(1)[:, None]
            if result is None:
                result = np.full((len(elements), means.shape[1]), np.nan)
            result[wanted[chosen.elements]] = means
    return result if result is not None else np.zeros((0, 1))


def _inside_gauss(resolved: Resolved, source: Source, chosen: Block, turned: bool) -> tuple[Float, Float, Callable[[], Float]]:
    """Components at the Gauss points of some elements of one shape (e q, c), their weights (e, q), and where they are.

    Where their places are not known each counts the same.
    """
    mesh, cell = source.mesh, chosen.cell
    table = gauss_rows(source, resolved.field, resolved.reading.step, chosen.elements)
    count = gauss_count(source, resolved.field, cell)
    rows = table[:, :count].reshape(-1, table.shape[2])
    if resolved.by_element:
        rows = rotate(rows, np.repeat(element_rows(source, resolved.axes.kind)[chosen.elements], count, axis=0))
    if count not in known_counts(cell):
        return rows, np.ones((len(chosen.elements), count)), lambda: np.full((len(rows), 3), np.nan)
    xi = gauss_points(cell, count)
    weights = quadrature_weights(mesh, chosen, turned, (xi, gauss_weights(cell, count)))
    return rows, weights, _inner_points(mesh, cell.shape(xi), chosen.nodes)


def _inner_points(mesh: Mesh, shape: Float, nodes: Int) -> Callable[[], Float]:
    return lambda: np.einsum("qn,enx->eqx", shape, mesh.points[nodes], optimize=True).reshape(-1, 3)
