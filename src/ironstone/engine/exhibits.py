"""Exhibits: a kept view, curve or table with its reading, note and verdict; and named views."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import BaseModel, Field

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import Answer, Kept, keep, readable
from ironstone.engine.records import picture_of
from ironstone.engine.words import Strict
from ironstone.formats.tables import write_table
from ironstone.store import Review
from ironstone.store.items import Item


class ExhibitIn(Strict):
    """A kept view, curve or table. ``picture`` is a PNG as a data address; ``table`` is CSV text."""

    kind: Literal["view", "curve", "table"]
    title: str = Field(max_length=200)
    sentence: str = Field(max_length=2000)
    caveats: list[str] = []
    note: str = Field("", max_length=4000)
    verdict: str = Field("", max_length=4000)
    address: str = Field("", max_length=4000)
    picture: str | None = None
    table: str | None = None


class ExhibitKept(Kept):
    """An exhibit as it is stored: picture and table are numbers of kept files."""

    kind: ClassVar[str] = "exhibit"
    title: str
    sentence: str
    caveats: list[str] = []
    note: str = ""
    verdict: str = ""
    address: str = ""
    picture: int | None = None
    table: int | None = None
    of: Literal["view", "curve", "table"] = "view"

    @classmethod
    def upgraded(cls, stored: dict[str, Any], version: int) -> dict[str, Any]:
        # What an exhibit is of was called its kind once.
        return {("of" if name == "kind" else name): value for name, value in stored.items()}

    def made(self) -> str:
        return f"Exhibit '{self.title}' kept"

    def gone(self) -> str:
        return f"Exhibit '{self.title}' removed"


def exhibits_of(review: Review) -> list[ExhibitOut]:
    return [exhibit_of(item, kept) for item, kept in readable(review, ExhibitKept)]


class ExhibitEdit(Strict):
    title: str = Field(max_length=200)
    note: str = Field("", max_length=4000)
    verdict: str = Field("", max_length=400)


class ExhibitOut(BaseModel):
    id: int
    revision: int
    kind: str
    title: str
    sentence: str
    caveats: list[str]
    note: str
    verdict: str
    address: str
    has_picture: bool
    has_table: bool


class ViewIn(Kept):
    """A named view: where the camera stands and what is shown, as the address bar holds it."""

    kind: ClassVar[str] = "view"
    result: int
    name: str = Field(min_length=1, max_length=80)
    address: str = Field(max_length=2000)

    def check(self, review: Review) -> None:
        review.result(self.result)

    def same(self, other: Kept) -> bool:
        return isinstance(other, ViewIn) and (other.result, other.name) == (self.result, self.name)

    def made(self) -> str:
        return f"View '{self.name}' kept"

    def gone(self) -> str:
        return f"View '{self.name}' removed"


class ViewOut(ViewIn):
    id: int


def exhibit_of(item: Item, kept: ExhibitKept) -> ExhibitOut:
    reply = kept.model_dump(exclude={"picture", "table", "of"})
    return ExhibitOut(
        id=item.id,
        revision=item.revision,
        kind=kept.of,
        has_picture=kept.picture is not None,
        has_table=kept.table is not None,
        **reply,
    )


def keep_exhibit(exhibit: ExhibitIn, review: Review) -> ExhibitOut:
    """Keep an exhibit, its picture and its table beside it."""
    payload = exhibit.model_dump()
    if exhibit.picture is not None:
        kind, data = picture_of(exhibit.picture)
        if kind != "png":
            raise IronstoneError("The picture is no PNG.", "Keep it again.")
        payload["picture"] = review.attach(f"{exhibit.title}.png", "image/png", data)
    if exhibit.table is not None:
        payload["table"] = review.attach(f"{exhibit.title}.csv", "text/csv", exhibit.table.encode())
    kept = ExhibitKept.understood(payload)
    return exhibit_of(keep(review, kept), kept)


def keep_answer(review: Review, title: str, answer: Answer) -> Item:
    """Keep an answer as an exhibit: its sentence, caveats and verdict, and its table."""
    missing: list[list[object]] = [["" if v is None else v for v in c.values] for c in answer.columns]
    names, units = [c.name for c in answer.columns], [c.unit for c in answer.columns]
    text = write_table(names, units, missing) if answer.columns else None
    kept = ExhibitKept(
        of="table",
        title=title,
        sentence=answer.sentence,
        caveats=answer.caveats,
        verdict=answer.verdict,
        table=review.attach(f"{title}.csv", "text/csv", text.encode()) if text else None,
    )
    return keep(review, kept)
