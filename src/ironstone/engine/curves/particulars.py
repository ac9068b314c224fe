"""Of curves: what only the answers of one kind of question have beside what every answer carries."""

from __future__ import annotations

from ironstone.engine.carrier import Numbers, Particulars


class CyclesMore(Particulars):
    x: list[float]
    y: Numbers
    x_unit: str | None
    y_unit: str | None


class AgreementMore(Particulars):
    agrees: bool | None


class CurveOf(Particulars):
    """The curve of one result in the units of the first. ratios: the first's figures over its own. deviation: RMS, as a share.
    error: why it has none."""

    id: int
    result: str
    x: Numbers
    y: Numbers
    ratios: dict[str, float]
    deviation: float | None
    verdict: str
    state: str
    error: str


class CurvesOfMore(Particulars):
    curves: list[CurveOf]
