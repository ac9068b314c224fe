"""Of readings: what only the answers of one kind of question have beside what every answer carries."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ironstone.engine.carrier import Numbers, Particulars


class StepOf(Particulars):
    index: int
    kind: str
    value: float
    unit: str


class ReadAt(Particulars):
    """One value of a reading: where it is, and the element, node and part it belongs to."""

    place: str = ""
    value: float | None
    element: int | None
    node: int | None
    part: str | None
    xyz: Numbers


class ReadMore(Particulars):
    """Values at a place with the highest and lowest, the jump at a node, principal directions, the total of an error estimate."""

    step: StepOf
    values: list[ReadAt | PrincipalAt]
    min: ReadAt | None
    max: ReadAt | None
    jump: float | None = None
    jump_within_material: float | None = None
    jump_unit: str | None = None
    error_total: float | None = None
    error_norm: float | None = None
    energy_norm: float | None = None


class PrincipalAt(ReadAt):
    direction: Numbers


class Extremum(Particulars):
    value: float
    x: float


class Peaks(Particulars):
    max: Extremum
    min: Extremum


class Stretch(Particulars):
    """A piece of a line that lies in one part; None outside the body."""

    part: str | None
    from_: float = Field(alias="from")
    to: float


class Linearised(Particulars):
    """One part of a stress through a wall: in the measure of the reading, its tensor, and von Mises; of some at both ends."""

    value: float | list[float] | None
    tensor: list[float] | list[list[float]]
    von_mises: float | list[float] | None


class LinearisedPart(Particulars):
    label: str
    value: float | None
    von_mises: float | None


class RecordAlong(Particulars):
    """A test record along a line, in the units of the plot."""

    name: str
    x: Numbers
    y: Numbers
    notes: list[str]
    agrees: bool
    corrections: list[str]


class ProfileMore(Particulars):
    """Of a profile: its line, its highest and lowest, what stands beside it, and membrane, bending and peak where asked for."""

    lead: str
    peaks: Peaks | None
    mean: float | None
    length: float
    length_unit: str
    moved: list[tuple[float, float, float]]
    stretches: list[Stretch]
    formula: Numbers | None = None
    test: RecordAlong | None = None
    membrane: Linearised | None = None
    bending: Linearised | None = None
    membrane_and_bending: Linearised | None = None
    peak: Linearised | None = None
    thickness: float | None = None
    tensor_unit: str | None = None
    parts: list[LinearisedPart] | None = None


class EndOf(Particulars):
    """A highest or lowest value and where it is; element and node by the numbers of the file."""

    value: float | None
    element: int | None
    node: int | None
    part: str | None
    xyz: Numbers


class EndsOfPart(Particulars):
    part: str
    low: EndOf | None
    high: EndOf | None


class ByPartMore(Particulars):
    """Each part with its lowest and highest, none where it has no value."""

    parts: list[EndsOfPart]


class NearEdgeMore(Particulars):
    """The node of the edge, its place, and how far it is from where one pointed."""

    node: int
    xyz: Numbers
    away: float
    unit: str


class CutMore(Particulars):
    """Of a cut at one step: its size (area, length or volume), shares, place, and the force through a plane."""

    where: str = ""
    area: float | None = None
    length: float | None = None
    volume: float | None = None
    size_unit: str = ""
    share: float | None = None
    mass_share: float | None = None
    normal: list[float] | None = None
    away: float | None = None
    centroid: list[float] = []
    box: list[list[float]] = []
    min: float | None = None
    max: float | None = None
    length_unit: str = ""
    force: list[float] | None = None
    moment: list[float] | None = None
    force_unit: str | None = None
    moment_unit: str | None = None


class GaugeRow(Particulars):
    name: str
    xyz: list[float]
    inside: bool
    where: Literal["inside", "on the surface", "outside"]
    distance: float
    at: list[float]
    moved: list[float]
    part: str
    element: int
    value: float | None
    measured: float | None
    deviation: float | None
    share: float | None


class RosetteStrain(Particulars):
    first: float
    second: float
    angle: float


class Rosette(Particulars):
    name: str
    gauges: list[str]
    computed: RosetteStrain | None
    measured: RosetteStrain | None
    error: str | None = None


class GaugesMore(Particulars):
    points: list[GaugeRow] = []
    rosettes: list[Rosette] = []
    length_unit: str = ""
    agrees: bool | None = None


class FlagColumns(Particulars):
    """Which columns of the table are of a flag."""

    flag: int
    first: int
    count: int


class FlagStepsMore(Particulars):
    groups: list[FlagColumns]


class StepsWhereMore(Particulars):
    """The steps at which the condition holds, by position."""

    steps: list[int]


class ProfileOf(Particulars):
    """The profile of one result in the units of the first. ratio: the first's largest magnitude over its own. deviation: RMS, as a
    share; largest: this much, at that distance. error: why it has none."""

    id: int
    result: str
    x: list[float]
    y: Numbers
    ratio: float | None
    deviation: float | None
    largest: float | None
    largest_at: float | None
    verdict: str
    state: str
    error: str
    notes: list[str]


class ProfilesOfMore(Particulars):
    x: list[float]
    y: Numbers
    x_unit: str
    lead: str
    profiles: list[ProfileOf]
