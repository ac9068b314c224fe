"""A report as one HTML file: nothing in it is loaded from elsewhere, and nothing runs unless its views are to turn."""

from __future__ import annotations

import base64
import hashlib
from pathlib import Path

from ironstone.core.reading.over_steps import Tell
from ironstone.engine.base import readable
from ironstone.engine.kept.exhibits import ExhibitKept
from ironstone.engine.picture.model import turning_bytes
from ironstone.engine.report.gather import gather, judged
from ironstone.engine.report.notes import markdown
from ironstone.store import Review

TURNING = Path(__file__).with_name("turning.js")
TEMPLATE = Path(__file__).with_name("report.html.j2")


def report_html(review: Review, tell: Tell | None = None, turns: bool = False) -> str:
    """The report of a review as the text of an HTML file. tell: hears how far it is. turns: views can be turned and plots zoomed,
    by a script that stands in the file and loads nothing."""
    from jinja2 import Environment, StrictUndefined
    from markupsafe import Markup

    notes = markdown()
    pages = Environment(autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True)
    pages.filters["markdown"] = lambda text: Markup(notes.render(text))
    pages.filters["judged"] = judged
    pages.filters["base64"] = lambda data: base64.b64encode(data).decode()
    script = TURNING.read_text(encoding="utf-8") if turns else ""
    # The page runs this script alone: it is named by its hash.
    digest = base64.b64encode(hashlib.sha256(script.encode()).digest()).decode()
    return pages.from_string(TEMPLATE.read_text(encoding="utf-8")).render(
        report=gather(review, tell, turns), script=script, hash=digest
    )


def turning_size(review: Review) -> int:
    """About how many bytes larger a report is whose views turn."""
    views = [kept.view for _, kept in readable(review, ExhibitKept) if kept.of == "view" and kept.view is not None]
    return TURNING.stat().st_size + sum(turning_bytes(review, view) for view in views)
