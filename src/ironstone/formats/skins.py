"""The drawn skin of a model for any viewer: GLB (glTF 2.0, one file), PLY with colours, STL.

A GLB holds the colours as a picture of the key and a place on it for each vertex: the colour is looked up after the place is
interpolated, so that bands keep their edges. Its lengths are metres and its upright axis is y, as glTF has them: a node turns and
scales the model. Written after the Khronos glTF 2.0 specification; read back in the tests by the package trimesh.
"""

from __future__ import annotations

import io
import json
import struct
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError

Float = NDArray[np.float64]
_FLOAT, _UNSIGNED, _ARRAY, _ELEMENTS, _NEAREST, _CLAMPED = 5126, 5125, 34962, 34963, 9728, 33071


@dataclass(frozen=True, eq=False)
class Skin:
    """points: (n, 3) in the model's unit; triangles: (t, 3); share: (n,) place of each vertex on the key from 0 to 1, NaN where it
    has no value; key: (k, 3) colours of the key from its lower end; missing: colour of no value; metres: one unit in metres."""

    points: Float
    triangles: NDArray[Any]
    share: Float
    key: NDArray[np.uint8]
    missing: tuple[int, int, int]
    metres: float
    title: str = ""


def skin_file(skin: Skin, suffix: str) -> bytes:
    """A skin as a file of this suffix: .glb, .ply or .stl. Raises IronstoneError for another."""
    writer = {".glb": _glb, ".ply": _ply, ".stl": _stl}.get(suffix.lower())
    if writer is None:
        raise IronstoneError(f"A model is not written as {suffix or 'a file without an ending'}.", "Name it .glb, .ply or .stl.")
    return writer(skin)


def _glb(skin: Skin) -> bytes:
    from PIL import Image

    picture = io.BytesIO()
    Image.fromarray(np.repeat(skin.key[None], 2, axis=0)).save(picture, "PNG")
    missing = np.isnan(skin.share)[skin.triangles].any(1)
    colours = len(skin.key)
    # Half a colour from either end: the middle of the first and of the last one.
    across = np.nan_to_num(np.clip(skin.share, 0.0, 1.0)) * (1.0 - 1.0 / colours) + 0.5 / colours
    # Single precision holds what lies about the middle.
    middle = (skin.points.min(0) + skin.points.max(0)) / 2 if len(skin.points) else np.zeros(3)
    arrays: list[tuple[Any, int, dict[str, Any]]] = [
        _accessor((skin.points - middle).astype("<f4"), _ARRAY, "VEC3", _FLOAT),
        _accessor(np.stack([across, np.full(len(across), 0.5)], 1).astype("<f4"), _ARRAY, "VEC2", _FLOAT),
    ]
    primitives = []
    for material, own in ((0, ~missing), (1, missing)):
        if own.any():
            primitives.append({"attributes": {"POSITION": 0, "TEXCOORD_0": 1}, "indices": len(arrays), "material": material})
            arrays.append(_accessor(skin.triangles[own].astype("<u4").ravel(), _ELEMENTS, "SCALAR", _UNSIGNED))
    views, accessors, data = [], [], b""
    for number, (values, target, accessor) in enumerate(arrays):
        views.append({"buffer": 0, "byteOffset": len(data), "byteLength": values.nbytes, "target": target})
        accessors.append({"bufferView": number, **accessor})
        data += values.tobytes()
        data += b"\0" * (-len(data) % 4)
    views.append({"buffer": 0, "byteOffset": len(data), "byteLength": picture.tell()})
    data += picture.getvalue()
    data += b"\0" * (-len(data) % 4)
    # z upwards becomes y upwards; one unit becomes so many metres.
    s = skin.metres
    stone = [(c / 255.0) ** 2.2 for c in skin.missing]
    told = {
        "asset": {"version": "2.0", "generator": "Ironstone Ridge", "extras": {"reading": skin.title}},
        "extensionsUsed": ["KHR_materials_unlit"],
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": skin.title, "matrix": [s, 0, 0, 0, 0, 0, -s, 0, 0, s, 0, 0, 0, 0, 0, 1]}],
        "meshes": [{"primitives": primitives}],
        "materials": [
            {
                "name": "values",
                "doubleSided": True,
                "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}, "metallicFactor": 0, "roughnessFactor": 1},
                "extensions": {"KHR_materials_unlit": {}},
            },
            {
                "name": "no value",
                "doubleSided": True,
                "pbrMetallicRoughness": {"baseColorFactor": [*stone, 1], "metallicFactor": 0, "roughnessFactor": 1},
                "extensions": {"KHR_materials_unlit": {}},
            },
        ],
        "textures": [{"sampler": 0, "source": 0}],
        "samplers": [{"magFilter": _NEAREST, "minFilter": _NEAREST, "wrapS": _CLAMPED, "wrapT": _CLAMPED}],
        "images": [{"bufferView": len(views) - 1, "mimeType": "image/png"}],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": len(data)}],
    }
    head = json.dumps(told, separators=(",", ":")).encode()
    head += b" " * (-len(head) % 4)
    whole = 12 + 8 + len(head) + 8 + len(data)
    return b"".join(
        [
            struct.pack("<4sII", b"glTF", 2, whole),
            struct.pack("<I4s", len(head), b"JSON"),
            head,
            struct.pack("<I4s", len(data), b"BIN\0"),
            data,
        ]
    )


def _accessor(values: NDArray[Any], target: int, kind: str, number: int) -> tuple[NDArray[Any], int, dict[str, Any]]:
    told: dict[str, Any] = {"componentType": number, "count": len(values), "type": kind}
    if kind == "VEC3" and len(values):
        # The bounds of a place are asked for by the format.
        told |= {"min": values.min(0).tolist(), "max": values.max(0).tolist()}
    return values, target, told


def _ply(skin: Skin) -> bytes:
    """Binary PLY, its vertices in the colours of their values."""
    place = np.nan_to_num(np.clip(skin.share, 0.0, 1.0))
    colours = skin.key[np.minimum((place * len(skin.key)).astype(int), len(skin.key) - 1)]
    colours = np.where(np.isnan(skin.share)[:, None], np.array(skin.missing, dtype=np.uint8), colours).astype(np.uint8)
    vertices = np.zeros(len(skin.points), dtype=[("at", "<f8", 3), ("colour", "u1", 3)])
    vertices["at"], vertices["colour"] = skin.points, colours
    faces = np.zeros(len(skin.triangles), dtype=[("count", "u1"), ("corners", "<i4", 3)])
    faces["count"], faces["corners"] = 3, skin.triangles
    lines = ["ply", "format binary_little_endian 1.0", f"comment {' '.join(skin.title.split())}", f"element vertex {len(vertices)}"]
    lines += [f"property double {axis}" for axis in "xyz"] + [f"property uchar {c}" for c in ("red", "green", "blue")]
    lines += [f"element face {len(faces)}", "property list uchar int vertex_indices", "end_header", ""]
    return "\n".join(lines).encode("ascii", "replace") + vertices.tobytes() + faces.tobytes()


def _stl(skin: Skin) -> bytes:
    """Binary STL: triangles with their normals; it has no colours."""
    corners = skin.points[skin.triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    found = np.zeros(len(corners), dtype=[("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
    found["normal"], found["corners"] = normals, corners
    # A head that begins with 'solid' would be taken for text.
    head = f"skin: {skin.title}".encode("ascii", "replace")[:80].ljust(80, b" ")
    return head + struct.pack("<I", len(found)) + found.tobytes()
