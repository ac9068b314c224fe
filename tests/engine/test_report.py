"""The report: one file that says what was found, whole and safe whatever the notes hold."""

from __future__ import annotations

import re
from html.parser import HTMLParser
from pathlib import Path

import pytest
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.engine.base import ask, keep, question_of, thing_of
from ironstone.engine.kept.exhibits import ExhibitEdit, edit_exhibit, keep_answer
from ironstone.engine.report.gather import gather
from ironstone.engine.report.html import report_html
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
    other = CliRunner().invoke(app, ["report", str(review.path), "-o", str(tmp_path / "r.pdf")])
    assert other.exit_code == 2 and "as HTML" in other.stderr and not (tmp_path / "r.pdf").exists()


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
