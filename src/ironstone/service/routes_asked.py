"""One address for every kind of question and everything that can be kept: made from the engine's own lists."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fastapi import APIRouter, Response
from pydantic import BaseModel

from ironstone.engine.base import KEPT, QUESTIONS, Answer, Kept, Question, ask, keep, unreadable
from ironstone.service.deps import Form, OpenReview, columns_table


class KeptOut(BaseModel):
    """Something that is kept: its number, its kind, the state a change to it expects, and its words."""

    id: int
    kind: str
    revision: int
    words: dict[str, Any]


def asked() -> APIRouter:
    """Routes of all questions and all that is kept, as they are known when the service starts."""
    router = APIRouter(tags=["asked"])
    for kind, question in QUESTIONS.items():
        name = kind.replace("-", "_")
        router.add_api_route(
            f"/ask/{kind}",
            _answering(question),
            methods=["POST"],
            response_model=Answer,
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

    return router


def _answering(question: type[Question]) -> Callable[..., Answer]:
    def answer(asked: Question, review: OpenReview) -> Answer:
        return ask(review, asked)

    return _taking(answer, "asked", question)


def _tabling(question: type[Question]) -> Callable[..., Response]:
    def tabled(form: Form, asked: Question, review: OpenReview) -> Response:
        told = ask(review, asked)
        return columns_table(form, told.columns, told.sentence[:120], told.sentence)

    return _taking(tabled, "asked", question)


def _keeping(kept: type[Kept]) -> Callable[..., KeptOut]:
    def keeping(thing: Kept, review: OpenReview) -> KeptOut:
        item = keep(review, thing)
        return KeptOut(id=item.id, kind=item.kind, revision=item.revision, words=item.payload)

    return _taking(keeping, "thing", kept)


def _taking(route: Callable[..., Any], parameter: str, of: type[BaseModel]) -> Callable[..., Any]:
    """A route whose body is of this very kind."""
    route.__annotations__[parameter] = of
    route.__annotations__ |= {"review": OpenReview, "form": Form} if "form" in route.__annotations__ else {"review": OpenReview}
    return route
