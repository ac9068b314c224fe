"""Of several results: what only the answers of one kind of question have beside what every answer carries."""

from __future__ import annotations

from typing import Literal

from ironstone.core.curves.convergence import Verdict
from ironstone.engine.carrier import Numbers, Particulars
from ironstone.engine.reading.particulars import ReadAt


class DifferenceMore(Particulars):
    """rms: by volume, over where both are; share_without: of the volume where the second has no value."""

    min: ReadAt | None
    max: ReadAt | None
    rms: float | None
    matched: Literal["same mesh", "interpolated"]
    share_without: float | None
    values: list[ReadAt]


class ConvergeMore(Particulars):
    """Coarse to fine; see ``core.curves.convergence``."""

    results: list[str]
    sizes: list[float]
    values: Numbers
    order: float | None
    extrapolated: float | None
    band: float | None
    verdict: Verdict
    exponent: float | None
