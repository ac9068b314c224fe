"""Fields and steps as a result declares them."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.field.axes import ELEMENT, GLOBAL, Axes
from ironstone.core.field.constants import table
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.strength.zones import Laminates

MODELS = ("", "plane stress", "plane strain", "axisymmetric")
PLY = "ply"
RANKS = {1: "scalar", 2: "vector", 3: "vector", 6: "tensor"}


@dataclass(frozen=True)
class Field:
    """One field of a result. ``location`` is node, element, corner or gauss; ``notes`` are the guesses behind this entry.

    points: how many Gauss points an element has; their values lie point after point in one row of the element.
    unit_guessed: the file states no unit and nobody has confirmed one.
    averaged_before: the values were averaged over elements before they came, and cannot be un-averaged.
    recovered: how the values were worked out here from another field; '' where the file holds them.
    names: the numbers name something (a ply, a state): never averaged, never interpolated.
    flat: a tensor of a planar model whose file leaves the third direction out.
    labels: the names themselves, by number, of a field the mesh has by its partition (part, material) and no array of its own.
    layers: how many layers (plies of a stack from the bottom) a row holds; places: those in each, in order. harmonic: a row holds
    the real parts, then the imaginary ones. sheets: of plies worked out here, the cut sheets by name. surface_axes: the axes in the
    surface of a shell it is told in, as stated; '' as long as nothing is.
    """

    name: str
    kind: str
    rank: str
    location: str
    components: tuple[str, ...]
    unit: str
    precision: str = "double"
    guessed: bool = False
    unit_guessed: bool = False
    notes: tuple[str, ...] = ()
    averaged_before: bool = False
    points: int = 0
    recovered: str = ""
    names: bool = False
    flat: bool = False
    labels: tuple[str, ...] = ()
    layers: int = 0
    places: tuple[str, ...] = ("",)
    harmonic: bool = False
    sheets: tuple[str, ...] = ()
    surface_axes: str = ""

    @property
    def of_plies(self) -> bool:
        """Whether it is what laminates have in their plies: worked out from them, layer by layer, in the axes of each ply."""
        return self.rank == PLY

    @property
    def plain(self) -> bool:
        """Whether a row holds one value (or one for each Gauss point): neither layers nor a harmonic's two parts."""
        return not self.layers and not self.harmonic

    @property
    def stored(self) -> bool:
        """Whether an array of the file is behind it."""
        return not self.recovered and not self.labels


def partitions(mesh: Mesh) -> tuple[Field, ...]:
    """What the mesh itself says of each element, as fields of names: its part, and its material where the file names one."""
    found = (("part", mesh.part_names), ("material", mesh.material_or_part_names if mesh.material is not None else ()))
    return tuple(
        Field(name, "", "scalar", "element", ("value",), "", names=True, labels=names) for name, names in found if len(names) > 1
    )


def partition_values(mesh: Mesh, name: str) -> Float:
    """Position of each element's part or material in its names, (elements, 1)."""
    return (mesh.part if name == "part" else mesh.material_or_part)[:, None].astype(np.float64)


@dataclass(frozen=True)
class Mirror:
    """The result is one half of a body: the plane where coordinate ``axis`` (0, 1, 2) is ``at`` mirrors it into the other."""

    axis: int
    at: float

    @property
    def words(self) -> str:
        return f"{'xyz'[self.axis]} = {self.at:g}"

    def image_of_points(self, points: Float) -> Float:
        """Where points (n, 3) are in the other half."""
        image = points.copy()
        image[:, self.axis] = 2 * self.at - image[:, self.axis]
        return image

    def image_of_vectors(self, vectors: Float) -> Float:
        """What vectors (n, 3) such as forces are in the other half."""
        image = vectors.copy()
        image[:, self.axis] *= -1
        return image


@dataclass(frozen=True)
class Setup:
    """What the analyst has stated of a result beside its fields.

    constants: by the material's (or part's) name, then the constant's. laminates: the plies of its shells. length: the unit of its
    coordinates, '' where that is not known.
    """

    axes: Mapping[str, Axes] = field(default_factory=dict)
    constants: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    model: str = ""
    orientation: str = ""
    mirror: Mirror | None = None
    laminates: Laminates | None = None
    length: str = ""

    def axes_named(self, name: str) -> Axes | None:
        own = {"global": GLOBAL, "element": ELEMENT}
        return own.get(name) or self.axes.get(name)


