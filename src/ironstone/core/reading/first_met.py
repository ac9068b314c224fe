"""When what grows with the load first comes to 1: a failure index, a utilisation."""

from __future__ import annotations

from typing import Any

import numpy as np

from ironstone.core.field.fields import Source, Step
from ironstone.core.mesh.mesh import Float


def when_met(source: Source, through: Float, share: float | None = None) -> dict[str, Any] | None:
    """When what grows with the load first comes to 1, of its largest at each step (steps,): the step it is met in, where between
    that and the step before (share of the way), and the load factor. Of what never comes there, the step of the largest and what
    the loads of it may be multiplied by. None where all is 0."""
    over = np.flatnonzero(through >= 1.0)
    step = int(over[0]) if len(over) else int(np.argmax(through))
    fails = len(over) > 0
    if not through[step] > 0.0:
        return None
    here = source.steps[step]
    value = here.value
    if fails and step > 0 and share is not None:
        before = source.steps[step - 1]
        value = before.value + share * (here.value - before.value)
    stepped = here.kind == "load factor" and fails and step > 0
    return {
        "fails": fails,
        "step": step,
        "at": float(value) if fails else None,
        "kind": here.kind,
        "unit": here.unit,
        "moment": _moment(here, float(value), step),
        # Between steps of a load factor each place is taken as straight; else the loads of the step are scaled.
        "load_factor": float(
            value if stepped else here.value / through[step] if here.kind == "load factor" else 1.0 / through[step]
        ),
    }


def _moment(here: Step, value: float, step: int) -> str:
    """When something is met, in words: steps that are only counted have nothing between them."""
    if here.kind == "number":
        return f"in step {step + 1}" if step == 0 or value == here.value else f"between step {step} and step {step + 1}"
    return f"at {here.kind} {value:#.4g} {here.unit}".rstrip()
