"""A flag of one result at the same material point of another: on the side of each element, with the difference."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import ask, keep, question_of
from ironstone.engine.carrier import Answer
from ironstone.engine.reading.flags import FlagIn
from ironstone.store import Review, intake
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu


def taken_in(
    review: Review, folder: Path, name: str, count: int, factor: float, system: str = "mm-N-s-t-MPa", unit: float = 1.0
) -> int:
    """Two bonded cubes, 0 to 2 along x (times ``unit``), each of ``count`` elements: xx = factor x, yy jumps by 100 factor at 1."""
    mesh = box(BY_NAME["hex8"], counts=(2 * count, 1, 1), size=(2.0, 1.0, 1.0))
    points = mesh.points[mesh.connectivity]
    part = np.repeat([1, 2], count)
    stress = np.zeros((len(points), 6))
    stress[:, 0] = factor * points[:, 0]
    stress[:, 1] = np.repeat(np.where(part == 2, 100.0 * factor, 0.0), 8)
    data = {"stress": stress, "displacement": 0.1 * unit * points, "GlobalIds": mesh.connectivity + 7 * count}
    cells = [(12, list(range(8 * i, 8 * i + 8))) for i in range(2 * count)]
    file = write_vtu(folder / f"{name}.vtu", unit * points, cells, data, {"part": part.astype(np.int32)}, time=1.0)
    return intake(review, [file], name, system)


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "r.ironstone") as made:
        taken_in(made, tmp_path, "coarse", 1, 10.0)
        taken_in(made, tmp_path, "fine", 3, 12.0)
        taken_in(made, tmp_path, "in metres", 2, 12e6, "m-N-s-kg-Pa", 1e-3)
        yield made


def planted(review: Review, result: str, at: tuple[float, float, float]) -> int:
    source = review.result(result)
    node = int(source.mesh.node_ids[np.argmin(np.linalg.norm(source.mesh.points - at, axis=1))])
    return keep(review, FlagIn(result=source.id, node=node, name="bond")).id


def asked(review: Review, result: str, flag: int, measure: str, beside: dict[str, Any] | None = None) -> Answer:
    words = {"field": "stress", "measure": measure}
    return ask(review, question_of("flag-beside", {"result": result, "flag": flag, **words, "beside": beside or words}))


def test_at_a_bond_each_side_is_read_on_its_side(review: Review) -> None:
    flag = planted(review, "coarse", (1.0, 0.0, 0.0))
    found = asked(review, "fine", flag, "yy")
    entries = {e["part"]: e for e in found.more["entries"]}
    assert entries["part 1"]["flag"] == pytest.approx(0.0) and entries["part 1"]["here"] == pytest.approx(0.0)
    assert entries["part 2"]["flag"] == pytest.approx(1000.0) and entries["part 2"]["here"] == pytest.approx(1200.0)
    assert entries["part 2"]["difference"] == pytest.approx(200.0)
    steel, bronze = found.more["sides"]
    assert (steel["part"], steel["difference"]) == ("part 1", pytest.approx([0.0, 0.0]))
    assert bronze["flag"] == pytest.approx([1000.0, 1000.0]) and bronze["here"] == pytest.approx([1200.0, 1200.0])
    assert found.more["name"] == "bond" and found.more["of"] == "coarse"
    assert found.more["xyz"] == pytest.approx([1.0, 0.0, 0.0], abs=1e-6) and found.more["moved"] == pytest.approx([0.1, 0.0, 0.0])


def test_inside_an_element_the_other_mesh_is_read_at_the_same_point(review: Review) -> None:
    source = review.result("coarse")
    element = int(source.mesh.element_ids[0])
    flag = keep(review, FlagIn(result=source.id, element=element, xi=(0.3, 0.4, 0.6))).id
    (entry,) = asked(review, "fine", flag, "xx").more["entries"]
    assert entry["flag"] == pytest.approx(3.0) and entry["here"] == pytest.approx(3.6) and entry["difference"] == pytest.approx(0.6)


def test_another_unit_system_is_read_in_its_own_and_the_difference_is_in_the_flags(review: Review) -> None:
    flag = planted(review, "coarse", (2.0, 0.0, 0.0))
    found = asked(review, "in metres", flag, "xx")
    (entry,) = found.more["entries"]
    assert (found.more["flag_unit"], found.more["here_unit"]) == ("MPa", "Pa")
    assert entry["here"] == pytest.approx(24e6) and entry["difference"] == pytest.approx(4.0)
    assert found.more["xyz"] == pytest.approx([2e-3, 0.0, 0.0], abs=1e-9)


def test_two_readings_of_one_result_and_two_that_have_no_difference(review: Review) -> None:
    flag = planted(review, "coarse", (2.0, 0.0, 0.0))
    (entry,) = asked(review, "coarse", flag, "yy", {"field": "stress", "measure": "xx"}).more["entries"]
    assert (entry["flag"], entry["here"]) == pytest.approx((20.0, 1000.0)) and entry["difference"] == pytest.approx(980.0)
    found = asked(review, "coarse", flag, "yy", {"field": "displacement", "measure": "x"})
    assert found.more["entries"][0]["difference"] is None and "not of one quantity" in found.caveats[0]


def test_what_falls_to_the_nodes_of_one_mesh_is_not_read_between_those_of_another(review: Review, tmp_path: Path) -> None:
    for name, count in (("held", 1), ("held finer", 2)):
        mesh = box(BY_NAME["hex8"], counts=(count, 1, 1))
        cells = [(12, mesh.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(count)]
        forces = np.ones((len(mesh.points), 3))
        intake(review, [write_vtu(tmp_path / f"{name}.vtu", mesh.points, cells, {"reaction": forces}, {}, time=1.0)], name)
    words = {"field": "reaction", "measure": "x"}
    flag = planted(review, "held", (0.0, 0.0, 0.0))
    with pytest.raises(IronstoneError, match="what falls to each node of its own mesh"):
        ask(review, question_of("flag-beside", {"result": "held finer", "flag": flag, **words, "beside": words}))
    (entry,) = ask(review, question_of("flag-beside", {"result": "held", "flag": flag, **words, "beside": words})).more["entries"]
    assert entry["difference"] == 0.0, "on one mesh they are of the same node"


def test_where_the_other_result_has_no_body_it_says_so(review: Review, tmp_path: Path) -> None:
    mesh = box(BY_NAME["hex8"], counts=(1, 1, 1))
    points = mesh.points[mesh.connectivity] + [30.0, 0.0, 0.0]
    file = write_vtu(tmp_path / "far.vtu", points, [(12, list(range(8)))], {"stress": np.zeros((8, 6))}, {}, time=1.0)
    intake(review, [file], "far", "mm-N-s-t-MPa")
    with pytest.raises(IronstoneError, match="has no body where this flag of coarse stands"):
        asked(review, "far", planted(review, "coarse", (0.0, 0.0, 0.0)), "xx")
