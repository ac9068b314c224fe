"""What an analyst has stated of a result, as its correction holds it: a mark of its state, axes, constants, laminates."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ironstone.core.field.axes import Axes
from ironstone.core.field.fields import Mirror, Setup
from ironstone.core.strength.zones import Laminates
from ironstone.core.units import UnitSystem
from ironstone.formats.laminates import parse_laminates


def stated(correction: Mapping[str, Any]) -> str:
    """A mark of what is stated of a result: the same for the same statements, however they came about."""
    return fingerprint({name: value for name, value in correction.items() if name not in ("revision", "result")})


def fingerprint(content: object) -> str:
    return hashlib.sha256(json.dumps(content, sort_keys=True, default=str).encode()).hexdigest()[:24]


def setup_of(correction: Mapping[str, Any], orientation: str, laminates: Laminates | None, length: str) -> Setup:
    """Axes, material constants and model as they are stated. orientation: the field of the material's axes, '' for none."""
    axes = {
        name: Axes(name, a["kind"], tuple(a["origin"]), tuple(tuple(r) for r in a["matrix"]))
        for name, a in correction.get("axes", {}).items()
    }
    constants = {n: dict(c) for n, c in correction.get("constants", {}).items()}
    half = correction.get("mirror")
    mirror = Mirror(half["axis"], half["at"]) if half else None
    return Setup(axes, constants, correction.get("model", ""), orientation, mirror, laminates, length)


def laminates_of(correction: Mapping[str, Any], system: UnitSystem) -> Laminates | None:
    """The laminates as they are stated, in a unit system; None where none are."""
    stated = correction.get("laminates")
    if not stated:
        return None
    found = parse_laminates(json.dumps(stated["content"]).encode(), stated["name"]).told_in(system)
    return replace(found, edited=stated["name"] if stated.get("edited") else "")
