"""What is read off a trace over time: its spectrum, the response spectrum of a shock, how it dies away."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.curves.curves import Curve
from ironstone.core.errors import Impossible
from ironstone.core.mesh.mesh import Float
from ironstone.core.motion.transients import Even, decay, even, settled, shock_response, spectrogram, spectrum
from ironstone.core.units import conversion, same_kind
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.curves.named import traced
from ironstone.engine.motion.particulars import DecayMore, ShockMore, SpectrogramMore, SpectrumMore
from ironstone.engine.weight import Reach
from ironstone.engine.words import TraceSpec
from ironstone.store import Review

# Own frequencies of a shock's response spectrum, so many an octave.
AN_OCTAVE = 12


def motion_of(question: TraceSpec, review: Review) -> tuple[Curve, Even, str, list[str]]:
    """A trace over time in seconds at even steps, its sentence and what is to be said of it."""
    assert isinstance(question, Question)
    source = question.source(review)
    curve, sentence, caveats = traced(review, source, question)
    if not curve.x_unit or not same_kind(curve.x_unit, "s"):
        raise Impossible(
            f"The steps of '{source.name}' are no times: {curve.x_label}.", "State in Intake that its steps are times."
        )
    motion = even(curve.x * conversion(curve.x_unit, "s")[0], curve.y)
    if motion.resampled:
        caveats = [
            *caveats,
            f"The steps are uneven: resampled to {len(motion.values)} even ones. What is faster than {motion.highest:.4g} Hz the "
            "coarsest of them do not tell.",
        ]
    return curve, motion, sentence, caveats


class Spectrum(TraceSpec, Question):
    """Amplitude and power spectral density of a trace over time, without its mean; window, averaging and resolution stated."""

    kind: ClassVar[str] = "spectrum"
    more: ClassVar[type[BaseModel]] = SpectrumMore
    reach: ClassVar[Reach] = "place"
    window: Literal["none", "hann", "flattop"] = "hann"
    pieces: int = Field(1, ge=1, le=1000, description="Pieces that overlap by half, whose power is averaged.")

    def answer(self, review: Review) -> Answer:
        curve, motion, sentence, caveats = motion_of(self, review)
        found = spectrum(motion, self.window, self.pieces)
        told, seen = found.frequency <= motion.highest, found.power_frequency <= motion.highest
        frequency, amplitude = found.frequency[told], found.amplitude[told]
        if found.folded:
            caveats = [
                *caveats,
                f"There is power up to {motion.highest:.4g} Hz, the highest the steps tell: faster motion may be folded into it.",
            ]
        top = int(np.argmax(amplitude[1:])) + 1
        unit, per = curve.y_unit or "", f"({curve.y_unit})²/Hz" if curve.y_unit else "1/Hz"
        averaged = f", power averaged over {found.averages} pieces" if found.averages > 1 else ""
        return Answer(
            kind=self.kind,
            sentence=f"spectrum of {sentence}, {window_words(self.window)}{averaged}, lines {frequency[1]:.4g} Hz apart",
            unit=curve.y_unit,
            columns=[
                Column(name="frequency", unit="Hz", values=frequency.tolist()),
                Column(name="amplitude", unit=curve.y_unit, values=amplitude.tolist()),
            ],
            figures=[
                Figure(label="largest line", value=float(amplitude[top]), unit=unit, how="amplitude of a sine"),
                Figure(label="at", value=float(frequency[top]), unit="Hz"),
                Figure(label="resolution", value=float(frequency[1]), unit="Hz", how="one over the length"),
                Figure(label="root mean square", value=float(motion.values.std()), unit=unit, how="without the mean"),
                Figure(label="highest density", value=float(found.power[seen].max()), unit=per),
            ],
            caveats=caveats,
            more={
                "frequency": frequency.tolist(),
                "amplitude": amplitude.tolist(),
                "power_frequency": found.power_frequency[seen].tolist(),
                "power": found.power[seen].tolist(),
                "resolution": float(frequency[1]),
            },
        )


# A picture of more lines or times than this shows no more: the largest of neighbours stands for them.
MOST_SHOWN = 240


class Spectrogram(TraceSpec, Question):
    """How the amplitude spectrum of a trace changes over time: of pieces that overlap by three quarters; window and resolution
    stated."""

    kind: ClassVar[str] = "spectrogram"
    more: ClassVar[type[BaseModel]] = SpectrogramMore
    reach: ClassVar[Reach] = "place"
    window: Literal["none", "hann", "flattop"] = "hann"
    lasts: float | None = Field(None, gt=0, description="Length of a piece in s; none: an eighth of the whole.")

    def answer(self, review: Review) -> Answer:
        curve, motion, sentence, caveats = motion_of(self, review)
        found = spectrogram(motion, self.window, self.lasts)
        told = found.frequency <= motion.highest
        amplitude = found.amplitude[told]
        highest = np.argmax(amplitude[1:], axis=0) + 1
        strongest = np.take_along_axis(amplitude, highest[None], axis=0)[0]
        top = int(np.argmax(strongest))
        unit, resolution = curve.y_unit or "", float(found.frequency[1])
        rows, columns = (max(int(np.ceil(n / MOST_SHOWN)), 1) for n in amplitude.shape)
        return Answer(
            kind=self.kind,
            sentence=f"spectrogram of {sentence}, {window_words(self.window)}, pieces of {found.lasts:.4g} s, "
            f"lines {resolution:.4g} Hz apart",
            unit=curve.y_unit,
            columns=[
                Column(name="time", unit="s", values=found.time.tolist()),
                Column(name="strongest line", unit="Hz", values=found.frequency[highest].tolist()),
                Column(name="its amplitude", unit=curve.y_unit, values=strongest.tolist()),
            ],
            figures=[
                Figure(label="strongest", value=float(strongest[top]), unit=unit, how="amplitude of a sine"),
                Figure(label="at", value=float(found.time[top]), unit="s", how="middle of its piece"),
                Figure(label="frequency", value=float(found.frequency[highest[top]]), unit="Hz"),
                Figure(label="resolution", value=resolution, unit="Hz", how="one over the length of a piece"),
            ],
            caveats=caveats,
            more={
                "frequency": found.frequency[told][::rows].tolist(),
                "time": found.time[::columns].tolist(),
                "amplitude": _largest_of(amplitude, rows, columns).tolist(),
                "resolution": resolution,
                "lasts": found.lasts,
            },
        )


def _largest_of(values: Float, rows: int, columns: int) -> Float:
    """The largest of every few neighbours along both ways of a table (k, m)."""
    found: Float = np.maximum.reduceat(values, np.arange(0, values.shape[0], rows), axis=0)
    return np.asarray(np.maximum.reduceat(found, np.arange(0, values.shape[1], columns), axis=1))


def window_words(window: str) -> str:
    return {"none": "no window", "hann": "Hann window", "flattop": "flat-top window"}[window]


class Shock(TraceSpec, Question):
    """Response spectrum of a shock: the largest absolute acceleration of a mass on a spring and damper whose foot moves as the
    trace does, by own frequency."""

    kind: ClassVar[str] = "shock"
    more: ClassVar[type[BaseModel]] = ShockMore
    reach: ClassVar[Reach] = "place"
    damping: float = Field(0.05, ge=0, lt=1, description="Damping ratio of the mass.")
    low: float | None = Field(None, gt=0, description="Lowest own frequency, Hz; none: one over the length.")
    high: float | None = Field(None, gt=0, description="Highest own frequency, Hz; none: a fifth of what the steps tell.")

    def answer(self, review: Review) -> Answer:
        curve, motion, sentence, caveats = motion_of(self, review)
        unit = curve.y_unit or ""
        if unit and not same_kind(unit, "m/s²"):
            raise Impossible(
                f"A shock's response spectrum is of an acceleration, and this is in {unit}.", "Choose the acceleration."
            )
        lasts = motion.step * (len(motion.values) - 1)
        low, high = self.low or 1.0 / lasts, self.high or motion.highest / 5.0
        if not low < high:
            raise Impossible(f"There is nothing between {low:.4g} and {high:.4g} Hz.", "Widen the range, or take finer steps.")
        frequency = np.geomspace(low, high, max(int(np.ceil(AN_OCTAVE * np.log2(high / low))), 2))
        found = shock_response(motion, frequency, self.damping)
        top = int(np.argmax(found))
        if high > motion.highest / 5.0 * 1.001:
            caveats = [*caveats, f"Above {motion.highest / 5:.4g} Hz a mass swings faster than ten steps a period tell."]
        return Answer(
            kind=self.kind,
            sentence=f"shock response spectrum of {sentence}, damping ratio {self.damping:g}, largest absolute acceleration",
            unit=curve.y_unit,
            columns=[
                Column(name="own frequency", unit="Hz", values=frequency.tolist()),
                Column(name="largest acceleration", unit=curve.y_unit, values=found.tolist()),
            ],
            figures=[
                Figure(label="largest", value=float(found[top]), unit=unit),
                Figure(label="at", value=float(frequency[top]), unit="Hz"),
                Figure(label="of the motion itself", value=float(np.abs(motion.values).max()), unit=unit),
            ],
            caveats=caveats,
            more={"frequency": frequency.tolist(), "response": found.tolist()},
        )


class Dying(TraceSpec, Question):
    """How a motion dies away: logarithmic decrement, damping ratio, frequency, and after how long it has settled."""

    kind: ClassVar[str] = "decay"
    more: ClassVar[type[BaseModel]] = DecayMore
    reach: ClassVar[Reach] = "place"
    within: float = Field(0.05, gt=0, lt=1, description="Share of the largest distance from rest within which it has settled.")

    def answer(self, review: Review) -> Answer:
        curve, motion, sentence, caveats = motion_of(self, review)
        found = decay(motion)
        settles = settled(motion.times, motion.values, self.within)
        if found.straight < 0.95:
            caveats = [*caveats, "Its swings do not shrink by one ratio: it is not one damped swing, and the damping is a mean."]
        times = motion.times[list(found.extremes)]
        return Answer(
            kind=self.kind,
            sentence=f"decay of {sentence}, over {len(found.extremes) - 1} half swings",
            unit=curve.y_unit,
            columns=[
                Column(name="time", unit="s", values=times.tolist()),
                Column(name="extreme", unit=curve.y_unit, values=motion.values[list(found.extremes)].tolist()),
            ],
            figures=[
                Figure(label="logarithmic decrement", value=found.decrement, how="by regression over the swings"),
                Figure(label="damping ratio", value=found.damping),
                Figure(label="frequency", value=found.frequency, unit="Hz"),
                Figure(label="settled after", value=settles, unit="s", how=f"within {100 * self.within:g} % of the largest"),
                Figure(
                    label="at rest",
                    value=found.rest,
                    unit=curve.y_unit or "",
                    how="middle of its last swings, or mean of its last tenth",
                ),
            ],
            caveats=caveats,
            more={
                "decrement": found.decrement,
                "damping": found.damping,
                "frequency": found.frequency,
                "straight": found.straight,
                "settles": settles,
                "peaks": [[float(t), float(v)] for t, v in zip(times, motion.values[list(found.extremes)], strict=True)],
            },
        )
