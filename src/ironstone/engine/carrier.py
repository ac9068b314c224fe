"""What every question is answered with: one carrier of columns, figures and words, with what it depends on."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict

from ironstone.core.verdicts import State


class Column(BaseModel):
    """One column of an answer's table: numbers (None where there is no value) or words."""

    name: str
    unit: str | None = None
    values: list[float | int | str | None]


class Figure(BaseModel):
    """One number of an answer with what it is and how it was found."""

    label: str
    value: float | None
    unit: str = ""
    how: str = ""


class Provenance(BaseModel):
    """What an answer depends on: the result and the state of what was stated of it, the question itself, the program."""

    result: str
    revision: str
    question: dict[str, Any]
    engine: str


class Answer(BaseModel):
    """What a question is answered with. Tables, captions, exhibits and reports are made of this and of nothing else.

    state: what the verdict comes to, judged where it is made and not read off its words. more: what only this kind of answer
    has, in plain data.
    """

    kind: str
    sentence: str
    unit: str | None = None
    columns: list[Column] = []
    figures: list[Figure] = []
    caveats: list[str] = []
    verdict: str = ""
    state: State = ""
    provenance: Provenance | None = None
    more: dict[str, Any] = {}

    def frame(self) -> Any:
        """The table as a pandas DataFrame, with units, sentence, verdict and caveats as its ``attrs``."""
        from ironstone.engine.notebook import frame_of

        return frame_of(self)

    def _repr_html_(self) -> str:
        from ironstone.engine.notebook import html_of

        return html_of(self)


Numbers = list[float | None]


class Particulars(BaseModel):
    """What only answers of one kind have in ``more``; of most kinds nothing.

    A question names its own (``Question.more``): what it answers is held against that wherever it is asked, and the page's types
    are made of it.
    """

    # Built when one is first held against it: a command pays for what it asks alone.
    model_config = ConfigDict(extra="forbid", defer_build=True)
