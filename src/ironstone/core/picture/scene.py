"""What is seen of a scene: faces in the colours of a key, lines on them, everything that is hidden hidden."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Float
from ironstone.core.picture.camera import DISTANCE, Camera
from ironstone.core.picture.colours import INK, PLAIN, SHEET, STONE, Key, coloured
from ironstone.core.picture.raster import Seen, all_under, line_pixels, seen

LIGHT = np.array([0.35, 0.5, 1.0]) / np.linalg.norm([0.35, 0.5, 1.0])
DOTS = (128, 122, 112)
# Four samples a pixel.
FINER = 2


@dataclass(frozen=True, eq=False)
class Body:
    """Triangles with values at their vertices. points: (n, 3) as drawn; values: (n,), NaN for no value, None for plain ones.

    own: (n, 3) the places planes cut by, undeformed. planes: (normal, distance) of those that take away what is in front.
    """

    points: Float
    triangles: NDArray[Any]
    values: Float | None = None
    opacity: float = 1.0
    own: Float | None = None
    planes: tuple[tuple[Float, float], ...] = ()


@dataclass(frozen=True, eq=False)
class Lines:
    """Lines in one colour. points: (n, 3) as drawn; pairs: (e, 2) of them."""

    points: Float
    pairs: NDArray[Any]
    colour: tuple[int, int, int] = INK
    opacity: float = 0.3
    width: int = 1
    own: Float | None = None
    planes: tuple[tuple[Float, float], ...] = ()
    # Hidden by nothing: the undeformed outline stands behind the body, a path before it.
    behind: bool = False


@dataclass(frozen=True, eq=False)
class Scene:
    bodies: list[Body] = field(default_factory=list)
    lines: list[Lines] = field(default_factory=list)


def pictured(scene: Scene, camera: Camera, key: Key, size: tuple[int, int], ground: NDArray[np.float64]) -> NDArray[np.uint8]:
    """The picture, (height, width, 3). ground: (height, width, 3) colours behind the model, 0 to 255."""
    fine = (FINER * size[0], FINER * size[1])
    lens = Camera(camera.eye, camera.target, FINER * camera.zoom, camera.up, camera.radius, camera.perspective)
    image = np.repeat(np.repeat(ground.astype(np.float64), FINER, 0), FINER, 1)
    opaque = [b for b in scene.bodies if b.opacity >= 1.0]
    hidden_by = _nearest([_seen(b, lens, fine) for b in opaque], fine)
    for lines in (one for one in scene.lines if one.behind):
        _draw(image, lines, lens, fine, hidden_by, camera.radius)
    for body, found in zip(opaque, hidden_by.each, strict=True):
        _paint(image, body, found, lens, key, found.there & (found.depth <= hidden_by.whole.depth))
    for lines in (one for one in scene.lines if not one.behind):
        _draw(image, lines, lens, fine, hidden_by, camera.radius)
    for body in (b for b in scene.bodies if b.opacity < 1.0):
        _lay_over(image, body, lens, key, hidden_by.whole.depth)
    height, width = size[1], size[0]
    whole = image.reshape(height, FINER, width, FINER, 3).mean((1, 3))
    pixels: NDArray[np.uint8] = np.clip(np.round(whole), 0, 255).astype(np.uint8)
    return pixels


@dataclass(frozen=True, eq=False)
class _Hiding:
    each: list[Seen]
    whole: Seen


def _nearest(each: list[Seen], fine: tuple[int, int]) -> _Hiding:
    depth = np.full((fine[1], fine[0]), np.inf)
    for one in each:
        depth = np.minimum(depth, one.depth)
    none = np.zeros(0, dtype=np.float32)
    which = np.where(np.isfinite(depth), 0, -1).astype(np.int32)
    return _Hiding(each, Seen(which, none, depth))


def _seen(body: Body, lens: Camera, fine: tuple[int, int]) -> Seen:
    screen = lens.on_screen(body.points, fine)
    if body.planes and body.own is not None:
        return _left_by(body, screen, *_sides(body.own, body.triangles, body.planes), fine)
    return seen(screen, body.triangles, *fine)


def _sides(
    own: Float, triangles: NDArray[Any], planes: tuple[tuple[Float, float], ...]
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Triangles no plane takes away from, and those that are left in part."""
    whole, some = np.ones(len(triangles), dtype=bool), np.ones(len(triangles), dtype=bool)
    for normal, distance in planes:
        behind = (own @ normal <= distance)[triangles]
        whole &= behind.all(1)
        some &= behind.any(1)
    return whole, some & ~whole


