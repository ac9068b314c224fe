"""Pictures without a browser: what is in view is what is drawn, from Python, by the command, in a recipe's runs."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.engine.kept.in_view import InView
from ironstone.engine.picture.asked import PictureWords, picture
from ironstone.engine.picture.letters import digits_between, figure, width_of, wrapped
from ironstone.engine.picture.sheet import KEY_WIDTH, picture_of_view
from ironstone.engine.picture.view import GROUND, drawn_view
from ironstone.store import Review, intake


def pixels(data: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(int)


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path):
    with Review.create(tmp_path / "r.ironstone", "Bar") as opened:
        intake(opened, bar_files, "bar", "mm-N-s-t-MPa")
        yield opened


STRESS = {"field": "stress", "measure": "von-mises"}


def test_a_picture_shows_the_model_its_key_and_what_it_is(review: Review) -> None:
    data = picture(review, PictureWords(**STRESS, step=0, width=400, height=300))
    image = Image.open(io.BytesIO(data))
    assert image.width == 400 + KEY_WIDTH and image.height > 300
    assert "von Mises of stress, each corner as computed" in image.text["Description"] and "Result bar" in image.text["Description"]
    model = pixels(data)[:300, :400]
    drawn = (np.abs(model - np.array(GROUND)).sum(2) > 40).mean()
    assert 0.1 < drawn < 0.9, "the model fills its view, and not all of it"


def test_limits_that_are_typed_hold_and_a_part_that_is_hidden_is_gone(review: Review) -> None:
    number = review.results()[0].id
    words = {"result": number, "reading": STRESS, "step": 0, "labelled": False, "mesh_lines": False, "undeformed": False}
    own = drawn_view(review, InView(**words), (200, 150))
    typed = drawn_view(review, InView(**words, low=0.0, high=1000.0), (200, 150))
    assert (typed.key.low, typed.key.high) == (0.0, 1000.0) and own.key.high < 1000.0
    assert not np.array_equal(own.pixels, typed.pixels)
    with pytest.raises(IronstoneError, match="Nothing of the model is shown"):
        drawn_view(review, InView(**words, hidden=list(range(len(review.result().mesh.part_names)))), (200, 150))


def test_the_side_one_looks_from_and_the_shape_are_as_asked(review: Review) -> None:
    def shape(**more) -> tuple[int, int]:
        model = pixels(picture(review, PictureWords(**STRESS, width=400, height=400, labelled=False, **more)))[:400, :400]
        rows, columns = np.nonzero(np.abs(model - np.array(GROUND)).sum(2) > 60)
        return int(np.ptp(columns)), int(np.ptp(rows))

    wide, tall = shape(side="front", exaggeration=0)
    assert wide == pytest.approx(3 * tall, rel=0.03), "three cubes in a row from the front"
    side = shape(side="right", exaggeration=0)
    assert side[0] == pytest.approx(side[1], rel=0.03), "from their end, one square"


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ({"field": "nothing", "measure": "value"}, "nothing"),
        ({**STRESS, "hidden": ["no such part"]}, "no such part"),
        ({**STRESS, "side": "sideways"}, "sideways"),
        ({**STRESS, "step": 99}, "99"),
    ],
)
def test_what_cannot_be_drawn_says_why(review: Review, words: dict, said: str) -> None:
    with pytest.raises(IronstoneError, match=said):
        picture(review, PictureWords(**words))


def test_the_command_and_a_recipe_draw_the_same_picture(review: Review, bar_files: list[Path], tmp_path: Path) -> None:
    run = CliRunner().invoke
    by_command = tmp_path / "one.png"
    words = ["--field", "stress", "--measure", "von-mises", "--step", "0", "--high", "50", "--low", "0", "--width", "300"]
    done = run(app, ["picture", str(review.path), "-o", str(by_command), *words])
    assert done.exit_code == 0, done.stderr
    recipe = {
        "version": 1,
        "units": "mm-N-s-t-MPa",
        "parameters": {"top": 50.0},
        "pictures": [{"name": "stress at first", **STRESS, "step": 0, "low": 0, "high": "{top}", "width": 300}],
    }
    (tmp_path / "r.json").write_text(json.dumps(recipe))
    files = ",".join(str(f) for f in bar_files)
    done = run(app, ["run", str(tmp_path / "r.json"), f"bar={files}", "-o", str(tmp_path / "runs")])
    assert done.exit_code == 0, done.stdout + done.stderr
    by_recipe = tmp_path / "runs/bar/pictures/stress at first.png"
    assert np.array_equal(pixels(by_command.read_bytes())[:620], pixels(by_recipe.read_bytes())[:620])
    wrong = dict(recipe, pictures=[{"name": "x", "field": "stress", "mesure": "xx"}])
    (tmp_path / "w.json").write_text(json.dumps(wrong))
    refused = run(app, ["run", str(tmp_path / "w.json"), f"bar={files}", "-o", str(tmp_path / "runs")])
    assert refused.exit_code == 2 and "mesure" in refused.stderr, "a word that is none is told before anything is run"
    other = run(app, ["picture", str(review.path), "-o", str(tmp_path / "one.jpg"), *words])
    assert other.exit_code == 2 and "PNG" in other.stderr


def test_a_picture_that_cannot_be_drawn_costs_only_itself(bar_files: list[Path], tmp_path: Path) -> None:
    recipe = {
        "version": 1,
        "ask": [{"name": "peak", "kind": "read", **STRESS, "extremes": True, "take": "highest"}],
        "pictures": [{"name": "gone", "field": "strain", "measure": "xx"}, {"name": "there", **STRESS}],
    }
    (tmp_path / "r.json").write_text(json.dumps(recipe))
    files = ",".join(str(f) for f in bar_files)
    done = CliRunner().invoke(app, ["run", str(tmp_path / "r.json"), f"bar={files}", "-o", str(tmp_path / "runs")])
    assert done.exit_code == 2 and "picture 'gone'" in done.stdout
    assert (tmp_path / "runs/bar/pictures/there.png").exists() and not (tmp_path / "runs/bar/pictures/gone.png").exists()


def test_views_of_the_demo_are_drawn_with_cuts_halves_and_names(demo_copy: Path) -> None:
    with Review.open(demo_copy) as review:
        for found in review.results():
            source = review.result(found.id)
            for name, field in list(source.fields.items())[:3]:
                if field.rank == "matrix" or field.harmonic or field.layers:
                    continue
                measure = "value" if field.rank == "scalar" else "magnitude" if field.rank == "vector" else "von-mises"
                view = InView(result=found.id, reading={"field": name, "measure": measure}, exaggeration=5.0, iso="over")
                assert pixels(picture_of_view(review, view, (240, 180))).shape[1] == 240 + KEY_WIDTH


def test_numbers_are_written_as_in_the_bench() -> None:
    """The same as the page's own tests of its figures (``web/tests/format.test.ts``)."""
    assert [figure(v) for v in (0, 452.16, -80.74, 12345.6, 1.5e6, 2.5e-7, -0.00012346)] == [
        "0", "452.2", "−80.74", "12\u202f346", "1.500e6", "250.0e−9", "−0.0001235",
    ]  # fmt: skip
    assert figure(None) == "no value" == figure(float("nan"))
    assert digits_between(100.0, 100.1) == 6 and digits_between(0.0, 1.0) == 4


def test_words_are_wrapped_to_the_width_there_is_and_a_letter_a_font_lacks_is_found_elsewhere() -> None:
    lines = wrapped("von Mises of stress, each corner as computed, at λ = 0.70 " + "x" * 80, 180, "words", 13)
    assert len(lines) > 3 and all(width_of(line, "words", 13) <= 181 for line in lines)
    assert "".join(lines).replace(" ", "").endswith("x" * 80)
    assert width_of("λσ²", "words", 13) > 10
