"""The report: one file that says what was found, whole and safe whatever the notes hold."""

from __future__ import annotations

import base64
import hashlib
import io
import json
import re
from html.parser import HTMLParser
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pypdf import PdfReader
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.engine.base import ask, keep, question_of, thing_of
from ironstone.engine.kept.exhibits import (
    Asked,
    ExhibitEdit,
    ExhibitIn,
    PhotographIn,
    edit_exhibit,
    keep_answer,
    keep_exhibit,
    photographed,
)
from ironstone.engine.kept.outline import Rearrange, exhibits_of, rearrange
from ironstone.engine.report.gather import gather
from ironstone.engine.report.html import report_html
from ironstone.engine.report.pdf import report_pdf
from ironstone.store import Review, intake

VOID = {"meta", "img", "br", "hr", "path", "use"}


class Whole(HTMLParser):
    """Every tag that is opened is closed in its order; headings go down one level at a time."""

    def __init__(self) -> None:
        super().__init__()
        self.open: list[str] = []
        self.levels: list[int] = []
        self.linked: list[str] = []
        self.loaded: list[str] = []
        self.named: set[str] = set()

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        found = dict(attrs)
        if found.get("id"):
            self.named.add(str(found["id"]))
        self.loaded += [str(v) for k, v in attrs if k in ("src", "srcset", "data", "xlink:href") and v]
        self.linked += [str(v) for k, v in attrs if k == "href" and v]
        if re.fullmatch("h[1-6]", tag):
            self.levels.append(int(tag[1]))
        if tag not in VOID:
            self.open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        if tag not in VOID:
            assert self.open.pop() == tag


def parsed(text: str) -> Whole:
    found = Whole()
    found.feed(text)
    assert found.open == []
    return found


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path):
    with Review.create(tmp_path / "r.ironstone", "Bar & <strap>") as opened:
        result = intake(opened, bar_files, "bar", "mm-N-s-t-MPa")
        opened.set_constants(result, opened.result().mesh.material_or_part_names[0], {"young": 210e3, "poisson": 0.3})
        words = {"field": "stress", "measure": "von-mises", "step": 1}
        keep(opened, thing_of("check", {"result": result, "name": "pull", "reading": words, "at": "max", "expected": 60.0}))
        profile = question_of("profile", {"field": "stress", "measure": "xx", "path": "line:0,0.5,0.5:3,0.5,0.5"})
        item = keep_answer(opened, "Along the axis", ask(opened, profile))
        note = "The *far* end.\n\n<script>alert(1)</script> [here](javascript:alert(2)) ![x](http://far.away/x.png)"
        edit_exhibit(opened, item.id, ExhibitEdit(title="Along the <axis>", note=note, verdict=""))
        keep_answer(opened, "Balance", ask(opened, question_of("balance", {})))
        yield opened


def test_a_report_says_what_was_found_what_was_assumed_and_where_it_is_from(review: Review) -> None:
    text = report_html(review)
    for said in (
        "Bar &amp; &lt;strap&gt;", "Along the &lt;axis&gt;", "xx component of stress", "Hand checks", "60", "agrees",
        "young 210000", "is taken as stress", "SHA-256", review.result().files[0]["name"], "mm-N-s-t-MPa",
    ):  # fmt: skip
        assert said in text, said
    assert "<em>far</em>" in text, "a note is Markdown"
    report = gather(review)
    assert report.leaves[0].plot.startswith("<svg") and report.leaves[0].tables[0].heads[0].startswith("distance")
    assert report.verdicts["agree"] >= 1
    assert report_html(review).replace(report.made, "") == text.replace(report.made, ""), "made twice it is the same"


def test_a_report_is_whole_loads_nothing_and_runs_nothing(review: Review) -> None:
    text = report_html(review)
    found = parsed(text)
    assert [link for link in found.loaded if not link.startswith(("#", "data:"))] == []
    assert [link for link in found.linked if not link.startswith("#")] == ["http://far.away/x.png"], (
        "a link of a note, to be clicked"
    )
    assert {link[1:] for link in found.linked if link.startswith("#leaf") or link.startswith("#result")} <= found.named
    assert "<script" not in text.lower() and "javascript:" not in re.sub(r"<p>.*?</p>", "", text, flags=re.DOTALL)
    assert 'href="javascript' not in text
    assert found.levels[0] == 1 and all(b - a <= 1 for a, b in zip(found.levels, found.levels[1:], strict=False))
    assert "default-src 'none'" in text