def displacement_of(fields: Mapping[str, Field]) -> Field | None:
    """The displacement at the nodes, where a result has one."""
    return next((f for f in fields.values() if f.kind == "displacement" and f.location == "node" and f.plain), None)


def stress_of(fields: Mapping[str, Field]) -> Field | None:
    """The stress tensor the file holds, where it holds one: as computed rather than averaged before it came."""
    found = [f for f in fields.values() if f.kind == "stress" and f.rank == "tensor" and f.stored and f.plain]
    return min(found, key=lambda f: f.averaged_before, default=None)


def opening_field(fields: Mapping[str, Field]) -> Field | None:
    """What a result is first looked at by: its stress as computed, else what comes next to it."""
    every = [f for f in fields.values() if f.rank != "matrix"]
    stress = stress_of(fields) or next((f for f in every if f.kind == "stress" and f.rank != "scalar"), None)
    wanted = (("axial stress", ""), ("stress", "scalar"), ("displacement", ""))
    others = (next((f for f in every if f.kind == kind and rank in ("", f.rank)), None) for kind, rank in wanted)
    return stress or next((f for f in others if f), None) or next(iter(every), None)


def thickness_of(source: Source, step: int) -> Float | None:
    """Thickness of each element (elements,), where the result has it at elements or nodes; None where it has none."""
    found = next((f for f in source.fields.values() if f.kind == "thickness" and f.rank == "scalar" and f.plain), None)
    if found is None or found.location == "gauss":
        return None
    mesh = source.mesh
    values = np.asarray(source.values(found.name, step), dtype=np.float64)[:, 0]
    if found.location == "element":
        return values
    at_corners = values[mesh.connectivity] if found.location == "node" else values
    total = np.bincount(mesh.corner_element, weights=at_corners, minlength=len(mesh.types))
    mean: Float = total / np.maximum(np.diff(mesh.offsets), 1)
    return mean


def constants_of(mesh: Mesh, setup: Setup, *names: str) -> tuple[Float, ...]:
    """Constants of each element in the order of ``names``, (elements,) each; NaN where nothing is stated."""
    found = table(names, mesh.material_or_part_names, setup.constants)
    return tuple(found[name][mesh.material_or_part] for name in names)


def constant_at(mesh: Mesh, setup: Setup, name: str, location: str) -> Float:
    """A constant at the places of a location (node, corner, else element): of a node, that of the last element there."""
    of_element = constants_of(mesh, setup, name)[0]
    if location == "corner":
        return np.asarray(of_element[mesh.corner_element])
    if location != "node":
        return of_element
    table = np.full(len(mesh.points), np.nan)
    table[mesh.connectivity] = of_element[mesh.corner_element]
    return table


# The kind of a step that is made of others.
COMBINATION = "combination"


@dataclass(frozen=True)
class Step:
    """One state. ``kind`` is time, load factor, frequency, mode, number, or combination of one made of others.

    name: of a combination, or of a load case that has one step. notes: what is to be said wherever it is read. number: of a mode
    within its set, from 1; 0 where it is not known.
    """

    index: int
    kind: str
    value: float
    unit: str = ""
    loading: str = ""
    name: str = ""
    notes: tuple[str, ...] = ()
    number: int = 0

    @property
    def label(self) -> str:
        if self.kind == COMBINATION:
            return f"combination {self.name}"
        if self.name:
            return self.name
        if self.kind == "number" and self.loading:
            return f"{self.loading}, step {self.index + 1}"
        if self.kind == "time":
            return f"t = {self.value:.4g} {self.unit}".rstrip()
        if self.kind == "number":
            return f"step {self.index + 1}"
        if self.kind == "mode" and self.number:
            return f"mode {self.number}, {self.value:.4g} {self.unit}".rstrip()
        return f"{self.kind} {self.value:.4g} {self.unit}".rstrip()


