"""What is in view as a picture: the model in the colours of its key, the key, the caption, as the bench shows and keeps it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.moved import moved_nodes, moving
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float
from ironstone.core.picture.camera import Camera
from ironstone.core.picture.colours import DIVERGING, Key
from ironstone.core.picture.scene import Body, Lines, Scene, pictured
from ironstone.engine.base import readable
from ironstone.engine.kept.in_view import InView
from ironstone.engine.reading.cuts import CutFacesQuery, CutIn, drawn_cut, plane_words
from ironstone.engine.reading.drawing import surface, surface_head
from ironstone.engine.reading.looking import range_of
from ironstone.engine.reading.pictures import KeyLimitsOut, SurfaceQuery, ValuesHead, on_surface
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# The ground of a picture, and the undeformed outline.
GROUND, GHOST = (241, 236, 226), (142, 138, 128)
SIZE = (900, 620)
LARGEST = 4000


@dataclass(frozen=True, eq=False)
class Drawn:
    """A view as it is drawn: its pixels (h, w, 3), what stands beside them, and where highest and lowest are on them."""

    pixels: Any
    head: ValuesHead
    key: Key
    marks: list[tuple[str, float | None, float, float]]
    notes: list[str]
    camera: Camera


def drawn_view(review: Review, view: InView, size: tuple[int, int] = SIZE, camera: Camera | None = None) -> Drawn:
    """Draw what is in view, from a camera or from that of the view. Raises IronstoneError where there is no reading in view, or it
    cannot be evaluated."""
    if not all(8 <= side <= LARGEST for side in size):
        raise Impossible(f"A picture of {size[0]} x {size[1]} pixels is not drawn.", f"Choose sides of 8 to {LARGEST} pixels.")
    scene, head, key, source = scene_of(review, view)
    camera = camera or camera_of(view, source, scene, size)
    ground = np.full((size[1], size[0], 3), GROUND, dtype=np.float64)
    marks = _marks(head, view, source, camera, size) if view.labelled and head.categories is None else []
    faces = len(surface(source, query_of(view).look()).face_element)
    faded = _faded(scene, camera, camera.radius, faces, view.style)
    return Drawn(pictured(faded, camera, key, size, ground), head, key, marks, _notes(view, source), camera)


def camera_of(view: InView, source: ReviewSource, scene: Scene, size: tuple[int, int]) -> Camera:
    """The camera of a view: its own, from the side it names, or fitted from the usual one. Raises Impossible where nothing is
    shown."""
    lines = (one.points for one in scene.lines if not one.behind)
    own = np.concatenate([*(b.points for b in scene.bodies), *lines, np.zeros((0, 3))])
    box = own[np.isfinite(own).all(1)]
    if not len(box):
        raise Impossible("Nothing of the model is shown.", "Show a part.")
    radius = max(source.mesh.size / 2, 1e-12)
    planar = surface_head(source.mesh, surface(source, query_of(view).look()))["planar"]
    if len(view.camera) == 7:
        return Camera.kept(view.camera, size, planar, radius, view.perspective)
    side = np.array(view.camera) if len(view.camera) == 3 and np.linalg.norm(view.camera) else None
    return Camera.fitted(box, size, planar, radius, view.perspective, side)


def scene_of(review: Review, view: InView) -> tuple[Scene, ValuesHead, Key, ReviewSource]:
    """What is in view as bodies and lines, what is said of it, its key, and the result at its step. Raises IronstoneError."""
    if view.reading is None:
        raise Impossible("No reading is in view: there is nothing to colour the model by.", "Name a field and a measure.")
    source = review.result(view.result).at(view.step)
    query = query_of(view)
    head, values = on_surface(source, query)
    key = key_of(view, head, source, query)
    return _scene(review, source, view, query, values, key), head, key, source


def query_of(view: InView) -> SurfaceQuery:
    """What is asked of the result for a view."""
    assert view.reading is not None

    def listed(numbers: list[int]) -> str:
        return ",".join(str(n) for n in numbers)

    return SurfaceQuery(
        **view.reading.model_dump(),
        step=view.step,
        weigh="volume" if view.weigh == "volume" else "area",
        detail=view.detail,
        hidden=listed(view.hidden),
        translucent=listed(view.translucent),
        every=view.style == "inside",
        apart=view.apart,
        solid=view.solid,
        turned=view.turned,
    )


def key_of(view: InView, head: ValuesHead, source: ReviewSource, query: SurfaceQuery) -> Key:
    """The key of a view: its own limits where they are typed, else those of its scale."""
    if head.categories is not None:
        return Key(-0.5, len(head.categories) - 0.5, len(head.categories), names=tuple(c.colour for c in head.categories))
    name = view.map if view.map in ("batlow", "vik", "lapaz", "broc") else "vik" if head.signed else "batlow"
    served: KeyLimitsOut | None = head.limits
    if view.fit == "all":
        served = range_of(source, query.reading(), None).limits or served
    low, high = 0.0, 1.0
    if served is not None:
        low, high = served.two_tones if name in DIVERGING else served.plain
        if view.log and served.logarithmic:
            low, high = served.logarithmic
    low = view.low if view.low is not None else low
    high = view.high if view.high is not None else high
    if not high > low:
        high = low + max(abs(low) * 1e-6, 1e-12)
    broken = head.limit if view.map not in ("batlow", "vik", "lapaz", "broc") else None
    iso = view.iso if view.iso in ("over", "alone") else "none"
    return Key(low, high, view.bands, name, view.log, broken, iso=iso)


def _scene(review: Review, source: ReviewSource, view: InView, query: SurfaceQuery, values: Float, key: Key) -> Scene:
    """Bodies and lines of a view."""
    skin = surface(source, query.look())
    moves = moving(source.fields) is not None
    drawn = skin.points
    if moves and view.exaggeration:
        nodal = moved_nodes(source, query.step, query.phase)
        assert nodal is not None
        moved = positions(source.mesh, skin.vertices, nodal)
        if (turn := query.look().turned) is not None:
            turned = turn.members(source.mesh, skin.vertices.element)
            moved[turned] = turn.of(moved[turned])
        drawn = skin.points + view.exaggeration * moved
    cuts = [cut for _, cut in readable(review, CutIn, source.id) if cut.on]
    planes = tuple(plane for cut in cuts if (plane := _plane(cut)) is not None)
    alone = any(cut.removes == "rest" for cut in cuts)
    plain = view.style in ("lines", "outline")
    scene = Scene()
    images: list[tuple[Float, Float]] = [(drawn, skin.points)]
    mirror = source.setup.mirror if view.mirrored else None
    if mirror is not None:
        images.append((mirror.image_of_points(drawn), skin.points))
    for points, own in images:
        if view.style != "inside" and not alone:
            shown = None if plain else values
            scene.bodies.append(Body(points, skin.triangles[: skin.opaque], shown, 1.0, own, planes))
            if len(skin.triangles) > skin.opaque and view.style == "shaded":
                scene.bodies.append(Body(points, skin.triangles[skin.opaque :], shown, 0.32, own, planes))
        if view.style in ("lines", "inside") or (view.style == "shaded" and view.mesh_lines and not alone):
            scene.lines.append(Lines(points, skin.edges, own=own, planes=planes))
        if view.style == "outline" or alone:
            scene.lines.append(Lines(points, skin.outline, opacity=0.9, own=own, planes=planes))
        if view.undeformed and moves and view.exaggeration:
            still = skin.points if points is drawn or mirror is None else mirror.image_of_points(skin.points)
            scene.lines.append(Lines(still, skin.outline, GHOST, 0.9, behind=True))
    for cut in cuts:
        _add_cut(scene, source, view, query, cut, key)
    return scene


def _plane(cut: CutIn) -> tuple[Float, float] | None:
    """What a section by a plane takes away of the model, as the side that is left: normal, distance."""
    if not cut.through or cut.removes not in ("front", "behind"):
        return None
    at, along = plane_words(cut.through)
    normal = along / np.linalg.norm(along) * (1.0 if cut.removes == "front" else -1.0)
    return normal, float(normal @ at)


def _add_cut(scene: Scene, source: ReviewSource, view: InView, query: SurfaceQuery, cut: CutIn, key: Key) -> None:
    """The faces of a cut, in the colours of the key where it shows the reading in view, else plain."""

    def words(reading: Any) -> str:
        return "" if reading is None else reading.model_dump_json()

    asked = CutFacesQuery(
        **(view.reading.model_dump() if view.reading else {}),
        step=query.step,
        through=cut.through,
        iso=",".join(f"{v:g}" for v in cut.iso),
        band=cut.band,
        values_of=words(cut.reading),
        shown="",
        hidden=query.hidden,
    )
    try:
        head, arrays = drawn_cut(source, asked)
    except IronstoneError:
        # A cut that goes through nothing at this step shows nothing.
        return
    scale = view.exaggeration
    origin = np.array(head["origin"])
    points = arrays["positions"] + origin + scale * arrays["displacement"]
    values = arrays["values"] + head["base"] if cut.shows == "reading" and key.names is None else None
    scene.bodies.append(Body(points, np.arange(len(points)).reshape(-1, 3), values))
    if cut.borders:
        ends = arrays["border_positions"] + origin + scale * arrays["border_displacement"]
        scene.lines.append(Lines(ends, np.arange(len(ends)).reshape(-1, 2)))


def _faded(scene: Scene, camera: Camera, radius: float, faces: int, style: str) -> Scene:
    """The lines of the mesh fade where they are dense."""
    spacing = 2 * radius * camera.zoom / np.sqrt(max(faces, 1))
    opacity = 0.34 * min(1.0, max(0.0, (spacing - 3) / 11)) if style == "shaded" else 0.6
    lines = [
        one
        if one.behind or one.opacity > 0.5
        else Lines(one.points, one.pairs, one.colour, opacity, own=one.own, planes=one.planes)
        for one in scene.lines
    ]
    return Scene(scene.bodies, [one for one in lines if one.opacity > 0.01])


def _marks(
    head: ValuesHead, view: InView, source: ReviewSource, camera: Camera, size: tuple[int, int]
) -> list[tuple[str, float | None, float, float]]:
    """Where highest and lowest are on the picture."""
    if head.max is None or head.min is None or head.max.value == head.min.value:
        return []
    found = []
    for word, at in (("highest", head.max), ("lowest", head.min)):
        place = np.array(at.xyz, dtype=np.float64)
        if at.moved is not None:
            place = place + view.exaggeration * np.array(at.moved)
        x, y, _ = camera.on_screen(place[None], size)[0]
        if np.isfinite([x, y]).all():
            found.append((word, at.value, float(x), float(y)))
    return found


def _notes(view: InView, source: ReviewSource) -> list[str]:
    """What makes the picture another one than it seems."""
    if moving(source.fields) is None or view.exaggeration == 1:
        return []
    from ironstone.engine.picture.letters import figure

    return ["Shown undeformed."] if not view.exaggeration else [f"Deformation shown {figure(view.exaggeration, 3)} times its size."]
