"""Where one looks from, and where on the screen a place of the model is. The view of the bench is the same."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from ironstone.core.mesh.mesh import Float

# The eye stands this many model radii from where it looks; zoom is kept for a view of so many pixels.
DISTANCE, KEPT_FOR = 4.0, 400.0
# A solid is looked at from the front, a little from the left and above; a planar model from straight above.
USUAL, ABOVE = (-0.52, -1.0, 0.5), (0.0, 0.0, 1.0)
FILLED = 0.84


@dataclass(frozen=True)
class Camera:
    """eye, target: (3,) places; zoom: pixels a length unit where one looks; up: (3,); radius: half the model's size."""

    eye: tuple[float, float, float]
    target: tuple[float, float, float]
    zoom: float
    up: tuple[float, float, float]
    radius: float
    perspective: bool = False

    @classmethod
    def kept(cls, seven: list[float], size: tuple[int, int], planar: bool, radius: float, perspective: bool) -> Self:
        """A camera as an address keeps it: eye, target, and the zoom of a view of 400 pixels."""
        x, y, z, tx, ty, tz, zoom = seven
        up = (0.0, 1.0, 0.0) if planar else ABOVE
        return cls((x, y, z), (tx, ty, tz), zoom * min(size) / KEPT_FOR, up, radius, perspective)

    @classmethod
    def fitted(
        cls, points: Float, size: tuple[int, int], planar: bool, radius: float, perspective: bool = False, side: Float | None = None
    ) -> Self:
        """Brings points (n, 3) into a window of this size in pixels. side: the direction (3,) one looks from."""
        up = (0.0, 1.0, 0.0) if planar else ABOVE
        away = np.array(ABOVE if planar else USUAL) if side is None else np.array(side)
        away /= np.linalg.norm(away)
        target = (points.min(0) + points.max(0)) / 2
        plain = cls(_three(target + DISTANCE * radius * away), _three(target), 1.0, up, radius, perspective)
        right, above, _ = plain.axes
        flat = np.stack([(points - target) @ right, (points - target) @ above], axis=1)
        low, high = flat.min(0), flat.max(0)
        middle = (low + high) / 2
        target = target + middle[0] * right + middle[1] * above
        zoom = FILLED * float(np.min(np.array(size) / np.maximum(high - low, 1e-9 * radius)))
        return replace(plain, eye=_three(target + DISTANCE * radius * away), target=_three(target), zoom=zoom)

    @property
    def axes(self) -> tuple[Float, Float, Float]:
        """Right, upwards on the screen, and towards the eye: unit vectors."""
        back = np.array(self.eye) - np.array(self.target)
        back = back / max(float(np.linalg.norm(back)), 1e-300)
        right = np.cross(np.array(self.up), back)
        if np.linalg.norm(right) < 1e-9:
            # Straight along the upright axis any side is right: the next axis stands up.
            right = np.cross(np.array([0.0, 1.0, 0.0]) if abs(back[1]) < 0.9 else np.array([1.0, 0.0, 0.0]), back)
        right = right / np.linalg.norm(right)
        return right, np.cross(back, right), back

    def on_screen(self, points: Float, size: tuple[int, int]) -> Float:
        """Pixels from the upper left corner and depth, (n, 3); NaN of what lies behind an eye with perspective."""
        right, above, back = self.axes
        away = points - np.array(self.target)
        x, y, near = away @ right, away @ above, away @ back
        depth = -near
        if self.perspective:
            d = DISTANCE * self.radius
            ahead = d - near
            ahead = np.where(ahead > 0.05 * d, ahead, np.nan)
            x, y = x * d / ahead, y * d / ahead
            # Linear on the screen, and in the model's length where one looks.
            depth = d - d * d / ahead
        width, height = size
        return np.stack([width / 2 + x * self.zoom, height / 2 - y * self.zoom, depth], axis=1)


def _three(vector: Float) -> tuple[float, float, float]:
    return float(vector[0]), float(vector[1]), float(vector[2])
