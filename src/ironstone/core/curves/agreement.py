"""How well a curve agrees with a test record, in numbers with limits, and in a sentence; what was corrected of the record."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ironstone.core.curves.curves import Curve, moving_mean
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.verdicts import State


@dataclass(frozen=True)
class Correction:
    """What was done to one column of a record: y' = sign * scale * (y - zero), then the moving mean of ``smooth`` samples."""

    column: str
    sign: int = 1
    scale: float = 1.0
    zero: float = 0.0
    smooth: int = 1

    def __post_init__(self) -> None:
        if self.sign not in (1, -1):
            raise IronstoneError("A sign is 1 or -1.")
        if self.smooth < 1:
            raise IronstoneError("Smoothing is over 1 sample (none) or more.")

    def __call__(self, values: Float) -> Float:
        result: Float = self.sign * self.scale * (np.asarray(values, dtype=np.float64) - self.zero)
        return moving_mean(result, self.smooth) if self.smooth > 1 else result

    def words(self, unit: str | None) -> list[str]:
        said = []
        if self.zero:
            said.append(f"{self.column}: zero shifted by {-self.zero:+.4g} {unit or ''}".rstrip())
        if self.scale != 1.0:
            said.append(f"{self.column}: scaled by {self.scale:.6g}")
        if self.sign < 0:
            said.append(f"{self.column}: sign reversed")
        if self.smooth > 1:
            said.append(f"{self.column}: smoothed over {self.smooth} samples")
        return said


@dataclass(frozen=True)
class Limits:
    """The analyst's own accept limits, as shares: 0.1 is 10 %."""

    force: float = 0.10
    stiffness: float = 0.10
    energy: float = 0.12
    deviation: float = 0.10


@dataclass(frozen=True)
class Metric:
    """One line of the agreement. ratio: model over test; limit: accepted share, None for information only."""

    name: str
    label: str
    model: float
    test: float
    unit: str | None
    ratio: float
    limit: float | None = None

    @property
    def accepted(self) -> bool | None:
        if self.limit is None:
            return None
        return bool(np.isfinite(self.ratio) and abs(self.ratio - 1.0) <= self.limit)


@dataclass(frozen=True)
class Deviation:
    """How far the model is from the test over the test's range; ``share`` is the RMS over the test's largest |y|.

    x, away: where, and model less test there (n,).
    """

    rms: float
    share: float
    largest: float
    largest_at_x: float
    determination: float
    unit: str | None
    limit: float
    x: Float
    away: Float

    @property
    def accepted(self) -> bool:
        return bool(self.share <= self.limit)

    @property
    def percent(self) -> str:
        """The share in per cent, with the digits that tell it from its limit."""
        return _percent(self.share, self.limit)


@dataclass(frozen=True)
class Match:
    """The comparison of one curve with one record. kind: 'loops', 'monotonic' (no whole cycle), or 'transient', by time.

    shift: of a transient, by how much later than the record the model is, in its unit of time. correlation: of one, Pearson's
    at that shift.
    """

    kind: str
    metrics: tuple[Metric, ...]
    deviation: Deviation
    corrections: tuple[str, ...]
    notes: tuple[str, ...] = field(default=())
    shift: float | None = None
    correlation: float | None = None

    @property
    def against_each_other(self) -> bool:
        """Whether the two move against each other, so that a sign is likely wrong."""
        return any(m.ratio < 0 for m in self.metrics) or (self.correlation is not None and self.correlation < 0)

    @property
    def far_off(self) -> bool:
        """Whether what is off is no exception: a sign, or a deviation of more than twice what is accepted."""
        return self.against_each_other or not self.deviation.share <= 2 * self.deviation.limit

    @property
    def agrees(self) -> bool:
        return not self._off and not self.against_each_other

    @property
    def _off(self) -> list[str]:
        """What lies outside its limit, in words."""
        said = []
        for m in (m for m in self.metrics if m.accepted is False):
            name = m.label[0].lower() + m.label[1:]
            if not np.isfinite(m.ratio):
                said.append(f"{name} cannot be compared")
                continue
            if m.ratio < 0:
                said.append(f"{name} of opposite sign")
                continue
            limit = m.limit or 0.0
            said.append(f"{name} {_percent(m.ratio - 1.0, limit)} {'high' if m.ratio > 1 else 'low'} (limit {100 * limit:.3g} %)")
        if not self.deviation.accepted:
            said.append(f"RMS deviation {self.deviation.percent} (limit {100 * self.deviation.limit:.3g} %)")
        return said

    @property
    def state(self) -> State:
        """Good within all limits; doubt where less than half is off, and not by much; else bad."""
        if self.agrees:
            return "good"
        return "bad" if 2 * len(self._off) > self._checks or self.far_off else "doubt"

    @property
    def _checks(self) -> int:
        return sum(m.accepted is not None for m in self.metrics) + 1

    @property
    def verdict(self) -> str:
        """The agreement in a sentence: 'Agrees', 'Agrees but for' a few things, or 'Does not agree'."""
        said, checks = self._off, self._checks
        if self.state == "good":
            return "Agrees: everything is within the limits."
        if self.state == "bad":
            if self.correlation is not None and self.correlation < 0:
                said.append(f"it moves against the test (correlation {self.correlation:.2f})")
            turned = " Is a sign still to be reversed?" if self.against_each_other else ""
            return f"Does not agree: in the model, {', '.join(said)}.{turned}"
        lead = "one" if len(said) == 1 else f"{len(said)} of {checks}"
        return f"Agrees but for {lead}: in the model, {', '.join(said)}."


def _percent(share: float, limit: float) -> str:
    """A share in per cent, with as many digits as it takes to tell it from its limit."""
    size, against = abs(100.0 * share), 100.0 * limit
    for digits in range(2, 10):
        text = f"{size:.{digits}g}" if size < 10.0**digits else f"{size:.0f}"
        if float(text) != against or size == against:
            break
    return f"{text} %"


def peaks(model: Float, test: Float, unit: str | None, limits: Limits) -> list[Metric]:
    """Highest above and lowest below zero of what is compared; a side the test does not go to (2 % of its largest) is left out."""
    result = []
    reach = max(0.02 * float(np.abs(test).max()), 1e-300)
    for name, label, side in (("peak_positive", "Positive peak", 1), ("peak_negative", "Negative peak", -1)):
        a, b = (side * float((side * v).max()) for v in (model, test))
        if side * b > reach:
            result.append(Metric(name, label, a, b, unit, a / b, limits.force))
    return result


def deviation_of(x: Float, y: Float, expected: Float, model: Curve, limits: Limits) -> Deviation:
    away = expected - y
    rms = float(np.sqrt(np.mean(away**2)))
    reach = float(np.abs(y).max())
    worst = int(np.argmax(np.abs(away)))
    spread = float(((y - y.mean()) ** 2).sum())
    return Deviation(
        rms=rms,
        share=rms / reach if reach else float("nan"),
        largest=float(away[worst]),
        largest_at_x=float(x[worst]),
        determination=1.0 - float((away**2).sum()) / spread if spread else float("nan"),
        unit=model.y_unit,
        limit=limits.deviation,
        x=x,
        away=away,
    )


def share_of(a: float, b: float) -> float:
    return a / b if b else float("nan")
