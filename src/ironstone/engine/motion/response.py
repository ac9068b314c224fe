"""A frequency response at a place: amplitude, phase, peaks with damping; levels in decibels, third-octave bands, space average."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.ahead import Ahead
from ironstone.core.mesh.mesh import Float
from ironstone.core.motion.response import SOUND, Complex, Peak, a_weighting, decibels, peaks, phase_degrees, third_octaves
from ironstone.core.reading.caveats import caveats as caveats_of
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import linear, resolve
from ironstone.core.reading.trace import trace
from ironstone.core.reading.where import NamedSet, parse
from ironstone.core.units import conversion, same_kind
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.motion.particulars import ResponseMore
from ironstone.engine.reading.answers import number
from ironstone.engine.words import ReadingWords
from ironstone.formats.points_out import write_response
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# Between fewer steps than this no damping is to be read off a peak.
FEW = 3


@dataclass(frozen=True, eq=False)
class Read:
    """A response (n,) over increasing frequencies (n,) in Hz, None where it has no phase; its magnitude (n,), in ``unit``; of which
    kind of field; its sentence without a step, and what is to be said of it."""

    frequency: Float
    response: Complex | None
    magnitude: Float
    unit: str
    field: str
    sentence: str
    caveats: list[str]

    @property
    def told(self) -> Complex | Float:
        """Complex where it has a phase, else the magnitude."""
        return self.magnitude if self.response is None else self.response


class ResponseWords(ReadingWords):
    """All a response is of, but for the place."""

    loading: str = Field("", max_length=200, description="One sweep, by the name of its loading; none: all frequencies.")
    db: bool = Field(False, description="Amplitude as a level, 20 log10 of it over the reference.")
    reference: float | None = Field(
        None, gt=0, description="What 0 dB is, in the unit of the reading; none: 1, of pressure 20 uPa."
    )
    weighting: Literal["", "A"] = Field("", description="A: levels weighted by frequency as the ear hears them (IEC 61672).")
    unwrapped: bool = Field(False, description="Phase without jumps of a full turn.")

    def shown(self, read: Read) -> tuple[Float, str, str]:
        """Amplitudes as they are asked for, (n,): their unit, and what of a level the sentence says."""
        levels, said = self.leveled(read.frequency, read.magnitude, read)
        return levels, "dB" if self.db else read.unit, said

    def leveled(self, frequency: Float, magnitude: Float, read: Read) -> tuple[Float, str]:
        """Magnitudes (n,) at some frequencies of a response as they are asked for, and what the sentence says of it.

        Raises IronstoneError of a reference or a weighting without decibels.
        """
        if not self.db:
            if self.weighting or self.reference is not None:
                raise IronstoneError("A reference and a weighting are those of a level.", "Ask for it in decibels.")
            return magnitude, ""
        sound = read.field == "pressure" and same_kind(read.unit, "Pa")
        reference = self.reference if self.reference is not None else SOUND * conversion("Pa", read.unit)[0] if sound else 1.0
        # A level of sound is that of the root mean square.
        found = decibels(magnitude, reference) - (20.0 * float(np.log10(np.sqrt(2.0))) if sound else 0.0)
        said = f", level re {reference:.4g} {read.unit}".rstrip() + (" of the root mean square" if sound else "")
        if self.weighting:
            found = found + a_weighting(frequency)
            said += ", A-weighted"
        return found, said

    def peaks_of(self, read: Read) -> list[Peak]:
        return peaks(read.frequency, read.magnitude)

    def rows(self, found: list[Peak], read: Read) -> list[dict[str, Any]]:
        """Peaks as they are asked for."""
        at, height = (np.array([getattr(p, name) for p in found]) for name in ("frequency", "amplitude"))
        levels, _ = self.leveled(at, height, read)
        return [_row(p, float(level)) for p, level in zip(found, levels.tolist(), strict=True)]

    def read(self, source: ReviewSource, at: str) -> Read:
        """The response of a result at a place. Raises IronstoneError where its steps are no sweep, or the field no harmonic."""
        steps = sweep_of(source, self.loading)
        reading = replace(self.reading(), phase="")
        resolved = resolve(reading.at(steps[0]), source)
        if not resolved.field.harmonic:
            raise Impossible(
                f"'{resolved.field.name}' is no harmonic: it has no real and imaginary part.",
                f"A file has both where its arrays are called {resolved.field.name}_real and {resolved.field.name}_imag.",
            )
        frequency = np.array([source.steps[s].value for s in steps])
        found = _read(source, reading, steps, linear(resolved.measure), at)
        return Read(frequency, *found[:3], resolved.field.kind, *found[3:])


# The level of a third octave is that of its lines together.
UNEVEN = "The frequencies are uneven: a third octave is the sum of the lines in it, and higher where they lie closer together."


def _uneven(frequency: Float) -> bool:
    steps = np.diff(frequency)
    return bool(len(steps)) and float(np.ptp(steps)) > 1e-3 * float(steps.mean())


class Response(ResponseWords, Question):
    """A frequency response at a place, or its space average over a set: amplitude and phase over frequency, peaks with damping by
    half power; in decibels over a reference where asked for, third-octave bands."""

    kind: ClassVar[str] = "response"
    more: ClassVar[type[BaseModel]] = ResponseMore
    at: str = Field(description="node:ID, element:ID, point:X,Y,Z; set:NAME: the root of the mean square over it.")

    def answer(self, review: Review) -> Answer:
        read = self.read(self.source(review), self.at)
        shown, told, said = self.shown(read)
        found = self.peaks_of(read)
        rows = self.rows(found, read)
        frequency, count = read.frequency, len(read.frequency)
        bands = third_octaves(frequency, shown) if self.db and np.isfinite(shown).any() else (np.zeros(0), np.zeros(0))
        return Answer(
            kind=self.kind,
            sentence=f"{read.sentence}{said}",
            unit=told,
            columns=[
                Column(name="frequency", unit="Hz", values=frequency.tolist()),
                Column(name="level" if self.db else "amplitude", unit=told, values=[number(v) for v in shown]),
                Column(name="phase", unit="deg", values=phases(read, self.unwrapped)),
                Column(name="real part", unit=read.unit, values=_parts(read.response, count, "real")),
                Column(name="imaginary part", unit=read.unit, values=_parts(read.response, count, "imag")),
            ],
            figures=_figures(rows, told),
            caveats=[*read.caveats, *_said(found, frequency), *([UNEVEN] if self.db and _uneven(frequency) else [])],
            more={
                **drawn(read, shown, self.unwrapped),
                "peaks": rows,
                "level_unit": "dB" if self.db else "",
                "bands": [list(pair) for pair in zip(bands[0].tolist(), bands[1].tolist(), strict=True)],
            },
        )


def universal_of(answer: Answer) -> bytes:
    """A response as a function of a universal file (dataset 58). Raises IronstoneError of one that has no phase, or a gap."""
    more = answer.more
    if any(v is None for v in [*more["real"], *more["imaginary"]]):
        raise IronstoneError("A response without a phase, or with gaps, is no function of a file.", "Read a component at a node.")
    response = np.array(more["real"]) + 1j * np.array(more["imaginary"])
    with TemporaryDirectory() as folder:
        path = Path(folder) / "response.uff"
        write_response(path, answer.sentence, np.array(more["frequency"]), response, answer.columns[3].unit or "")
        return path.read_bytes()


def drawn(read: Read, shown: Float, unwrapped: bool) -> dict[str, Any]:
    """What of a response is drawn."""
    count = len(read.frequency)
    return {
        "frequency": read.frequency.tolist(),
        "amplitude": [number(v) for v in shown],
        "magnitude": [number(v) for v in read.magnitude],
        "phase": phases(read, unwrapped),
        "real": _parts(read.response, count, "real"),
        "imaginary": _parts(read.response, count, "imag"),
    }


def phases(read: Read, unwrapped: bool) -> list[float | None]:
    if read.response is None:
        return [None] * len(read.frequency)
    return [number(v) for v in phase_degrees(read.response, unwrapped)]


def sweep_of(source: ReviewSource, loading: str) -> list[int]:
    """The steps of a sweep, by increasing frequency. Raises IronstoneError where there is none, or where there are several."""
    named = [i for i, s in enumerate(source.steps) if s.kind == "frequency" and (not loading or s.loading == loading)]
    if len(named) < 2:
        kinds = ", ".join(dict.fromkeys(s.kind for s in source.steps))
        raise Impossible(
            f"'{source.name}' has no sweep of frequencies: its steps are told by {kinds}.",
            "State in Intake what its steps are.",
        )
    loadings = dict.fromkeys(source.steps[i].loading for i in named)
    if len(loadings) > 1:
        raise IronstoneError(f"There are several sweeps: {', '.join(loadings)}.", "Name one: loading=...")
    return sorted(named, key=lambda i: source.steps[i].value)


# The response (n,), complex where it has a phase, its magnitude, unit, sentence without a step, caveats.
_Found = tuple[Complex | None, Float, str, str, list[str]]


def _read(source: ReviewSource, reading: Reading, steps: list[int], component: bool, at: str) -> _Found:
    where = parse(at).one()
    if isinstance(where, NamedSet):
        return _over_set(source, reading, steps, component, where)
    if not component:
        told = replace(reading, phase="peak").at(steps[0])
        found = trace(told, source, where.place(told, source), None, steps)
        lead = f"{found.resolved.sentence(with_step=False)}, at {where.words}"
        said = [*caveats_of(found.resolved, source, found.values), "Its peak over the cycle: it has no phase."]
        return None, found.values, found.resolved.unit, lead, said
    # Both parts are read off the same rows.
    here, parts = Ahead(source, np.array(steps)), []
    for phase in ("", "-90"):
        told = replace(reading, phase=phase).at(steps[0])
        parts.append(trace(told, here, where.place(told, source), None, steps))
    complex_ = parts[0].values + 1j * parts[1].values
    resolved = resolve(replace(reading, phase="magnitude").at(steps[0]), source)
    said = caveats_of(resolved, source, np.abs(complex_))
    return complex_, np.abs(complex_), resolved.unit, f"{resolved.sentence(with_step=False)}, at {where.words}", said


def _over_set(source: ReviewSource, reading: Reading, steps: list[int], component: bool, where: NamedSet) -> _Found:
    """The root of the mean square of the magnitudes over a set."""
    told = replace(reading, phase="magnitude" if component else "peak")
    place = where.place(told.at(steps[0]), source)
    resolved = resolve(told.at(steps[0]), source)
    found, gaps = np.full(len(steps), np.nan), 0
    for k, step in enumerate(steps):
        values = evaluate(told.at(step), source, place).values
        gaps = max(gaps, int(np.isnan(values).sum()))
        if np.isfinite(values).any():
            found[k] = float(np.sqrt(np.nanmean(values**2)))
    said = [*caveats_of(resolved, source, found), *([f"{gaps} places of the set have no value: left out."] if gaps else [])]
    return None, found, resolved.unit, f"{resolved.sentence(with_step=False)}, root mean square over {where.words}", said


def _parts(response: Complex | None, count: int, part: str) -> list[float | None]:
    return [None] * count if response is None else [number(float(v)) for v in getattr(response, part)]


def _row(peak: Peak, height: float) -> dict[str, Any]:
    return {
        "frequency": peak.frequency,
        "amplitude": height,
        "damping": peak.damping,
        "quality": peak.quality,
        "half": None if peak.half is None else list(peak.half),
    }


def _figures(rows: list[dict[str, Any]], unit: str) -> list[Figure]:
    if not rows:
        return []
    top = max(rows, key=lambda r: r["amplitude"])
    found = [
        Figure(label="highest peak", value=top["amplitude"], unit=unit, how="between the steps"),
        Figure(label="at", value=top["frequency"], unit="Hz"),
        Figure(label="damping ratio there", value=top["damping"], how="by half power"),
        Figure(label="quality", value=top["quality"]),
    ]
    return found


def _said(found: list[Peak], frequency: Float) -> list[str]:
    said = []
    open_ = [p for p in found if p.damping is None]
    if open_:
        said.append(
            f"{len(open_)} of {len(found)} peaks do not fall to half power on both sides before a neighbour or the end of the "
            "sweep: no damping is told of them."
        )
    sparse = [p for p in found if p.damping is not None and p.bare < FEW]
    if sparse:
        at = ", ".join(f"{p.frequency:.4g}" for p in sparse)
        said.append(
            f"Fewer than {FEW} steps lie within half power at {at} Hz: the damping there hangs on what is between the steps."
        )
    if not found:
        said.append(f"No peak stands out between {frequency[0]:.4g} and {frequency[-1]:.4g} Hz.")
    return said
