"""The one family of errors an analyst sees."""

from __future__ import annotations

import errno


class IronstoneError(Exception):
    """Something the analyst can act on: what happened and why (``message``), and what to do (``hint``)."""

    def __init__(self, message: str, hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.hint = hint

    def __reduce__(self) -> tuple[type[IronstoneError], tuple[str, str]]:
        return type(self), (self.message, self.hint)

    def __str__(self) -> str:
        return f"{self.message} {self.hint}".strip()


class NotFound(IronstoneError):
    """What was asked for by name, id or index is not there."""


class Impossible(IronstoneError):
    """The reading asked for has no meaning for this field or place."""


def disk_full(error: BaseException) -> IronstoneError | None:
    """What to say where a disk is full, or its owner may have no more of it; None for any other error."""
    if not isinstance(error, OSError) or error.errno not in (errno.ENOSPC, errno.EDQUOT):
        return None
    where = f" ({error.filename})" if error.filename and "/" not in str(error.filename) else ""
    return IronstoneError(
        f"The disk is full: what came could not be stored{where}. Nothing is wrong with the file.",
        "Free some space, or keep the review on another disk; then try again.",
    )
