"""What an analyst looks for among the measures by another name, or that has to be made first, or is found in another bay."""

from __future__ import annotations

from ironstone.core.field.axes import Axes
from ironstone.core.field.fields import Field
from ironstone.core.reading.measures import Measure
from ironstone.engine.reading.line_words import Choice

_ROUND = {
    "radial": "Along the radius of a bore or pin.",
    "hoop": "Round a bore or pin: circumferential, tangential.",
    "axial": "Along the axis of a bore or pin.",
}
_MAKE = "Click a face of it: the axes are fitted to the faces."


def found_elsewhere(field: Field, measures: list[Measure], axes: Axes, kept: list[Axes]) -> list[Choice]:
    """Choices beyond the measures of a field in the axes of the reading: in cylindrical axes that are kept or are to be made first,
    normal to a surface, and what other bays show.
    """
    choices: list[Choice] = []
    along = ("xx", "yy", "zz") if field.rank == "tensor" else ("x", "y", "z")
    directed = field.rank in ("vector", "tensor") and set(along) <= {m.name for m in measures}
    if directed:
        for direction, (word, said) in enumerate(_ROUND.items()):
            for a in kept:
                if a.kind == "cylindrical" and a.name != axes.name:
                    change = {"axes": a.name, "measure": along[direction], "unit": None}
                    choices.append(
                        Choice(value=f"{word} in {a.name}", label=f"{word}, in axes {a.name}", explanation=said, change=change)
                    )
            choices.append(
                Choice(
                    value=f"make {word}", label=f"{word}, round an axis to be picked …", explanation=f"{said} {_MAKE}", make=word
                )
            )
    if field.rank == "tensor" and directed:
        said = "Square to a face that is picked: peel, bond, pressure side. Click the face: axes are made from it."
        choices.append(Choice(value="make normal", label="normal to a surface to be picked …", explanation=said, make="normal"))
    if field.kind == "stress":
        choices += [
            Choice(
                value="membrane", label="membrane and bending", note="in Path", leads="path",
                explanation="Linearised through the thickness: lay a path through it, and switch on its linear part.",
            ),
            Choice(
                value="reaction", label="reaction force", note="in Balance", leads="balance",
                explanation="Summed over a support, against the load.",
            ),
        ]  # fmt: skip
    return choices
