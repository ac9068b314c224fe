"""Where a driver turns: reversals, peaks, branches, with the noise of its measurement told from turns that are meant."""

from __future__ import annotations

import numpy as np

from ironstone.core.mesh.mesh import Float, Int

PROMINENCE = 0.02
MOST = 0.2
NOISES = 8.0
CLOSURE = 0.02


def noise_of(driver: Float) -> float:
    """Standard deviation of the noise on a driver; 0 where its wiggles are no noise.

    From fourth differences, which a smooth motion hardly has, over sqrt(70), what they make of white noise. Their lower quartile is
    taken (of a normal distribution 0.3186 standard deviations), so that kinks of a driver in straight ramps do not count. Noise
    turns at almost every sample: only differences that alternate (neighbours correlated under -1/2; of white noise -0.8) are noise.
    """
    driver = np.asarray(driver, dtype=np.float64)
    if len(driver) < 12:
        return 0.0
    rough = np.diff(driver, 4)
    usual = float(np.quantile(np.abs(rough), 0.25)) / 0.3186
    if usual <= 0.0:
        return 0.0
    held = np.clip(rough, -3 * usual, 3 * usual)
    alternates = float((held[1:] * held[:-1]).sum() / (held * held).sum())
    return usual / np.sqrt(70.0) if alternates < -0.5 else 0.0


def prominence_of(driver: Float, stated: float | None = None) -> float:
    """How far a driver must come back to have turned, as a share of its range: what is stated, else 2 %, or more where it is noisy.

    Eight standard deviations of the noise hold what its largest swings come to in some thousand samples; at most 20 %. Noise that
    makes no turn at 2 % changes nothing.
    """
    if stated is not None:
        return stated
    reach = float(np.ptp(driver)) if len(driver) else 0.0
    more = min(NOISES * noise_of(driver) / reach, MOST) if reach > 0.0 else 0.0
    if more <= PROMINENCE or len(reversals(driver, PROMINENCE)) == len(reversals(driver, more)):
        return PROMINENCE
    return more


def reversals(driver: Float, prominence: float | None = None) -> Int:
    """Positions where the driver turns, ignoring wiggles below ``prominence`` times its range; the ends are not included.

    A turn is confirmed once the driver has moved back by the prominence; of equal extremes the first counts. prominence: see
    ``prominence_of``; None is found from the driver.
    """
    driver = np.asarray(driver, dtype=np.float64)
    if len(driver) < 3:
        return np.zeros(0, dtype=np.int64)
    limit = prominence_of(driver, prominence) * float(np.ptp(driver))
    if limit <= 0.0:
        return np.zeros(0, dtype=np.int64)
    found: list[int] = []
    high = low = 0
    direction = 0
    for i, value in enumerate(driver.tolist()):
        if direction >= 0 and value > driver[high]:
            high = i
        if direction <= 0 and value < driver[low]:
            low = i
        if direction >= 0 and driver[high] - value > limit:
            if direction > 0:
                found.append(high)
            direction, low = -1, i
        elif direction <= 0 and value - driver[low] > limit:
            if direction < 0:
                found.append(low)
            direction, high = 1, i
    return np.array(found, dtype=np.int64)


def branches(driver: Float, prominence: float | None = None) -> Int:
    """Where each run of the driver one way begins and ends, both counted, (branches, 2)."""
    ends = np.concatenate([[0], reversals(driver, prominence), [len(driver) - 1]]).astype(np.int64)
    pairs = np.stack([ends[:-1], ends[1:]], axis=1)
    return pairs[pairs[:, 1] > pairs[:, 0]]


def positive_peaks(driver: Float, prominence: float | None = None) -> Int:
    """The reversals where the driver turns downwards.

    An end of the record counts too when it stands as high as the nearest peak (within 2 % of the range), so that a record
    cut exactly at its peaks loses no cycle.
    """
    driver = np.asarray(driver, dtype=np.float64)
    turns = reversals(driver, prominence)
    if not len(turns):
        return turns
    before = np.concatenate([[driver[0]], driver[turns][:-1]])
    peaks = turns[driver[turns] > before].tolist()
    last = len(driver) - 1
    near = CLOSURE * float(np.ptp(driver))
    if driver[turns[0]] < driver[0] and driver[0] >= driver[peaks[0] if peaks else last] - near:
        peaks.insert(0, 0)
    if driver[turns[-1]] < driver[last] and driver[last] >= driver[peaks[-1] if peaks else 0] - near:
        peaks.append(last)
    return np.array(peaks, dtype=np.int64)


def crossing_level(driver: Float, prominence: float | None = None) -> float:
    """What a cycle by upward crossings crosses: zero, or the middle of the driver's range where it does not go to both sides."""
    near = prominence_of(driver, prominence) * float(np.ptp(driver))
    low, high = float(np.min(driver)), float(np.max(driver))
    return 0.0 if low < -near and high > near else (low + high) / 2.0


def upward_crossings(driver: Float, prominence: float | None = None) -> Int:
    """Positions where the driver leaves its level upwards: one before each positive peak, and the end when it is back there."""
    driver = np.asarray(driver, dtype=np.float64) - crossing_level(driver, prominence)
    peaks = positive_peaks(driver, prominence)
    near = prominence_of(driver, prominence) * float(np.ptp(driver))
    marks = []
    for a, b in zip(np.concatenate([[0], peaks[:-1]]), peaks, strict=True):
        below = np.flatnonzero(driver[a : b + 1] <= 0.0)
        if len(below):
            marks.append(int(a + below[-1]))
        elif a == 0 and driver[0] <= near:
            marks.append(0)
    if len(peaks) and driver[-1] >= -near:
        after = driver[peaks[-1] :]
        if after.min() < -near:
            # A record that goes on beyond its last crossing ends its last cycle there, not where it stops.
            beyond = driver[-1] > near
            marks.append(int(peaks[-1] + np.flatnonzero(after <= 0.0)[-1]) if beyond else len(driver) - 1)
    return np.array(marks, dtype=np.int64)
