"""Several frequency responses beside one: other places, other results, test records; the last two are held against it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.motion.agreement import Limits, PeakPair, ResponseMatch, held_against
from ironstone.core.motion.agreement import Response as Told
from ironstone.core.motion.response import Peak, derived, with_phase
from ironstone.core.units import conversion, same_kind
from ironstone.core.verdicts import AGREES, State, state_of
from ironstone.core.words import listed
from ironstone.engine.base import Question, by_name
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.curves.measured import Measured
from ironstone.engine.curves.records import Record, response_of
from ironstone.engine.motion.particulars import ResponsesMore
from ironstone.engine.motion.response import Read, ResponseWords, drawn, sweep_of
from ironstone.engine.reading.answers import number
from ironstone.store import Review
from ironstone.store.source import ReviewSource

BESIDE = "A place of the same result (node:ID, ...), of:RESULT:PLACE of another, test:RECORD by name or number."
_OTHER = re.compile(r"of:(.+?):((?:node|element|corner|gauss|point|set|gauge)s?:.*)")
# Of a displacement: how often it is differentiated over time.
MOTIONS = ("m", "m/s", "m/s²")


class Responses(ResponseWords, Question):
    """A frequency response with others beside it: other places, other results, test records. Results and records are held against
    it: FRAC over the common frequencies, peak against peak by frequency and amplitude, with limits."""

    kind: ClassVar[str] = "responses"
    more: ClassVar[type[BaseModel]] = ResponsesMore
    at: str = Field(description="node:ID, element:ID, point:X,Y,Z; set:NAME: the root of the mean square over it.")
    beside: list[str] = Field(min_length=1, max_length=20, description=BESIDE)
    frequency: float = Field(Limits.frequency, gt=0, le=1, description="Share by which the frequency of a peak may be off.")
    amplitude: float = Field(Limits.amplitude, gt=0, le=10, description="Share by which its amplitude may be off.")
    frac: float = Field(Limits.frac, ge=0, le=1, description="What FRAC has to be at least.")

    def others(self) -> list[str]:
        named = [found[1] for found in (_OTHER.fullmatch(text) for text in self.beside) if found]
        return [*super().others(), *dict.fromkeys(named)]

    def answer(self, review: Review) -> Answer:
        return self.answered_with(review, {})

    def answered_with(self, review: Review, files: Mapping[str, Measured]) -> Answer:
        """The answer, where test:NAME may also name a response that was read from a file and is not kept."""
        source = self.source(review)
        first = self.read(source, self.at)
        _, unit, said = self.shown(first)
        curves = [self._one(review, source, first, text, files) for text in self.beside]
        judged = [c for c in curves if c["judged"]]
        rows = [(c, row) for c in judged for row in c["pairs"]]
        state = _state(judged)
        return Answer(
            kind=self.kind,
            sentence=f"{first.sentence}{said}; beside it {listed(c['name'] for c in curves)}",
            unit=unit,
            columns=[
                Column(name="against", values=[c["name"] for c, _ in rows]),
                Column(name="peak", unit="Hz", values=[r["model"] for _, r in rows]),
                Column(name="its peak", unit="Hz", values=[r["test"] for _, r in rows]),
                Column(name="deviation of frequency", values=[r["off"] for _, r in rows]),
                Column(name="ratio of amplitude", values=[r["ratio"] for _, r in rows]),
                Column(name="damping", values=[r["model_damping"] for _, r in rows]),
                Column(name="its damping", values=[r["test_damping"] for _, r in rows]),
                Column(name="verdict", values=[r["verdict"] for _, r in rows]),
            ],
            figures=[Figure(label=f"FRAC, {c['name']}", value=c["frac"], how=_how(c)) for c in judged if not c["error"]],
            caveats=[*first.caveats, *(f"{c['name']}: {line}" for c in curves for line in (c["said"] or [c["error"]]) if line)],
            verdict=_verdict(judged),
            state=state,
            more={"curves": curves},
        )

    def _one(self, review: Review, source: ReviewSource, first: Read, text: str, files: Mapping[str, Measured]) -> dict[str, Any]:
        """One that stands beside the first, in its unit, and how it agrees; or why it cannot."""
        reply: dict[str, Any] = {
            "beside": text, "name": text, "judged": not self._is_place(text), "frequency": [], "amplitude": [], "magnitude": [],
            "phase": [], "real": [], "imaginary": [], "error": "", "said": [], "frac": None, "with_phase": False, "low": None,
            "high": None, "verdict": "", "state": "", "pairs": [],
        }  # fmt: skip
        try:
            name, found = self._read_beside(review, source, first, text, files)
        except IronstoneError as error:
            return reply | {"error": f"{error.message} {error.hint}".strip(), "state": "bad" if reply["judged"] else ""}
        shown, _ = self.leveled(found.frequency, found.magnitude, found)
        reply |= {**drawn(found, shown, self.unwrapped), "name": name, "said": found.caveats}
        if not reply["judged"]:
            return reply
        try:
            limits = Limits(self.frequency, self.amplitude, self.frac)
            match = held_against(first.frequency, first.told, found.frequency, found.told, limits)
        except IronstoneError as error:
            return reply | {"error": f"{error.message} {error.hint}".strip(), "state": "bad"}
        return reply | {
            "frac": number(match.frac),
            "with_phase": match.with_phase,
            "low": match.low,
            "high": match.high,
            "pairs": _rows(match),
            "verdict": verdict_words(match),
            "state": state_of(match.verdict),
            "said": [*reply["said"], *_notes(match)],
        }

    def _is_place(self, text: str) -> bool:
        return not text.startswith("test:") and not _OTHER.fullmatch(text)

    def _read_beside(
        self, review: Review, source: ReviewSource, first: Read, text: str, files: Mapping[str, Measured]
    ) -> tuple[str, Read]:
        """What it is called, and the response in the unit of the first."""
        if text.startswith("test:"):
            name = text.removeprefix("test:")
            if name in files:
                return name, _measured(name, files[name], first)
            item, _ = by_name(review, Record, name)
            found, kept = response_of(review, item.id)
            return kept.name, _measured(kept.name, found, first)
        other = _OTHER.fullmatch(text)
        if other is None:
            return text, self.read(source, text)
        theirs = source.other(other[1])
        assert isinstance(theirs, ReviewSource)
        words = self.model_copy(update={"field": self._field_there(source, theirs), "loading": "", "unit": None})
        return f"{theirs.name}, {other[2]}", _like(words.read(theirs, other[2]), first)

    def _field_there(self, source: ReviewSource, theirs: ReviewSource) -> str:
        """The field of another result that is read beside this one: of the same name, or the one motion it has."""
        mine = self.reading().field
        if mine in theirs.fields and theirs.fields[mine].harmonic:
            return mine
        sweep_of(theirs, "")
        moving = [n for n, f in theirs.fields.items() if f.harmonic and f.kind in ("displacement", "velocity", "acceleration")]
        if len(moving) != 1 or source.fields[mine].kind not in ("displacement", "velocity", "acceleration"):
            raise Impossible(f"'{theirs.name}' has no harmonic '{mine}'.", f"It has: {', '.join(theirs.fields)}.")
        return moving[0]


def _measured(name: str, found: Measured, first: Read) -> Read:
    """A measured response in the unit of the first."""
    unit, said = found.unit, list(found.said)
    if unit is None:
        unit = first.unit
        said.append(f"amplitude taken as {first.unit or 'a pure number'}: no unit is stated")
    return _like(Read(found.frequency, with_phase(found.response), np.abs(found.response), unit, first.field, name, said), first)


def _like(read: Read, first: Read) -> Read:
    """A response in the unit of the first; a motion told by another of its derivatives over time is turned into that.

    Raises Impossible where one is of another kind than the other.
    """
    if same_kind(read.unit, first.unit):
        factor, said = conversion(read.unit, first.unit)[0], read.caveats
        told: Told = read.told * factor
    else:
        order = [next((k for k, m in enumerate(MOTIONS) if same_kind(u, m)), None) for u in (read.unit, first.unit)]
        if order[0] is None or order[1] is None:
            raise Impossible(
                f"'{read.sentence}' is in {read.unit or 'pure numbers'}, and the response in {first.unit or 'pure numbers'}.",
                "A response per force is scaled by the force of the model: state the scale and the unit that is then left.",
            )
        times = order[1] - order[0]
        factor = conversion(f"{read.unit}*(1/s)**{times}" if times > 0 else f"{read.unit}*s**{-times}", first.unit)[0]
        told = derived(read.frequency, read.told * factor, times)
        said = [
            *read.caveats,
            f"{'differentiated' if times > 0 else 'integrated'} over time {'twice' if abs(times) > 1 else 'once'}",
        ]
    return replace(read, response=with_phase(told), magnitude=np.abs(told), unit=first.unit, field=first.field, caveats=said)


def _rows(match: ResponseMatch) -> list[dict[str, Any]]:
    """The pairs of peaks, and after them those without a counterpart."""

    def row(model: Peak | None, test: Peak | None, pair: PeakPair | None) -> dict[str, Any]:
        return {
            "model": model and model.frequency,
            "test": test and test.frequency,
            "off": pair and pair.off,
            "ratio": pair and pair.ratio,
            "model_damping": model and model.damping,
            "test_damping": test and test.damping,
            "verdict": pair.verdict if pair else "no counterpart",
        }

    found = [row(p.model, p.test, p) for p in match.pairs]
    return [*found, *(row(p, None, None) for p in match.alone[0]), *(row(None, p, None) for p in match.alone[1])]


def verdict_words(match: ResponseMatch) -> str:
    """How a response agrees with a test, in a sentence."""
    agree = sum(p.verdict == AGREES for p in match.pairs)
    count = len(match.pairs)
    peaks = f"{agree} of {count} peaks agree in frequency and amplitude" if count else "No peak of one is found in the other"
    off = [f"{p.test.frequency:.4g} Hz {_off(p)}" for p in match.pairs if p.verdict != AGREES]
    alone = [
        f"{listed(f'{p.frequency:.4g}' for p in found)} Hz of the {whose} {'has' if len(found) == 1 else 'have'} no counterpart"
        for whose, found in zip(("model", "test"), match.alone, strict=True)
        if found
    ]
    said = f"{peaks}{': ' + ', '.join(off) if off else ''}"
    if alone:
        said += f"; {'; '.join(alone)}"
    if np.isfinite(match.frac):
        said += f"; FRAC {match.frac:.2f}" + ("" if match.frac_verdict == AGREES else f", below {match.limits.frac:g}")
    return f"{said}."


def _off(pair: PeakPair) -> str:
    said = [f"frequency {100 * pair.off:+.2g} %"] if pair.frequency != AGREES else []
    if pair.amplitude != AGREES:
        said.append(f"amplitude {pair.ratio:.2g} times the test's")
    return " and ".join(said)


def _notes(match: ResponseMatch) -> list[str]:
    said = [f"compared from {match.low:.4g} to {match.high:.4g} Hz at {match.count} frequencies"]
    if not match.with_phase:
        said.append("FRAC is that of amplitudes alone: a phase is missing")
    if match.frac_verdict not in ("", AGREES) and match.pairs and all(p.verdict == AGREES for p in match.pairs):
        said.append("FRAC falls quickly where a sharp peak is shifted by a little: the peaks agree")
    return said


def _how(curve: dict[str, Any]) -> str:
    return f"{curve['low']:.4g} to {curve['high']:.4g} Hz" + ("" if curve["with_phase"] else ", amplitudes alone")


def _verdict(judged: list[dict[str, Any]]) -> str:
    told = [str(c["verdict"] or c["error"]) for c in judged]
    return told[0] if len(told) == 1 else " ".join(f"{c['name']}: {t}" for c, t in zip(judged, told, strict=True))


def _state(judged: list[dict[str, Any]]) -> State:
    """Of all that is judged the worst; what could not be compared never agrees."""
    states = [str(c["state"]) for c in judged]
    return next((s for s in ("bad", "doubt", "good") if s in states), "")
