"""Tested parts: at what load each failed, where and how, held against what every criterion predicts."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.plies import basis_of
from ironstone.core.reading.failing import exposure_through_steps, laminates_in
from ironstone.core.strength.coupons import B_BOUND, tolerance_factor
from ironstone.core.strength.criteria import CRITERIA, check_of
from ironstone.core.units import known
from ironstone.engine.base import Kept, Question, by_name
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.reading.answers import number
from ironstone.engine.said import ACCEPT, ACCEPT_SAID, CRITERION
from ironstone.engine.strength.failure import first_failure, laminated
from ironstone.engine.strength.particulars import TestedMore
from ironstone.engine.words import Strict
from ironstone.formats.strength_tables import parse_parts
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# What the mean of predicted over tested may be off by and still agree.


class TestedPart(Strict):
    """One specimen: the load at its first failure, where and in which mode it was seen."""

    specimen: str = Field("", max_length=80)
    load: float = Field(gt=0, allow_inf_nan=False)
    zone: str = Field("", max_length=200)
    mode: str = Field("", max_length=200)
    note: str = Field("", max_length=200)


class PartTests(Kept):
    """Tests of the part itself. per_factor: the load at a load factor of 1 (at the last step, where steps are no load factors)."""

    kind: ClassVar[str] = "part-tests"
    result: int
    name: str = Field(min_length=1, max_length=80)
    unit: str | None = None
    per_factor: float = Field(1.0, gt=0, allow_inf_nan=False)
    parts: list[TestedPart] = Field(min_length=1, max_length=1000)

    def check(self, review: Review) -> None:
        review.result(self.result)
        if self.unit and not known(self.unit):
            raise IronstoneError(f"The unit '{self.unit}' is not known.", "Write it like N, kN or N*m.")

    def same(self, other: Kept) -> bool:
        return isinstance(other, PartTests) and (other.result, other.name) == (self.result, self.name)

    def made(self) -> str:
        return f"Tests of parts '{self.name}' kept, {len(self.parts)} of them"

    def gone(self) -> str:
        return f"Tests of parts '{self.name}' removed"


def part_tests_of(source: ReviewSource, data: bytes, name: str, per_factor: float = 1.0) -> PartTests:
    """Tested parts from the bytes of a CSV or XLSX file."""
    rows, unit = parse_parts(data, name)
    label = name.rpartition(".")[0][:80] or name[:80]
    return PartTests.stated({"result": source.id, "name": label, "unit": unit, "per_factor": per_factor, "parts": rows})


class Tested(Question):
    """Tested parts against what a criterion predicts: predicted over tested, scatter, knock-down, verdict; criteria ranked."""

    __test__: ClassVar[bool] = False
    kind: ClassVar[str] = "tested"
    more: ClassVar[type[BaseModel]] = TestedMore
    named: str | int = Field(description="Tests of parts that are kept, by name or number.")
    criterion: str = Field(description=CRITERION)
    accept: float = Field(ACCEPT, gt=0, lt=1, description=ACCEPT_SAID)

    def source(self, review: Review) -> ReviewSource:
        return review.result(by_name(review, PartTests, self.named)[1].result if self.result is None else self.result)

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        shown = laminated(source, None)
        if basis_of(source.fields) is None:
            raise Impossible("This result has nothing that stress of plies follows from.", "No criterion predicts anything.")
        _, tests = by_name(review, PartTests, self.named)
        bond = "+bond" if self.criterion.endswith("+bond") else ""
        rows = []
        for name in CRITERIA:
            check = check_of(name + bond)
            if check.lacking(laminates_in(shown).materials):
                continue
            found = first_failure(source, check, exposure_through_steps(source, check))
            if found is not None:
                rows.append(_against(tests, name, check.label, found))
        if not any(r["criterion"] == check_of(self.criterion).criterion.name for r in rows):
            check_of(self.criterion).refuse_if_lacking(laminates_in(shown).materials)
            raise Impossible("This criterion predicts no failure.", "No ply has a value at any step.")
        rows.sort(key=lambda r: r["off"])
        mine = next(r for r in rows if r["criterion"] == check_of(self.criterion).criterion.name)
        unit = tests.unit or ""
        loads = np.array([p.load for p in tests.parts])
        verdict, agrees = verdict_of(tests, mine, self.accept)
        deviation = float(loads.std(ddof=1)) if len(loads) > 1 else None
        bound = float(loads.mean()) - tolerance_factor(len(loads), *B_BOUND) * deviation if deviation is not None else None
        return Answer(
            kind=self.kind,
            sentence=f"{mine['label']} against {len(loads)} tested parts '{tests.name}', {source.name}",
            unit=tests.unit,
            columns=[
                Column(name="specimen", values=[p.specimen for p in tests.parts]),
                Column(name="tested", unit=unit, values=[p.load for p in tests.parts]),
                Column(name="predicted", unit=unit, values=[mine["predicted"]] * len(loads)),
                Column(name="predicted over tested", unit="", values=mine["ratios"]),
                Column(name="zone seen", values=[p.zone for p in tests.parts]),
                Column(name="mode seen", values=[p.mode for p in tests.parts]),
                Column(name="zone and mode as predicted", values=[_yes(s) for s in mine["same"]]),
            ],
            figures=[
                Figure(label="predicted", value=mine["predicted"], unit=unit, how=f"{mine['mode']} in zone {mine['zone']}"),
                Figure(label="mean of predicted over tested", value=mine["mean"]),
                Figure(label="scatter of the tests", value=None if deviation is None else deviation / float(loads.mean())),
                Figure(
                    label="knock-down to the lowest test",
                    value=float(loads.min()) / mine["predicted"],
                    how="what the prediction is multiplied by so that no test lies below",
                ),
                Figure(
                    label="knock-down to the 90 % / 95 % bound",
                    value=None if bound is None or bound <= 0 else bound / mine["predicted"],
                    how=f"one-sided tolerance bound of {len(loads)} tests, taken as normal",
                ),
            ],
            verdict=verdict,
            state="good" if agrees else "bad",
            caveats=_caveats(tests, mine),
            more={
                "agrees": agrees,
                "mine": mine,
                "criteria": rows,
                "parts": [
                    {**p.model_dump(), "ratio": r, "same": s}
                    for p, r, s in zip(tests.parts, mine["ratios"], mine["same"], strict=True)
                ],
                "per_factor": tests.per_factor,
            },
        )


def _yes(value: bool | None) -> str:
    return "not stated" if value is None else "yes" if value else "no"


def _against(tests: PartTests, name: str, label: str, found: dict[str, Any]) -> dict[str, Any]:
    """One criterion against the tests. off: root mean square of the logarithm of predicted over tested."""
    predicted = float(found["load_factor"]) * tests.per_factor
    loads = np.array([p.load for p in tests.parts])
    ratios = predicted / loads
    same = [_same(p, found) for p in tests.parts]
    return {
        "criterion": name,
        "label": label,
        "predicted": predicted,
        "ratios": ratios.tolist(),
        "mean": float(ratios.mean()),
        "variation": number(float(ratios.std(ddof=1) / ratios.mean())) if len(loads) > 1 else None,
        "off": float(np.sqrt((np.log(ratios) ** 2).mean())),
        "same": same,
        "as_seen": sum(s is True for s in same),
        "told": sum(s is not None for s in same),
        "fails": found["fails"],
        **{k: found[k] for k in ("element", "zone", "sheet", "position", "place", "mode", "step")},
    }


def _same(part: TestedPart, found: dict[str, Any]) -> bool | None:
    """Whether zone and mode seen in a test are those predicted; None where the test states neither.

    A mode is told by its first word (fibre, matrix, shear, between, bond); an interaction names none and contradicts none.
    """
    if not part.zone and not part.mode:
        return None
    zone = not part.zone or part.zone.strip().lower() == str(found["zone"]).lower()
    mode = str(found["mode"])
    seen, mine = (m.strip().lower().replace(",", " ").split()[:1] for m in (part.mode, mode))
    kinds = {"between": "matrix", "shear": "matrix"}
    alike = not part.mode or mode == "interaction" or [kinds.get(w, w) for w in seen] == [kinds.get(w, w) for w in mine]
    return zone and alike


def verdict_of(tests: PartTests, mine: dict[str, Any], accept: float) -> tuple[str, bool]:
    """Whether prediction and tests agree, in words that tell the answer."""
    off = mine["mean"] - 1.0
    side = "above" if off > 0 else "below"
    load = f"predicted {abs(off) * 100:.1f} % {side} the mean of the tests"
    within = abs(off) <= accept
    as_seen = "" if not mine["told"] else f"; zone and mode as seen in {mine['as_seen']} of {mine['told']}"
    place = mine["told"] == 0 or mine["as_seen"] > mine["told"] / 2
    if within and place:
        return f"Agrees: {load}, within {accept * 100:.0f} %{as_seen}.", True
    if within:
        return f"Does not agree: the load does ({load}), but not zone and mode{as_seen.removeprefix('; zone and mode')}.", False
    return f"Does not agree: {load}, more than {accept * 100:.0f} %{as_seen}.", False


def _caveats(tests: PartTests, mine: dict[str, Any]) -> list[str]:
    said = []
    if not mine["fails"]:
        said.append("No step reaches failure: the prediction scales the most loaded step, which holds while the model is linear.")
    if len(tests.parts) < 6:
        said.append(f"{len(tests.parts)} tests are few: the bound lies far below their mean.")
    if not tests.unit:
        said.append("The tests state no unit of their load: it is taken as that of a load factor of 1.")
    if mine["mode"] == "interaction":
        said.append("This criterion names no mode: what was seen cannot contradict it.")
    return said
