"""A printed curve read off its picture: two marks on each axis say what a place in the picture means."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float


@dataclass(frozen=True)
class AxisMarks:
    """Two places in a picture (pixels, right and down) where an axis has known values; logarithmic where it is printed so."""

    first: tuple[float, float]
    first_value: float
    second: tuple[float, float]
    second_value: float
    logarithmic: bool = False

    @property
    def way(self) -> Float:
        return np.subtract(self.second, self.first, dtype=np.float64)

    def value(self, share: Float) -> Float:
        """The axis' value at a share of the way from the first mark to the second."""
        if self.logarithmic:
            result: Float = self.first_value * (self.second_value / self.first_value) ** share
            return result
        return self.first_value + share * (self.second_value - self.first_value)


def read_off(points: Float, x: AxisMarks, y: AxisMarks) -> tuple[Float, Float]:
    """What places (n, 2) in a picture stand for: x (n,) and y (n,). The picture may be turned or skewed, not bent.

    A place is split along the two axes' own directions, so that a scan that lies askew is read as if it did not.
    """
    for word, axis in (("x", x), ("y", y)):
        values = np.array([axis.first_value, axis.second_value])
        if not np.isfinite(values).all() or values[0] == values[1]:
            raise IronstoneError(f"The two marks of the {word} axis need two different values.", "Write the numbers printed there.")
        if axis.logarithmic and (values <= 0).any():
            raise IronstoneError(f"A logarithmic {word} axis has no value at or below zero.", "Mark two values above zero.")
    points = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    ways = np.stack([x.way, y.way], 1)
    size = float(np.linalg.norm(x.way) * np.linalg.norm(y.way))
    if size == 0.0 or abs(float(np.linalg.det(ways))) < 0.1 * size:
        raise IronstoneError(
            "The marks do not tell the two axes apart.", "Mark two places along each axis, well away from each other."
        )
    along_x = np.linalg.solve(ways, (points - np.array(x.first)).T)[0]
    along_y = np.linalg.solve(ways, (points - np.array(y.first)).T)[1]
    return x.value(along_x), y.value(along_y)
