"""The one family of errors an analyst sees."""

from __future__ import annotations


class IronstoneError(Exception):
    """Something the analyst can act on: what happened and why (``message``), and what to do (``hint``)."""

    def __init__(self, message: str, hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.hint = hint

    def __str__(self) -> str:
        return f"{self.message} {self.hint}".strip()


class NotFound(IronstoneError):
    """What was asked for by name, id or index is not there."""


class Impossible(IronstoneError):
    """The reading asked for has no meaning for this field or place."""
