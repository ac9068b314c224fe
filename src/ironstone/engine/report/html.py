"""A report as one HTML file: nothing in it is loaded from elsewhere, and nothing runs."""

from __future__ import annotations

from pathlib import Path

from ironstone.engine.report.gather import gather
from ironstone.store import Review

TEMPLATE = Path(__file__).with_name("report.html.j2")


def report_html(review: Review) -> str:
    """The report of a review as the text of an HTML file."""
    from jinja2 import Environment, StrictUndefined
    from markdown_it import MarkdownIt
    from markupsafe import Markup

    # Notes are Markdown without HTML of their own, and without links that run something (markdown-it's own rules).
    notes = MarkdownIt("commonmark", {"html": False}).disable(["image"])
    pages = Environment(autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True)
    pages.filters["markdown"] = lambda text: Markup(notes.render(text))
    return pages.from_string(TEMPLATE.read_text(encoding="utf-8")).render(report=gather(review))
