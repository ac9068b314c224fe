"""Which step a question is of (last, first, a position from 0, or t=VALUE for the nearest), and the column of all steps."""

from __future__ import annotations

import math

from ironstone.core.errors import NotFound
from ironstone.core.field.fields import Source
from ironstone.core.field.loadings import axis_of
from ironstone.engine.carrier import Column


def find_step(source: Source, wanted: str | int) -> int:
    """Position of a step. Raises NotFound, with what can be written, for one there is not."""
    count, wanted = len(source.steps), str(wanted)
    if wanted == "last":
        return count - 1
    if wanted == "first":
        return 0
    try:
        if wanted.startswith("t="):
            value = float(wanted[2:])
            if not math.isfinite(value):
                raise ValueError(wanted)
            return min(range(count), key=lambda i: abs(source.steps[i].value - value))
        index = int(wanted)
    except ValueError as error:
        raise NotFound(f"'{wanted}' is not a step.", "Write last, first, an index from 0, or t=VALUE.") from error
    if not 0 <= index < count:
        raise NotFound(f"There is no step {index}.", f"Steps run from 0 to {count - 1}.")
    return index


def steps_column(source: Source) -> Column:
    """The steps of a result as the first column of a table over them."""
    axis = axis_of(source.steps)
    return Column(name=axis.kind, unit=axis.unit, values=axis.values.tolist())
