"""The skin of a view as a file for any viewer: deformed as it is drawn, in the colours of its reading."""

from __future__ import annotations

import base64
from typing import Any

import numpy as np

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.picture.camera import KEPT_FOR, Camera
from ironstone.core.picture.colours import STONE, Key, coloured
from ironstone.core.units import conversion
from ironstone.engine.kept.in_view import InView
from ironstone.engine.picture.letters import digits_between, figure
from ironstone.engine.picture.view import SIZE, camera_of, query_of, scene_of
from ironstone.engine.reading.drawing import surface
from ironstone.engine.reading.pictures import ValuesHead
from ironstone.formats.skins import Skin, skin_file
from ironstone.store import Review

# Colours of a key without bands.
SMOOTH = 256


def turning(review: Review, view: InView) -> dict[str, Any]:
    """What is shown of the skin as plain data that a page can turn: arrays as base64 (single precision from the middle on), the
    key's colours, and the camera. Raises IronstoneError where it cannot be drawn."""
    skin, lines, camera, ticks = _skin(review, view)
    middle = (skin.points.min(0) + skin.points.max(0)) / 2
    ends, pairs = np.zeros((0, 3)), np.zeros((0, 2), dtype=np.int64)
    for points, joined in lines:
        pairs = np.concatenate([pairs, joined + len(ends)])
        ends = np.concatenate([ends, points])
    own, back = np.unique(pairs, return_inverse=True)
    lines_at = back.reshape(-1) + len(skin.points)
    points = np.concatenate([skin.points, ends[own]]) - middle
    share = np.concatenate([np.where(np.isnan(skin.share), -1.0, skin.share), np.zeros(len(own))])

    def packed(values: Any, kind: str) -> str:
        return base64.b64encode(np.ascontiguousarray(values, dtype=kind).tobytes()).decode()

    return {
        "points": packed(points, "<f4"),
        "share": packed(share, "<f4"),
        "triangles": packed(skin.triangles, "<u4"),
        "lines": packed(lines_at, "<u4"),
        "key": packed(skin.key, "u1"),
        "eye": (np.array(camera.eye) - middle).tolist(),
        "target": (np.array(camera.target) - middle).tolist(),
        "up": list(camera.up),
        "zoom": camera.zoom * KEPT_FOR / min(SIZE),
        "radius": camera.radius,
        "ticks": ticks,
    }


def turning_bytes(review: Review, view: InView) -> int:
    """About how much a view that turns adds to a page, in bytes, told without drawing it; 0 where it cannot be drawn."""
    if view.reading is None:
        return 0
    try:
        source = review.result(view.result).at(view.step)
        skin = surface(source, query_of(view).look())
    except IronstoneError:
        return 0
    # Four of three bytes are letters: places and shares of vertices, corners of triangles, ends of lines and their places.
    return (16 * len(skin.points) + 12 * len(skin.triangles) + 24 * len(skin.edges)) * 4 // 3


def model_file(review: Review, view: InView, suffix: str) -> tuple[bytes, str]:
    """What is shown of the skin as a file (.glb, .ply, .stl), and what it is of, in words. Raises IronstoneError."""
    skin, *_ = _skin(review, view)
    return skin_file(skin, suffix), skin.title


def _skin(review: Review, view: InView) -> tuple[Skin, list[tuple[Float, Any]], Camera, list[list[Any]]]:
    """What is shown of the skin with its values, the lines of the mesh on it, the camera, and what stands beside the key."""
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
    lines = [(one.points, one.pairs) for one in scene.lines if not one.behind]
    return skin, lines, camera_of(view, source, scene, SIZE), _ticks(key, head)


def _ticks(key: Key, head: ValuesHead) -> list[list[Any]]:
    """What stands beside the key, from below: a share of its height and the words there; names in the middle of their colour."""
    if head.categories is not None:
        return [[(i + 0.5) / len(head.categories), c.name] for i, c in enumerate(head.categories)]
    count = key.bands if 0 < key.bands <= 12 else 8
    digits = digits_between(key.low, key.high)
    words = [figure(key.value_at(i / count), digits) for i in range(count + 1)]
    words[-1] = f"{words[-1]} {head.unit}".rstrip()
    return [[i / count, said] for i, said in enumerate(words)]


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
