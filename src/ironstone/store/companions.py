"""Files of points alone chosen along with a body's: supports, loads, sensors. What they hold is laid on the body's nodes."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ironstone.formats.registry import RawArray, RawStep

VERTEX = 1
# How far a place may lie from a node, as a share of the body's size, to be that node.
NEAR = 1e-6


def places_alone(step: RawStep) -> bool:
    """Whether a step holds nothing but places."""
    return len(step.types) > 0 and bool((step.types == VERTEX).all())


@dataclass
class Companions:
    """Steps of points alone, by the names of their files. arrays: what they hold at the points of the body, once laid on it."""

    steps: list[tuple[str, RawStep]] = field(default_factory=list)
    arrays: dict[str, RawArray] = field(default_factory=dict)
    sets: dict[str, NDArray[np.int64]] = field(default_factory=dict)
    said: list[str] = field(default_factory=list)

    def laid_on(self, body: RawStep) -> None:
        """Find the body's points for all places: (points,) of ``body``; what lies at none of them is told and left out."""
        from scipy.spatial import cKDTree

        points = np.asarray(body.points, dtype=np.float64)
        size = float(np.linalg.norm(np.ptp(points, axis=0)))
        # Elements that share no nodes have several points at one place.
        own = cKDTree(points)
        seen: set[str] = set()
        for name, step in self.steps:
            if name in seen:
                self.said.append(
                    f"{name} holds several steps: its first alone is laid on the body. Take it in by itself for the others."
                )
                continue
            seen.add(name)
            places = np.asarray(step.points, dtype=np.float64)
            met = own.query_ball_point(places, NEAR * size)
            there = np.array([k for k, found in enumerate(met) for _ in found], dtype=np.int64)
            nodes = np.array([n for found in met for n in found], dtype=np.int64)
            lost = sum(not found for found in met)
            stem = Path(name).stem
            if lost:
                self.said.append(f"{lost} of the {len(places)} points of {name} lie at no node of the body: left out.")
            if not len(nodes):
                continue
            self.said.append(f"{len(places) - lost} points of {name} lie at nodes of the body: they are the set '{stem}'.")
            self.sets[stem] = np.unique(nodes)
            for array, held in step.point_data.items():
                title = array if array not in body.point_data and array not in self.arrays else f"{array} of {stem}"
                self.arrays[title] = replace(held, values=_spread(held.values, there, nodes, len(points)))

    def added_to(self, step: RawStep) -> RawStep:
        """A step of the body with what lies on it."""
        return replace(step, point_data={**step.point_data, **self.arrays}) if self.arrays else step


def _spread(values: NDArray[np.generic], there: NDArray[np.int64], nodes: NDArray[np.int64], count: int) -> NDArray[np.generic]:
    """Values at places on (count,) points: marks stay whole numbers, 0 elsewhere; what is measured has no value elsewhere."""
    if values.dtype.kind in "iub" and values.shape[1] == 1 and np.isin(values, (0, 1)).all():
        marks = np.zeros((count, 1), dtype=np.uint8)
        marks[nodes] = values[there]
        return marks
    table = np.full((count, values.shape[1]), np.nan, dtype=np.float32 if values.dtype == np.float32 else np.float64)
    table[nodes] = values[there]
    return table
