"""What a view shows of a reading: values at the drawn vertices with their key, over many steps where asked, and arrows."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible
from ironstone.core.field.categories import names_of, places_in
from ironstone.core.field.moved import degrees_of, moved_nodes
from ironstone.core.field.sliced import at_phase
from ironstone.core.kept import is_kept, remembered
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.distribution import by_volume, distribution
from ironstone.core.reading.error_estimate import error_estimate
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import Extreme, extremes
from ironstone.core.reading.key_limits import key_limits
from ironstone.core.reading.over_steps import Tell
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import Resolved
from ironstone.core.statics.arrows import arrows
from ironstone.core.statics.set_arrows import set_arrows
from ironstone.engine.reading import answers
from ironstone.engine.reading.drawing import base_of, surface
from ironstone.engine.reading.limits_beside import LimitBeside, limits_beside
from ironstone.engine.words import LookQuery, ReadingQuery
from ironstone.store.source import ReviewSource


class SurfaceQuery(ReadingQuery, LookQuery):
    weigh: Literal["area", "volume"] = Field("area", description="What the distribution beside the key is by.")


class ArrowsQuery(LookQuery):
    field: str
    step: int
    spacing: float = Field(0.03, ge=0, le=1, description="Least distance between arrows, as a share of the model's size.")
    unit: str | None = None
    by: Literal["node", "set"] = Field("node", description="One arrow a node or face, or one a set: its resultant.")
    phase: str = Field("", max_length=40, description="Of a harmonic, as a reading has it: its degrees; 0 of what is none.")


class ExtremeOut(BaseModel):
    value: float | None
    element: int | None
    node: int | None
    part: str | None
    xyz: list[float]
    moved: list[float] = Field(default=[0.0, 0.0, 0.0], description="Displacement there, at the step in view.")


class CategoryOut(BaseModel):
    """One name of a key of names; its number is its place in the list. colour: which of the colours of names it has."""

    name: str
    colour: int
    share: float


class KeyLimitsOut(BaseModel):
    """Limits of the key where none are typed, for each scale; logarithmic: null where there can be none."""

    plain: tuple[float, float]
    two_tones: tuple[float, float] = Field(description="Of a map of two tones that part at zero.")
    logarithmic: tuple[float, float] | None


class ValuesHead(BaseModel):
    """What travels beside the raw values of a view."""

    sentence: str
    words: dict[str, str] = Field(description="The groups of words of the reading line, by name; empty ones say nothing.")
    unit: str
    signed: bool
    caveats: list[str]
    min: ExtremeOut | None
    max: ExtremeOut | None
    limits: KeyLimitsOut | None = Field(description="Null where there is no value.")
    key_of: str | None = Field(description="Two pictures in which it is the same can share a key; null of one that shares none.")
    drawn_low: float | None
    drawn_high: float | None
    shares: list[float]
    missing: float
    limit: float | None = Field(None, description="Where the colours break: 1 of what fails there.")
    beside: list[LimitBeside] = Field([], description="Stated limits of the materials its values are to be seen against.")
    error_total: float | None = None
    categories: list[CategoryOut] | None = Field(None, description="Of names: values are places in this list.")
    names_of: str = Field("", description="What the names are of.")
    base: float = Field(0.0, description="What the values are sent without: single precision holds what differs between them.")


PREPARED = "prepared readings"


def on_surface(source: ReviewSource, query: SurfaceQuery) -> tuple[ValuesHead, Float]:
    """Values at the drawn vertices, (vertices,), and all that stands beside them."""
    return prepared(source, query, None) if query.reading().over_many else _worked_out(source, query, None)


def takes_long(source: ReviewSource, query: SurfaceQuery) -> bool:
    """Whether a reading is over many steps, and not worked out yet."""
    return query.reading().over_many and not is_kept(source, PREPARED, _key_of(source, query))


def prepared(source: ReviewSource, query: SurfaceQuery, tell: Tell | None) -> tuple[ValuesHead, Float]:
    """A reading over many steps, worked out once: the last few are kept with their source."""

    def work() -> tuple[ValuesHead, Float]:
        return _worked_out(source, query, tell)

    return remembered(source, PREPARED, _key_of(source, query), work, most=6)


def _key_of(source: ReviewSource, query: SurfaceQuery) -> tuple[str, ...]:
    return (*resolve(query.reading(), source).revisions, query.model_dump_json())


def limits_for(lows: list[float], highs: list[float], limit: float | None) -> KeyLimitsOut:
    """Limits of one key for pictures with these lowest and highest values. Raises Impossible where these are no ranges."""
    if not lows or len(lows) != len(highs) or not all(low <= high for low, high in zip(lows, highs, strict=True)):
        raise Impossible("A key needs a lowest and a highest value of each picture.", "Give as many of the one as of the other.")
    return KeyLimitsOut.model_validate(key_limits(zip(lows, highs, strict=True), limit)._asdict())


def breaks_at(resolved: Resolved) -> float | None:
    """Where the colours of a reading break: 1 of what fails there."""
    return 1.0 if resolved.limited else None


def _names_of(resolved: Resolved) -> str:
    if resolved.cases:
        return "governing case"
    return resolved.words["measure"] if resolved.criterion_words else resolved.name


def _worked_out(source: ReviewSource, query: SurfaceQuery, tell: Tell | None) -> tuple[ValuesHead, Float]:
    reading = query.reading()
    half = None if tell is None else (lambda share, text: tell(share / 2, text))
    rest = None if tell is None else (lambda share, text: tell(0.5 + share / 2, f"highest and lowest, {text}"))
    resolved = resolve(reading, source)
    skin = surface(source, query.look())
    answer = evaluate(reading, source, skin.vertices, half)
    values = answer.values
    everywhere, low, high = extremes(reading, source, rest)
    categories = None
    naming = resolved.naming
    if naming is not None and reading.of == "value" and (resolved.cases or not reading.when):
        known = names_of(naming, everywhere.names)
        if resolved.cases:
            known = [k for k in known if int(k.number) in resolved.span]
        values = places_in(known, values)
        portions = distribution(skin, values, -0.5, len(known) - 0.5, len(known))
        categories = [
            CategoryOut(name=k.name, colour=k.colour, share=float(portion)) for k, portion in zip(known, portions, strict=True)
        ]
    finite = values[~np.isnan(values)]
    first, last = (low.value, high.value) if low and high else (0.0, 0.0)
    if query.weigh == "volume":
        shares = by_volume(source.mesh, evaluate(reading, source, AtCorners()), query.look().hidden, first, last)
    else:
        shares = distribution(skin, values, first, last)
    signed = (reading.of == "value" and resolved.signed) or resolved.against is not None
    head = ValuesHead.model_validate(
        {
            "sentence": resolved.sentence(),
            "words": resolved.words,
            "unit": resolved.unit,
            "signed": signed,
            "caveats": answer.caveats,
            "min": _extreme(low, source, reading.step, reading.phase),
            "max": _extreme(high, source, reading.step, reading.phase),
            "limits": limits_for([low.value], [high.value], breaks_at(resolved)) if low and high else None,
            "key_of": f"{resolved.words['measure']}, {resolved.unit}{', signed' if signed else ''}" if categories is None else None,
            "drawn_low": float(finite.min()) if len(finite) else None,
            "drawn_high": float(finite.max()) if len(finite) else None,
            "shares": shares.tolist(),
            "missing": 1.0 - len(finite) / max(len(values), 1),
            "categories": categories,
            "names_of": _names_of(resolved) if categories is not None else "",
            "base": base_of(values) if categories is None else 0.0,
            "limit": breaks_at(resolved),
            "beside": limits_beside(resolved, source) if categories is None else [],
            "error_total": answers.number(error_estimate(reading, source).total) if reading.of == "error" else None,
        }
    )
    return head, values


def _extreme(extreme: Extreme | None, source: ReviewSource, step: int, phase: str) -> dict[str, Any] | None:
    """A highest or lowest with its place and how far that has moved at a step."""
    answer = answers.place_of_extreme(extreme, source)
    if answer is not None and extreme is not None:
        mesh = source.mesh
        own = slice(mesh.offsets[extreme.element], mesh.offsets[extreme.element + 1])
        nodes = np.array([extreme.node]) if extreme.node >= 0 else mesh.connectivity[own]
        moved = moved_nodes(source, step, phase, nodes)
        if moved is not None:
            answer["moved"] = moved.mean(0).tolist()
    return answer


def drawn_arrows(source: ReviewSource, query: ArrowsQuery) -> tuple[dict[str, Any], dict[str, Any]]:
    """Arrows of a vector or crosses of principals: what is said of them, and their arrays."""
    spacing = query.spacing * source.mesh.size
    drawn = surface(source, query.look())
    names: list[str] = []
    turning = query.field in source.fields and source.fields[query.field].harmonic
    # Arrows of a harmonic stand as they do at the phase its shape is drawn at.
    now = at_phase(source, degrees_of(query.phase)) if turning else source
    if query.by == "set":
        found, names = set_arrows(query.field, now, drawn, query.step, query.unit)
    else:
        found = arrows(query.field, now, drawn, query.step, spacing, query.unit)
    nodal = moved_nodes(source, query.step, query.phase)
    moved = np.zeros_like(found.points)
    if nodal is not None and len(found.points):
        moved = positions(source.mesh, found.place, nodal)
    head = {
        "origin": source.mesh.middle.tolist(),
        "kind": "vector" if found.directions is None else "cross",
        "field": f"{query.field} at phase {degrees_of(query.phase):g}°" if turning else query.field,
        "unit": found.resolved.unit,
        "longest": found.longest,
        "count": len(found.points),
        "spacing": found.spacing / source.mesh.size if source.mesh.size else 0.0,
        "asked_spacing": query.spacing,
        "names": [[name, float(np.linalg.norm(v))] for name, v in zip(names, found.values, strict=False)],
        "at": "sets" if query.by == "set" else "nodes" if found.resolved.field.location == "node" else "faces",
    }
    points = found.points - source.mesh.middle
    packed: dict[str, Any] = {"points": points, "displacement": moved, "values": found.values, "outward": found.outward}
    if found.directions is not None:
        packed["directions"] = found.directions.reshape(-1, 9)
    return head, packed
