"""The front of a growing or shrinking region: where a reading has a value, how far it has come along a way, how straight it is."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float
from ironstone.core.mesh.places import AtElements, AtSamples
from ironstone.core.reading.cuts import iso_pieces
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading

# Places of a straight piece that carry its first and second moments: two of a line, three of a triangle, with their weights.
_AT = {
    2: (
        np.array([[0.5 + 0.5 / np.sqrt(3.0), 0.5 - 0.5 / np.sqrt(3.0)], [0.5 - 0.5 / np.sqrt(3.0), 0.5 + 0.5 / np.sqrt(3.0)]]),
        0.5,
    ),
    3: (np.array([[2, 0.5, 0.5], [0.5, 2, 0.5], [0.5, 0.5, 2]]) / 3.0, 1.0 / 3.0),
}


@dataclass(frozen=True, eq=False)
class Front:
    """A front at one step.

    pieces: (p, d, 3), segments (d 2) of faces and planar models, triangles (d 3) of solids. size: its length or area. middle: (3,).
    least, mean, most: the way it has come along the direction. angle: between the line or plane that fits it best and straight
    across the direction, in degrees. away: how far it is from that line or plane, RMS.
    """

    pieces: Float
    size: float
    middle: Float
    least: float
    mean: float
    most: float
    angle: float
    away: float


def front(reading: Reading, source: Source, value: float, along: Float) -> Front | None:
    """The front where a reading has a value at its step, its way along a direction of unit length. None where it is nowhere there.

    Raises Impossible of bars, where such a place is a point.
    """
    mesh = source.mesh
    try:
        found = iso_pieces(reading, source, value)
    except Impossible:
        return None
    if not found:
        return None
    dimension = found[0].xi.shape[1]
    if dimension < 2:
        raise Impossible("Of bars the place where a reading has a value is a point.", "Follow it as a cut through the steps.")
    parts = []
    for piece in found:
        elements = piece.block.elements[np.repeat(piece.owner, dimension)]
        parts.append(positions(mesh, AtSamples(elements, piece.xi.reshape(-1, 3))).reshape(-1, dimension, 3))
    return measured(np.concatenate(parts), along)


def region_at_least(reading: Reading, source: Source, value: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """The elements (elements,) over which the mean of a reading is at least a value, and those over which it is less; one that has
    no value is of neither."""
    means = evaluate(replace(reading, averaging="element"), source, AtElements(np.arange(len(source.mesh.types)))).values
    return means >= value, means < value


def measured(pieces: Float, along: Float) -> Front:
    """What a front of straight pieces (p, d, 3) measures along a direction of unit length."""
    dimension = pieces.shape[1]
    sides = pieces[:, 1:] - pieces[:, :1]
    sizes = (
        np.linalg.norm(sides[:, 0], axis=1) if dimension == 2 else np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1) / 2
    )
    at, weight = _AT[dimension]
    places = np.einsum("qd,pdx->pqx", at, pieces)
    weights = np.repeat(sizes * weight, len(at)).reshape(len(pieces), len(at))
    total = float(weights.sum())
    flat = places.reshape(-1, 3)
    share = weights.ravel() / max(total, 1e-300)
    middle = share @ flat
    spread = np.einsum("q,qx,qy->xy", share, flat - middle, flat - middle)
    values, axes = np.linalg.eigh(spread)
    values = np.maximum(values, 0.0)
    if dimension == 2:
        # Of a line: how far its own direction is from square to the way; and what is left beside it.
        slope = abs(float(axes[:, 2] @ along))
        away = float(np.sqrt(values[0] + values[1]))
    else:
        slope = float(np.linalg.norm(np.cross(axes[:, 0], along)))
        away = float(np.sqrt(values[0]))
    way = pieces.reshape(-1, 3) @ along
    return Front(
        pieces,
        total,
        middle,
        float(way.min()),
        float(middle @ along),
        float(way.max()),
        float(np.degrees(np.arcsin(min(slope, 1.0)))),
        away,
    )
