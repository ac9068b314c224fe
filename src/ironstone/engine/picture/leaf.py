"""What an exhibit looks like at a glance: its picture, the view drawn where none was kept, or its curve."""

from __future__ import annotations

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.engine.kept.exhibits import ExhibitKept, answers_of
from ironstone.engine.picture.plot import plot_of
from ironstone.engine.picture.sheet import picture_of_view
from ironstone.store import Review


def leaf_of(review: Review, number: int) -> tuple[str, bytes]:
    """The media type and the bytes of what an exhibit looks like. Raises NotFound where it is words and numbers alone."""
    kept = ExhibitKept.understood(review.item(number, "exhibit").payload)
    if kept.picture is not None:
        _, kind, data = review.attachment(kept.picture)
        return kind, data
    if kept.of == "view" and kept.view is not None and kept.view.reading is not None:
        try:
            return "image/png", picture_of_view(review, kept.view, (480, 330), kept.shown)
        except IronstoneError as error:
            raise NotFound(f"It cannot be drawn: {error.message}", error.hint) from error
    svg = next((found for a in answers_of(review, kept) if (found := plot_of(a))), "")
    if not svg:
        raise NotFound("That exhibit has neither a picture nor a curve.", "See its words and its table.")
    return "image/svg+xml", svg.encode()