def other_mesh(step: Step) -> Impossible:
    """What is said where numbers of one mesh are asked of a step that has another."""
    return Impossible(
        f"The mesh is another one at {step.label}: numbers of nodes and elements mean other places there.",
        "Ask by a place that stays: a point, a set, a path, or the highest and lowest.",
    )


class Source(Protocol, Hashable):
    """What the evaluator needs of a result, wherever its arrays are kept."""

    @property
    def name(self) -> str: ...

    @property
    def mesh(self) -> Mesh: ...

    @property
    def fields(self) -> Mapping[str, Field]: ...

    @property
    def steps(self) -> Sequence[Step]: ...

    @property
    def setup(self) -> Setup: ...

    @property
    def revision(self) -> str:
        """Changes when anything a reading depends on is corrected."""
        ...

    def at(self, step: int) -> Source:
        """This result as it is at a step, with the mesh of that step; itself where the mesh is one at all steps."""
        ...

    def other(self, name: str) -> Source:
        """Another result, by name. Raises NotFound where there is none."""
        ...

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        """All values of a field at a step, (entities, components)."""
        ...

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        """Values of a few entities, (len(entities), components), without reading the whole step."""
        ...

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        """Values of a few entities at many steps, (len(steps), len(entities), components)."""
        ...


class Through:
    """A source that shows another one; what differs is overridden."""

    def __init__(self, source: Source) -> None:
        self.source = source
        self.fields: Mapping[str, Field] = source.fields

    @property
    def name(self) -> str:
        return self.source.name

    @property
    def mesh(self) -> Mesh:
        return self.source.mesh

    @property
    def steps(self) -> Sequence[Step]:
        return self.source.steps

    @property
    def setup(self) -> Setup:
        return self.source.setup

    @property
    def revision(self) -> str:
        return self.source.revision

    def at(self, step: int) -> Source:
        # What shows a result is made of one as it is at a step.
        if self.source.at(step) is not self.source:
            raise other_mesh(self.steps[step])
        return self

    def other(self, name: str) -> Source:
        return self.source.other(name)

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        return self.source.values(field, step)

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        return self.source.rows(field, step, entities)

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        return self.source.history(field, steps, entities)


def rows_of(source: Source, field: str, step: int, entities: Int) -> Float:
    """A few rows by seeking, many by reading the step once."""
    if len(entities) <= 4096:
        unique, back = np.unique(entities, return_inverse=True)
        if len(unique) <= 512:
            few: Float = np.asarray(source.rows(field, step, unique), dtype=np.float64)[back]
            return few
    whole = source.values(field, step)
    run = run_of(entities)
    many: Float = np.asarray(whole[entities if run is None else run], dtype=np.float64)
    return many


def run_of(entities: Int) -> slice | None:
    """Some numbers as a slice, where each is one more than the one before; None where they are no run."""
    if not len(entities) or entities[-1] - entities[0] + 1 != len(entities):
        return None
    first = int(entities[0])
    return slice(first, first + len(entities)) if bool((np.diff(entities) == 1).all()) else None


class Memory:
    """A result whose arrays are in memory: fields by name, arrays by field name, (steps, entities, components)."""

    def __init__(
        self,
        mesh: Mesh,
        fields: Sequence[Field],
        arrays: Mapping[str, NDArray[np.floating]],
        steps: Sequence[Step] = (Step(0, "number", 0.0),),
        setup: Setup | None = None,
    ) -> None:
        self.mesh = mesh
        self.fields: Mapping[str, Field] = {f.name: f for f in fields}
        self.steps = steps
        self.setup = setup or Setup()
        self.name = ""
        self.revision = "0"
        self.arrays = arrays
        self.others: dict[str, Source] = {}

    def at(self, step: int) -> Source:
        return self

    def other(self, name: str) -> Source:
        if name not in self.others:
            raise NotFound(f"There is no result '{name}'.")
        return self.others[name]

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        return np.asarray(self.arrays[field][step])

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        return np.asarray(self.arrays[field][step])[entities]

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        return np.stack([self.rows(field, int(step), entities) for step in steps])
