"""The surface that is drawn of a result; the last few are kept."""

from __future__ import annotations

import threading
from collections import OrderedDict
from concurrent.futures import Future
from functools import lru_cache
from typing import Any

import numpy as np

from ironstone.core.mesh import Float, Mesh
from ironstone.core.surface import Look, Surface, skin
from ironstone.store.source import ReviewSource


def surface(source: ReviewSource, look: Look) -> Surface:
    """What is drawn of a result, with the thickness of its shells and the section area of its bars where it has them."""
    known = [_one_an_element(source, kind) if look.solid else None for kind in ("thickness", "section area")]
    return _drawn(source.mesh, look, *known)


@lru_cache(maxsize=8)
def _one_an_element(source: ReviewSource, kind: str) -> Float | None:
    found = next((f for f in source.fields.values() if f.kind == kind and f.location == "element"), None)
    return None if found is None else np.asarray(source.values(found.name, 0)[:, 0], dtype=np.float64)


KEPT_SURFACES = 6
_KEPT: OrderedDict[Any, tuple[Any, Future[Surface]]] = OrderedDict()
_LOCK = threading.Lock()


def _drawn(mesh: Mesh, look: Look, thickness: Float | None, area: Float | None) -> Surface:
    """The last few surfaces are kept. Shape and values of a view are asked for at once: whoever comes first makes the surface."""
    key = (id(mesh), look, id(thickness), id(area))
    with _LOCK:
        found = _KEPT.get(key)
        if found is not None:
            _KEPT.move_to_end(key)
        else:
            making: Future[Surface] = Future()
            # What the key names by its id is kept with it, so that no other object can come by the same id.
            _KEPT[key] = ((mesh, thickness, area), making)
            while len(_KEPT) > KEPT_SURFACES:
                _KEPT.popitem(last=False)
    if found is not None:
        return found[1].result()
    try:
        making.set_result(skin(mesh, look, thickness, area))
    except BaseException as error:
        with _LOCK:
            _KEPT.pop(key, None)
        making.set_exception(error)
        raise
    return making.result()
