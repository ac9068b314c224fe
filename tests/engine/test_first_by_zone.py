"""The first failure of each zone: by itself, as if the other zones had no laminate at all; and the limits beside a reading."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from ironstone.engine.base import ask, question_of
from ironstone.engine.reading.pictures import SurfaceQuery, on_surface
from ironstone.store import Review, intake
from tests.conftest import DATA
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu

MAST = DATA.parent / "mast"


@pytest.fixture(scope="module")
def mast(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("mast") / "mast.ironstone"
    with Review.create(path) as review:
        intake(review, sorted(MAST.glob("mast_*.vtu")), "mast", "mm-N-s-t-MPa")
    return path


@pytest.mark.parametrize("criterion", ["hashin", "tsai-wu", "max-stress"])
def test_each_zone_fails_first_as_it_does_where_no_other_has_plies(mast: Path, criterion: str) -> None:
    text = (MAST / "mast_laminates.json").read_text()
    whole = json.loads(text)
    with Review.open(mast) as review:
        words = {"result": "mast", "criterion": criterion}
        rows = ask(review, question_of("first-by-zone", {**words, "laminate": text})).more["zones"]
        assert [r["zone"] for r in rows] == [z["name"] for z in whole["zones"]]
        for row in rows:
            alone = json.dumps({**whole, "zones": [z for z in whole["zones"] if z["name"] == row["zone"]]})
            only = ask(review, question_of("strength", {**words, "laminate": alone})).more["first_failure"]
            assert row["first"] == pytest.approx(only)
        first = ask(review, question_of("strength", {**words, "laminate": text})).more["first_failure"]
        failing = [r["first"] for r in rows if r["first"] and r["first"]["fails"]]
        assert min(f["load_factor"] for f in failing) == pytest.approx(first["load_factor"])


def test_the_limits_of_the_materials_stand_beside_the_reading_they_limit_in_its_unit(tmp_path: Path) -> None:
    mesh = box(BY_NAME["hex8"], counts=(2, 1, 1), size=(2.0, 1.0, 1.0))
    cells = [(12, list(range(8 * i, 8 * i + 8))) for i in range(2)]
    data = {"stress": np.tile([100.0, 0, 0, 0, 0, 0], (16, 1)), "GlobalIds": mesh.connectivity + 1}
    file = write_vtu(tmp_path / "a.vtu", mesh.points[mesh.connectivity], cells, data, cell_data={"part": np.array([0, 1])})
    with Review.create(tmp_path / "r.ironstone") as review:
        result = intake(review, [file], "a", "mm-N-s-t-MPa")
        names = review.result(result).mesh.material_or_part_names
        review.set_constants(result, names[0], {"yield": 240.0, "ultimate": 400.0})
        review.set_constants(result, names[1], {"yield": 240.0})
        source = review.result(result)

        def beside(**words: object) -> list[tuple[float, str, list[str]]]:
            head, _ = on_surface(source, SurfaceQuery.model_validate({"field": "stress", "step": 0, **words}))
            return [(round(b.value, 6), b.words, b.materials) for b in head.beside]

        assert beside(measure="von-mises") == [(240.0, "yield strength", list(names)), (400.0, "ultimate strength", [names[0]])]
        assert beside(measure="von-mises", unit="Pa")[0][0] == 240e6
        # Nothing of these is held against a yield strength.
        over = {"measure": "von-mises", "over": "largest"}
        assert [value for value, _, _ in beside(**over)] == [240.0, 400.0]
        others = ({"measure": "xx"}, {"measure": "von-mises", "of": "jump"}, {"measure": "principal-1"}, {**over, "when": True})
        for words in others:
            assert beside(**words) == []