def test_the_command_writes_it_and_says_what_else_it_cannot(review: Review, tmp_path: Path) -> None:
    done = CliRunner().invoke(app, ["report", str(review.path), "-o", str(tmp_path / "r.html")])
    assert done.exit_code == 0 and "MB" in done.stdout
    parsed((tmp_path / "r.html").read_text())
    other = CliRunner().invoke(app, ["report", str(review.path), "-o", str(tmp_path / "r.docx")])
    assert other.exit_code == 2 and "as HTML or PDF" in other.stderr and not (tmp_path / "r.docx").exists()


def test_the_pdf_says_what_the_html_says_and_is_tagged(review: Review, tmp_path: Path) -> None:
    """Read back by the package pypdf: its text, its outline, its pages, its tags."""
    done = CliRunner().invoke(app, ["report", str(review.path), "-o", str(tmp_path / "r.pdf")])
    assert done.exit_code == 0, done.stderr
    read = PdfReader(tmp_path / "r.pdf")
    text = " ".join(" ".join(page.extract_text() for page in read.pages).split())
    for said in (
        "Bar & <strap>", "Along the <axis>", "xx component of stress", "Hand checks", "The far end.", "young 210000",
        "is taken as stress", "mm-N-s-t-MPa", str(review.result().files[0]["sha256"]), f"1 / {len(read.pages)}",
    ):  # fmt: skip
        assert said in text, said
    assert "alert(1)" in text and "http://far.away/x.png" in text, "what a note holds is words"

    def titles(outline: list) -> list[str]:
        return [t for one in outline for t in (titles(one) if isinstance(one, list) else [str(one.title)])]

    heads = titles(read.outline)
    assert heads[0] == "What was found" and heads[-1] == "Sources" and {"Along the <axis>", "Balance"} <= set(heads)
    root = read.trailer["/Root"]
    assert root["/MarkInfo"]["/Marked"] and root["/Lang"] == "en" and read.metadata.title == "Bar & <strap>: report"
    assert b"/FontFile" in (tmp_path / "r.pdf").read_bytes() or any("/Font" in p["/Resources"] for p in read.pages)
    assert not any(
        "/Subtype" in a.get_object() and a.get_object().get("/A", {}).get("/S") == "/JavaScript"
        for p in read.pages
        for a in p.get("/Annots", [])
    )


def test_a_report_follows_the_chapters_and_answers_its_question(review: Review) -> None:
    axis, balance = (e.id for e in exhibits_of(review))
    rearrange(review, Rearrange(what="add", title="Statics"))
    rearrange(review, Rearrange(what="move", exhibit=balance, chapter="Statics"))
    rearrange(review, Rearrange(what="add", title="Strength <2>"))
    rearrange(review, Rearrange(what="move", exhibit=axis, chapter="Strength <2>"))
    rearrange(review, Rearrange(what="question", text="Does it **hold**?"))
    report = gather(review)
    assert [(c.title, [leaf.title for leaf in c.leaves]) for c in report.chapters] == [
        ("Statics", ["Balance"]), ("Strength <2>", ["Along the <axis>"]),
    ]  # fmt: skip
    text = report_html(review)
    parsed(text)
    assert text.index("Does it <strong>hold</strong>?") < text.index("Statics") < text.index("Strength &lt;2&gt;")
    assert report_pdf(review)[:4] == b"%PDF"


def test_a_photograph_stands_beside_what_it_is_of(review: Review) -> None:
    stream = io.BytesIO()
    Image.new("RGB", (30, 20), "#885522").save(stream, "JPEG")
    address = f"data:image/jpeg;base64,{base64.b64encode(stream.getvalue()).decode()}"
    first = exhibits_of(review)[0]
    assert photographed(review, first.id, PhotographIn(picture=address, said="Specimen 3, after the test")).has_photograph
    leaf = gather(review).leaves[0]
    assert leaf.photograph.kind == "jpeg" and leaf.photograph.data == stream.getvalue()
    assert 'alt="Photograph: Specimen 3, after the test"' in report_html(review)
    assert report_pdf(review)[:4] == b"%PDF"
    with pytest.raises(IronstoneError):
        photographed(review, first.id, PhotographIn(picture="data:image/png;base64,AAAA"))
    assert not photographed(review, first.id, PhotographIn()).has_photograph
    review.undo()
    assert exhibits_of(review)[0].has_photograph, "and comes back"


