"""One address for every kind of question and everything that can be kept: made from the engine's own lists."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fastapi import APIRouter, Response
from pydantic import BaseModel, create_model

from ironstone.core.errors import NotFound
from ironstone.engine.base import KEPT, QUESTIONS, Kept, Question, ask, changed, keep, readable, remove, unreadable
from ironstone.engine.carrier import Answer
from ironstone.engine.kept.elsewhere import OfOther, offered, taken_over
from ironstone.engine.tabled import Form
from ironstone.service.deps import OpenReview, columns_table
from ironstone.service.turns import InTurn, reaches
from ironstone.store.items import Item


class KeptOut(BaseModel):
    """Something that is kept: its number, its kind, the state a change to it expects, and its words."""

    id: int
    kind: str
    revision: int
    words: dict[str, Any]


class TakenOver(BaseModel):
    """The number of what was taken over from another result, and what must be said of its place."""

    id: int
    notes: list[str]


def out(item: Item, thing: Kept) -> KeptOut:
    return KeptOut(id=item.id, kind=item.kind, revision=item.revision, words=thing.model_dump(mode="json"))


def asked() -> APIRouter:
    """Routes of all questions and all that is kept, as they are known when the service starts."""
    router = APIRouter(tags=["asked"], route_class=InTurn)
    for kind, question in QUESTIONS.items():
        name = kind.replace("-", "_")
        router.add_api_route(
            f"/ask/{kind}",
            _answering(question),
            methods=["POST"],
            response_model=answer_to(question),
            name=f"ask {name}",
            description=question.__doc__,
        )
        router.add_api_route(
            f"/ask/{kind}.{{form}}", _tabling(question), methods=["POST"], response_class=Response, name=f"ask {name} as a table",
            description=question.__doc__,
        )  # fmt: skip
    for kind, kept in KEPT.items():
        router.add_api_route(
            f"/keep/{kind}", _keeping(kept), methods=["POST"], response_model=KeptOut, name=f"keep {kind}", description=kept.__doc__
        )

    @router.get("/kept/unreadable")
    def what_cannot_be_read(review: OpenReview) -> list[str]:
        """What is kept and cannot be read, each with its reason."""
        return unreadable(review)

    @router.get("/kept/{kind}")
    def what_is_kept(kind: str, review: OpenReview, result: int | None = None) -> list[KeptOut]:
        """What is kept of a kind, of one result or of all, in the order it was made; what cannot be read is left out."""
        if kind not in KEPT:
            raise NotFound(f"There is no thing to keep called '{kind}'.", f"There are: {', '.join(sorted(KEPT))}.")
        return [out(item, thing) for item, thing in readable(review, KEPT[kind], result)]

    @router.get("/kept/{kind}/elsewhere")
    def kept_elsewhere(kind: str, result: int, review: OpenReview) -> list[OfOther]:
        """What other meshes of the same body have of a kind, and this result has not."""
        return offered(review, kind, result)

    @router.post("/kept/{item}/here")
    def take_over(item: int, result: int, review: OpenReview) -> TakenOver:
        """Keep for a result, by place, what is kept of another mesh of the same body."""
        made, notes = taken_over(review, item, result)
        return TakenOver(id=made, notes=notes)

    @router.put("/kept/{kind}/{item}")
    def change_kept(kind: str, item: int, words: dict[str, Any], review: OpenReview) -> KeptOut:
        """Change words of something that is kept; the others stay."""
        thing = changed(review, item, kind, words)
        return out(review.item(item, kind), thing)

    @router.delete("/kept/{kind}/{item}", status_code=204)
    def remove_kept(kind: str, item: int, review: OpenReview) -> None:
        remove(review, item, kind)

    return router


def answer_to(question: type[Question]) -> type[Answer]:
    """The answer to one kind of question, with what only that has."""
    return create_model(f"{question.__name__}Answer", __base__=Answer, more=(question.more, ...))


def _answering(question: type[Question]) -> Callable[..., Answer]:
    def answer(asked: Question, review: OpenReview) -> Answer:
        return ask(review, asked)

    return reaches(question.reach_of)(_taking(answer, "asked", question))


def _tabling(question: type[Question]) -> Callable[..., Response]:
    def tabled(form: Form, asked: Question, review: OpenReview) -> Response:
        reply = ask(review, asked)
        return columns_table(form, reply.columns, reply.sentence[:120], reply.sentence)

    return reaches(question.reach_of)(_taking(tabled, "asked", question))


def _keeping(kept: type[Kept]) -> Callable[..., KeptOut]:
    def keeping(thing: Kept, review: OpenReview) -> KeptOut:
        return out(keep(review, thing), thing)

    return _taking(keeping, "thing", kept)


def _taking(route: Callable[..., Any], parameter: str, of: type[BaseModel]) -> Callable[..., Any]:
    """A route whose body is of this very kind."""
    route.__annotations__[parameter] = of
    route.__annotations__ |= {"review": OpenReview, "form": Form} if "form" in route.__annotations__ else {"review": OpenReview}
    return route
