"""A report as one HTML file: nothing in it is loaded from elsewhere, and nothing runs."""

from __future__ import annotations

import base64
from pathlib import Path

from ironstone.core.reading.over_steps import Tell
from ironstone.engine.report.gather import gather, judged
from ironstone.engine.report.notes import markdown
from ironstone.store import Review

TEMPLATE = Path(__file__).with_name("report.html.j2")


def report_html(review: Review, tell: Tell | None = None) -> str:
    """The report of a review as the text of an HTML file. tell: hears how far it is."""
    from jinja2 import Environment, StrictUndefined
    from markupsafe import Markup

    notes = markdown()
    pages = Environment(autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True)
    pages.filters["markdown"] = lambda text: Markup(notes.render(text))
    pages.filters["judged"] = judged
    pages.filters["base64"] = lambda data: base64.b64encode(data).decode()
    return pages.from_string(TEMPLATE.read_text(encoding="utf-8")).render(report=gather(review, tell))
