"""A report as PDF, set by the package typst: text, vector plots, tables, page numbers, contents, an outline; tagged for readers."""

from __future__ import annotations

import json
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from ironstone.core.errors import IronstoneError
from ironstone.core.reading.over_steps import Tell
from ironstone.engine.carrier import Figure
from ironstone.engine.picture.letters import FONTS
from ironstone.engine.report.gather import Leaf, OfResult, Report, Shown, gather, judged
from ironstone.engine.report.notes import blocks_of
from ironstone.store import Review

TEMPLATE = Path(__file__).with_name("report.typ")
# A table is set in columns of a page: so many, and the rest below.
COLUMNS = 8


def report_pdf(review: Review, tell: Tell | None = None) -> bytes:
    """The report of a review as the bytes of a PDF. tell: hears how far it is. Raises IronstoneError where it cannot be set."""
    return set_as_pdf(gather(review, tell))


def set_as_pdf(report: Report) -> bytes:
    """What was gathered as the bytes of a PDF."""
    import typst
    from matplotlib import get_data_path

    with TemporaryDirectory(prefix="ironstone-report-") as scratch:
        folder = Path(scratch)
        said = _told(report, folder)
        (folder / "report.json").write_text(json.dumps(said, ensure_ascii=False), encoding="utf-8")
        (folder / "report.typ").write_text(TEMPLATE.read_text(encoding="utf-8"), encoding="utf-8")
        try:
            # Letters that our fonts do not have come from the package matplotlib's.
            fonts = [str(FONTS), str(Path(get_data_path()) / "fonts/ttf")]
            found: bytes = typst.compile(
                str(folder / "report.typ"), root=scratch, font_paths=fonts, ignore_system_fonts=True, pdf_standards=["ua-1"]
            )
        except Exception as error:
            raise IronstoneError(f"The PDF could not be set: {str(error)[:300]}.", "Write the report as HTML meanwhile.") from error
    return found


def _told(report: Report, folder: Path) -> dict[str, Any]:
    """The report as the template reads it; its pictures are written beside it."""

    def written(name: str, data: bytes) -> str:
        (folder / name).write_bytes(data)
        return name

    count = 0
    chapters = []
    for chapter in report.chapters:
        leaves = []
        for leaf in chapter.leaves:
            count += 1
            leaves.append(_leaf(leaf, count, written))
        chapters.append({"title": chapter.title, "leaves": leaves})
    return {
        "title": report.title,
        "made": report.made,
        "engine": report.engine.split(" ")[0],
        "question": blocks_of(report.question),
        "organisation": report.block.organisation,
        "block": [list(line) for line in report.block.lines],
        "logo": written("logo.png", report.block.logo_data) if report.block.logo_data else "",
        "verdicts": ", ".join(f"{n} {word}" for word, n in report.verdicts.items()),
        "counts": [len(report.results), count],
        "chapters": chapters,
        "results": [_result(r) for r in report.results],
        "gauges": [list(g) for g in report.gauges],
        "records": [{"name": name, "corrections": said} for name, said in report.records],
        "sources": [
            [f["name"], f["bytes"], f.get("sha256") or f"XXH3 {f.get('xxh3', 'not known')}, SHA-256 not yet worked out", r.name]
            for r in report.results
            for f in r.files
        ],
    }


def _leaf(leaf: Leaf, number: int, written: Any) -> dict[str, Any]:
    told = {
        name: getattr(leaf, name)
        for name in ("title", "sentence", "shown", "caveats", "state", "drawn", "photographed", "questions")
    }
    told["verdict"] = judged(leaf.verdict, leaf.state)
    picture = leaf.picture
    if picture is not None:
        told["picture"] = written(f"picture-{number}.{picture.kind}", picture.data)
    elif leaf.plot:
        told["picture"] = written(f"plot-{number}.svg", leaf.plot.encode())
    photograph = leaf.photograph
    return {
        "picture": "",
        **told,
        "note": blocks_of(leaf.note),
        "photograph": written(f"photograph-{number}.{photograph.kind}", photograph.data) if photograph else "",
        "figures": [_figure(f) for f in leaf.figures],
        "tables": [piece for t in leaf.tables for piece in _pieces(t)],
    }


def _figure(figure: Figure) -> list[str]:
    value = "no value" if figure.value is None else f"{figure.value:.6g} {figure.unit}".rstrip()
    return [figure.label, value, figure.how]


def _pieces(shown: Shown) -> list[dict[str, Any]]:
    """A table in pieces that are no wider than a page; the first column stands in each."""
    heads, rows = shown.heads, shown.rows
    if len(heads) <= COLUMNS:
        return [{"heads": heads, "rows": rows, "said": shown.said}]
    found = []
    for first in range(1, len(heads), COLUMNS - 1):
        own = [0, *range(first, min(first + COLUMNS - 1, len(heads)))]
        found.append({"heads": [heads[i] for i in own], "rows": [[row[i] for i in own] for row in rows], "said": shown.said})
    return found


def _result(result: OfResult) -> dict[str, Any]:
    balance = result.balance
    return {
        "name": result.name,
        "facts": [list(f) for f in result.facts],
        "lists": [
            [title, lines]
            for title, lines in (
                ("Stated", result.stated),
                ("Corrected and made by the analyst", result.corrected),
                ("Guessed", result.guesses),
                ("Doubts", result.warnings),
            )
            if lines
        ],
        "balance": None
        if balance is None
        else {
            "sentence": balance.sentence,
            "verdict": judged(balance.verdict, balance.state),
            "state": balance.state,
            "figures": [_figure(f) for f in balance.figures],
            "caveats": balance.caveats,
        },
        "balance_said": result.balance_said,
        "sense": [[d["name"], d["verdict"], d["said"]] for d in result.sense],
        "checks": [
            [
                c.name,
                "no value" if c.value is None else f"{c.value:.6g} {c.unit}".rstrip(),
                f"{c.expected:.6g} ± {100 * c.tolerance:.3g} %",
                c.verdict,
                c.source,
            ]
            for c in result.checks
        ],
    }
