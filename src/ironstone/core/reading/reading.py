"""A reading: one fully specified quantity.

Immutable, serialisable, and prints itself as the sentence that captions every picture, curve and table.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np

from ironstone.core.errors import Impossible

AVERAGINGS = ("off", "element", "part", "material", "all")
GROUPED = ("part", "material", "all")
WEIGHTS = ("plain", "volume")
FOLD = 20.0


@dataclass(frozen=True)
class Reading:
    """What is asked. ``step`` is an index from 0; ``region`` is 'all', 'part:NAME', 'material:NAME' or 'set:NAME'.

    unit: None is the result's. of: 'value', 'jump' (spread between the elements that meet at a node), 'jump-within-material', or
    'error' (of a stress, in the energy norm, of each element). axes: 'global', 'element', 'material', or the name of axes kept
    with the review. plane: normal of the plane for a traction, in those axes. weight: what counts in a mean at a node, 'plain' or
    by 'volume'. fold: degrees above which shells are not averaged across a fold. over: 'step', or 'largest', 'smallest',
    'magnitude' over ``span``: 'all', 'so-far' (up to ``step``) or 'A:B' (both counted, from 0); when: the step at which, in place
    of the value. layer: of a field with layers, 'N', 'N:PLACE' or 'largest' (see ``field.sliced``); phase: of a harmonic, in
    degrees, 'magnitude' or 'peak'. criterion: of failure of a ply, as 'hashin' or 'hashin+bond'. against: a second reading that is
    taken off; together: it is of the step of this one, whichever that is.
    """

    field: str
    measure: str = ""
    averaging: str = "off"
    order: str = "components"
    step: int = 0
    region: str = "all"
    unit: str | None = None
    of: str = "value"
    axes: str = "global"
    plane: tuple[float, float, float] | None = None
    weight: str = "plain"
    fold: float = FOLD
    over: str = "step"
    span: str = "all"
    when: bool = False
    against: Reading | None = None
    together: bool = False
    layer: str = ""
    phase: str = ""
    criterion: str = ""

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)

    def at(self, step: int) -> Reading:
        """The same reading at another step; a second reading goes along where the two are taken together, else it stays."""
        if self.against is not None and self.together:
            return replace(self, step=step, against=self.against.at(step))
        return replace(self, step=step)

    def minus(self, text: str) -> Reading:
        """This reading, less itself with some words changed: 'step=0;averaging=all'. Named a step, the second stays at it."""
        other = self.changed(text)
        named = {piece.partition("=")[0].strip() for piece in text.split(";")}
        return replace(self, against=other, together="step" not in named)

    def changed(self, text: str) -> Reading:
        """This reading with some words changed: 'step=0;averaging=all'. Named a step and no span, it is of that one step."""
        kinds: dict[str, Any] = {"step": int, "fold": float, "when": lambda v: v in ("1", "true", "yes")}
        changes: dict[str, Any] = {}
        for piece in filter(None, (p.strip() for p in text.split(";"))):
            name, _, value = piece.partition("=")
            if name not in self.__dataclass_fields__ or name in ("against", "together"):
                raise Impossible(f"'{name}' is no word of a reading.", "Write like step=0;averaging=all.")
            try:
                changes[name] = plane_of(value) if name == "plane" else kinds.get(name, str)(value)
            except ValueError as error:
                raise Impossible(f"'{value}' is not right for {name}.", "Write like step=0;averaging=all.") from error
        if "step" in changes and not changes.keys() & {"over", "span", "when"}:
            changes |= {"over": "step", "span": "all", "when": False}
        if changes.get("over") == "step":
            changes.setdefault("when", False)
        return replace(self, against=None, together=False, **changes)


def plane_of(text: str) -> tuple[float, float, float]:
    """A plane's normal from 'X,Y,Z'. Raises Impossible where these are not three numbers that point somewhere."""
    try:
        x, y, z = (float(v) for v in text.split(","))
    except ValueError as error:
        raise Impossible(f"'{text}' is not a direction.", "Write three numbers, like 0,0,1.") from error
    if not np.isfinite([x, y, z]).all() or x == y == z == 0.0:
        raise Impossible(f"'{text}' points nowhere.", "Write three numbers, like 0,0,1.")
    return x, y, z
