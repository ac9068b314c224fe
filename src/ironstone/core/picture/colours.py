"""Which colour a value has: the rules of the key, the same as in the bench, where the graphics card follows them."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Float
from ironstone.core.picture.tables import TABLES

Bytes = NDArray[np.uint8]
# Two tones that part at zero.
DIVERGING = ("vik", "broc")
# Calm below a limit and iron above it: pale to deep within each.
CALM = ((238, 234, 222), (104, 150, 150))
IRON = ((214, 140, 98), (112, 26, 16))
INK, SHEET, STONE = (35, 40, 45), (251, 249, 244), (180, 173, 160)
PLAIN = (241, 236, 226)


@cache
def table(name: str) -> Bytes:
    """Colours of a map, (256, 3); of names, (24, 3). Raises KeyError for one that is not known."""
    return np.frombuffer(base64.b64decode(TABLES[name]), dtype=np.uint8).reshape(-1, 3)


@dataclass(frozen=True)
class Key:
    """How values are coloured. map: one of the tables; bands: 0 continuous; limit: where the colours break, None for nowhere;
    names: the colours of names by number, values are places in this list; iso: 'none', 'over' or 'alone'."""

    low: float
    high: float
    bands: int = 9
    map: str = "batlow"
    logarithm: bool = False
    limit: float | None = None
    names: tuple[int, ...] | None = None
    iso: str = "none"

    @property
    def breaks(self) -> bool:
        return self.limit is not None and self.names is None

    @property
    def logarithmic(self) -> bool:
        return self.logarithm and self.low > 0 and self.names is None

    def along(self, values: Float) -> Float:
        """How far along the scale values are: 0 at its lowest, 1 at its highest end."""
        if not self.logarithmic:
            return (values - self.low) / (self.high - self.low)
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.where(values > 0, np.log(values / self.low) / np.log(self.high / self.low), -1.0)

    @property
    def break_at(self) -> float:
        """How far along the scale the colours break, 0 to 1."""
        assert self.limit is not None
        return float(np.clip(self.along(np.array([self.limit]))[0], 0.0, 1.0))

    def value_at(self, share: float) -> float:
        """The value at a share of the scale."""
        if self.logarithmic:
            return float(self.low * (self.high / self.low) ** share)
        return self.low + share * (self.high - self.low)


def coloured(values: Float, key: Key) -> Bytes:
    """Colours (n, 3) of values (n,) that are there; beyond the limits that of the end."""
    if key.names is not None:
        place = np.clip(np.round(values), 0, max(len(key.names) - 1, 0)).astype(np.int64)
        own = table("batlowS")
        return own[np.array(key.names, dtype=np.int64)[place] % len(own)]
    share = np.clip(key.along(values), 0.0, 1.0)
    if key.breaks:
        assert key.limit is not None
        at = key.break_at
        over = values >= key.limit
        room = np.where(over, 1.0 - at, at)
        inner = np.clip(np.where(over, share - at, share) / np.maximum(room, 1e-6), 0.0, 1.0)
        if key.bands > 0:
            # Bands are counted in each part, so that none lies across the limit.
            count = np.maximum(1.0, np.floor(key.bands * room + 0.5))
            inner = (np.minimum(np.floor(inner * count), count - 1.0) + 0.5) / count
        ends = np.where(over[:, None, None], np.array(IRON, dtype=float), np.array(CALM, dtype=float))
        mixed: Bytes = np.round(ends[:, 0] + inner[:, None] * (ends[:, 1] - ends[:, 0])).astype(np.uint8)
        return mixed
    if key.bands > 1:
        share = np.minimum(np.floor(share * key.bands), key.bands - 1.0) / (key.bands - 1.0)
    elif key.bands == 1:
        share = np.full_like(share, 0.5)
    return table(key.map)[np.round(255.0 * share).astype(np.int64)]


def pieces(key: Key) -> list[tuple[float, float, tuple[int, int, int]]]:
    """The stretches of the key as it stands beside a picture: from, to as shares of its height, colour."""
    count = key.bands if key.bands > 0 else 64
    borders = [(i / count, (i + 1) / count) for i in range(count)]
    if key.breaks:
        at = key.break_at
        borders = []
        for first, last in ((0.0, at), (at, 1.0)):
            own = max(1, int(np.floor(count * (last - first) + 0.5))) if last > first else 0
            borders += [(first + (last - first) * i / own, first + (last - first) * (i + 1) / own) for i in range(own)]
    middles = np.array([key.value_at((a + b) / 2) for a, b in borders])
    return [(a, b, (int(r), int(g), int(c))) for (a, b), (r, g, c) in zip(borders, coloured(middles, key), strict=True)]
