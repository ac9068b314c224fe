"""The words of a reading as options, once for every command that takes one."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from dataclasses import MISSING, dataclass, fields
from functools import wraps
from typing import Annotated, Any, get_type_hints

import typer

from ironstone.core.reading.reading import FOLD, Reading, plane_of


@dataclass(frozen=True)
class Words:
    """What the analyst wrote of a reading; the step apart."""

    field: Annotated[str, typer.Option("--field", help="Name of the field.")]
    measure: Annotated[str, typer.Option("--measure", help="von-mises, principal-1, xx, hoop, magnitude, ...")] = ""
    averaging: Annotated[str, typer.Option("--averaging", help="off, element, part, material or all.")] = "off"
    order: Annotated[str, typer.Option("--order", help="What is averaged first: components or measure.")] = "components"
    region: Annotated[str, typer.Option("--region", help="all, part:NAME, material:NAME or set:NAME.")] = "all"
    unit: Annotated[str | None, typer.Option("--unit", help="Unit of the answer.")] = None
    of: Annotated[str, typer.Option("--of", help="value, jump or jump-within-material (at a node), or error.")] = "value"
    axes: Annotated[str, typer.Option("--axes", help="global, element, material, or axes kept with the result.")] = "global"
    plane: Annotated[str | None, typer.Option("--plane", help="Normal of the plane for a traction: X,Y,Z in the axes.")] = None
    weight: Annotated[str, typer.Option("--weight", help="What counts in a mean at a node: plain, or by volume.")] = "plain"
    fold: Annotated[float, typer.Option("--fold", help="Degrees above which shells are not averaged across a fold.")] = FOLD
    over: Annotated[str, typer.Option("--over", help="step, or largest, smallest, magnitude over many steps.")] = "step"
    span: Annotated[str, typer.Option("--span", help="Which steps: all, so-far (up to --step), or A:B counted from 0.")] = "all"
    when: Annotated[bool, typer.Option("--when", help="The step at which, in place of the value.")] = False
    layer: Annotated[str, typer.Option("--layer", help="N, N:PLACE, largest, smallest, magnitude; of plies sheet:NAME, worst.")] = (
        ""
    )
    criterion: Annotated[str, typer.Option("--criterion", help="Of the failure of plies: hashin, puck, ...; +bond with bonds.")] = (
        ""
    )
    phase: Annotated[str, typer.Option("--phase", help="Of a harmonic: degrees, magnitude or peak.")] = ""
    against: Annotated[
        str | None, typer.Option("--against", help="Take off the same with some words changed: 'step=0;averaging=all'.")
    ] = None

    def reading(self, step: int = 0) -> Reading:
        """The reading these words ask for, at a step."""
        named = {f.name: getattr(self, f.name) for f in fields(self) if f.name not in ("plane", "against")}
        reading = Reading(**named, step=step, plane=plane_of(self.plane) if self.plane else None)
        return reading if self.against is None else reading.minus(self.against)


def with_words(*without: str) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """Give a command that takes ``words`` the options they are made of, in its place; ``without`` names some that are left out."""

    def decorate(command: Callable[..., None]) -> Callable[..., None]:
        hints = get_type_hints(Words, include_extras=True)
        options = [
            inspect.Parameter(
                f.name,
                inspect.Parameter.KEYWORD_ONLY,
                default=inspect.Parameter.empty if f.default is MISSING else f.default,
                annotation=hints[f.name],
            )
            for f in fields(Words)
            if f.name not in without
        ]
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
            words = Words(**{n: v for n, v in given.items() if n in names})
            command(words=words, **{n: v for n, v in given.items() if n not in names})

        run.__signature__ = inspect.Signature(rest)  # type: ignore[attr-defined]
        run.__annotations__ = {p.name: p.annotation for p in rest}
        return run

    return decorate
