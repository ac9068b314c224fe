"""Another result in the picture of one: in this one's unit of length, at the step that goes with it, in colours of its own."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import keep, kept_of, thing_of
from ironstone.engine.reading.alongside import AlongsideQuery, drawn_alongside
from ironstone.store import Review, intake
from tests.writing import bar_of_hexahedra, write_vtu

BODY, PATCH = 1, 2


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    """A bar of 3000 mm at t = 0, 1, 2, and a square in its middle, in metres, at t = 0, 2, that rises by its own height."""
    points, cells, _ = bar_of_hexahedra(3, shared=True)
    square = np.array([[1.5, 0, 0], [1.5, 1, 0], [1.5, 1, 1], [1.5, 0, 1]])
    bodies = [
        write_vtu(
            tmp_path / f"bar_{k}.vtu",
            1000 * points,
            cells,
            {"displacement": 0 * points, "temperature": points[:, 0]},
            time=float(k),
        )
        for k in range(3)
    ]
    patches = [
        write_vtu(
            tmp_path / f"patch_{k}.vtu",
            square,
            [(9, [0, 1, 2, 3])],
            {"displacement": square * [0, 0, k], "gap": k + square[:, 2]},
            time=float(k),
        )
        for k in (0, 2)
    ]
    with Review.create(tmp_path / "r.ironstone") as made:
        intake(made, bodies, "bar", "mm-N-s-t-MPa")
        intake(made, patches, "patch", "m-N-s-kg-Pa")
        yield made


def drawn(review: Review, step: int, **words: object):
    query = AlongsideQuery(field="temperature", measure="value", step=step, other=PATCH, **words)
    return drawn_alongside(review, review.result(BODY), query)


def test_it_lies_where_it_is_in_the_units_of_the_body_and_moves_as_it_does(review: Review) -> None:
    head, arrays = drawn(review, 2)
    places = arrays["positions"] + head["origin"]
    assert np.ptp(places, axis=0) == pytest.approx([0, 1000, 1000]) and places[:, 0] == pytest.approx(1500)
    assert arrays["displacement"] == pytest.approx(places * [0, 0, 2])
    assert head["same"] and head["own"] is False


def test_where_it_has_no_step_at_that_time_the_nearest_is_taken_and_said(review: Review) -> None:
    head, _ = drawn(review, 1)
    assert not head["same"] and head["step"] in ("t = 0 s", "t = 2 s")


def test_plain_has_no_values_and_a_reading_of_its_own_has_them_at_its_step(review: Review) -> None:
    _, arrays = drawn(review, 2)
    assert np.isnan(arrays["values"]).all()
    head, arrays = drawn(review, 2, shows="own", shown='{"field": "gap", "measure": "value"}')
    places = arrays["positions"] + head["origin"]
    assert arrays["values"] + head["base"] == pytest.approx(2 + places[:, 2] / 1000)
    assert (head["low"], head["high"]) == (2.0, 3.0)


def test_what_it_lacks_of_the_reading_in_view_is_said_and_not_drawn_as_a_value(review: Review) -> None:
    head, arrays = drawn(review, 0, shows="reading")
    assert "temperature" in head["said"] and np.isnan(arrays["values"]).all()


def test_what_is_shown_along_is_kept_once_and_refused_where_it_makes_no_sense(review: Review) -> None:
    keep(review, thing_of("alongside", {"result": BODY, "other": PATCH}))
    keep(review, thing_of("alongside", {"result": BODY, "other": PATCH, "tone": 3}))
    (kept,) = review.items("alongside")
    assert kept.payload["tone"] == 3
    assert kept_of("alongside", json.loads(json.dumps(kept.payload))).written() == kept.payload
    with pytest.raises(IronstoneError, match="in its own picture already"):
        keep(review, thing_of("alongside", {"result": BODY, "other": BODY}))
    with pytest.raises(IronstoneError, match="has none"):
        keep(review, thing_of("alongside", {"result": BODY, "other": PATCH, "shows": "own"}))
    review.put_away(PATCH)
    with pytest.raises(IronstoneError, match="not in the review any more"):
        drawn(review, 0)


def test_a_line_is_as_thick_as_can_be_seen_beside_the_body(review: Review, tmp_path: Path) -> None:
    """A short front beside a long body: a tube of one hundredth of the body's size, whatever its own length."""
    file = write_vtu(tmp_path / "front.vtu", np.array([[1000.0, 0, 0], [1000.0, 10, 0]]), [(3, [0, 1])], time=0.0)
    front = intake(review, [file], "front", "mm-N-s-t-MPa")
    source = review.result(BODY)
    _, arrays = drawn_alongside(review, source, AlongsideQuery(field="temperature", measure="value", step=0, other=front))
    assert np.ptp(arrays["positions"][:, 0]) == pytest.approx(0.01 * source.mesh.size, rel=0.1)
