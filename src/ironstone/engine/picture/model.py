"""The skin of a view as a file for any viewer: deformed as it is drawn, in the colours of its reading."""

from __future__ import annotations

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.picture.colours import STONE, Key, coloured
from ironstone.core.units import conversion
from ironstone.engine.kept.in_view import InView
from ironstone.engine.picture.view import scene_of
from ironstone.formats.skins import Skin, skin_file
from ironstone.store import Review

# Colours of a key without bands.
SMOOTH = 256


def model_file(review: Review, view: InView, suffix: str) -> tuple[bytes, str]:
    """What is shown of the skin as a file (.glb, .ply, .stl), and what it is of, in words. Raises IronstoneError."""
    scene, head, key, source = scene_of(review, view)
    bodies = [b for b in scene.bodies if len(b.triangles)]
    if not bodies:
        raise Impossible("Nothing of the model is shown.", "Show a part.")
    points, triangles, shares, before = [], [], [], 0
    for body in bodies:
        points.append(body.points)
        triangles.append(body.triangles + before)
        values = np.full(len(body.points), np.nan) if body.values is None else body.values
        shares.append(_share(values, key))
        before += len(body.points)
    words = f"{head.sentence}. Result {source.name}"
    if view.exaggeration != 1:
        words += ", drawn undeformed" if not view.exaggeration else f", drawn deformed {view.exaggeration:.4g} times"
    metres, _ = conversion(source.system.length, "m")
    joined, used = np.concatenate(triangles), np.concatenate(points)
    # Vertices of faces that are not shown are left out.
    own, back = np.unique(joined, return_inverse=True)
    skin = Skin(used[own], back.reshape(-1, 3), np.concatenate(shares)[own], _key_colours(key), STONE, metres, words)
    return skin_file(skin, suffix), words


def _share(values: np.ndarray, key: Key) -> np.ndarray:
    if key.names is not None:
        return np.where(np.isnan(values), np.nan, (values + 0.5) / len(key.names))
    return np.where(np.isnan(values), np.nan, np.clip(key.along(values), 0.0, 1.0))


def _key_colours(key: Key) -> np.ndarray:
    """The colours of the key from its lower end: one a band, so that they keep their edges."""
    count = len(key.names) if key.names is not None else key.bands if key.bands > 1 and not key.breaks else SMOOTH
    if key.names is not None:
        return coloured(np.arange(count, dtype=np.float64), key)
    middles = np.array([key.value_at((i + 0.5) / count) for i in range(count)])
    return coloured(middles, key)
