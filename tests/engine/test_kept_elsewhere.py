"""What is kept of one mesh of a body is offered for its other meshes, found there by place."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import Impossible
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Mesh
from ironstone.engine.base import ask, keep, question_of, readable
from ironstone.engine.kept.elsewhere import offered, taken_over
from ironstone.engine.reading.cuts import CutIn
from ironstone.engine.reading.flags import FlagIn, place_of_flag
from ironstone.engine.reading.gauges import GaugeList, GaugePoint
from ironstone.engine.reading.profiles import PathIn
from ironstone.store import Review, intake
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu


def taken_in(review: Review, folder: Path, name: str, shape: str, counts: tuple[int, int, int], first: int, at: float = 0.0) -> int:
    """A bar of 2 x 1 x 1 with its stress xx the place along it; nodes numbered from ``first`` on, in another order for each."""
    mesh = box(BY_NAME[shape], counts=counts, size=(2.0, 1.0, 1.0))
    order = np.random.default_rng(first).permutation(len(mesh.points))
    points = np.empty_like(mesh.points)
    points[order] = mesh.points
    cells = [
        (int(mesh.types[e]), order[mesh.connectivity[mesh.offsets[e] : mesh.offsets[e + 1]]].tolist())
        for e in range(len(mesh.types))
    ]
    stress = np.zeros((len(points), 6))
    stress[:, 0] = points[:, 0]
    data = {"stress": stress, "GlobalIds": np.arange(len(points)) + first}
    return intake(review, [write_vtu(folder / f"{name}.vtu", points + [at, 0.0, 0.0], cells, data)], name, "mm-N-s-t-MPa")


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "r.ironstone") as made:
        taken_in(made, tmp_path, "coarse", "hex8", (4, 2, 2), 1)
        taken_in(made, tmp_path, "fine", "hex20", (6, 3, 3), 5000)
        taken_in(made, tmp_path, "elsewhere", "hex8", (4, 2, 2), 1, at=7.0)
        yield made


def number_at(mesh: Mesh, x: float, y: float, z: float) -> int:
    return int(mesh.node_ids[np.argmin(np.linalg.norm(mesh.points - [x, y, z], axis=1))])


def test_a_line_a_list_a_flag_and_a_cut_are_at_the_same_place_of_another_mesh(review: Review) -> None:
    coarse, fine = review.result("coarse"), review.result("fine")
    start, end = number_at(coarse.mesh, 0, 0, 0), number_at(coarse.mesh, 2, 0, 0)
    kept = [
        keep(review, PathIn(result=coarse.id, name="edge", path=f"edge:{start}:{end}")),
        keep(review, GaugeList(result=coarse.id, name="gauges", points=[GaugePoint(name="a", x=0.3, y=0.5, z=0.5)])),
        keep(review, FlagIn(result=coarse.id, node=end, name="tip")),
        keep(review, FlagIn(result=coarse.id, element=int(coarse.mesh.element_ids[1]), xi=(0.25, 0.5, 0.125))),
        keep(review, CutIn(result=coarse.id, name="middle", through="1,0,0:1,0,0")),
    ]
    for kind, count in (("path", 1), ("gauges", 1), ("flag", 2), ("cut", 1)):
        assert len(offered(review, kind, fine.id)) == count
        assert offered(review, kind, coarse.id) == []
        assert offered(review, kind, review.result("elsewhere").id) == []
    for item in kept:
        taken_over(review, item.id, fine.id)
    _, line = readable(review, PathIn, fine.id)[0]
    first, last = (int(n) for n in line.path.split(":")[1:])
    assert np.allclose(fine.mesh.points[[fine.mesh.node_position(n) for n in (first, last)]], [[0, 0, 0], [2, 0, 0]])
    said = {"field": "stress", "measure": "xx"}
    told = ask(review, question_of("profile", {"result": coarse.id, "named": "edge", **said}))
    there = ask(review, question_of("profile", {"result": fine.id, "path": line.path, **said}))
    assert told.more["length"] == pytest.approx(there.more["length"]) == pytest.approx(2.0)
    (_, tip), (_, inside) = readable(review, FlagIn, fine.id)
    assert np.allclose(place_of_flag(fine, tip)[2], [2, 0, 0])
    assert tip.name == "tip"
    _, _, where = place_of_flag(coarse, readable(review, FlagIn, coarse.id)[1][1])
    assert np.allclose(place_of_flag(fine, inside)[2], where, atol=1e-6)
    assert readable(review, GaugeList, fine.id)[0][1].points[0].x == 0.3
    assert readable(review, CutIn, fine.id)[0][1].through == "1,0,0:1,0,0"
    # What is there by now is not offered again.
    assert all(not offered(review, kind, fine.id) for kind in ("path", "gauges", "flag", "cut"))


def test_another_body_takes_nothing_over_and_undo_takes_back_what_was(review: Review) -> None:
    coarse, fine = review.result("coarse"), review.result("fine")
    cut = keep(review, CutIn(result=coarse.id, name="middle", through="1,0,0:1,0,0"))
    with pytest.raises(Impossible, match="not the same body"):
        taken_over(review, cut.id, review.result("elsewhere").id)
    taken_over(review, cut.id, fine.id)
    review.undo()
    assert readable(review, CutIn, fine.id) == []
    assert [o.of for o in offered(review, "cut", fine.id)] == ["coarse"]


def test_what_stays_with_its_result_is_offered_nowhere(review: Review) -> None:
    assert offered(review, "mass", 1) == []
    assert offered(review, "no such kind", 1) == []


def test_a_flag_that_lies_beside_the_nearest_node_says_how_far(review: Review) -> None:
    coarse, fine = review.result("coarse"), review.result("fine")
    flag = FlagIn(result=fine.id, node=number_at(fine.mesh, 1 / 6, 0, 0))
    place = fine.mesh.points[fine.mesh.node_position(flag.node or 0)]
    away = np.linalg.norm(coarse.mesh.points - place, axis=1).min()
    with pytest.raises(Impossible, match=f"{away:.3g} mm away"):
        flag.elsewhere(fine, coarse)
    point = FlagIn(result=fine.id, element=int(fine.mesh.element_ids[0]), xi=(0.1, 0.2, 0.3))
    found, notes = point.elsewhere(fine, coarse)
    assert notes == []
    assert np.allclose(positions(coarse.mesh, place_of_flag(coarse, found)[0])[0], place_of_flag(fine, point)[2], atol=1e-6)


def test_highest_and_lowest_by_part_are_those_of_all_that_lies_in_it(tmp_path: Path) -> None:
    """By brute force over the corners of each part; a part without a value has none."""
    mesh = box(BY_NAME["hex8"], counts=(4, 1, 1), size=(4.0, 1.0, 1.0))
    rng = np.random.default_rng(3)
    points = mesh.points[mesh.connectivity]
    cells = [(12, list(range(8 * i, 8 * i + 8))) for i in range(4)]
    stress = rng.normal(size=(32, 6))
    stress[24:] = np.nan
    part = np.array([0, 0, 1, 2])
    file = write_vtu(
        tmp_path / "a.vtu", points, cells, {"stress": stress, "GlobalIds": mesh.connectivity + 1}, cell_data={"part": part}
    )
    with Review.create(tmp_path / "p.ironstone") as review:
        result = intake(review, [file], "a", "mm-N-s-t-MPa")
        names = review.result(result).mesh.part_names
        assert len(names) == 3
        rows = ask(review, question_of("by-part", {"result": result, "field": "stress", "measure": "xx"})).more["parts"]
        for row, corners in zip(rows, (slice(0, 16), slice(16, 24)), strict=False):
            assert row["low"]["value"] == pytest.approx(stress[corners, 0].min())
            assert row["high"]["value"] == pytest.approx(stress[corners, 0].max())
            assert row["high"]["part"] == row["part"]
            where = points[corners][np.argmax(stress[corners, 0])]
            assert np.allclose(row["high"]["xyz"], where)
        assert rows[2]["low"] is None and rows[2]["high"] is None
        for averaging in ("element", "part"):
            words = {"result": result, "field": "stress", "measure": "von-mises", "averaging": averaging}
            whole = ask(review, question_of("read", {**words, "extremes": True})).more
            each = ask(review, question_of("by-part", words)).more["parts"]
            assert max(r["high"]["value"] for r in each if r["high"]) == pytest.approx(whole["max"]["value"])
            assert min(r["low"]["value"] for r in each if r["low"]) == pytest.approx(whole["min"]["value"])
