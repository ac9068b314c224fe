"""Of motion: what only the answers of one kind of question have beside what every answer carries."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ironstone.engine.carrier import Numbers, Particulars


class ModeRow(Particulars):
    """One mode: number from 1, position of its step, frequency in Hz; participation, effective_mass: along x, y, z. rigid: it moves
    as a rigid body. near: numbers of the modes whose frequency is near-equal. energy: of each part, as shares of the whole."""

    number: int
    step: int
    frequency: float
    participation: Numbers
    effective_mass: Numbers
    modal_mass: float | None
    largest: float | None
    rigid: bool
    near: list[int]
    energy: Numbers


class ModesMore(Particulars):
    """sums: share of the mass that moves along x, y, z in all modes. parts: whose shares of the energy the modes have."""

    total_mass: float | None
    mass_unit: str
    modes: list[ModeRow]
    sums: Numbers
    parts: list[str]


class ShapePair(Particulars):
    """Two modes, numbers from 1, whose shapes belong together. deviation: of the first frequency from the second, as a share of
    that. together: held against all near-equal ones as a whole. reversed: the one runs against the other. crossed: it is out of
    the order of the others. verdict: of the pair."""

    of: int
    with_: int = Field(alias="with")
    mac: float
    deviation: float | None
    together: bool
    reversed: bool
    crossed: bool
    verdict: str


class MacMore(Particulars):
    """matrix: a row a mode of the first. frequencies of both, in Hz. alone: numbers of the modes of the first, then of the second,
    that have no counterpart though the other covers their frequency."""

    matrix: list[Numbers]
    pairs: list[ShapePair]
    of_frequencies: list[float]
    with_frequencies: list[float]
    of_alone: list[int]
    with_alone: list[int]


class ResponsePeak(Particulars):
    """One peak: damping as a share of the critical one by half power, None where its sides are not there; half: the two half-power
    frequencies."""

    frequency: float
    amplitude: float
    damping: float | None
    quality: float | None
    half: list[float] | None


class ResponseCurve(Particulars):
    """frequency in Hz; amplitude: in dB where asked for; phase in degrees; magnitude: never in dB."""

    frequency: list[float]
    amplitude: Numbers
    magnitude: Numbers
    phase: Numbers
    real: Numbers
    imaginary: Numbers


class ResponseMore(ResponseCurve):
    """Its peaks. bands: third octaves, centre and level."""

    peaks: list[ResponsePeak]
    level_unit: Literal["", "dB"]
    bands: list[list[float]]


class PeakPairMore(Particulars):
    """Peaks that belong together, in Hz, None where one has no counterpart. off: of the first frequency from the other, a share;
    ratio: of the first amplitude to the other."""

    model: float | None
    test: float | None
    off: float | None
    ratio: float | None
    model_damping: float | None
    test_damping: float | None
    verdict: str


class BesideMore(ResponseCurve):
    """One response beside the first, in its unit. judged: it is held against it; low, high: the frequencies both have. error: why
    it is not drawn, or not compared."""

    beside: str
    name: str
    judged: bool
    error: str
    said: list[str]
    frac: float | None
    with_phase: bool
    low: float | None
    high: float | None
    verdict: str
    state: Literal["", "good", "doubt", "bad"]
    pairs: list[PeakPairMore]


class ResponsesMore(Particulars):
    """The responses beside the first."""

    curves: list[BesideMore]


class ModeShare(Particulars):
    """The share of one mode: its number and frequency, its coordinate at the step, what it adds at the place, that as a share."""

    number: int
    frequency: float
    coordinate: float | None
    value: float | None
    share: float | None
    chosen: bool


class SharesMore(Particulars):
    """whole, rebuilt: at the place over the steps x; left: what no mode has of the motion of the whole model, a share, by step."""

    x: list[float]
    whole: Numbers
    rebuilt: Numbers
    left: Numbers
    left_here: float | None
    modes: list[ModeShare]


class SpectrumMore(Particulars):
    """amplitude of each line over frequency; power: density over power_frequency."""

    frequency: list[float]
    amplitude: list[float]
    power_frequency: list[float]
    power: list[float]
    resolution: float


class SpectrogramMore(Particulars):
    """amplitude: a row a frequency, a column a time. resolution in Hz; lasts: how long a piece is, in s."""

    frequency: list[float]
    time: list[float]
    amplitude: list[list[float]]
    resolution: float
    lasts: float


class ShockMore(Particulars):
    """Largest absolute acceleration by own frequency."""

    frequency: list[float]
    response: list[float]


class DecayMore(Particulars):
    """peaks: times and values of the extremes that are counted. settles: after how long, None where it has not."""

    decrement: float
    damping: float
    frequency: float
    straight: float
    settles: float | None
    peaks: list[list[float]]


class ReboundMore(Particulars):
    """Speeds relative to what is met; restitution: parting over approach, None where nothing approached. impulse, momentum (its
    change), mass: None where they are not known. speed, force: over the times, the last empty where nothing pushes."""

    before: float
    after: float
    restitution: float | None
    begins: float
    ends: float
    impulse: float | None
    momentum: float | None
    mass: float | None
    time: list[float]
    speed: Numbers
    force: Numbers
    time_unit: str
    force_unit: str
