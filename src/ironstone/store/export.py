"""A result of a review written as a file again."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from ironstone.formats.out import write
from ironstone.formats.registry import RawArray, RawStep
from ironstone.store.source import ReviewSource


def export(source: ReviewSource, path: Path, steps: Sequence[int]) -> list[str]:
    """Write some steps of a result; the suffix names the format. Returns what the format could not carry, in words.

    Fields that are recovered here are not written: they can be recovered again.
    """
    return write(path, raw_steps(source, steps), source.system.name)


def raw_steps(source: ReviewSource, steps: Sequence[int]) -> Iterator[RawStep]:
    """Steps of a result in the neutral form of readers and writers."""
    whole = source
    for index in steps:
        source = whole.at(index)
        mesh, step = source.mesh, source.steps[index]
        raw = RawStep(
            points=mesh.points,
            types=mesh.types,
            offsets=mesh.offsets,
            connectivity=mesh.connectivity,
            time=step.value,
            kind=step.kind,
            loading=step.loading,
            part=mesh.part,
            part_names=mesh.part_names,
            material=mesh.material,
            material_names=mesh.material_or_part_names if mesh.material is not None else (),
            node_ids=mesh.node_ids,
            element_ids=mesh.element_ids,
            node_sets=mesh.node_sets,
            element_sets=mesh.element_sets,
            totals={n: v[index] for n, v in whole.summary.get("totals", {}).items() if v[index] is not None},
        )
        for field in source.fields.values():
            if not field.stored:
                continue
            values = source.values(field.name, index)
            components = () if len(field.components) == 1 or field.points or field.layers else field.components
            if field.names and not np.isnan(values).any():
                values = values.astype(np.int32)
            target = {"node": raw.point_data, "corner": raw.corner_data}.get(field.location, raw.cell_data)
            if field.harmonic:
                # The way two parts come in is the way they leave.
                for end, part in zip(("_real", "_imag"), np.hsplit(np.asarray(values), 2), strict=True):
                    target[field.name + end] = RawArray(part, components)
            else:
                target[field.name] = RawArray(np.asarray(values), components)
        yield raw