def test_a_view_without_a_picture_is_drawn_for_the_report(review: Review) -> None:
    asked = Asked(kind="read", words={"field": "stress", "measure": "von-mises", "step": 1, "extremes": True})
    view = f"/?bay=field&result={review.results()[0].id}&field=stress&measure=von-mises&step=1"
    keep_exhibit(ExhibitIn(title="Seen", questions=[asked], address=view), review)
    leaf = gather(review).leaves[-1]
    assert leaf.picture.data.startswith(b"\x89PNG") and leaf.drawn == "Drawn for this report."
    name = review.result().mesh.material_or_part_names[0]
    review.set_constants(review.results()[0].id, name, {"young": 200e3, "poisson": 0.3})
    assert "has changed since" in gather(review).leaves[-1].drawn


def test_the_title_block_of_the_organisation_stands_on_the_report(review: Review) -> None:
    block = review.path.parent / f"{review.path.stem}.titles.yaml"
    block.write_text("organisation: Ropeway & Sons\ndocument: 17\nrevision: 2026-11-29\nlogo: mark.png\n")
    with pytest.raises(IronstoneError, match=r"mark\.png"):
        gather(review)
    Image.new("RGB", (40, 20), "#9E3B23").save(review.path.parent / "mark.png")
    found = gather(review).block
    assert found.lines == [("document", "17"), ("revision", "2026-11-29")] and found.logo_data.startswith(b"\x89PNG")
    text = report_html(review)
    parsed(text)
    assert "Ropeway &amp; Sons" in text and text.count("data:image/png") >= 1
    assert "Ropeway & Sons" in PdfReader(io.BytesIO(report_pdf(review))).pages[0].extract_text()
    for wrong, said in (("colour: red\n", "colour"), ("- a\n", "no title block"), ("a: [\n", "cannot be read")):
        block.write_text(wrong)
        with pytest.raises(IronstoneError, match=said):
            gather(review)


def test_a_review_in_which_nothing_is_kept_has_a_report_of_its_results(bar_files: list[Path], tmp_path: Path) -> None:
    with Review.create(tmp_path / "bare.ironstone", "bare") as opened:
        intake(opened, bar_files, "bar")
        text = report_html(opened)
    assert "No exhibit is kept" in text
    parsed(text)


def test_a_long_table_is_shown_from_both_ends_and_says_so(flexure_trace) -> None:
    shown = flexure_trace.tables[0]
    assert len(shown.rows) == 41 and shown.rows[20][0] == "…" and "201 of 241 rows" in shown.said


@pytest.fixture
def flexure_trace(demo_copy: Path):
    with Review.open(demo_copy) as opened:
        words = {"field": "stress", "measure": "von-mises", "at": "node:100", "averaging": "part"}
        keep_answer(opened, "Root", ask(opened, question_of("trace", words)))
        return gather(opened).leaves[-1]


def test_a_report_whose_views_turn_runs_its_own_script_and_no_other(review: Review) -> None:
    asked = Asked(kind="read", words={"field": "stress", "measure": "von-mises", "step": 1, "extremes": True})
    view = f"/?bay=field&result={review.results()[0].id}&field=stress&measure=von-mises&step=1"
    keep_exhibit(ExhibitIn(title="Seen", questions=[asked], address=view), review)
    text = report_html(review, turns=True)
    parsed(text)
    (stated,) = re.findall(r"script-src 'sha256-([^']+)'", text)
    (script,) = re.findall(r"<script>(.*?)</script>", text, re.DOTALL)
    assert base64.b64encode(hashlib.sha256(script.encode()).digest()).decode() == stated
    (told,) = re.findall(r'<script type="application/json" id="model-\d+">(.*?)</script>', text, re.DOTALL)
    model = json.loads(told)
    points = np.frombuffer(base64.b64decode(model["points"]), "<f4").reshape(-1, 3)
    share = np.frombuffer(base64.b64decode(model["share"]), "<f4")
    triangles = np.frombuffer(base64.b64decode(model["triangles"]), "<u4")
    assert len(points) == len(share) and triangles.max() < len(points) and len(triangles) % 3 == 0
    assert np.ptp(points[:, 0]) == pytest.approx(3.06, rel=1e-3), "three cubes, drawn out by 0.02 of their length"
    assert model["ticks"][-1][1].endswith("MPa") and len(base64.b64decode(model["key"])) % 3 == 0
    assert "<script" not in report_html(review).lower()
