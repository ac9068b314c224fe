"""Flags followed through the steps, against what each step says by itself; axes from faces of the lug."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.core.geometry.surface import Look
from ironstone.engine.base import keep
from ironstone.engine.reading.axes import AxesIn, make_axes
from ironstone.engine.reading.drawing import surface
from ironstone.engine.reading.flag_steps import FlagSteps
from ironstone.engine.reading.flags import FlagIn, flag_answer
from ironstone.engine.reading.line import reading_line
from ironstone.engine.words import ReadingQuery
from ironstone.store import Review, intake


def test_every_element_at_every_flag_is_what_the_step_says(bar_files: list[Path], tmp_path: Path) -> None:
    with Review.create(tmp_path / "a.ironstone") as review:
        intake(review, bar_files)
        source = review.result()
        shared = int(source.mesh.node_ids[np.argmax(np.bincount(source.mesh.connectivity))])
        flag = FlagIn(result=1, node=shared, name="joint")
        number = keep(review, flag).id
        keep(review, FlagIn(result=1, element=int(source.mesh.element_ids[0]), xi=(0.0, 0.0, 0.0)))
        words = {"field": "stress", "measure": "xx"}
        answer = FlagSteps(**words).answer(review)
        met = [flag_answer(source, ReadingQuery(**words, step=s), flag).entries for s in (0, 1)]
        for i in range(2):
            assert answer.columns[1 + i].values == [met[s][i].value for s in (0, 1)]
            assert f"element {met[0][i].element}" in answer.columns[1 + i].name
        assert len(answer.columns) == 4 and answer.columns[3].values == [10.0, 20.0]
        band = FlagSteps(**words, flags=[number], take="band").answer(review)
        assert [c.values for c in band.columns[1:]] == [
            [min(e.value for e in step) for step in met],
            [max(e.value for e in step) for step in met],
        ]
        assert "smallest of 2 elements" in band.columns[1].name
        (mean,) = FlagSteps(**words, flags=[number], take="mean").answer(review).columns[1:]
        assert mean.values == pytest.approx([np.mean([e.value for e in step]) for step in met])
        nodal = FlagSteps(field="displacement", measure="magnitude", flags=[number]).answer(review)
        assert len(nodal.columns) == 2
        over = FlagSteps(**words, over="largest", flags=[number]).answer(review)
        assert [c.values for c in over.columns[1:]] == [c.values for c in answer.columns[1:3]]
        assert "largest" not in over.sentence
        with pytest.raises(IronstoneError, match="no flag 99"):
            FlagSteps(**words, flags=[99]).answer(review)


def test_axes_of_a_bore_are_those_the_lug_was_made_with(demo_copy: Path) -> None:
    with Review.open(demo_copy) as review:
        source = review.result("lug, coarse")
        known = source.setup.axes["eye"]
        skin = surface(source, Look())
        drawn = skin.points[skin.triangles].mean(1)
        away = np.linalg.norm(np.cross(drawn - known.origin, known.matrix[2]), axis=1)
        inner = int(skin.face[skin.triangles[int(np.argmin(away)), 0]])
        name, direction = make_axes(source.id, AxesIn(how="face", face=inner, want="hoop"), review)
        made = review.result(source.id).setup.axes[name]
        assert (made.kind, direction) == ("cylindrical", 1)
        assert abs(np.array(made.matrix[2]) @ known.matrix[2]) == pytest.approx(1.0, abs=1e-6)
        off = np.linalg.norm(np.cross(np.array(made.origin) - known.origin, known.matrix[2]))
        assert off < 1e-4 * source.mesh.size
        how = review.correction(source.id)["axes"][name]["how"]
        assert "fitted to" in how and "radius" in how
        again, _ = make_axes(source.id, AxesIn(how="face", face=inner), review)
        assert again == f"{name} 2"
        side = int(skin.face[skin.triangles[int(np.argmax(drawn @ known.matrix[2])), 0]])
        with pytest.raises(IronstoneError, match="no hoop direction"):
            make_axes(source.id, AxesIn(how="face", face=side, want="hoop"), review)
        across, third = make_axes(source.id, AxesIn(how="face", face=side, want="normal"), review)
        assert third == 2
        assert abs(np.array(review.result(source.id).setup.axes[across].matrix[2]) @ known.matrix[2]) == pytest.approx(1.0)


def test_hoop_is_found_where_no_axes_are_and_leads_to_making_them(demo_copy: Path) -> None:
    with Review.open(demo_copy) as review:
        source = review.result("lug, fine")
        line = reading_line(source, ReadingQuery(field="stress", measure="von-mises").reading())
        choices = next(w for w in line.words if w.name == "measure").choices
        made = {c.make: c for c in choices if c.make}
        assert set(made) == {"radial", "hoop", "axial", "normal"}
        assert "circumferential" in made["hoop"].explanation
        assert {c.leads for c in choices if c.leads} == {"path", "balance"}
        for name in source.setup.axes:
            (there,) = [c for c in choices if c.value == f"hoop in {name}"]
            assert there.change == {"axes": name, "measure": "yy", "unit": None}
