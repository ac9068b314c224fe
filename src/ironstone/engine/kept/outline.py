"""The order of the exhibits, their chapters, and the question a review answers: what its report follows."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.engine.base import Kept, keep, readable
from ironstone.engine.kept.exhibits import ExhibitKept, ExhibitOut, exhibit_of
from ironstone.engine.words import Strict
from ironstone.store import Review
from ironstone.store.items import Item


class Chapter(Strict):
    """A chapter: its title ('' of what stands before the first), and its exhibits by number, in order."""

    title: str = Field("", max_length=120)
    exhibits: list[int] = []


class OutlineIn(Kept):
    """One in a review: the question it answers (Markdown), and its chapters."""

    kind: ClassVar[str] = "outline"
    question: str = Field("", max_length=8000)
    chapters: list[Chapter] = Field(default=[], max_length=200)

    def same(self, other: Kept) -> bool:
        return isinstance(other, OutlineIn)

    def made(self) -> str:
        return "Exhibits rearranged"

    def gone(self) -> str:
        return "The order of the exhibits removed"


class Rearrange(Strict):
    """One change of the order. move: an exhibit, to the end of a chapter or before another exhibit of it; add: a chapter, at the
    end; rename: a chapter, to a title; lift: a chapter, before another or to the end; drop: a chapter, its exhibits go to the one
    before it; question: what the review answers."""

    what: Literal["move", "add", "rename", "lift", "drop", "question"]
    exhibit: int | None = None
    chapter: str = Field("", max_length=120)
    before: int | None = Field(None, description="The exhibit it is put before; none: at the end of the chapter.")
    before_chapter: str | None = Field(None, max_length=120)
    title: str = Field("", max_length=120)
    text: str = Field("", max_length=8000)

    @model_validator(mode="after")
    def _names(self) -> Rearrange:
        if self.what == "move" and self.exhibit is None:
            raise ValueError("which exhibit is moved is not said")
        if self.what in ("add", "rename") and not self.title.strip():
            raise ValueError("a chapter needs a title")
        return self


class ChapterOut(Strict):
    title: str
    exhibits: list[ExhibitOut]


class Arranged(Strict):
    """The exhibits in their chapters."""

    question: str
    chapters: list[ChapterOut]


def outline_of(review: Review) -> OutlineIn:
    """The outline as it is now: exhibits that are gone are left out, those that are new stand at the end of the last chapter."""
    kept = next((thing for _, thing in readable(review, OutlineIn)), OutlineIn())
    there = [item.id for item, _ in readable(review, ExhibitKept)]
    placed = {number for chapter in kept.chapters for number in chapter.exhibits}
    chapters = [Chapter(title=c.title, exhibits=[n for n in c.exhibits if n in there]) for c in kept.chapters] or [Chapter()]
    chapters[-1].exhibits += [n for n in there if n not in placed]
    return OutlineIn(question=kept.question, chapters=chapters)


def in_chapters(review: Review) -> list[tuple[str, list[tuple[Item, ExhibitKept]]]]:
    """The exhibits of a review chapter by chapter, in order."""
    by_number = {item.id: (item, kept) for item, kept in readable(review, ExhibitKept)}
    return [(c.title, [by_number[n] for n in c.exhibits]) for c in outline_of(review).chapters]


def arranged(review: Review) -> Arranged:
    """The question of a review, and its exhibits in their chapters, as they are told."""
    there = {r.id: r.revision for r in review.results()}
    chapters = [
        ChapterOut(title=title, exhibits=[exhibit_of(item, kept, there) for item, kept in leaves])
        for title, leaves in in_chapters(review)
    ]
    return Arranged(question=outline_of(review).question, chapters=chapters)


def exhibits_of(review: Review) -> list[ExhibitOut]:
    """All exhibits of a review, in order."""
    return [exhibit for chapter in arranged(review).chapters for exhibit in chapter.exhibits]


def rearrange(review: Review, change: Rearrange) -> Arranged:
    """Change the order of the exhibits, or the question. Raises NotFound for an exhibit or a chapter there is not, IronstoneError
    for two chapters of one title."""
    with review.writing():
        outline = outline_of(review)
        if change.what == "question":
            outline.question = change.text
        elif change.what == "move":
            _move(outline.chapters, change)
        else:
            _chapters(outline.chapters, change)
        keep(review, outline)
    return arranged(review)


def _place(chapters: list[Chapter], title: str) -> int:
    place = next((i for i, c in enumerate(chapters) if c.title == title), None)
    if place is None:
        raise NotFound(f"There is no chapter '{title}'.", "It may have been renamed or removed elsewhere.")
    return place


def _move(chapters: list[Chapter], change: Rearrange) -> None:
    assert change.exhibit is not None
    home = next((c for c in chapters if change.exhibit in c.exhibits), None)
    if home is None:
        raise NotFound(f"There is no exhibit {change.exhibit} in this review.", "It may have been removed.")
    target = chapters[_place(chapters, change.chapter)]
    if change.before == change.exhibit:
        return
    home.exhibits.remove(change.exhibit)
    at = target.exhibits.index(change.before) if change.before in target.exhibits else len(target.exhibits)
    target.exhibits.insert(at, change.exhibit)


def _chapters(chapters: list[Chapter], change: Rearrange) -> None:
    title = change.title.strip()
    stays = change.what == "rename" and title == change.chapter
    if change.what in ("add", "rename") and not stays and any(c.title == title for c in chapters):
        raise IronstoneError(f"There is a chapter '{title}' already.", "Choose another title.")
    if change.what == "add":
        chapters.append(Chapter(title=title))
        return
    place = _place(chapters, change.chapter)
    if change.what == "rename":
        chapters[place].title = title
    elif change.what == "lift":
        moved = chapters.pop(place)
        before = len(chapters) if change.before_chapter is None else _place(chapters, change.before_chapter)
        chapters.insert(before, moved)
    else:
        gone = chapters.pop(place)
        if not chapters:
            chapters.append(Chapter())
        home = chapters[max(place - 1, 0)]
        home.exhibits = home.exhibits + gone.exhibits if place else gone.exhibits + home.exhibits
    # What stands before the first chapter has no title, and is left out where nothing does.
    if len(chapters) > 1:
        chapters[:] = [c for c in chapters if c.title or c.exhibits] or [Chapter()]
