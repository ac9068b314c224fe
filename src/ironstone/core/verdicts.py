"""What a check comes to: one word each, and the state by which it is shown."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

# All agrees; agrees but for something, or doubtful; does not agree, or fails; nothing was judged.
State = Literal["good", "doubt", "bad", ""]
AGREES, DOUBTFUL, FAILS = "agrees", "doubtful", "fails"
STATES: Mapping[str, State] = {AGREES: "good", DOUBTFUL: "doubt", FAILS: "bad"}


def state_of(verdict: str) -> State:
    """The state of a verdict of one word; '' of any other (not checked, nothing to balance)."""
    return STATES.get(verdict, "")


def worst_of(verdicts: list[str]) -> str:
    """The worst of several verdicts of one word; '' where none judges."""
    return next((v for v in (FAILS, DOUBTFUL, AGREES) if v in verdicts), "")


def by_share(share: float | None, agrees: float, doubtful: float) -> str:
    """The verdict of a share of what is compared: 'agrees' below the first limit, 'doubtful' below the second; '' without one."""
    if share is None or share != share:
        return ""
    return AGREES if share < agrees else DOUBTFUL if share < doubtful else FAILS
