"""The words of a reading line that name a layer, a ply, a criterion or a phase."""

from __future__ import annotations

from ironstone.core.field.fields import Field
from ironstone.core.field.sliced import ANGLE, MAGNITUDE, PEAK, REDUCED, SHEET, WORST, layers_of, usual_layer
from ironstone.core.reading.measures import Measure
from ironstone.core.reading.plies import has_shear
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import linear
from ironstone.core.reading.resolved import Resolved
from ironstone.core.strength.criteria import BOND, CRITERIA, USUAL, check_of
from ironstone.engine.reading.line_words import Choice, Word
from ironstone.store.source import ReviewSource


def criterion_word(source: ReviewSource, reading: Reading, found: Resolved | None) -> Word:
    materials = source.laminates.materials if source.laminates else ()
    choices = []
    for name in (*CRITERIA, *(f"{n}+{BOND}" for n in CRITERIA)):
        check = check_of(name)
        missing = check.lacking(materials)
        impossible = f"Missing: {', '.join(missing)}." if missing else ""
        if check.bond and not has_shear(source):
            impossible = "The shear between the plies is not known: the result has no transverse force."
        choices.append(Choice(value=name, label=f"by {check.label}", impossible=impossible, change={"criterion": name}))
    label = found.criterion_words if found else reading.criterion
    value = reading.criterion or USUAL
    return Word(name="criterion", title="Criterion", label=label, value=value, before=" ", choices=choices)


def layer_word(field: Field, reading: Reading, found: Resolved | None) -> Word:
    if field.of_plies:
        return _ply(field, reading, found)
    several = len(field.places) > 1
    written = [*REDUCED, *(str(i + 1) for i in range(field.layers))]
    if several:
        written += [f"{i + 1}:{place}" for i in range(field.layers) for place in field.places]
        written += [f"{how}:{place}" for how in REDUCED for place in field.places]
        written += [f"{i + 1}:{how}" for i in range(field.layers) for how in REDUCED]
    choices = [Choice(value=w, label=layers_of(w, field).words, change={"layer": w}) for w in written]
    answer = {1: "the bottom", field.layers: "the top"}
    for choice in choices:
        choice.explanation = answer.get(int(choice.value), "") if choice.value.isdigit() else ""
    label = found.layers.words if found else reading.layer
    value = reading.layer or usual_layer(field)
    return Word(name="layer", title="Layer", label=label, value=value, before=", ", marked=value in REDUCED, choices=choices)


def _ply(field: Field, reading: Reading, found: Resolved | None) -> Word:
    ends = [p for p in (*field.places, WORST) if len(field.places) > 1]
    plies = [*(f"{SHEET}:{s}" for s in field.sheets), *(str(i + 1) for i in range(field.layers))]
    written = [WORST, *(f"{p}:{e}" if e else p for p in plies for e in ends or [""])]
    choices = [Choice(value=w, label=layers_of(w, field).words, change={"layer": w}) for w in written]
    choices[0].explanation = "Of every ply and place in it, the most exposed; of a stress or strain the farthest from 0."
    label = found.layers.words if found else reading.layer
    value = reading.layer or WORST
    return Word(name="layer", title="Ply", label=label, value=value, before=", ", marked=value == WORST, choices=choices)


def phase_word(reading: Reading, measure: Measure, found: Resolved | None) -> Word:
    nowhere = "" if linear(measure) else "A magnitude is that of one component: take the peak over the cycle."
    choices = [
        Choice(value=MAGNITUDE, label="magnitude of the harmonic", impossible=nowhere, explanation="Of both parts together."),
        Choice(value=PEAK, label="peak over the cycle", explanation="The largest magnitude the measure comes to."),
        Choice(value=ANGLE, label="the phase of its peak", explanation="The angle of the cycle at which it is largest."),
        *(Choice(value=str(a), label=f"at phase {a}°", explanation=_PHASES.get(a, "")) for a in range(0, 360, 15)),
    ]
    for choice in choices:
        # A phase has a unit of its own.
        turns = ANGLE in (choice.value, reading.phase) and choice.value != reading.phase
        choice.change = {"phase": choice.value} | ({"unit": None} if turns else {})
    label = found.phase_words if found else reading.phase
    return Word(name="phase", title="Phase", label=label, value=reading.phase or "0", before=", ", choices=choices)


_PHASES = {0: "The real part.", 270: "The imaginary part."}
