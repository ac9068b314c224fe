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
