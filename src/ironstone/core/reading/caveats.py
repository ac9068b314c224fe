"""What must be said beside some values: the reading's own caveats, and what the numbers give away."""

from __future__ import annotations

import numpy as np

from ironstone.core.field.combined import adds, stays
from ironstone.core.field.constants import CONSTANTS
from ironstone.core.field.fields import COMBINATION, Source
from ironstone.core.field.gauss_fields import unplaced
from ironstone.core.field.plies import COUNT, THICKNESS, ZONE
from ironstone.core.field.recover import OPENINGS, PENETRATION
from ironstone.core.kinds import kind_of
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.resolved import Resolved
from ironstone.core.words import listed


def caveats(resolved: Resolved, source: Source, values: Float) -> list[str]:
    """What must be said beside these values: the reading's own caveats, and what the numbers themselves give away."""
    notes = resolved.caveats
    if resolved.field.location == "gauss" and not resolved.at_points:
        notes += _of_gauss(resolved, source)
    if resolved.field.kind == "plastic strain" and resolved.field.rank == "scalar" and len(values):
        low, high = np.nanmin(values, initial=0.0), np.nanmax(values, initial=0.0)
        if low < -1e-6 * max(high, 1e-30):
            notes.append("Extrapolated to the corners before import: an equivalent plastic strain below zero is not real.")
    if _tells_yielding(resolved) and np.isfinite(values).any() and not np.nan_to_num(values).any():
        notes += _not_yielded(source, len(values))
    if resolved.field.of_plies and source.setup.laminates is not None:
        notes += source.setup.laminates.notes
    if len(values) and np.isnan(values).any():
        notes.append(f"No value {'here' if len(values) == 1 else 'at some places'}: {_why_missing(resolved, source)}.")
    return notes


def _of_gauss(resolved: Resolved, source: Source) -> list[str]:
    """How values at corners, or of elements, came from the Gauss points."""
    without = unplaced(source, resolved.field)
    if without:
        return [f"Where the Gauss points of a {without} lie is not known: corners and means show their plain mean."]
    if resolved.reading.averaging == "element" and resolved.reading.of == "value":
        return []
    return ["Extrapolated from the Gauss points to the corners with the functions of their grid; nothing is clipped."]


def _tells_yielding(resolved: Resolved) -> bool:
    """Whether a reading is zero only where nothing has yielded: a jump, a difference or one component may be zero elsewhere."""
    reading, field = resolved.reading, resolved.field
    plain = reading.of == "value" and reading.against is None and reading.over != "smallest"
    return field.kind == "plastic strain" and plain and (field.rank == "scalar" or resolved.measure.name == "von-mises")


def _not_yielded(source: Source, places: int) -> list[str]:
    """Why a plastic strain is zero: because nothing yielded, or because nothing could."""
    stated = source.setup.constants
    elastic = [name for name in source.mesh.material_or_part_names if stated.get(name) and "yield" not in stated[name]]
    if elastic:
        said = f"Zero: no plasticity was defined of {listed(elastic)}, whose constants are stated without a yield strength."
        return [said + (" Elsewhere nothing has yielded." if len(elastic) < len(source.mesh.material_or_part_names) else "")]
    return ["Zero at all these places: nothing has yielded there."] if places > 1 else []


def _why_missing(resolved: Resolved, source: Source) -> str:
    """The likeliest reasons a value is missing, most certain first."""
    reading, field = resolved.reading, resolved.field
    if kind_of(field.kind).strained and getattr(source, "rigid", None) is not None:
        return "a rigid body has no stress and no strain"
    if reading.region != "all":
        return f"the reading is of {resolved.words['region']} alone"
    if set(resolved.measure.needs) & set(CONSTANTS) or reading.of == "error":
        return "no material constants are stated there"
    if field.name == PENETRATION and field.recovered:
        return "no other body is inside or beside it there"
    if field.name in OPENINGS and field.recovered:
        border = ", and a planar model's border has no area to colour: flags, paths and traces read it"
        return "no other face lies on it there" + (border if source.mesh.planar else "")
    if source.steps[reading.step].kind == COMBINATION and not adds(field) and not stays(field):
        return f"'{field.name}' of a sum of loads is not the sum of theirs"
    if field.recovered and source.mesh.planar and resolved.measure.direction not in (0, 1, 3):
        return "the strain across a planar model is not known until its model and Poisson's ratio are stated"
    if field.of_plies:
        return "no such ply lies there, or the result has nothing that it follows from"
    if field.name in (COUNT, THICKNESS, ZONE) and field.recovered:
        return "no laminate is stated there"
    if field.flat:
        return "the file leaves the third direction out, and the model and Poisson's ratio that give it are not stated"
    if resolved.axes.kind in ("cylindrical", "spherical"):
        return "the file has none, or the place lies on the axis itself"
    if resolved.measure.name in ("triaxiality", "lode-angle"):
        return "the file has none, or nothing distorts there"
    return "the file has none"
