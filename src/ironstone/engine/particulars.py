"""What only answers of one kind have beside what every answer carries: one type for each kind of question that has any.

A question names its type (``Question.more``); what it answers is held against that wherever it is asked, and the page's types are
made of it.
"""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

Numbers = list[float | None]


class Particulars(BaseModel):
    """Of most kinds of question: nothing."""

    model_config = ConfigDict(extra="forbid")


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


class Moment(Particulars):
    """When a limit is first met, or of what never meets it, what the loads may be multiplied by."""

    fails: bool
    step: int
    at: float | None
    kind: str
    unit: str
    moment: str
    load_factor: float


class FailedPly(Particulars):
    """A ply at a place of an element that fails, or comes nearest to it.

    state: 'fails without load' where what does not scale with the loads is enough; the exposure then has no bound.
    """

    element: int
    zone: str
    sheet: str | None
    position: int
    place: str
    mode: str
    exposure: float | None = None
    state: str | None


class WorstPly(FailedPly):
    index: float | None
    reserve: float | None
    angle: float
    material: str


class FirstPly(Moment, FailedPly):
    index: float | None
    reserve: float | None


class MetalPlace(Particulars):
    """A part of metal at a corner of an element against a limit, in the words plies have: the part for the zone."""

    element: int
    zone: str
    sheet: None
    position: None
    place: str
    mode: str
    index: float
    reserve: float | None


class FirstMet(Moment, MetalPlace):
    pass


class StrengthMore(Particulars):
    sentence: str
    criterion: str
    step: int
    worst: WorstPly | None
    failed_elements: list[int]
    failed_count: int
    failed: list[FailedPly]
    plies_present: int
    share_of_plies_failed: float | None
    exposure: Numbers
    first_failure: FirstPly | None
    assumed: list[str]


class UtilisationRow(Particulars):
    part: str
    against: str
    limit: float
    utilisation: float
    element: int
    over_share: float | None


class UtilisationMore(Particulars):
    rows: list[UtilisationRow]
    worst: MetalPlace | None
    failed_elements: list[int]
    share_of_plies_failed: float | None
    first_failure: FirstMet | None
    utilisation: list[float]
    yielded: Numbers


class PlyWords(Particulars):
    sheet: str
    material: str
    thickness: float
    angle: float


class ZoneWords(Particulars):
    name: str
    where: str
    offset: float
    axis: list[float]
    plies: list[PlyWords]


class LaminateFile(Particulars):
    """Laminates as they are written to a file."""

    version: int
    units: str
    temperature: float | None = None
    materials: dict[str, dict[str, float | str]]
    zones: list[ZoneWords]


class ZoneShown(Particulars):
    name: str
    where: str
    elements: int
    thickness: float
    offset: float
    symmetric: bool
    balanced: bool
    plies: list[PlyWords]


class CriterionShown(Particulars):
    """A criterion, and what the materials lack for it or what is assumed in its place."""

    name: str
    label: str
    lacking: list[str]
    bond_lacking: list[str]
    assumed: list[str]


class DropOff(Particulars):
    """Sheets that end or begin between two zones."""

    from_: str = Field(alias="from")
    to: str
    ends: list[str]
    begins: list[str]


class LaminatesMore(Particulars):
    name: str | None
    edited: bool
    content: LaminateFile | None
    zones: list[ZoneShown]
    sheets: list[str]
    criteria: list[CriterionShown]
    drop_offs: list[DropOff]
    basis: str | None
    shear: bool
    thermal: bool
    places: list[str]
    moves: bool
    length: str = ""
    stress: str = ""


class StackRow(Particulars):
    """A ply at a place in it: strain and stress in the axes of the ply, and how it stands against the criterion."""

    position: int
    sheet: str | None
    material: str
    angle: float
    thickness: float
    place: str
    z: float
    strain: Numbers
    stress: Numbers
    index: float | None
    exposure: float | None
    reserve: float | None
    mode: str
    state: str | None


class StackMore(Particulars):
    element: int
    zone: str
    thickness: float
    unit: str
    length: str
    plies: list[StackRow]
    remarks: list[str]


class EnvelopePoint(Particulars):
    x: float
    y: float
    step: int


class EnvelopeStep(EnvelopePoint):
    label: str


class CouponPoint(Particulars):
    specimen: str
    of: str
    property: str
    stress: list[float]
    x: float
    y: float


class StressName(Particulars):
    name: str
    value: float


class EnvelopePlace(Particulars):
    """The place that fails first, and its stress there: 11, 22, 12."""

    element: int
    zone: str
    sheet: str | None
    position: int
    place: str
    mode: str
    step: int
    fails: bool
    load_factor: float
    at_failure: list[float]
    material: str


class EnvelopeMore(Particulars):
    """ends: where the way of the worst place comes to failure, in the step it happens in; None where nothing fails."""

    names: list[str]
    third: StressName
    material: str
    way: list[EnvelopeStep]
    ends: EnvelopePoint | None
    place: EnvelopePlace | None
    coupons: list[CouponPoint]
    steps: list[str]


class TestedRow(Particulars):
    """One criterion against the tested parts; ``off``: root mean square of the logarithm of predicted over tested."""

    criterion: str
    label: str
    predicted: float
    ratios: list[float]
    mean: float
    variation: float | None
    off: float
    same: list[bool | None]
    as_seen: int
    told: int
    fails: bool
    element: int
    zone: str
    sheet: str | None
    position: int
    place: str
    mode: str
    step: int


class TestedPart(Particulars):
    specimen: str
    load: float
    zone: str
    mode: str
    note: str
    ratio: float
    same: bool | None


class TestedMore(Particulars):
    agrees: bool
    mine: TestedRow
    criteria: list[TestedRow]
    parts: list[TestedPart]
    per_factor: float


class SaidOfFailure(Particulars):
    """Of one field of the file that says whether something fails: its worst, and the same worked out here."""

    field: str
    kind: str
    layers: int
    worst: float | None
    element: int | None
    layer: int | None
    here: float | None
    deviation: float | None
    fail: int


class SolverFailureMore(Particulars):
    rows: list[SaidOfFailure]


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


class CyclesMore(Particulars):
    x: list[float]
    y: Numbers
    x_unit: str | None
    y_unit: str | None


class AgreementMore(Particulars):
    agrees: bool | None
