"""Results of shells whose plies come one array each: one field with layers, as another program's file has them."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

import ironstone
from ironstone.core.errors import Impossible
from ironstone.core.field.stacked import one_ply, stacks_in
from ironstone.core.mesh.places import AtElements
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.engine.reading.line import reading_line
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from tests.oracles.test_strength import CARBON
from tests.writing import write_vtu

RANDOM = np.random.default_rng(21)
PLIES = (1, 2, 4)  # the file has no array of ply 3
STRESS = {k: RANDOM.normal(size=(3, 3)) * 100 for k in PLIES}
INDEX = {k: RANDOM.uniform(0.1, 1.4, 3) for k in PLIES}
EVERY = AtElements(np.arange(3))


def three_shells(path: Path) -> Path:
    """Three quadrilaterals standing upright, with results by ply as they come from elsewhere."""
    STRESS[4][1] = np.nan
    INDEX[4][1] = np.nan
    points = np.array([[x, 0.0, z] for z in (0.0, 1.0) for x in range(4)])
    cells = [(9, [i, i + 1, i + 5, i + 4]) for i in range(3)]
    every = np.stack([INDEX[k] for k in PLIES])
    data: dict[str, np.ndarray] = {}
    for k in PLIES:
        data[f"Ply {k} Stress"] = STRESS[k]
        data[f"Ply {k} Failure Index"] = INDEX[k]
        data[f"Ply {k} Status"] = (np.nan_to_num(INDEX[k]) >= 1.0).astype(np.int32)
    data["Max Failure Index"] = np.nanmax(every, axis=0)
    data["Max Failure Index Ply"] = np.array(PLIES)[np.nanargmax(every, axis=0)].astype(np.int32)
    data["Reserve Factor"] = 1.0 / np.nanmax(every, axis=0)
    return write_vtu(path, points, cells, cell_data=data)


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "plies.ironstone") as review:
        intake(review, [three_shells(tmp_path / "mast.vtu")])
        yield review


@pytest.mark.parametrize(
    ("name", "field", "ply", "place"),
    [
        ("Ply 3 Stress", "Ply Stress", 3, ""),
        ("stress_ply_03_top", "stress_ply", 3, "top"),
        ("Layer12.Failure Index", "Layer.Failure Index", 12, ""),
        ("Failure Index (ply 2)", "Failure Index (ply)", 2, ""),
        ("LAMINA 1 bottom strain", "LAMINA strain", 1, "bottom"),
    ],
)
def test_the_name_of_an_array_says_which_ply_it_is_of(name: str, field: str, ply: int, place: str) -> None:
    found = one_ply(name)
    assert found is not None
    assert (found.field, found.ply, found.place) == (field, ply, place)


@pytest.mark.parametrize("name", ["ply_1", "Layer 2", "Stress", "multiply 3 stress", "Ply Stress", "reply2 all"])
def test_a_name_without_a_ply_or_without_a_quantity_is_of_no_stack(name: str) -> None:
    assert one_ply(name) is None


def test_plies_numbered_from_nought_or_by_names_of_their_own_are_layers_in_order() -> None:
    (nought,) = stacks_in([f"ply {k} stress" for k in range(3)])
    assert (nought.layers, nought.arrays[0, 0]) == (3, "ply 0 stress")
    assert "ply 0 of the file is layer 1" in nought.note
    (named,) = stacks_in([f"ply {k} stress" for k in (1001, 2004, 3010)])
    assert (named.layers, named.arrays[2, 0]) == (3, "ply 3010 stress")
    (ends,) = stacks_in([f"ply {k} {p} stress" for k in (1, 2) for p in ("top", "bottom")])
    assert ends.places == ("bottom", "top")
    assert ends.arrays[1, 1] == "ply 2 top stress"


def test_arrays_of_single_plies_are_one_field_with_layers(review: Review) -> None:
    answer = contents(review.result())
    fields = {f["name"]: f for f in answer["fields"]}
    assert {"Ply Stress", "Ply Failure Index", "Ply Status", "Max Failure Index", "Reserve Factor"} <= set(fields)
    assert (fields["Ply Stress"]["layers"], fields["Ply Stress"]["rank"], fields["Ply Stress"]["kind"]) == (4, "tensor", "stress")
    assert fields["Ply Failure Index"]["kind"] == "failure index"
    assert fields["Max Failure Index Ply"]["kind"] == "ply number"
    assert fields["Max Failure Index Ply"]["names"]
    assert fields["Ply Status"]["kind"] == "status"
    assert any("no array for layer 3" in note for note in fields["Ply Stress"]["notes"])
    assert [(p["name"], p["elements"]) for p in answer["parts"]] == [("part 1", 3)], (
        "the number of a ply is no partition of the body"
    )
    assert not answer["sets"]


def test_a_layer_is_the_ply_of_that_number_and_nothing_where_there_is_none(review: Review) -> None:
    source = review.result()
    for layer in range(1, 5):
        found = evaluate(Reading("Ply Failure Index", layer=str(layer)), source, EVERY).values
        np.testing.assert_array_equal(found, INDEX[layer] if layer in PLIES else np.full(3, np.nan))
    worst = evaluate(Reading("Ply Failure Index"), source, EVERY)
    np.testing.assert_array_equal(worst.values, np.nanmax([INDEX[k] for k in PLIES], axis=0))
    assert "largest over all layers" in resolve(Reading("Ply Failure Index"), source).sentence()


def test_three_components_are_in_the_plane_of_the_shell(review: Review) -> None:
    source = review.result()
    xx, yy, xy = STRESS[2].T
    by_hand = np.sqrt(xx**2 - xx * yy + yy**2 + 3 * xy**2)
    assert evaluate(Reading("Ply Stress", "von-mises", layer="2"), source, EVERY).values == pytest.approx(by_hand)
    top = evaluate(Reading("Ply Stress", "principal-1", layer="2"), source, EVERY).values
    radius = np.hypot((xx - yy) / 2, xy)
    assert top == pytest.approx(np.maximum((xx + yy) / 2 + radius, 0.0))


@pytest.mark.parametrize("field", ["Ply Failure Index", "Max Failure Index", "Reserve Factor"])
def test_an_index_is_never_averaged_and_fails_at_one(review: Review, field: str) -> None:
    source = review.result()
    with pytest.raises(Impossible, match="not averaged"):
        resolve(Reading(field, averaging="part"), source)
    assert resolve(Reading(field), source).limited == ("Index" in field)


def test_nothing_is_recovered_from_the_stress_of_one_ply(review: Review) -> None:
    assert "internal force" not in " ".join(review.result().fields)


def test_what_the_file_says_of_failure_stands_beside_what_is_worked_out_here(review: Review) -> None:
    source = review.result()
    answer = ironstone.ask(review, "solver-failure")
    rows = {r["field"]: r for r in answer.more["rows"]}
    assert set(rows) == {"Ply Failure Index", "Max Failure Index", "Reserve Factor"}
    every = np.stack([INDEX[k] for k in PLIES])
    ply, element = np.unravel_index(np.nanargmax(every), every.shape)
    worst = rows["Ply Failure Index"]
    assert (worst["worst"], worst["layer"]) == (every[ply, element], PLIES[ply])
    assert worst["element"] == source.mesh.element_ids[element]
    assert worst["fail"] == int((np.nanmax(every, axis=0) >= 1).sum()) == rows["Reserve Factor"]["fail"]
    assert worst["here"] is None, "no laminate is stated"
    review.set_laminates(source.id, json.loads(laminate()), "l.json")
    again = {r["field"]: r for r in ironstone.ask(review, "solver-failure", criterion="max-stress").more["rows"]}
    own = evaluate(Reading("stress in plies", "index", layer="worst", criterion="max-stress"), review.result(), EVERY).values
    assert again["Ply Failure Index"]["here"] == pytest.approx(own[element])
    assert again["Ply Failure Index"]["deviation"] == pytest.approx(np.nanmax(np.abs(own - np.nanmax(every, axis=0))))
    by_hand = {
        k: max(x / 1500 if x > 0 else -x / 1500, y / 40 if y > 0 else -y / 246, abs(s) / 68)
        for k, (x, y, s) in ((k, STRESS[k][0]) for k in PLIES)
    }
    assert own[0] == pytest.approx(max(by_hand.values()))
    minus = [c for w in reading_line(review.result(), Reading("Ply Failure Index")).words if w.name == "against" for c in w.choices]
    taken = next(c for c in minus if "worked out here" in c.label).change["against"]
    reading = Reading("Ply Failure Index").minus(taken)
    apart = evaluate(reading, review.result(), EVERY).values
    usual = evaluate(Reading("stress in plies", "index", layer="worst"), review.result(), EVERY).values
    assert apart == pytest.approx(np.nanmax(every, axis=0) - usual)


def laminate() -> str:
    plies = [{"sheet": f"s{k}", "material": "carbon", "thickness": 0.4, "angle": 0.0} for k in range(4)]
    known = {"version": 1, "units": "mm-N-s-t-MPa", "materials": {"carbon": CARBON.constants}}
    return json.dumps(known | {"zones": [{"name": "all", "where": "all", "plies": plies}]})
