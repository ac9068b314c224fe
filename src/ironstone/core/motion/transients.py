"""What is read off a motion over time: spectra, the response spectrum of a shock, decay and settling.

All of these need even steps: uneven ones are resampled, and what is beyond the coarsest of them is no longer told from it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.mesh.mesh import Float

WINDOWS = ("none", "hann", "flattop")
# Steps are even within this share of their mean.
EVEN = 1e-3
# No more samples than this are made of uneven steps.
MOST = 1 << 18
# A share of the power this near (as a share) to the highest frequency says that faster motion may be folded into it.
FOLDED, NEAR_THE_END = 0.01, 0.1


@dataclass(frozen=True, eq=False)
class Even:
    """A motion at even steps: values (n,) every ``step`` from ``start``; highest: the highest frequency the steps it came with can
    tell; resampled: whether they were uneven."""

    start: float
    step: float
    values: Float
    highest: float
    resampled: bool

    @property
    def times(self) -> Float:
        """(n,)."""
        return self.start + self.step * np.arange(len(self.values), dtype=np.float64)


def even(time: Float, values: Float) -> Even:
    """A motion (n,) over increasing time (n,) at even steps, through cubics that keep its ups and downs (Fritsch and Carlson) where
    they are not. Raises Impossible where there are fewer than four steps, one has no value, or time does not increase."""
    t, y = np.asarray(time, dtype=np.float64), np.asarray(values, dtype=np.float64)
    if len(t) < 4:
        raise Impossible(f"{len(t)} steps are too few for a spectrum.", "Four are needed, and a hundred make sense.")
    if not np.isfinite(y).all():
        raise Impossible(f"{int((~np.isfinite(y)).sum())} steps have no value.", "Choose a place that has one at every step.")
    steps = np.diff(t)
    if not (steps > 0.0).all():
        raise Impossible("Time does not always go forward.", "Choose one loading, or correct what the steps are.")
    if np.ptp(steps) <= EVEN * steps.mean():
        return Even(float(t[0]), float(steps.mean()), y, 0.5 / float(steps.mean()), False)
    from scipy.interpolate import PchipInterpolator

    lasts = float(t[-1] - t[0])
    count = min(int(np.ceil(lasts / steps.min())) + 1, MOST)
    fine = np.linspace(t[0], t[-1], count)
    return Even(float(t[0]), lasts / (count - 1), PchipInterpolator(t, y)(fine), 0.5 / float(steps.max()), True)


@dataclass(frozen=True, eq=False)
class Spectrum:
    """Over ``frequency`` (k,), from 0: ``amplitude`` of each line (k,), peak value of a sine; ``power`` density (p,) over
    ``power_frequency`` (p,), one-sided, of ``averages`` pieces. folded: whether there is power up to the highest frequency."""

    frequency: Float
    amplitude: Float
    power_frequency: Float
    power: Float
    averages: int
    folded: bool


def spectrum(motion: Even, window: str = "hann", pieces: int = 1) -> Spectrum:
    """Amplitude and power spectral density of a motion without its mean.

    window: none, hann or flattop, made good for in the amplitude by its mean and in the power by its mean square. pieces: so many
    halves overlap for the power (P. D. Welch 1967; SciPy's). Raises Impossible for a window there is not or too many pieces.
    """
    from scipy.signal import get_window, welch

    if window not in WINDOWS:
        raise Impossible(f"'{window}' is no window.", f"Choose one of: {', '.join(WINDOWS)}.")
    y = motion.values - motion.values.mean()
    n = len(y)
    length = n if pieces == 1 else int(2 * n // (pieces + 1))
    if pieces < 1 or length < 8:
        raise Impossible(f"{n} samples cannot be cut into {pieces} pieces.", "Take fewer.")
    name = "boxcar" if window == "none" else window
    shape = get_window(name, n)
    lines = np.abs(np.fft.rfft(y * shape)) / shape.sum()
    lines[1 : (n + 1) // 2] *= 2.0
    at, power = welch(y, 1.0 / motion.step, window=name, nperseg=length, detrend=False)
    told = at <= motion.highest
    whole = float(power[told].sum())
    folded = whole > 0.0 and float(power[told & (at >= (1 - NEAR_THE_END) * motion.highest)].sum()) > FOLDED * whole
    frequency: Float = np.asarray(np.fft.rfftfreq(n, motion.step), dtype=np.float64)
    return Spectrum(frequency, lines, at, power, pieces, folded)


@dataclass(frozen=True, eq=False)
class Spectrogram:
    """How a spectrum changes: ``amplitude`` (k, m) of each line, peak value of a sine, over ``frequency`` (k,), from 0, at the
    middles of pieces ``time`` (m,); ``lasts``: how long a piece is."""

    frequency: Float
    time: Float
    amplitude: Float
    lasts: float


# Of a piece so much is in the next one too.
OVERLAP = 0.75


def spectrogram(motion: Even, window: str = "hann", lasts: float | None = None) -> Spectrogram:
    """Amplitude spectra of pieces of a motion that overlap by three quarters, each without the mean of the whole (SciPy's).

    lasts: length of a piece in the unit of time; none: an eighth of the whole, 64 samples at least. The window is made good for
    by its mean. Raises Impossible for a window there is not, or a piece of fewer than 8 samples or longer than the motion.
    """
    from scipy.signal import spectrogram as pieces_of

    if window not in WINDOWS:
        raise Impossible(f"'{window}' is no window.", f"Choose one of: {', '.join(WINDOWS)}.")
    n = len(motion.values)
    length = min(max(n // 8, 64), n) if lasts is None else round(lasts / motion.step)
    if not 8 <= length <= n:
        raise Impossible(
            f"A piece of {length} samples is none of a motion of {n}.",
            f"Take 8 at least: {8 * motion.step:.4g} to {n * motion.step:.4g}.",
        )
    name = "boxcar" if window == "none" else window
    at, middles, power = pieces_of(
        motion.values - motion.values.mean(), 1.0 / motion.step, window=name, nperseg=length,
        noverlap=min(int(OVERLAP * length), length - 1), detrend=False, scaling="spectrum",
    )  # fmt: skip
    # The power of a sine is half its amplitude's square; what has no other side (0, the highest) is its own.
    sides = np.full(len(at), 2.0)
    sides[0] = 1.0
    if length % 2 == 0:
        sides[-1] = 1.0
    return Spectrogram(at, motion.start + middles, np.sqrt(sides[:, None] * power), length * motion.step)


def shock_response(motion: Even, frequencies: Float, damping: float) -> Float:
    """Shock response spectrum: the largest absolute acceleration of a mass on a spring and damper whose foot has this acceleration,
    by its own frequency (f,), during the shock and after it.

    Exact for an acceleration that runs straight between its samples (first-order hold; D. O. Smallwood 1981 has the same as a
    filter, from memory). Raises Impossible for a damping ratio outside 0 to 1.
    """
    from scipy.signal import lfilter

    if not 0.0 <= damping < 1.0:
        raise Impossible(f"A damping ratio of {damping:g} makes no sense here.", "It lies from 0 up to 1; 0.05 is usual.")
    found = np.empty(len(frequencies))
    for k, f in enumerate(np.asarray(frequencies, dtype=np.float64)):
        w = 2.0 * np.pi * f
        above, below = _filter(w, damping, motion.step)
        rings = int(min(np.ceil(1.0 / (f * motion.step)), MOST)) + 1
        answer = lfilter(above, below, np.concatenate([motion.values, np.zeros(rings)]))
        found[k] = np.abs(answer).max()
    return found


def _filter(w: float, damping: float, step: float) -> tuple[Float, Float]:
    """Of a mass on a spring and damper whose foot is accelerated: its absolute acceleration as a digital filter, (3,) and (3,)."""
    from scipy.signal import cont2discrete

    apart = np.array([-w * w, -2.0 * damping * w])
    a, b, c, d, _ = cont2discrete(
        (np.stack([[0.0, 1.0], apart]), np.array([[0.0], [-1.0]]), apart[None], np.zeros((1, 1))), step, method="foh"
    )
    sum_, product, through = float(np.trace(a)), float(np.linalg.det(a)), float(d[0, 0])
    turned = np.array([[-a[1, 1], a[0, 1]], [a[1, 0], -a[0, 0]]])
    above = [through, float((c @ b)[0, 0]) - through * sum_, float((c @ turned @ b)[0, 0]) + through * product]
    return np.array(above), np.array([1.0, -sum_, product])


@dataclass(frozen=True)
class Decay:
    """How a motion dies away: its extremes (positions), where it comes to rest, logarithmic decrement, damping ratio, frequency.
    straight: how straight the logarithms of its swings lie (coefficient of determination)."""

    extremes: tuple[int, ...]
    rest: float
    decrement: float
    damping: float
    frequency: float
    straight: float


def decay(motion: Even) -> Decay:
    """Logarithmic decrement by regression over the swings after the largest, from each extreme to the next: it does not hang on
    where the motion comes to rest. damping = delta / sqrt(4 pi^2 + delta^2).

    Raises Impossible where there are fewer than two full swings.
    """
    y = motion.values
    at = _extremes(y)
    place = np.array([_refined(y, k) for k in at]).reshape(-1, 2)
    swings = np.abs(np.diff(place[:, 1]))
    if len(swings):
        at, place = at[int(np.argmax(swings)) :], place[int(np.argmax(swings)) :]
        swings = np.abs(np.diff(place[:, 1]))
    if len(swings) < 4:
        raise Impossible(
            f"{len(swings)} half swings are too few for a decay.", "Four are needed: choose a place that swings freely."
        )
    number, size = np.arange(len(swings), dtype=np.float64), np.log(swings)
    slope, start = np.polyfit(number, size, 1)
    spread = float(((size - size.mean()) ** 2).sum())
    off = float(((size - (slope * number + start)) ** 2).sum())
    half = float(np.polyfit(np.arange(len(place)), place[:, 0], 1)[0]) * motion.step
    decrement = -2.0 * float(slope)
    damping = decrement / float(np.hypot(2.0 * np.pi, decrement))
    return Decay(tuple(at), rest_of(y), decrement, damping, 0.5 / half, 1.0 - off / spread if spread > 0.0 else 1.0)


def rest_of(values: Float) -> float:
    """Where a motion comes to rest: the middle of its last three extremes, (e1 + 2 e2 + e3)/4, where it swings to its end, else the
    mean of its last tenth."""
    y = np.asarray(values, dtype=np.float64)
    at = _extremes(y)
    if len(at) >= 3 and at[-1] >= 0.75 * len(y):
        before, here, after = (_refined(y, k)[1] for k in at[-3:])
        return float(before + 2.0 * here + after) / 4.0
    return float(y[-max(len(y) // 10, 1) :].mean())


def _extremes(y: Float) -> list[int]:
    """Positions of the reversals of a motion, its largest and smallest taking turns; what turns by less than 1 % of the range does
    not count. Its beginning is one where it begins at its farthest."""
    from scipy.signal import find_peaks

    least = 0.01 * float(np.ptp(y))
    if not least > 0.0:
        return []
    found = [(int(k), sign) for sign in (1, -1) for k in find_peaks(sign * y, prominence=least)[0]]
    found.sort()
    if found and abs(y[0] - y[found[0][0]]) >= least:
        found.insert(0, (0, -found[0][1]))
    turns: list[tuple[int, int]] = []
    for k, sign in found:
        if turns and turns[-1][1] == sign:
            if sign * (y[k] - y[turns[-1][0]]) > 0:
                turns[-1] = (k, sign)
        else:
            turns.append((k, sign))
    return [k for k, _ in turns]


def _refined(y: Float, k: int) -> tuple[float, float]:
    """An extreme between samples by the parabola through three: position in samples, and value."""
    if not 0 < k < len(y) - 1:
        return float(k), float(y[k])
    before, here, after = y[k - 1 : k + 2]
    bend = before - 2.0 * here + after
    if bend == 0.0:
        return float(k), float(here)
    shift = 0.5 * (before - after) / bend
    return k + float(shift), float(here - 0.25 * (before - after) * shift)


def settled(time: Float, values: Float, within: float = 0.05) -> float | None:
    """From when on a motion stays within a share of its largest distance from where it comes to rest, measured from its start; None
    where it does not before its last tenth."""
    y = np.asarray(values, dtype=np.float64)
    away = np.abs(y - rest_of(y))
    outside = np.flatnonzero(away > within * away.max(initial=0.0))
    if not len(outside):
        return 0.0
    if outside[-1] >= len(y) - max(len(y) // 10, 1):
        return None
    return float(time[outside[-1] + 1] - time[0])
