"""Cycles, figures and agreement of curves in plain data: what both the command line and the service print."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ironstone.core.curves.agreement import Match
from ironstone.core.curves.curves import Curve, envelope, loops, retained
from ironstone.core.curves.monotonic import monotonic, tensile
from ironstone.core.curves.transient import in_time
from ironstone.core.errors import IronstoneError
from ironstone.core.units import same_kind
from ironstone.engine.reading.answers import number


def loops_answer(curve: Curve, start: str = "peak", prominence: float | None = None) -> dict[str, Any]:
    """The loops of a curve in the form the command line and the service print; ductility is against its first loading."""
    found = loops(curve, start, prominence)
    line_x, line_y = envelope(found)
    yield_at = float("nan")
    if found.cycles:
        first = slice(0, found.cycles[0].start + 1)
        try:
            yield_at = monotonic(replace(curve, x=curve.x[first], y=curve.y[first])).yield_at
        except IronstoneError:
            yield_at = float("nan")
    return {
        "envelope_x": line_x.tolist(),
        "envelope_y": line_y.tolist(),
        "yield_at": number(yield_at),
        "x_unit": found.x_unit,
        "y_unit": found.y_unit,
        "energy_unit": found.energy_unit,
        "stiffness_unit": found.stiffness_unit,
        "energy_total": number(found.energy_total),
        "prominence": found.prominence,
        "notes": list(found.notes),
        "cycles": [
            {
                "energy": number(c.energy),
                "closed": c.closed,
                "secant_stiffness": number(c.secant_stiffness),
                "retained": number(float(kept)),
                "ductility": number(abs(c.amplitude / yield_at)),
                "damping_ratio": number(c.damping_ratio),
                "x_peak": number(c.x_peak),
                "y_peak": number(c.y_peak),
                "x_trough": number(c.x_trough),
                "y_trough": number(c.y_trough),
                "start": c.start,
                "stop": c.stop,
            }
            for c, kept in zip(found.cycles, retained(found), strict=True)
        ],
    }


def figures(curve: Curve) -> list[dict[str, Any]]:
    """Figures of a curve that goes one way; of stress against strain those of a tensile test. Empty where it has none."""
    if not in_time(curve) and loops(curve).cycles:
        return []
    x, y = curve.x_unit or "", curve.y_unit or ""
    reply: list[dict[str, Any]] = []

    def add(label: str, value: float, unit: str | None, how: str) -> None:
        reply.append({"label": label, "value": number(value), "unit": unit or "", "how": how})

    if in_time(curve):
        for label, at in (("Largest", int(np.nanargmax(curve.y))), ("Smallest", int(np.nanargmin(curve.y)))):
            add(label, float(curve.y[at]), y, f"at {curve.x[at]:.4g} {x}")
        return reply
    try:
        if same_kind(x, "") and same_kind(y, "MPa"):
            t = tensile(curve)
            since = _counted_from(t.origin, "", y)
            add("Modulus", t.modulus, y, "regression between 10 % and 40 % of the ultimate")
            add("Proof stress 0.2 %", t.proof, y, f"where the line offset by 0.002 meets the curve{since}")
            add("Ultimate", t.ultimate, y, f"engineering stress of largest size{since}")
            add("Uniform elongation", t.uniform_strain, "", f"strain there{since}")
            add("True stress there", t.true_ultimate, y, "s (1 + e)")
            add("True strain there", t.true_uniform_strain, "", "ln(1 + e)")
            return reply
        m = monotonic(curve)
    except IronstoneError:
        return reply
    since = _counted_from(m.origin, x, y)
    add("Stiffness", m.stiffness, m.stiffness_unit, "secant between 10 % and 40 % of the peak")
    add("Peak", m.peak, y, f"at {m.peak_at:.4g} {x}{since}")
    add("Yield", m.yield_force, y, f"elastic-plastic line of equal energy{since}")
    add("Yield displacement", m.yield_at, x, f"yield over stiffness{since}")
    add("Ductility", m.ductility, "", "end over yield displacement")
    add("Energy", m.energy, m.energy_unit, "under the curve")
    return reply


def _counted_from(origin: tuple[float, float], x: str, y: str) -> str:
    """Said of figures that are counted from a first point other than zero."""
    if origin == (0.0, 0.0):
        return ""
    return f", counted from the first point ({f'{origin[0]:.4g} {x}'.rstrip()}, {f'{origin[1]:.4g} {y}'.rstrip()})"


def match_answer(found: Match) -> dict[str, Any]:
    d = found.deviation
    metrics: dict[str, Any] = {
        m.name: {
            "label": m.label,
            "model": number(m.model),
            "test": number(m.test),
            "unit": m.unit,
            "ratio": number(m.ratio),
            "limit": m.limit,
            "accepted": m.accepted,
        }
        for m in found.metrics
    }
    metrics["rms_deviation"] = {
        "label": "RMS deviation",
        "value": number(d.rms),
        "unit": d.unit,
        "share": number(d.share),
        "limit": d.limit,
        "accepted": d.accepted,
    }
    metrics["largest_deviation"] = {
        "label": "Largest deviation",
        "value": number(d.largest),
        "unit": d.unit,
        "at_x": number(d.largest_at_x),
    }
    if found.correlation is not None:
        metrics["correlation"] = {"label": "Correlation at the shift", "value": number(found.correlation), "unit": ""}
    metrics["determination"] = {"label": "Coefficient of determination", "value": number(d.determination), "unit": ""}
    return {
        "kind": found.kind,
        "metrics": metrics,
        "corrections": list(found.corrections),
        "notes": list(found.notes),
        "verdict": found.verdict,
        "agrees": found.agrees,
    }
