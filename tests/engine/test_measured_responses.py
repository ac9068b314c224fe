"""Measured responses brought in as test records and held against a model: CSV of laboratories, universal files of pyuff."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import pyuff

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import ask, question_of
from ironstone.engine.curves.records import bring, record_of, records_of, response_of, use_record
from ironstone.store import Review, intake
from tests.engine.test_motion import OWN, SWEPT, ZETA, sweep_written, transfer


@pytest.fixture
def swept(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "responses.ironstone") as review:
        result = intake(review, sweep_written(tmp_path), "sweep", "m-N-s-kg-Pa")
        review.set_steps(result, "frequency", " ".join(str(f) for f in SWEPT))
        yield review


# What the model's node moves along z, in m.
MOVES = 3e-3 * transfer(SWEPT)


def csv(names: str, units: str, *columns: np.ndarray) -> bytes:
    rows = "\n".join(",".join(f"{v:.9g}" for v in row) for row in zip(*columns, strict=True))
    return f"{names}\n{units}\n{rows}\n".encode()


def beside(review: Review, *what: str, **words: object):
    return ask(
        review, question_of("responses", {"field": "displacement", "measure": "z", "at": "node:1", "beside": list(what), **words})
    )


@pytest.mark.parametrize(
    ("data", "form"),
    [
        (csv("frequency,amplitude,phase", "Hz,mm,deg", SWEPT, 1e3 * np.abs(MOVES), np.degrees(np.angle(MOVES))), "magnitude-phase"),
        (csv("frequency,amplitude,phase", "kHz,m,rad", SWEPT / 1e3, np.abs(MOVES), np.angle(MOVES)), "magnitude-phase"),
        (csv("omega,real,imag", "rad/s,m,m", 2 * np.pi * SWEPT, MOVES.real, MOVES.imag), "real-imaginary"),
        (csv("freq,Re,Im", ",,", SWEPT[::-1], MOVES.real[::-1], MOVES.imag[::-1]), "real-imaginary"),
        (csv("frequency,level of motion", "Hz,m", SWEPT, np.abs(MOVES)), "magnitude"),
    ],
    ids=["degrees", "radians and kHz", "real and imaginary over rad/s", "no units, backwards", "amplitude alone"],
)
def test_a_table_over_frequency_is_understood_and_agrees_with_what_it_was_made_of(swept: Review, data: bytes, form: str) -> None:
    kept = bring(swept, data, "shaker.csv", 5)
    assert kept.use.form == form and kept.use.pairing is None
    found, _ = response_of(swept, kept.id)
    assert found.frequency == pytest.approx(SWEPT)
    answer = beside(swept, f"test:{kept.id}")
    (curve,) = answer.more["curves"]
    assert curve["frac"] == pytest.approx(1.0, abs=1e-6) and curve["error"] == ""
    assert curve["magnitude"] == pytest.approx(np.abs(MOVES), rel=1e-6)
    (pair,) = curve["pairs"]
    assert pair["off"] == pytest.approx(0, abs=1e-6) and pair["ratio"] == pytest.approx(1, abs=1e-6)
    assert pair["test_damping"] == pytest.approx(ZETA, rel=3e-3)
    assert answer.state == "good" and "1 of 1 peaks agree" in answer.verdict
    assert curve["with_phase"] == (form != "magnitude")


def test_what_was_assumed_of_a_record_is_said(swept: Review) -> None:
    kept = bring(swept, csv("freq,Re,Im", ",,", SWEPT, MOVES.real, MOVES.imag), "bare.csv", None)
    assert "Hz" in " ".join(kept.corrections)
    said = " ".join(beside(swept, "test:bare.csv").caveats)
    assert "no unit is stated" in said


def test_an_acceleration_is_integrated_twice_to_stand_beside_a_displacement(swept: Review) -> None:
    fast = -((2 * np.pi * SWEPT) ** 2) * MOVES
    bring(swept, csv("frequency,amplitude,phase", "Hz,m/s2,deg", SWEPT, np.abs(fast), np.degrees(np.angle(fast))), "felt.csv", None)
    answer = beside(swept, "test:felt.csv", unit="mm")
    (curve,) = answer.more["curves"]
    assert curve["real"] == pytest.approx(1e3 * MOVES.real, rel=1e-6, abs=1e-9)
    assert curve["frac"] == pytest.approx(1.0, abs=1e-9)
    assert any("integrated over time twice" in c for c in answer.caveats)


def test_a_response_per_force_says_what_to_do_and_agrees_once_it_is_scaled(swept: Review) -> None:
    per_force = csv("frequency,amplitude,phase", "Hz,mm/N,deg", SWEPT, 1e3 * np.abs(MOVES) / 40, np.degrees(np.angle(MOVES)))
    kept = bring(swept, per_force, "hammer.csv", None)
    answer = beside(swept, f"test:{kept.id}")
    (curve,) = answer.more["curves"]
    assert "per force" in curve["error"] and answer.state == "bad" and curve["frac"] is None
    use = kept.use.model_copy(update={"y": kept.use.y.model_copy(update={"unit": "mm", "scale": 40.0})})
    use_record(swept, kept.id, use)
    scaled = beside(swept, f"test:{kept.id}")
    assert scaled.state == "good"
    assert scaled.more["curves"][0]["pairs"][0]["ratio"] == pytest.approx(1.0, abs=1e-6)


def test_a_phase_counted_back_and_a_turned_sign_are_put_right(swept: Review) -> None:
    back = csv("frequency,amplitude,phase", "Hz,m,deg", SWEPT, np.abs(MOVES), -np.degrees(np.angle(-MOVES)))
    kept = bring(swept, back, "back.csv", None)
    assert beside(swept, "test:back.csv").more["curves"][0]["frac"] < 0.9
    second = kept.use.second.model_copy(update={"sign": -1})  # type: ignore[union-attr]
    y = kept.use.y.model_copy(update={"sign": -1})
    use_record(swept, kept.id, kept.use.model_copy(update={"second": second, "y": y}))
    found, _ = response_of(swept, kept.id)
    assert found.response == pytest.approx(MOVES)


def test_a_file_of_several_functions_becomes_a_record_each(swept: Review, tmp_path: Path) -> None:
    path = tmp_path / "places.uff"
    sets = [
        pyuff.prepare_58(
            binary=0, id1=f"head, place {k}", rsp_node=k, rsp_dir=3, ref_node=9, ref_dir=3, x=SWEPT, data=k * MOVES,
            ord_data_type=5,
            abscissa_min=float(SWEPT[0]), abscissa_axis_units_lab="Hz", ordinate_axis_units_lab="m", ordinate_spec_data_type=8,
            orddenom_spec_data_type=0, abscissa_spec_data_type=18, abscissa_inc=0.0,
            abscissa_spacing=0, z_axis_value=0.0, func_type=4,
        )
        for k in (1, 2, 3)
    ]  # fmt: skip
    pyuff.UFF(str(path)).write_sets(sets, mode="overwrite")
    bring(swept, path.read_bytes(), "places.uff", None)
    names = [r.name for r in records_of(swept)]
    assert names == [f"places.uff, head, place {k}" for k in (1, 2, 3)]
    answer = beside(swept, *(f"test:{n}" for n in names))
    assert [c["frac"] for c in answer.more["curves"]] == pytest.approx([1, 1, 1], abs=1e-6)
    assert [c["pairs"][0]["ratio"] for c in answer.more["curves"]] == pytest.approx([1, 1 / 2, 1 / 3], rel=1e-4)
    assert [c["state"] for c in answer.more["curves"]] == ["good", "doubt", "bad"] and answer.state == "bad"
    swept.undo()
    assert records_of(swept) == [], "one undo for the whole file"


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (csv("frequency,amplitude,phase", "Hz,m,s", SWEPT, np.abs(MOVES), SWEPT), "phase is not told in s"),
        (csv("frequency,amplitude", "Hz,m", np.repeat(SWEPT[:6], 2), np.ones(12)), "told twice"),
        (csv("frequency,amplitude", "Hz,m", SWEPT[:3], np.ones(3)), "too few"),
    ],
)
def test_a_table_that_cannot_be_a_response_is_refused_and_nothing_is_kept(swept: Review, data: bytes, says: str) -> None:
    with pytest.raises(IronstoneError, match=says):
        bring(swept, data, "bad.csv", None)
    assert records_of(swept) == []


def test_other_places_are_drawn_and_not_judged_and_a_curve_over_travel_is_no_response(swept: Review) -> None:
    answer = beside(swept, "node:7", "node:99")
    seen, missing = answer.more["curves"]
    assert seen["judged"] is False and seen["frac"] is None and len(seen["frequency"]) == len(SWEPT)
    assert "99" in missing["error"] and answer.state == "" and answer.verdict == ""
    plain = bring(swept, csv("travel,force", "mm,N", np.arange(9.0), np.arange(9.0)), "plain.csv", None)
    assert plain.use.form == "" and record_of(swept, plain.id)
    (held,) = beside(swept, "test:plain.csv").more["curves"]
    assert "no response over frequency" in held["error"] and held["state"] == "bad"


def test_another_result_stands_beside_it_by_the_motion_it_has(swept: Review, tmp_path: Path) -> None:
    (tmp_path / "other").mkdir()
    other = intake(swept, sweep_written(tmp_path / "other"), "other sweep", "m-N-s-kg-Pa")
    swept.set_steps(other, "frequency", " ".join(str(1.02 * f) for f in SWEPT))
    answer = ask(
        swept,
        question_of(
            "responses",
            {"result": "sweep", "field": "displacement", "measure": "z", "at": "node:1", "beside": ["of:other sweep:node:1"]},
        ),
    )
    (curve,) = answer.more["curves"]
    assert curve["name"] == "other sweep, node:1" and curve["judged"]
    assert curve["pairs"][0]["test"] == pytest.approx(1.02 * OWN, rel=2e-3)
    assert curve["pairs"][0]["verdict"] == "agrees"
    assert answer.provenance is not None and "+" in answer.provenance.revision
