"""A reading followed through the steps at one place, or reduced over several."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.ahead import Ahead
from ironstone.core.field.fields import Source
from ironstone.core.field.loadings import computed
from ironstone.core.field.sliced import Slice, picked, sliced
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int
from ironstone.core.mesh.places import AtGauss, AtNodes, AtSamples, Place
from ironstone.core.reading.corners import take_measure
from ironstone.core.reading.evaluate import evaluate, said_at
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import Resolved
from ironstone.core.rounding import settle

REDUCTIONS: dict[str, Callable[[Float], Any]] = {"sum": np.nansum, "mean": np.nanmean, "max": np.nanmax, "min": np.nanmin}


@dataclass(frozen=True, eq=False)
class Trace:
    """A reading followed through steps (s,): values (s,), and where over a set the largest or smallest is: node positions (s,), or
    None where the trace is not one of an extreme."""

    steps: Int
    values: Float
    resolved: Resolved
    node: Int | None = None


def trace(reading: Reading, source: Source, place: Place, reduce: str | None = None, steps: Iterable[int] | None = None) -> Trace:
    """A reading at one place followed through the steps, or reduced over several: sum, mean, max or min.

    A trace needs one number a step. Where several elements meet at a node and nothing is averaged there is none.
    """
    if reduce is not None and reduce not in REDUCTIONS:
        raise Impossible(f"'{reduce}' is not a way to reduce a set.", f"Choose one of: {', '.join(REDUCTIONS)}.")
    chosen = np.array(list(computed(source.steps) if steps is None else steps), dtype=np.int64)
    resolved = said_at(resolve(reading, source), place)
    if reduce == "sum" and resolved.field.location != "node":
        raise Impossible(
            f"A sum over a set has no meaning for '{resolved.field.name}', which lives at {resolved.field.location}s.",
            "Take the mean, max or min, or sum a nodal field such as a reaction.",
        )
    result = np.full(len(chosen), np.nan)
    where = np.full(len(chosen), -1, dtype=np.int64)
    extreme = {"max": np.nanargmax, "min": np.nanargmin}.get(reduce or "")

    def reduced(i: int, values: Float, nodes: Int) -> None:
        if np.isnan(values).all():
            return
        # A sum of what all but cancels is 0 where nothing but rounding is left of it.
        reach = np.nansum(np.abs(values)) / (1 if reduce == "sum" else np.isfinite(values).sum())
        result[i] = settle(REDUCTIONS[reduce or "mean"](values), reach, resolved.field.precision)
        if extreme is not None:
            where[i] = nodes[extreme(values)]

    plainly = resolved.field.location == "node" and reading.over == "step" and resolved.against is None and not resolved.by_element
    turned = resolved.field.harmonic and not resolved.field.layers and isinstance(resolved.phase, float)
    plainly = plainly and (resolved.field.plain or turned) and reading.region == "all" and reading.averaging != "element"
    if isinstance(place, AtNodes) and plainly and (reduce is not None or len(place.nodes) == 1):
        table = source.history(resolved.field.name, chosen, place.nodes)
        flat = np.asarray(table.reshape(-1, table.shape[2]), dtype=np.float64)
        plain = replace(resolved, reading=replace(resolved.reading, averaging="off"))
        if turned:
            at = Slice(phase=float(resolved.phase))
            flat = np.asarray(picked(resolved.field, flat, at), dtype=np.float64)
            plain = replace(plain, field=sliced(source, resolved.field.name, at).fields[resolved.field.name])
        reply = take_measure(plain, source, flat, None, lambda: np.tile(source.mesh.points[place.nodes], (len(chosen), 1)))
        if reduce is None:
            # Of one node there is nothing to reduce.
            return Trace(chosen, np.asarray(reply, dtype=np.float64).reshape(-1), resolved)
        for i, row in enumerate(reply.reshape(len(chosen), len(place.nodes))):
            reduced(i, row, place.nodes)
        return Trace(chosen, result, resolved, None if extreme is None else where)
    one_value = resolved.field.location == "node" and reading.averaging != "element" and not resolved.by_element
    one_value = one_value and isinstance(place, AtSamples) and _is_one_place(source, place)
    here = Ahead(source, chosen)
    for i, step in enumerate(chosen):
        answer = evaluate(reading.at(int(step)), here, place)
        if not len(answer.values):
            continue
        if reduce is None and one_value:
            # On a border each element answers for itself, and all say the same of what nodes have.
            reduced(i, answer.values[:1], answer.node[:1])
            continue
        if reduce is None and len(answer.values) > 1:
            raise Impossible(
                f"{len(answer.values)} values meet there and nothing is averaged, so a trace has no single number.",
                "Average (element values cannot be), name one node of one element, or reduce by mean, max or min.",
            )
        reduced(i, answer.values, answer.node)
    return Trace(chosen, result, resolved, None if extreme is None else where)


def _is_one_place(source: Source, place: AtSamples) -> bool:
    """Whether places inside elements are one and the same, on a border between them."""
    return bool(len(place.element)) and float(np.ptp(positions(source.mesh, place), axis=0).max()) <= 1e-6 * source.mesh.size


def trace_at_gauss(reading: Reading, source: Source, element: int, point: int) -> Trace:
    """One Gauss point of an element (by position), numbered from 1, followed through all steps."""
    chosen = np.array(computed(source.steps))
    values = np.full(len(chosen), np.nan)
    here = Ahead(source, chosen)
    for i, step in enumerate(chosen):
        reply = evaluate(reading.at(int(step)), here, AtGauss(np.array([element]))).values
        if not 1 <= point <= len(reply):
            raise Impossible(f"That element has no Gauss point {point}.", f"They run from 1 to {len(reply)}.")
        values[i] = reply[point - 1]
    return Trace(chosen, values, replace(resolve(reading, source), at_points=True))
