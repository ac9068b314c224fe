"""The largest (smallest, of largest magnitude) of a reading over a span of steps, or the step it is reached at.

One step is in memory at a time. A step that has another mesh is read at the undeformed places of the mesh in view.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np

from ironstone.core.field.fields import Source
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.elsewhere import read_elsewhere, refuse_what_is_of_its_mesh
from ironstone.core.reading.reduced import replaces
from ironstone.core.reading.resolve import resolve, told_by_name
from ironstone.core.reading.resolved import Resolved, Values

Tell = Callable[[float, str], None]
OneStep = Callable[[Resolved, Source, Any], Values]


def over_steps(resolved: Resolved, source: Source, place: Any, at_one_step: OneStep, tell: Tell | None) -> tuple[Values, list[str]]:
    """A reading over the steps of its span, at places of the mesh in view, and what is to be said of the other meshes."""
    plain = replace(resolved.reading, over="step", when=False, unit=resolved.unit if not resolved.reading.when else None)
    best: Values | None = None
    when = held = np.zeros(0)
    steps, others, absent = resolved.span, 0, 0.0
    named = told_by_name(source, steps)
    for count, step in enumerate(steps):
        if tell is not None:
            tell(count / len(steps), f"step {count + 1} of {len(steps)}")
        there, reading = source.at(step), plain.at(step)
        if there is source:
            now = at_one_step(resolve(reading, source), source, place)
            values = now.values
        else:
            asked = resolve(reading, there)
            refuse_what_is_of_its_mesh(asked)
            values, gone = read_elsewhere(source, there, place, partial(_values, asked, there, at_one_step))
            others, absent = others + 1, max(absent, gone)
            now = replace(_shape(resolved, source, place, at_one_step), values=values) if best is None else best
        moment = float(step) if named else source.steps[step].value
        if best is None:
            best, held = now, values.copy()
            if resolved.reading.when:
                when = np.where(np.isnan(values), np.nan, moment)
            continue
        beyond = replaces(resolved.reading.over, held, values)
        np.copyto(held, values, where=beyond)
        if resolved.reading.when:
            when[beyond] = moment
    assert best is not None
    said = []
    if others:
        lacking = f" (up to {100 * absent:.2g} % of them lie outside another mesh)" if absent else ""
        said.append(
            f"The mesh is another one at {others} of these steps: read there at the undeformed places of this one{lacking}."
        )
    return replace(best, values=when if resolved.reading.when else held), said


def _shape(resolved: Resolved, source: Source, place: Any, at_one_step: OneStep) -> Values:
    """An answer at the places as they are in the mesh in view: at the step in view, which has it."""
    here = replace(resolved.reading, over="step", when=False, unit=None)
    return at_one_step(resolve(here, source), source, place)


def _values(resolved: Resolved, source: Source, at_one_step: OneStep, place: Any) -> Float:
    return at_one_step(resolved, source, place).values
