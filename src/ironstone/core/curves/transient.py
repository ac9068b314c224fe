"""Curves over time held against each other, with the shift between them."""

from __future__ import annotations

import numpy as np

from ironstone.core.curves.agreement import Limits, Match, deviation_of, peaks
from ironstone.core.curves.curves import Curve
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.units import same_kind


def in_time(curve: Curve) -> bool:
    """Whether a curve runs over time that always grows."""
    return curve.x_unit is not None and same_kind(curve.x_unit, "s") and bool((np.diff(curve.x) > 0).all())


def dominant_period(curve: Curve) -> float:
    """The period that carries most of a record's power, by its spectrum on even samples without the straight line through them; its
    length where it has none."""
    # A second to import, which whoever starts the bench would wait for.
    from scipy.signal import detrend

    lasts = float(np.ptp(curve.x))
    count = int(np.clip(len(curve.x), 64, 65_536))
    even = np.interp(np.linspace(curve.x[0], curve.x[-1], count), curve.x, curve.y)
    power = np.abs(np.fft.rfft(detrend(even)))[1:] ** 2
    return lasts / (int(np.argmax(power)) + 1) if power.max(initial=0.0) > 0.0 else lasts


def correlation(first: Float, second: Float) -> float:
    """Pearson's correlation; NaN where one of the two does not change."""
    a, b = first - first.mean(), second - second.mean()
    size = float(np.sqrt((a * a).sum() * (b * b).sum()))
    return float((a * b).sum()) / size if size > 0.0 else float("nan")


def best_shift(model: Curve, test: Curve, most: float) -> float:
    """By how much later than the test the model is, (-most, most): the shift with the least mean square difference.

    Looked for on 401 even shifts, then refined within the best one's neighbours (Brent's bounded method).
    """
    from scipy.optimize import minimize_scalar

    tried = np.linspace(-most, most, 401)
    off = [_off(model, test, s) for s in tried]
    best = int(np.argmin(off))
    around = tried[max(best - 1, 0)], tried[min(best + 1, len(tried) - 1)]
    found = minimize_scalar(lambda s: _off(model, test, s), bounds=around, method="bounded", options={"xatol": 1e-7 * most})
    return float(found.x) if found.fun < off[best] else float(tried[best])


def _off(model: Curve, test: Curve, shift: float) -> float:
    """Mean square difference where both are, the model brought back by the shift; endless where less than half the test is."""
    x = test.x + shift
    inside = (x >= model.x[0]) & (x <= model.x[-1])
    if 2 * inside.sum() < len(x):
        return float("inf")
    return float(np.mean((np.interp(x[inside], model.x, model.y) - test.y[inside]) ** 2))


def match_transient(model: Curve, test: Curve, limits: Limits, corrections: tuple[str, ...]) -> Match:
    notes = list(test.notes)
    lasts = min(float(np.ptp(model.x)), float(np.ptp(test.x)))
    if not np.isfinite(_off(model, test, 0.0)):
        apart = test.x[-1] < model.x[0] or test.x[0] > model.x[-1]
        raise IronstoneError(
            "The model and the test have no common time." if apart else "The model covers less than half of the test's time.",
            f"The model runs from {model.x[0]:.4g} to {model.x[-1]:.4g}, the test from {test.x[0]:.4g} to {test.x[-1]:.4g}: "
            "check unit and zero of the time.",
        )
    # Half a period's shift would turn a wrong sign into agreement: no more than a quarter is looked for.
    most = min(0.1 * lasts, dominant_period(test) / 4.0)
    # Where the two move against each other as they are, no shift within that mends it.
    together = (test.x >= model.x[0]) & (test.x <= model.x[-1])
    opposed = correlation(np.interp(test.x[together], model.x, model.y), test.y[together]) < 0.0
    shift = 0.0 if opposed else best_shift(model, test, most)
    if shift and _off(model, test, shift) > (1 - 1e-6) * _off(model, test, 0.0):
        shift = 0.0
    x = test.x + shift
    inside = (x >= model.x[0]) & (x <= model.x[-1])
    expected = np.interp(x[inside], model.x, model.y)
    word = "later" if shift > 0 else "earlier"
    alike = correlation(expected, test.y[inside])
    if shift:
        notes.append(
            f"The model is {abs(shift):.4g} {model.x_unit} {word} than the test: compared with that taken out. "
            f"At that shift their correlation is {alike:.3f}."
        )
        if abs(shift) > 0.98 * most:
            notes.append(f"No shift beyond {most:.4g} {model.x_unit} is looked for: a larger one may fit better, and mean less.")
    if not inside.all():
        notes.append(f"{int((~inside).sum())} of {len(inside)} test points lie outside the model's time and are left out.")
    deviation = deviation_of(test.x[inside], test.y[inside], expected, model, limits)
    metrics = tuple(peaks(expected, test.y[inside], model.y_unit, limits))
    return Match("transient", metrics, deviation, corrections, tuple(notes), shift, alike if np.isfinite(alike) else None)