def _left_by(body: Body, screen: Float, whole: NDArray[np.bool_], part: NDArray[np.bool_], fine: tuple[int, int]) -> Seen:
    """Triangles cut at the planes into what is left of them, and each pixel with the triangle it came from."""
    assert body.own is not None
    corner = np.eye(3)
    cut: list[tuple[int, Float]] = []
    for i in np.flatnonzero(part):
        shapes = [corner]
        own = body.own[body.triangles[i]]
        for normal, distance in body.planes:
            shapes = [s for shape in shapes for s in _behind(shape, shape @ (own @ normal) - distance)]
        cut += [(int(i), shape) for shape in shapes]
    of = np.concatenate([np.flatnonzero(whole), np.array([i for i, _ in cut], dtype=np.int64)])
    weights = np.concatenate([np.tile(corner, (int(whole.sum()), 1, 1)), np.array([w for _, w in cut]).reshape(-1, 3, 3)])
    points = np.einsum("tkc,tcx->tkx", weights, screen[body.triangles[of]]).reshape(-1, 3)
    found = seen(points, np.arange(3 * len(of)).reshape(-1, 3), *fine)
    there = found.there
    share = np.zeros_like(found.weights)
    share[there] = np.einsum("pk,pkc->pc", found.weights[there], weights[found.triangle[there]])
    which = np.full(there.shape, -1, dtype=np.int32)
    which[there] = of[found.triangle[there]]
    return Seen(which, share, found.depth)


def _behind(shape: Float, height: Float) -> list[Float]:
    """What of a triangle, three weights a corner (3, 3), lies where the height is not above zero: none, one or two triangles."""
    corners: list[Float] = []
    for k in range(3):
        a, b = height[k], height[(k + 1) % 3]
        if a <= 0:
            corners.append(shape[k])
        if (a <= 0) != (b <= 0):
            corners.append(shape[k] + a / (a - b) * (shape[(k + 1) % 3] - shape[k]))
    return [np.stack([corners[0], corners[k], corners[k + 1]]) for k in range(1, len(corners) - 1)]


def _paint(image: Float, body: Body, found: Seen, lens: Camera, key: Key, where: NDArray[np.bool_]) -> None:
    """Colours the pixels of a body that nothing hides."""
    rows, columns = np.nonzero(where)
    if not len(rows):
        return
    triangle = found.triangle[rows, columns]
    values = _values(body, triangle, found.weights[rows, columns], lens, key)
    colour = _colours(body, values, key, rows, columns, image.shape[0])
    if values is not None and key.iso != "none" and key.names is None:
        colour = _with_isolines(colour, values, key, where)
    image[rows, columns] = colour * _light(body, lens)[triangle][:, None]


