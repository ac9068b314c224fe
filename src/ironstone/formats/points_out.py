"""Displacements at measuring points as a universal file (datasets 15 and 55), written by the package pyuff."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pyuff
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.field.fields import Step
from ironstone.core.mesh.mesh import Float

# What a set of results is of (dataset 55, field 2 of its record 6): static, normal mode, transient, frequency response.
ANALYSIS = {"mode": 2, "time": 4, "frequency": 5}


def write_response(path: Path, title: str, frequency: Float, response: NDArray[np.complex128], unit: str) -> None:
    """Write a frequency response (n,) over increasing frequencies (n,) in Hz as a function of a universal file (dataset 58).

    Uneven frequencies are written with each value. Raises IronstoneError where the file cannot be written.
    """
    steps = np.diff(frequency)
    even = bool(len(steps)) and float(np.ptp(steps)) <= 1e-6 * float(steps.mean())
    function = pyuff.prepare_58(
        binary=0,
        func_type=4,
        rsp_node=1,
        rsp_dir=0,
        ref_dir=0,
        ref_node=0,
        data=response,
        x=frequency,
        id1=title[:80] or "NONE",
        rsp_ent_name="NONE",
        ref_ent_name="NONE",
        abscissa_spacing=int(even),
        abscissa_spec_data_type=18,
        ordinate_spec_data_type=0,
        orddenom_spec_data_type=0,
        ordinate_axis_units_lab=unit[:20] or "NONE",
        abscissa_axis_units_lab="Hz",
        abscissa_min=float(frequency[0]),
        abscissa_inc=float(steps[0]) if even else 0.0,
        num_pts=len(frequency),
        ord_data_type=6,
    )
    try:
        path.unlink(missing_ok=True)
        pyuff.UFF(str(path)).write_sets([function], mode="overwrite")
    except (OSError, ValueError, KeyError) as error:
        raise IronstoneError(f"{path.name} could not be written.", "Choose a folder that can be written to.") from error


def write_points(path: Path, title: str, points: Float, steps: list[Step], moved: Float) -> None:
    """Write places (n, 3) and their displacement at some steps (s, n, 3). Points are numbered from 1 in order.

    Raises IronstoneError where the file cannot be written.
    """
    numbers = np.arange(1, len(points) + 1)
    ones = np.ones(len(points), dtype=int)
    sets = [
        pyuff.prepare_15(
            node_nums=numbers, def_cs=ones, disp_cs=ones, color=11 * ones, x=points[:, 0], y=points[:, 1], z=points[:, 2]
        )
    ]
    for count, (step, values) in enumerate(zip(steps, moved, strict=True), start=1):
        kind = ANALYSIS.get(step.kind, 1)
        words = {
            "id1": title[:80] or "NONE",
            "id2": step.label[:80] or "NONE",
            "id3": "NONE",
            "id4": step.loading[:80] or "NONE",
            "id5": "NONE",
            "model_type": 1,
            "data_ch": 2,
            "spec_data_type": 8,
            "data_type": 2,
            "n_data_per_node": 3,
            "r1": values[:, 0],
            "r2": values[:, 1],
            "r3": values[:, 2],
            "node_nums": numbers,
            "load_case": 1,
        }
        if kind == 2:
            words |= {"mode_n": count, "freq": step.value, "modal_m": 0.0, "modal_damp_vis": 0.0, "modal_damp_his": 0.0}
        else:
            # The package knows modes, complex modes and frequency responses; a step in time or of a load goes as the last of
            # these, its abscissa in the place of the frequency.
            kind = 5
            words |= {"freq_step_n": count, "freq": step.value}
        sets.append(pyuff.prepare_55(analysis_type=kind, **words))
    try:
        path.unlink(missing_ok=True)
        pyuff.UFF(str(path)).write_sets(sets, mode="overwrite")
    except (OSError, ValueError, KeyError) as error:
        raise IronstoneError(f"{path.name} could not be written.", "Choose a folder that can be written to.") from error
