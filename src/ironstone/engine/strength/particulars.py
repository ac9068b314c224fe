"""Of strength: what only the answers of one kind of question have beside what every answer carries."""

from __future__ import annotations

from pydantic import Field

from ironstone.engine.carrier import Numbers, Particulars


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


class FirstOfZone(Particulars):
    """Of a zone: how many elements it has, and its first failure, none where no ply has a value."""

    zone: str
    elements: int
    first: FirstPly | None


class FirstByZoneMore(Particulars):
    zones: list[FirstOfZone]


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
    temperature: float = 0.0
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
