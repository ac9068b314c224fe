"""Which triangle lies under each pixel, and which pixels a line goes through. Screen coordinates are pixels from the upper left
corner, a pixel's middle at one half; depth grows away from the eye and is linear on the screen."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Float, Int

# So many pixels are asked about at a time: bounds the memory, whatever the size of the triangles.
AT_A_TIME = 2_000_000
# A pixel is looked at this little beside its middle, where hardly an edge goes through: it is under one of two faces that meet.
ASIDE = (1.234567e-6, 2.718281e-6)


@dataclass(frozen=True, eq=False)
class Seen:
    """triangle: (h, w) the nearest one, -1 for none. weights: (h, w, 3) of its corners, on the screen. depth: (h, w), else inf."""

    triangle: NDArray[np.int32]
    weights: NDArray[np.float32]
    depth: NDArray[np.float64]

    @property
    def there(self) -> NDArray[np.bool_]:
        found: NDArray[np.bool_] = self.triangle >= 0
        return found


def seen(screen: Float, triangles: NDArray[Any], width: int, height: int) -> Seen:
    """The nearest triangle under each pixel's middle. screen: (n, 3) x, y, depth of vertices; triangles: (t, 3) of them.

    A triangle seen edge on, or with a coordinate that is not finite, is under no pixel.
    """
    nearest = np.full(width * height, np.inf)
    which = np.full(width * height, -1, dtype=np.int32)
    weights = np.zeros((width * height, 3), dtype=np.float32)
    for own, pixel, share, depth in _under(screen, triangles, width, height):
        np.minimum.at(nearest, pixel, depth)
        won = depth <= nearest[pixel]
        which[pixel[won]], weights[pixel[won]] = own[won], share[won]
    shape = (height, width)
    return Seen(which.reshape(shape), weights.reshape(*shape, 3), nearest.reshape(shape))


def all_under(
    screen: Float, triangles: NDArray[Any], width: int, height: int
) -> tuple[NDArray[np.int32], NDArray[np.int64], NDArray[np.float32], Float]:
    """Every triangle under each pixel, hidden or not, pixel by pixel in the order of the triangles: triangle, pixel, weights
    (k, 3), depth."""
    found = list(_under(screen, triangles, width, height))
    if not found:
        none = np.zeros(0)
        return none.astype(np.int32), none.astype(np.int64), none.reshape(0, 3).astype(np.float32), none
    own, pixel, share, depth = (np.concatenate(parts) for parts in zip(*found, strict=True))
    order = np.lexsort((own, pixel))
    return own[order], pixel[order], share[order].astype(np.float32), depth[order]


def _under(
    screen: Float, triangles: NDArray[Any], width: int, height: int
) -> Iterator[tuple[Int, NDArray[np.int64], Float, Float]]:
    """Triangles and pixels under them, some at a time: triangle, pixel, weights of the corners (k, 3), depth."""
    corners = screen[triangles]
    a, b, c = corners[:, 0, :2], corners[:, 1, :2], corners[:, 2, :2]
    twice = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    usable = np.isfinite(corners).all((1, 2)) & (np.abs(twice) > 1e-12)
    with np.errstate(invalid="ignore"):
        # The first and the last pixel whose middle lies in the triangle's box.
        low = np.ceil(np.clip(corners[:, :, :2].min(1), -1, [width + 1, height + 1]) - 0.5)
        high = np.floor(np.clip(corners[:, :, :2].max(1), -1, [width + 1, height + 1]) - 0.5)
    low = np.where(usable[:, None], np.maximum(low, 0), 0).astype(np.int64)
    high = np.where(usable[:, None], np.minimum(high, [width - 1, height - 1]), -1).astype(np.int64)
    across, down = np.maximum(high - low + 1, 0).T
    # Rows of boxes: one huge triangle is a few thousand rows, never one piece of millions of pixels.
    down = np.where(across > 0, down, 0)
    owner = np.repeat(np.arange(len(triangles)), down)
    row = low[owner, 1] + _counted(down)
    for first, last in _portions(across[owner], AT_A_TIME):
        count = across[owner[first:last]]
        own = np.repeat(owner[first:last], count)
        x = low[own, 0] + _counted(count)
        y = np.repeat(row[first:last], count)
        px, py = x + 0.5 + ASIDE[0], y + 0.5 + ASIDE[1]
        u = ((b[own, 0] - px) * (c[own, 1] - py) - (b[own, 1] - py) * (c[own, 0] - px)) / twice[own]
        v = ((c[own, 0] - px) * (a[own, 1] - py) - (c[own, 1] - py) * (a[own, 0] - px)) / twice[own]
        share = np.stack([u, v, 1.0 - u - v], axis=1)
        inside = (share >= 0.0).all(1)
        own, share = own[inside], np.clip(share[inside], 0.0, 1.0)
        depth = np.einsum("kc,kc->k", share, corners[own, :, 2])
        yield own.astype(np.int32), y[inside] * width + x[inside], share, depth


def _counted(counts: NDArray[Any]) -> NDArray[np.int64]:
    """0, 1, ... within each of some runs, one after the other."""
    ends = np.cumsum(counts)
    found: NDArray[np.int64] = np.arange(ends[-1] if len(ends) else 0) - np.repeat(ends - counts, counts)
    return found


def _portions(sizes: NDArray[Any], most: int) -> Iterator[tuple[int, int]]:
    """Runs of consecutive things of no more than ``most`` together, but of one at least."""
    ends = np.cumsum(sizes)
    first = 0
    while first < len(sizes):
        before = ends[first - 1] if first else 0
        last = max(int(np.searchsorted(ends, before + most, "right")), first + 1)
        yield first, last
        first = last


def line_pixels(screen: Float, lines: NDArray[Any], found: Seen, room: float) -> NDArray[np.bool_]:
    """The pixels lines go through, (h, w), but for those hidden by what is ``found`` nearer by more than ``room``.

    screen: (n, 3); lines: (e, 2).
    """
    height, width = found.depth.shape
    drawn = np.zeros(height * width, dtype=bool)
    ends = screen[lines]
    reach = np.abs(ends[:, 1, :2] - ends[:, 0, :2]).max(1)
    usable = np.isfinite(ends).all((1, 2)) & (reach < 20.0 * (width + height))
    ends, steps = ends[usable], np.ceil(reach[usable]).astype(np.int64) + 1
    farthest = _farthest_near(found.depth).ravel()
    for first, last in _portions(steps, AT_A_TIME):
        own = np.repeat(np.arange(first, last), steps[first:last])
        share = _counted(steps[first:last]) / np.maximum(steps[own] - 1, 1)
        at = ends[own, 0] + share[:, None] * (ends[own, 1] - ends[own, 0])
        x, y = np.floor(at[:, 0]).astype(np.int64), np.floor(at[:, 1]).astype(np.int64)
        inside = (x >= 0) & (x < width) & (y >= 0) & (y < height)
        pixel = y[inside] * width + x[inside]
        near = at[inside, 2] <= farthest[pixel] + room
        drawn[pixel[near]] = True
    return drawn.reshape(height, width)


def _farthest_near(depth: Float) -> Float:
    """The largest depth among each pixel's neighbours and itself: a line along an edge lies in its neighbours' faces as well."""
    padded = np.pad(depth, 1, mode="edge")
    height, width = depth.shape
    found: Float = np.maximum.reduce([padded[i : i + height, j : j + width] for i in range(3) for j in range(3)])
    return found
