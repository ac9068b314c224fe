"""What each array of a file is: ids, a partition, a set, or a field; every guess with its reason."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.fields import RANKS
from ironstone.core.kinds import by_ply, guess_kind, naming_kind
from ironstone.core.mesh.weld import as_tensor, tensor_order

IDS = ("globalids", "globalnodeids", "globalelementids", "globalcellids", "nodeids", "elementids")
IGNORED = ("vtkghosttype", "vtkoriginalpointids", "vtkoriginalcellids", "connectivity")
PARTITIONS = ("part", "part_id", "partid", "material", "material_id", "materialid", "mat", "block", "block_id")
# Words that say that whole numbers divide the body; those of the second row name its materials.
DIVIDES = {
    "region", "regions", "subdomain", "subdomains", "domain", "domains", "tag", "tags", "group", "groups", "part", "parts",
    "block", "blocks", "body", "bodies", "physical", "zone", "zones", "partition",
}  # fmt: skip
MATERIALS = {"material", "materials", "mat", "matid", "material_id"}
FEW, MOST_PARTS = 64, 4096
TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")


NAMING = ("number", "flag", "index", "status", "failed", "ply", "layer", "category", "order", "id", "mode")
BREAKS = ("thickness", "shell_thickness", "property", "property_id", "section", "section_id")
AVERAGED = "They were averaged before import and cannot be un-averaged"
# How four columns of a planar tensor may be laid out, and three; those of the plane leave the third direction out.
FOUR, TWO_BY_TWO, FOUR_LAST = "xx, yy, zz, xy", "xx, xy, yx, yy", "xx, yy, xy, zz"
THREE, THREE_ROWS = "xx, yy, xy", "xx, xy, yy"
LAYOUTS = {FOUR: (FOUR, FOUR_LAST, TWO_BY_TWO), THREE: (THREE, THREE_ROWS)}
LAYOUTS |= {other: LAYOUTS[FOUR] for other in (TWO_BY_TWO, FOUR_LAST)}
IN_THE_PLANE = (TWO_BY_TWO, THREE, THREE_ROWS)
ENGINEERING = ("engineering", "gamma", "eng_", "_eng")


@dataclass(frozen=True)
class Guess:
    """How one array is taken. role: ids, partition, set, field, ignored. Components are those after conversion.

    points: Gauss points in a row of an element; layers: layers in one, or layers times the places in each; way: how these are
    split, where it is known. names: whole numbers that name something. engineering: shear given as the change of the right angle.
    flat: the third direction of a planar tensor is missing. settled: the file itself names the components.
    """

    role: str
    kind: str = ""
    rank: str = ""
    components: tuple[str, ...] = ()
    guessed: bool = False
    notes: tuple[str, ...] = ()
    points: int = 0
    names: bool = False
    engineering: bool = False
    flat: bool = False
    settled: bool = False
    layers: int = 0
    harmonic: bool = False
    way: str = ""
    layout: str = ""

    @property
    def more(self) -> dict[str, object]:
        """What is kept of a field beside its kind, rank and place."""
        return {"points": self.points, "names": self.names, "engineering": self.engineering, "flat": self.flat,
                "settled": self.settled, "layers": self.layers, "harmonic": self.harmonic, "way": self.way,
                "layout": self.layout}  # fmt: skip


def classify(
    name: str,
    values: NDArray[np.generic],
    components: tuple[str, ...],
    on_elements: bool,
    gauss_counts: frozenset[int] = frozenset(),
) -> Guess:
    """Classify an array (entities, components) by its name and numbers.

    gauss_counts: how many Gauss points the elements of this mesh may have; columns of an element array are split by it.
    """
    plain = name.strip().lower().replace(" ", "_")
    if plain.replace("_", "") in IDS:
        return Guess("ids")
    if plain in IGNORED:
        return Guess("ignored")
    width = values.shape[1]
    whole = values.dtype.kind in "iub"
    if width == 1 and whole:
        distinct = np.unique(values)
        words = set(re.split(r"[_:.\-]+", plain))
        if on_elements and len(distinct) <= MOST_PARTS and (plain in PARTITIONS or words & (DIVIDES | MATERIALS)):
            return Guess("partition", kind="material" if words & MATERIALS or plain.startswith("mat") else "part")
        if on_elements and (kind := naming_kind(plain)):
            return Guess("field", kind, "scalar", ("value",), True, (f"taken as {kind}: whole numbers named '{name}'",), names=True)
        if np.isin(distinct, (0, 1)).all():
            return Guess("set")
        if on_elements and len(distinct) <= FEW:
            return Guess("partition", kind="")
        return Guess("ignored", notes=(f"'{name}' holds bare numbers and is not shown as a field.",))
    points, width = _gauss(name, width, on_elements, gauss_counts)
    layers, width = (0, width) if points else _layers(name, width, on_elements)
    if width not in (1, 2, 3, 4, 6, 9):
        return Guess("ignored", notes=(f"'{name}' has {width} columns, which is no scalar, vector or tensor: left out.",))
    names: tuple[str, ...]
    named = tensor_order(components)
    kind, reason = guess_kind(name, 6 if width == 4 or (width == 9 and "orient" not in plain and "axes" not in plain) else width)
    if width == 3 and (named is not None or (not kind and guess_kind(name, 6)[0])):
        kind, reason = guess_kind(name, 6)[0], f"named '{name}', three components of a planar model"
        named = named or ["xx", "yy", "xy"]
    notes = [f"taken as {kind}: {reason}"] if kind else ["kind not known: the name says nothing"]
    if points:
        notes.append(f"{values.shape[1]} columns taken as {width} component{'s' if width > 1 else ''} at {points} Gauss points")
    if layers:
        notes.append(f"{values.shape[1]} columns taken as {width} component{'s' if width > 1 else ''} in {layers} layers")
    engineering = flat = False
    layout = ""
    if kind == "orientation" and width == 9:
        rank, names = "matrix", tuple(f"{i}{j}" for i in "123" for j in "xyz")
    elif width in (4, 6, 9) or (width == 3 and named is not None):
        rank, names = "tensor", TENSOR
        sample = np.asarray(values[:1, :width], dtype=np.float64)
        done = as_tensor(sample, components if not points and not layers else ())[1]
        if done:
            notes.append(done)
        flat = width == 3
        if flat and tensor_order(components) is None and not points and not layers:
            layout = THREE
        if width == 4 and named is None and not points and not layers:
            layout = TWO_BY_TWO if _two_by_two(values) else FOUR
            if layout == TWO_BY_TWO:
                notes[-1:] = ["four components taken as two by two, xx, xy, yx, yy: the second and the third agree everywhere"]
                flat = True
        engineering = any(word in plain for word in ENGINEERING) or any("gamma" in c.lower() for c in components)
        if kind == "strain":
            notes.append(
                "shear taken as engineering shear, and halved: the name says so"
                if engineering
                else "shear taken as tensor shear (half the engineering shear)"
            )
    elif width in (2, 3):
        rank, names = "vector", ("x", "y", "z")
    else:
        rank, names = RANKS[1], ("value",)
    naming = _names_something(plain, values, width, kind)
    if naming:
        kind = naming_kind(plain)
        notes = ["whole numbers that name something: never averaged"]
    guessed = bool(kind) or rank == "tensor" or naming or bool(points or layers)
    return Guess("field", kind, rank, names, guessed, tuple(notes), points, naming, engineering, flat, bool(components), layers,
                 layout=layout)  # fmt: skip


def _two_by_two(values: NDArray[np.generic]) -> bool:
    """Whether four columns are xx, xy, yx, yy: the two in the middle are one number everywhere, and not nothing."""
    middle = np.nan_to_num(values[:, 1:3].astype(np.float64))
    size = float(np.abs(np.nan_to_num(values.astype(np.float64))).max(initial=0.0))
    off = float(np.abs(middle[:, 0] - middle[:, 1]).max(initial=0.0))
    return bool(np.abs(middle).max(initial=0.0) > 1e-6 * size and off <= 1e-6 * size)


def _gauss(name: str, width: int, on_elements: bool, counts: frozenset[int]) -> tuple[int, int]:
    """Gauss points and components behind a number of columns: (0, width) where the columns are components alone."""
    if not on_elements or width in (1, 2, 3, 4, 6) or by_ply(name):
        return 0, width
    tensor, scalar = guess_kind(name, 6)[0], guess_kind(name, 1)[0]
    for components in (6, 1) if tensor or not scalar else (1, 6):
        points, rest = divmod(width, components)
        if not rest and points > 1 and points in counts and not (width == 9 and components == 1 and not scalar):
            return points, components
    return 0, width


def _layers(name: str, width: int, on_elements: bool) -> tuple[int, int]:
    """Layers and components behind more columns than a tensor has, where the name tells what they are; (0, width) else."""
    if on_elements and width > 1 and by_ply(name):
        return width, 1
    if not on_elements or width <= 9:
        return 0, width
    tensor, scalar = guess_kind(name, 6)[0], guess_kind(name, 1)[0]
    components = 6 if tensor and not width % 6 else 1 if scalar else 0
    return (width // components, components) if components else (0, width)


def _names_something(plain: str, values: NDArray[np.generic], width: int, kind: str) -> bool:
    if width != 1 or (kind and not naming_kind(plain)) or not any(word in plain.split("_") for word in NAMING):
        return False
    there = values[np.isfinite(values.astype(np.float64))]
    return bool(len(there) and (there == np.rint(there.astype(np.float64))).all())


def converted(
    values: NDArray[np.generic], components: tuple[str, ...], rank: str, several: int = 0, harmonic: bool = False
) -> NDArray[np.floating]:
    """Values in our component order, in the precision they came in. several: Gauss points or layers in a row."""
    if harmonic:
        return np.hstack([converted(half, components, rank, several) for half in np.hsplit(values, 2)])
    single = values.dtype == np.float32
    floating: NDArray[np.floating] = values.astype(np.float32 if single else np.float64, copy=False)
    if several:
        each = floating.shape[1] // several
        if rank != "tensor" or (each == 6 and not components):
            return floating
        return as_tensor(floating.reshape(-1, each), components)[0].reshape(len(floating), -1)
    if rank == "tensor":
        return as_tensor(floating, components)[0]
    if rank == "vector" and floating.shape[1] == 2:
        return np.column_stack([floating, np.zeros(len(floating), dtype=floating.dtype)])
    return floating