def _lay_over(image: Float, body: Body, lens: Camera, key: Key, hidden_by: Float) -> None:
    """Lays all faces of a body over what is behind them, one after the other: those one sees through, and those behind."""
    height, width = hidden_by.shape
    screen = lens.on_screen(body.points, (width, height))
    triangles = body.triangles
    if body.planes and body.own is not None:
        # What a plane goes through is left whole here: one sees through it.
        whole, part = _sides(body.own, triangles, body.planes)
        triangles = triangles[whole | part]
        body = replace(body, triangles=triangles, planes=())
    triangle, pixel, weights, depth = all_under(screen, triangles, width, height)
    there = depth <= hidden_by.ravel()[pixel]
    triangle, pixel, weights = triangle[there], pixel[there], weights[there]
    values = _values(body, triangle, weights, lens, key)
    colour = _colours(body, values, key, pixel // width, pixel % width, height) * _light(body, lens)[triangle][:, None]
    flat = image.reshape(-1, 3)
    # The first face under each pixel, then the second, and so on.
    first = np.concatenate([[True], pixel[1:] != pixel[:-1]]) if len(pixel) else np.zeros(0, dtype=bool)
    starts = np.flatnonzero(first)
    layer = np.arange(len(pixel)) - np.repeat(starts, np.diff(np.append(starts, len(pixel))))
    for k in range(int(layer.max(initial=-1)) + 1):
        own = layer == k
        flat[pixel[own]] += body.opacity * (colour[own] - flat[pixel[own]])


def _values(body: Body, triangle: NDArray[Any], weights: NDArray[Any], lens: Camera, key: Key) -> Float | None:
    """The values of pixels, (k,), None of a body without. Inside a face they are interpolated on the model, not on the screen."""
    if body.values is None:
        return None
    own = body.triangles[triangle]
    corners = body.values[own]
    if key.names is not None:
        # A name is never interpolated: each triangle has that of its last corner.
        return np.asarray(corners[:, 2], dtype=np.float64)
    share = weights.astype(np.float64)
    if lens.perspective:
        share = share / np.maximum(_ahead(body.points, lens), 1e-300)[own]
        share /= share.sum(1, keepdims=True)
    return np.asarray(np.einsum("pk,pk->p", share, corners))


def _colours(body: Body, values: Float | None, key: Key, rows: NDArray[Any], columns: NDArray[Any], height: int) -> Float:
    if values is None:
        return np.tile(np.array(PLAIN, dtype=np.float64), (len(rows), 1))
    # Screens count from the lower left corner, in pixels of the picture.
    return _with_screens(values, key, (height - rows - 0.5) / FINER, (columns + 0.5) / FINER)


def _light(body: Body, lens: Camera) -> Float:
    """How much light each triangle has: it comes from above the right shoulder."""
    right, above, back = lens.axes
    first, second, third = (body.points[body.triangles[:, k]] for k in range(3))
    normals = np.cross(second - first, third - first)
    view = np.stack([normals @ right, normals @ above, normals @ back], axis=1)
    facing = np.abs(view @ LIGHT) / np.maximum(np.linalg.norm(view, axis=1), 1e-300)
    light: Float = 0.80 + 0.20 * facing
    return light


def _ahead(points: Float, lens: Camera) -> Float:
    _, _, back = lens.axes
    ahead: Float = DISTANCE * lens.radius - (points - np.array(lens.target)) @ back
    return ahead


def _with_screens(values: Float, key: Key, y: Float, x: Float) -> Float:
    """Colours of values; no value is stone with a fine dot screen, what lies outside the limits is hatched."""
    there = np.isfinite(values)
    colour = np.empty((len(values), 3))
    cell = np.hypot(np.mod(x, 5.0) - 2.5, np.mod(y, 5.0) - 2.5)
    dotted = 1.0 - _smooth(0.7, 1.3, cell)
    colour[:] = np.array(STONE) + dotted[:, None] * (np.array(DOTS, dtype=float) - np.array(STONE))
    if not there.any():
        return colour
    own = coloured(values[there], key).astype(np.float64)
    if key.names is None:
        share = key.along(values[there])
        outside = np.maximum(-share, share - 1.0) > 1e-4
        stripe = outside & (np.mod((x + y)[there] / 7.0, 1.0) >= 0.5)
        bright = own @ np.array([0.299, 0.587, 0.114]) > 127.5
        ink = np.where(bright[:, None], np.array(INK, dtype=float), np.array(SHEET, dtype=float))
        own = np.where(stripe[:, None], 0.45 * own + 0.55 * ink, own)
    colour[there] = own
    return colour


def _with_isolines(colour: Float, values: Float, key: Key, where: NDArray[np.bool_]) -> Float:
    """Lines where one band meets the next; 'alone': lines in the colour of the key on pale faces."""
    count = key.bands if key.bands > 1 else 10
    place = np.full(where.shape, np.nan)
    place[where] = key.along(values) * count
    with np.errstate(invalid="ignore"):
        slope = np.hypot(*(_slope(place, axis) for axis in (0, 1)))
        near = (np.abs(np.mod(place - 0.5, 1.0) - 0.5) / np.maximum(slope, 1e-6))[where]
    there = np.isfinite(near)
    near = np.where(there, near, np.inf)
    if key.iso == "alone":
        ends = key.low + np.round(np.nan_to_num(place[where])) / count * (key.high - key.low)
        edge = coloured(ends, Key(key.low, key.high, 0, key.map)).astype(np.float64)
        share = 1.0 - _smooth(0.9 * FINER, 1.6 * FINER, near)
        pale = np.array([237.0, 232.0, 222.0])
        return np.where(np.isfinite(values)[:, None], pale + share[:, None] * (edge - pale), colour)
    share = 0.75 * (1.0 - _smooth(0.4 * FINER, 1.1 * FINER, near))
    return colour + share[:, None] * (np.array(INK, dtype=float) - colour)


def _slope(image: Float, axis: int) -> Float:
    """The smaller of the two differences to the neighbours: across an edge of the body, or a jump, there is no slope."""
    step = np.abs(np.diff(image, axis=axis))
    before = np.insert(step, 0, np.nan, axis=axis)
    after = np.concatenate([step, np.full_like(np.take(step, [0], axis), np.nan)], axis=axis)
    found: Float = np.fmin(before, after)
    return found


def _smooth(low: float, high: float, x: Float) -> Float:
    t = np.clip((x - low) / (high - low), 0.0, 1.0)
    return np.asarray(t * t * (3.0 - 2.0 * t))


def _draw(image: Float, lines: Lines, lens: Camera, fine: tuple[int, int], hiding: _Hiding, radius: float) -> None:
    pairs = lines.pairs
    points = lines.points
    if lines.planes and lines.own is not None:
        for normal, distance in lines.planes:
            pairs = pairs[(lines.own[pairs] @ normal <= distance + 1e-9 * radius).all(1)]
    if not len(pairs):
        return
    screen = lens.on_screen(points, fine)
    drawn = line_pixels(screen, pairs, hiding.whole, 2e-3 * radius)
    for _ in range(lines.width * FINER - 1):
        wider = drawn.copy()
        wider[:, 1:] |= drawn[:, :-1]
        wider[1:] |= drawn[:-1]
        drawn = wider
    image[drawn] += lines.opacity * (np.array(lines.colour, dtype=np.float64) - image[drawn])
