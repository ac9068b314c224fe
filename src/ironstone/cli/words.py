"""The words of a reading as options, once for every command that takes one."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import wraps
from typing import Annotated, Any, get_type_hints

import typer

from ironstone.core.reading.reading import WORDS, Reading, Word, reading_of


@dataclass(frozen=True)
class Words:
    """What the analyst wrote of a reading; the step apart."""

    named: Mapping[str, Any]

    @property
    def field(self) -> str:
        return str(self.named["field"])

    def reading(self, step: int = 0) -> Reading:
        """The reading these words ask for, at a step."""
        return reading_of(self.named, step)


def _option(word: Word) -> inspect.Parameter:
    kind: Any = {"number": float, "flag": bool}.get(word.kind, str)
    option = typer.Option(f"--{word.name}", help=word.says)
    return inspect.Parameter(
        word.name,
        inspect.Parameter.KEYWORD_ONLY,
        default=inspect.Parameter.empty if word.name == "field" else word.default,
        annotation=Annotated[kind | None if word.optional else kind, option],
    )


def with_words(*without: str) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """Give a command that takes ``words`` the options they are made of, in its place; ``without`` names some that are left out."""

    def decorate(command: Callable[..., None]) -> Callable[..., None]:
        options = [_option(word) for word in WORDS if word.name not in without]
        own = get_type_hints(command, include_extras=True)
        rest = []
        for parameter in inspect.signature(command).parameters.values():
            if parameter.name == "words":
                rest += options
            else:
                rest.append(parameter.replace(kind=inspect.Parameter.KEYWORD_ONLY, annotation=own[parameter.name]))
        names = {o.name for o in options}

        @wraps(command)
        def run(**given: Any) -> None:
            words = Words({n: v for n, v in given.items() if n in names})
            command(words=words, **{n: v for n, v in given.items() if n not in names})

        run.__signature__ = inspect.Signature(rest)  # type: ignore[attr-defined]
        run.__annotations__ = {p.name: p.annotation for p in rest}
        return run

    return decorate
