"""What a reading line is made of: its words, and what each can be."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel


class Choice(BaseModel):
    """One thing a word can be. change: words of the reading that choosing it sets; impossible: why it cannot be chosen here.

    short: how it is called where there is little room. make: a direction for which axes are to be made first, by a picked face.
    leads: the bay where this is found.
    """

    value: str
    label: str
    explanation: str = ""
    note: str = ""
    short: str = ""
    impossible: str = ""
    make: str = ""
    leads: str = ""
    change: dict[str, Any] = {}


class Word(BaseModel):
    """One word group. before: what stands before it in the sentence; marked: something was guessed, averaged or changed in it."""

    name: str
    title: str
    label: str
    value: str
    before: str = ""
    marked: bool = False
    plain: bool = False
    choices: list[Choice] = []
