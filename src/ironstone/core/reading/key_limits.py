"""Between which limits a colour key shows a reading, where nobody has typed them. Common practice, no source."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

# A lowest value below this share of the highest is near zero: the key then starts at zero.
NEAR_ZERO = 0.25


class KeyLimits(NamedTuple):
    """Lowest and highest of a key, by its scale: of one tone, of two tones that part at zero, logarithmic (None: not possible)."""

    plain: tuple[float, float]
    two_tones: tuple[float, float]
    logarithmic: tuple[float, float] | None


def key_limits(ranges: Iterable[tuple[float, float]], limit: float | None = None) -> KeyLimits:
    """Limits of one key for all of some ranges (lowest, highest). limit: where the colours break, of what fails there.

    Two tones lie even about zero, on whichever side of it the values are: zero is where they part. What fails at a limit is shown
    from zero and as far as the limit at least: the break is always in sight. One tone starts at zero where the lowest is near it. A
    logarithm goes from the lowest, which must be above zero. Raises ValueError without a range.
    """
    lows, highs = zip(*ranges, strict=True)
    low, high = float(min(lows)), float(max(highs))
    logarithmic = (low, high) if low > 0 else None
    if limit is not None and low >= 0:
        low, high = 0.0, max(high, limit)
    reach = max(-low, high)
    plain = (0.0, high) if 0 < low < NEAR_ZERO * high else (low, high)
    return KeyLimits(plain, (-reach, reach), logarithmic)
