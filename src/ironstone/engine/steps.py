"""Which step a question is of (last, first, a position from 0, or t=VALUE for the nearest), and the column of all steps."""

from __future__ import annotations

import math

from ironstone.core.errors import NotFound
from ironstone.core.field.fields import Source
from ironstone.core.field.loadings import axis_of, computed
from ironstone.engine.carrier import Column


def find_step(source: Source, wanted: str | int) -> int:
    """Position of a step. Raises NotFound, with what can be written, for one there is not."""
    count, wanted = len(source.steps), str(wanted)
    named = [s.index for s in source.steps if s.name == wanted] or [s.index for s in source.steps if wanted and s.loading == wanted]
    if len(named) == 1:
        return named[0]
    if wanted == "last":
        return len(computed(source.steps)) - 1
    if wanted == "first":
        return 0
    try:
        if wanted.startswith("t="):
            value = float(wanted[2:])
            if not math.isfinite(value):
                raise ValueError(wanted)
            return min(computed(source.steps), key=lambda i: abs(source.steps[i].value - value))
        index = int(wanted)
    except ValueError as error:
        raise NotFound(f"'{wanted}' is not a step.", "Write last, first, an index from 0, t=VALUE, or its name.") from error
    if not 0 <= index < count:
        raise NotFound(f"There is no step {index}.", f"Steps run from 0 to {count - 1}.")
    return index


def steps_column(source: Source) -> Column:
    """The steps of a result as the first column of a table over them."""
    axis = axis_of(source.steps)
    return Column(name=axis.kind, unit=axis.unit, values=axis.values.tolist())
