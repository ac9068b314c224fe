"""The surface that is drawn of a result; the last few are kept with its mesh."""

from __future__ import annotations

import threading
from collections import OrderedDict
from concurrent.futures import Future
from typing import Any

import numpy as np

from ironstone.core.geometry.surface import Look, Surface, skin
from ironstone.core.kept import kept_with
from ironstone.core.mesh.mesh import Float, Mesh
from ironstone.core.wanted import NotWanted
from ironstone.store.source import ReviewSource

KEPT_SURFACES = 6
_LOCK = threading.Lock()


def surface(source: ReviewSource, look: Look) -> Surface:
    """What is drawn of a result, with the thickness of its shells and the section area of its bars where it has them."""
    known = [_one_an_element(source, kind) if look.solid else None for kind in ("thickness", "section area")]
    return _drawn(source.mesh, look, *known)


def surface_head(mesh: Mesh, skin: Surface) -> dict[str, Any]:
    """What travels beside the arrays of a surface: where it is, how large, and whether the model is planar and stays so."""
    centre = (skin.points.min(0) + skin.points.max(0)) / 2 if len(skin.points) else np.zeros(3)
    return {
        "centre": centre.tolist(),
        "origin": mesh.middle.tolist(),
        "radius": float(np.linalg.norm(skin.points - centre, axis=1).max(initial=0.0)),
        "faces": len(skin.face_element),
        "planar": _lies_flat(mesh),
        "opaque": skin.opaque,
    }


def _lies_flat(mesh: Mesh) -> bool:
    """Whether there is nothing to turn: faces and bars alone, all of them in one plane z = constant."""
    thin = all(block.cell.dimension < 3 for block in mesh.blocks)
    return thin and bool(np.ptp(mesh.points[:, 2]) <= 1e-9 * mesh.size)


@kept_with(2)
def _one_an_element(source: ReviewSource, kind: str) -> Float | None:
    found = next((f for f in source.fields.values() if f.kind == kind and f.location == "element" and f.plain), None)
    return None if found is None else np.asarray(source.values(found.name, 0)[:, 0], dtype=np.float64)


def _drawn(mesh: Mesh, look: Look, thickness: Float | None, area: Float | None) -> Surface:
    """Shape and values of a view are asked for at once: whoever comes first makes the surface, the others wait for it."""
    key = (look, id(thickness), id(area))
    with _LOCK:
        kept: OrderedDict[Any, tuple[Any, Future[Surface]]] = vars(mesh).setdefault("kept surfaces", OrderedDict())
        found = kept.get(key)
        if found is not None:
            kept.move_to_end(key)
        else:
            making: Future[Surface] = Future()
            # What the key names by its id is kept with it, so that no other object can come by the same id.
            kept[key] = ((thickness, area), making)
            while len(kept) > KEPT_SURFACES:
                kept.popitem(last=False)
    if found is not None:
        try:
            return found[1].result()
        except NotWanted:
            # Whoever was making it has gone away; this one is still wanted.
            return _drawn(mesh, look, thickness, area)
    try:
        making.set_result(skin(mesh, look, thickness, area))
    except BaseException as error:
        with _LOCK:
            kept.pop(key, None)
        making.set_exception(error)
        raise
    return making.result()


def base_of(values: Float) -> float:
    """What values are to be told without, so that single precision holds their differences; 0 where it does as they are."""
    there = values[np.isfinite(values)]
    if not len(there):
        return 0.0
    low, high = float(there.min()), float(there.max())
    return (low + high) / 2 if max(abs(low), abs(high)) > 100 * (high - low) else 0.0
