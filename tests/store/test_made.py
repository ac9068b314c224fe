"""What the analyst makes beside the results: sets and halves live with the review, and a surface is made once."""

from __future__ import annotations

import gc
import threading
import weakref
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import Impossible, IronstoneError, NotFound
from ironstone.core.geometry.surface import Look
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.engine.reading import drawing
from ironstone.engine.reading.answers import trace_curve
from ironstone.formats.registry import steps_of
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from ironstone.store.export import export
from ironstone.store.source import ReviewSource
from tests.writing import bar_of_hexahedra, write_vtu


def names(source: ReviewSource) -> list[str]:
    return [s["name"] for s in contents(source)["sets"]]


def test_a_made_set_is_there_when_the_review_is_opened_again(bar: ReviewSource) -> None:
    path = bar.review.path
    bar.review.make_set(bar.id, "root", np.array([0, 1, 2]), "by hand")
    with Review.open(path) as again:
        source = again.result()
        assert source.mesh.node_sets["root"].tolist() == [0, 1, 2]
        answer = next(s for s in contents(source)["sets"] if s["name"] == "root")
        assert answer["made"] == "by hand" and answer["count"] == 3


def test_sets_follow_undo_and_redo_without_another_mesh(bar: ReviewSource) -> None:
    review = bar.review
    review.make_set(bar.id, "a", np.array([0]), "x")
    mesh = review.result(bar.id).mesh
    review.make_set(bar.id, "a", np.array([1, 2]), "anew")
    assert review.result(bar.id).mesh is mesh, "the adjacencies that were worked out stay"
    assert mesh.node_sets["a"].tolist() == [1, 2]
    review.undo()
    assert review.result(bar.id).mesh.node_sets["a"].tolist() == [0]
    review.undo()
    assert "a" not in names(review.result(bar.id))
    review.redo()
    assert "a" in names(review.result(bar.id))
    review.remove_set(bar.id, "a")
    with pytest.raises(NotFound, match="No set named 'a' was made here"):
        review.remove_set(bar.id, "a")


def test_sets_of_the_file_are_not_overwritten(bar: ReviewSource) -> None:
    with pytest.raises(IronstoneError, match="already has a set named 'fixed'"):
        bar.review.make_set(bar.id, "fixed", np.array([0]), "x")
    with pytest.raises(IronstoneError, match="needs a name"):
        bar.review.make_set(bar.id, "  ", np.array([0]), "x")
    assert names(bar.review.result(bar.id)) == names(bar)


def test_a_load_factor_is_no_time_and_comes_back_as_one(tmp_path: Path) -> None:
    """Field data named LoadFactor; where TimeValue is there too, that is what the step is."""
    points, cells, ids = bar_of_hexahedra()
    files = [write_vtu(tmp_path / f"push_{i}.vtu", points, cells, {"GlobalIds": ids}, load_factor=0.5 * i) for i in (1, 2)]
    with Review.create(tmp_path / "push.ironstone") as review:
        intake(review, files)
        source = review.result()
        assert [(s.kind, s.value) for s in source.steps] == [("load factor", 0.5), ("load factor", 1.0)]
        assert source.steps[1].label == "load factor 1"
        lost = export(source, tmp_path / "out.vtu", [1])
    assert not any("kind of the step" in line for line in lost)
    (back,) = steps_of(tmp_path / "out.vtu")
    assert (back.kind, back.time) == ("load factor", 1.0)
    (timed,) = steps_of(write_vtu(tmp_path / "both.vtu", points, cells, {"GlobalIds": ids}, time=0.25, load_factor=3.0))
    assert (timed.kind, timed.time) == ("time", 0.25)


def test_fields_of_bars_are_known_by_their_names(tmp_path: Path) -> None:
    points = np.array([[0.0, 0, 0], [1, 0, 0]])
    data = {n: np.array([1.5]) for n in ("axial_force", "axial_stress", "section_area", "yielded_share", "top_fibre_stress")}
    file = write_vtu(tmp_path / "bar.vtu", points, [(3, [0, 1])], cell_data=data)
    with Review.create(tmp_path / "bar.ironstone") as review:
        intake(review, [file], system="mm-N-s-t-MPa")
        fields = review.result().fields
    assert {n: (f.kind, f.unit) for n, f in fields.items() if n in data} == {
        "axial_force": ("axial force", "N"),
        "axial_stress": ("axial stress", "MPa"),
        "section_area": ("section area", "mm²"),
        "yielded_share": ("yielded share", ""),
        "top_fibre_stress": ("fibre stress", "MPa"),
    }


def test_a_surface_asked_for_by_many_at_once_is_made_once(bar: ReviewSource, monkeypatch: pytest.MonkeyPatch) -> None:
    made, gate = [], threading.Barrier(4)
    build = drawing.skin

    def slow(*args: object) -> object:
        made.append(args)
        return build(*args)  # type: ignore[arg-type]

    def ask(_: int) -> object:
        gate.wait()
        return drawing.surface(bar, Look(detail=3))

    monkeypatch.setattr(drawing, "skin", slow)
    with ThreadPoolExecutor(4) as pool:
        found = list(pool.map(ask, range(4)))
    assert len(made) == 1 and all(f is found[0] for f in found)


def test_a_surface_that_could_not_be_made_is_tried_again(bar: ReviewSource, monkeypatch: pytest.MonkeyPatch) -> None:
    build, tries = drawing.skin, []

    def once(*args: object) -> object:
        tries.append(1)
        if len(tries) == 1:
            raise Impossible("Not now.", "Ask again.")
        return build(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(drawing, "skin", once)
    with pytest.raises(Impossible, match="Not now"):
        drawing.surface(bar, Look(detail=5))
    assert len(drawing.surface(bar, Look(detail=5)).face_element) == 14


def test_sources_are_let_go_when_corrected_and_when_the_review_is_closed(bar_files: list[Path], tmp_path: Path) -> None:
    """Every correction makes a source anew; what was worked out for those before goes with them."""
    held: list[weakref.ref[ReviewSource]] = []
    with Review.create(tmp_path / "let_go.ironstone") as review:
        result = intake(review, bar_files)

        def look() -> None:
            source = review.result(result)
            drawing.surface(source, Look())
            evaluate(Reading("stress", "von-mises", "part"), source, AtCorners())
            trace_curve(Reading("displacement", "x"), source, "node:1", None)
            held.append(weakref.ref(source))

        for number in range(5):
            review.set_units(result, ("m-N-s-kg-Pa", "mm-N-s-t-MPa")[number % 2])
            look()
        gc.collect()
        assert [ref() is not None for ref in held] == [False] * 4 + [True]
    gc.collect()
    assert held[-1]() is None
