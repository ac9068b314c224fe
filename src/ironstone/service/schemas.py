"""What goes over the wire. The front end's types are generated from these."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from ironstone.core.averaging import FOLD
from ironstone.core.reading import Reading, plane_of
from ironstone.core.surface import Look

Averaging = Literal["off", "element", "part", "material", "all"]
Order = Literal["components", "measure"]
Reduce = Literal["sum", "mean", "max", "min"]
Sign = Literal[1, -1]
Point = tuple[float, float, float]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ReadingWords(Strict):
    """All a reading is of, but for the step."""

    field: str = ""
    measure: str = ""
    averaging: Averaging = "off"
    order: Order = "components"
    region: str = "all"
    unit: str | None = None
    of: Literal["value", "jump", "jump-within-material", "error"] = "value"
    axes: str = "global"
    plane: str | None = Field(None, description="Normal of the plane for a traction, X,Y,Z in the axes.")
    weight: Literal["plain", "volume"] = "plain"
    fold: float = Field(FOLD, ge=0, le=180)
    over: Literal["step", "largest", "smallest", "magnitude"] = "step"
    span: str = Field("all", description="all, so-far, or A:B, steps counted from 0.")
    when: bool = False
    against: str | None = Field(None, description="What the reading taken off has other than this one: step=0;averaging=all.")

    def reading(self) -> Reading:
        """The reading these words ask for."""
        words = {name: getattr(self, name) for name in Reading.__dataclass_fields__ if name in type(self).model_fields}
        words |= {"plane": plane_of(self.plane) if self.plane else None, "against": None}
        reading = Reading(**words)
        return reading.minus(self.against) if self.against else reading


class ReadingQuery(ReadingWords):
    """A reading at a step as the address bar and the requests carry it."""

    field: str
    step: int = 0


def _parts(text: str) -> frozenset[int]:
    return frozenset(int(p) for p in text.split(",") if p)


class LookQuery(Strict):
    """What of a model is drawn; see ``ironstone.core.surface.Look``."""

    detail: int = Field(0, ge=0, le=12, description="Pieces each face side is drawn in; 0 leaves it to the model's size.")
    hidden: str = Field("", pattern=r"^\d*(,\d+)*$", description="Positions of parts that are left out: 0,3.")
    clear: str = Field("", pattern=r"^\d*(,\d+)*$", description="Positions of parts that are drawn translucent.")
    every: bool = Field(False, description="All faces of every element, not the skin alone.")
    apart: bool = Field(False, description="Elements drawn apart, each shrunk towards its middle.")
    solid: bool = Field(False, description="Bars and shells at their own section and thickness.")

    def look(self) -> Look:
        return Look(self.detail, _parts(self.hidden), _parts(self.clear), self.every, self.apart, self.solid)


class DeformationQuery(LookQuery):
    step: int


class SurfaceQuery(ReadingQuery, LookQuery):
    weigh: Literal["area", "volume"] = Field("area", description="What the distribution beside the key is by.")


class ArrowsQuery(LookQuery):
    field: str
    step: int
    spacing: float = Field(0.03, ge=0, le=1, description="Least distance between arrows, as a share of the model's size.")
    unit: str | None = None


class MeasureQuery(LookQuery):
    """What is measured: a length or angle of nodes, the area from a drawn face on, the volume of elements or all that is shown."""

    what: Literal["length", "angle", "area", "volume"]
    step: int
    nodes: str = Field("", pattern=r"^(-?\d+(,-?\d+)*)?$", description="Node numbers: 12,15,18.")
    face: int = Field(-1, ge=-1)
    fold: float = Field(0.0, ge=0, le=180)
    elements: str = Field("", pattern=r"^(-?\d+(,-?\d+)*)?$", description="Element numbers; none means all that is shown.")


class FacesQuery(LookQuery):
    """Picked faces of solids: a drawn face and all that join it without folding by more than ``fold`` degrees."""

    step: int
    face: int = Field(ge=0)
    fold: float = Field(0.0, ge=0, le=180)
    pressure: float | None = Field(None, description="In the result's stress unit; positive pushes into the body.")


class SetQuery(ReadingQuery):
    name: str = Field(description="The node or element set whose nodes are read.")


class ProbeQuery(SurfaceQuery):
    face: int = Field(ge=0)
    s: float = Field(ge=0, le=1)
    t: float = Field(ge=0, le=1)


class PartOut(BaseModel):
    name: str
    elements: int


class SetOut(BaseModel):
    name: str
    of: Literal["nodes", "elements"]
    count: int
    held: str | None
    moves: bool
    made: str | None


class StepOut(BaseModel):
    index: int
    kind: str
    value: float
    unit: str
    label: str


class MeasureChoice(BaseModel):
    name: str
    label: str
    explanation: str
    signed: bool
    unit: str
    units: list[str]
    needs: list[str]
    direction: int | None


class FieldOut(BaseModel):
    name: str
    kind: str
    rank: str
    location: str
    components: list[str]
    unit: str
    precision: str
    guessed: bool
    kinds: list[str]
    averaged_before: bool
    recovered: str
    names: bool
    points: int
    order: list[str] | None
    shear: str | None
    can_be_averaged: bool
    notes: list[str]
    labels: list[str]
    measures: list[MeasureChoice]


class MaterialOut(BaseModel):
    name: str
    elements: int
    young: float | None
    poisson: float | None


class AxesOut(BaseModel):
    """Directions and origin of axes; third and first are unit vectors."""

    name: str
    kind: str
    origin: list[float]
    third: list[float]
    first: list[float]
    directions: list[str]


class FileOut(BaseModel):
    name: str
    bytes: int
    sha256: str


class MarkOut(BaseModel):
    step: int
    kind: str
    label: str


class DriverOut(BaseModel):
    set: str
    axis: str
    unit: str
    values: list[float]


class RailOut(BaseModel):
    driver: DriverOut | None
    supports: list[str]
    marks: list[MarkOut]
    opening_step: int


class MirrorOut(BaseModel):
    axis: int
    at: float


class ContentsOut(BaseModel):
    """``stated``: the state a change to what is stated of the result expects, sent back in If-Match."""

    id: int
    name: str
    stated: str
    arriving: bool
    nodes: int
    elements: int
    cells: dict[str, int]
    parts: list[PartOut]
    sets: list[SetOut]
    steps: list[StepOut]
    fields: list[FieldOut]
    system: str
    system_guessed: bool
    systems: list[str]
    welding: str
    raw_points: int
    files: list[FileOut]
    size: float
    warnings: list[str]
    materials: list[MaterialOut]
    stress_unit: str
    planar: bool
    model: str
    models: list[str]
    mirror: MirrorOut | None
    sections: bool
    totals: list[str] = Field(description="Curves of the whole model that the files hold, by name.")
    axes: list[AxesOut]
    rail: RailOut


class ResultBrief(BaseModel):
    id: int
    name: str
    arriving: bool = False


class ReviewOut(BaseModel):
    name: str
    file: str
    results: list[ResultBrief]
    can_undo: str | None
    can_redo: str | None


class JobOut(BaseModel):
    """``preview``: a result that can be looked at while it is being stored."""

    id: str
    state: Literal["running", "done", "failed", "stopped"]
    share: float
    text: str
    error: str | None = None
    hint: str | None = None
    result: int | None = None
    preview: int | None = None


class UploadOut(BaseModel):
    id: str


class IntakeIn(Strict):
    """``look``: somebody waits for the first picture, which comes before the storing."""

    upload: str
    name: str | None = Field(None, max_length=200)
    system: str | None = None
    look: bool = False


class UnitsIn(Strict):
    system: str


class FieldEntryIn(Strict):
    """What is corrected of a field's entry in the dictionary; what is left out stays. A kind of '' is not known."""

    field: str
    kind: str | None = None
    order: list[str] | None = None
    shear: Literal["tensor", "engineering"] | None = None
    averaged_before: bool | None = None
    unit: str | None = None


class ConstantsIn(Strict):
    """Young's modulus in the result's stress unit and Poisson's ratio; both empty takes them back."""

    material: str
    young: float | None = None
    poisson: float | None = None


class ModelIn(Strict):
    model: str


class SetIn(Strict):
    """A node set and how it is made: of a part, in a box, on a smooth drawn face, of nodes, or where the reading is high enough."""

    name: str = Field(min_length=1, max_length=60)
    how: Literal["part", "box", "face", "nodes", "value"]
    part: str = ""
    low: Point | None = None
    high: Point | None = None
    face: int = -1
    fold: float = 20.0
    look: LookQuery = LookQuery()
    nodes: list[int] = Field(default=[], max_length=100_000, description="Node numbers.")
    reading: ReadingQuery | None = None
    least: float = 0.0


class ResultantOut(BaseModel):
    force: list[float]
    moment: list[float]


class SetForcesOut(BaseModel):
    name: str
    nodes: int
    held: str
    reaction: ResultantOut
    applied: ResultantOut


class BalanceOut(BaseModel):
    step: int
    about: list[float]
    deformed: bool
    force_unit: str
    moment_unit: str
    applied: ResultantOut
    reaction: ResultantOut
    residual: ResultantOut
    force_share: float | None
    moment_share: float | None
    verdict: str
    sets: list[SetForcesOut]
    recovered: bool
    free_residual: float | None
    notes: list[str]


class CutOut(BaseModel):
    through: ResultantOut
    beyond: ResultantOut | None
    area: float
    area_unit: str
    centre: list[float]
    residual_share: float | None
    force_unit: str
    moment_unit: str
    note: str


class FacesOut(BaseModel):
    """Force and moment through picked faces: from stress, of what acts at their nodes, and of a pressure on them."""

    through: ResultantOut | None
    acting: ResultantOut | None
    pushed: ResultantOut | None
    count: int
    area: float
    area_unit: str
    projected: list[float] = Field(description="Area as seen along x, y and z, outward normals positive.")
    centre: list[float]
    inner: bool = Field(description="What acts there is without the nodes of the edge, which other faces share.")
    residual_share: float | None
    force_unit: str
    moment_unit: str
    stress_unit: str
    note: str


class BarOut(BaseModel):
    element: int
    axial: float
    pull: list[float]


class JointOut(BaseModel):
    node: int
    bars: list[BarOut]
    applied: list[float]
    reaction: list[float]
    residual: list[float]
    force_unit: str
    source: str


class MemberOut(BaseModel):
    """A member from joint to joint beside its hand calculation; lengths, forces and stresses in the result's units."""

    number: int
    part: str
    joints: list[int] = Field(description="Node numbers of its two ends.")
    elements: list[int]
    length: float
    force: float | None
    area: float | None
    young: float | None
    extension: float | None
    strain: float | None
    stress: float | None
    hand_force: float | None
    nominal: float | None
    yielded: float | None
    off: float | None
    elastic: bool
    sense: str


class MembersOut(BaseModel):
    members: list[MemberOut]
    source: str
    force_unit: str
    length_unit: str
    stress_unit: str
    missing: str = Field(description="What is not known, and so not worked out; empty where all is.")


class AlongOut(BaseModel):
    """A reading along a member, two values a piece, and the largest in size so far."""

    distance: list[float]
    values: list[float | None]
    so_far: list[float | None]
    distance_unit: str
    unit: str
    sentence: str
    caveats: list[str]


class ShiftOut(BaseModel):
    number: int
    part: str
    joints: list[int]
    before: float | None
    after: float | None
    expected: float | None
    gained: float | None


class TakenOverOut(BaseModel):
    """Which members took over force between two steps. growth: of the load, and so of the forces had nothing yielded."""

    first: int
    last: int
    growth: float
    by: str
    force_unit: str
    shifts: list[ShiftOut]


class DoubtOut(BaseModel):
    name: str
    verdict: str
    said: str
    do: str
    node: int | None
    xyz: list[float] | None


class CheckIn(Strict):
    """A hand check: what a reading at a node should be, within a share of it, and where that comes from."""

    result: int
    name: str = Field(min_length=1, max_length=80)
    reading: ReadingQuery
    at: str = Field(description="node:ID, element:ID, set:NAME (mean) or max or min")
    expected: float
    tolerance: float = Field(0.05, ge=0, le=10)
    source: str = Field("", max_length=300)


class ChecksTaken(Strict):
    """The hand checks of one result, to be kept for another too."""

    of: int
    to: int


class CheckOut(CheckIn):
    id: int
    value: float | None
    unit: str
    sentence: str
    off: float | None
    verdict: str


class MirrorIn(Strict):
    """The plane a half is mirrored at; an axis of '' takes the statement back."""

    axis: Literal["", "x", "y", "z"]
    at: float = 0.0


class AxesIn(Strict):
    """Axes by three points: the origin, one in the third direction (the axis), one in the first."""

    name: str = Field(max_length=60)
    kind: Literal["cartesian", "cylindrical", "spherical"]
    origin: Point
    third: Point
    first: Point


class ExtremeOut(BaseModel):
    value: float | None
    element: int | None
    node: int | None
    part: str | None
    xyz: list[float]
    moved: list[float] = Field(default=[0.0, 0.0, 0.0], description="Displacement there, at the step in view.")


class CategoryOut(BaseModel):
    """One name of a key of names; its number is its place in the list. colour: which of the colours of names it has."""

    name: str
    colour: int
    share: float


class Words(BaseModel):
    of: str
    measure: str
    field: str
    averaging: str
    axes: str
    region: str
    step: str
    over: str
    unit: str
    against: str


class ValuesHead(BaseModel):
    """What travels beside the raw values of a view."""

    sentence: str
    words: Words
    unit: str
    signed: bool
    caveats: list[str]
    min: ExtremeOut | None
    max: ExtremeOut | None
    drawn_low: float | None
    drawn_high: float | None
    shares: list[float]
    missing: float
    error_total: float | None = None
    categories: list[CategoryOut] | None = Field(None, description="Of names: values are places in this list.")


class RangeOut(BaseModel):
    low: float | None
    high: float | None
    low_step: int | None
    high_step: int | None


class AveragingOut(BaseModel):
    averaging: Averaging
    words: str
    unit: str
    min: ExtremeOut | None
    max: ExtremeOut | None


class ProbeOut(BaseModel):
    value: float | None
    name: str | None
    unit: str
    element: int
    node: int
    part: str
    xyz: list[float]
    xi: list[float]


class MeetingEntry(BaseModel):
    """One element's answer at a flag. other: the same under another averaging; name: where the number names something."""

    value: float | None
    other: float | None = None
    name: str | None = None
    element: int | None
    part: str | None


class FlagIn(Strict):
    """A flag at a node, or at a point of the material: inside an element, at natural coordinates."""

    result: int
    node: int | None = None
    element: int | None = None
    xi: Point | None = None
    name: str = Field("", max_length=80)


class FlagOut(FlagIn):
    id: int
    revision: int


class FlagEdit(Strict):
    name: str = Field(max_length=80)


class FlagTold(BaseModel):
    """What a flag says. entries: each element's value as computed, and the same under another averaging."""

    place: str
    xyz: list[float]
    moved: list[float]
    sentence: str
    unit: str
    averaging: str
    other_averaging: str
    entries: list[MeetingEntry]
    jump: float | None
    jump_within_material: float | None
    jump_of_range: float | None


class ViewIn(Strict):
    """A named view: where the camera stands and what is shown, as the address bar holds it."""

    result: int
    name: str = Field(min_length=1, max_length=80)
    address: str = Field(max_length=2000)


class ViewOut(ViewIn):
    id: int


class MeasureOut(BaseModel):
    """undeformed and deformed in ``unit``; count of faces or elements measured."""

    undeformed: float
    deformed: float | None
    unit: str
    count: int
    text: str


class TraceSpec(ReadingWords):
    """One trace: a reading at one place or over a set, followed through the steps."""

    at: str = Field("", description="node:ID, element:ID, gauss:ELEMENT:POINT, point:X,Y,Z or set:NAME")
    curve: str = Field(
        "",
        description="A named curve in place of all the rest; step: the steps themselves; total:NAME: of the whole model.",
    )
    reduce: Reduce | None = None
    sign: Sign = 1


class NamedIn(Strict):
    """A curve over the steps under a name: one trace, or an expression over other named curves."""

    result: int
    name: str = Field(pattern=r"^[A-Za-z][A-Za-z0-9_]*$", max_length=40)
    trace: TraceSpec | None = None
    expression: str = Field("", max_length=400)


class NamedOut(NamedIn):
    """values over the steps; error says why there are none."""

    id: int
    values: list[float | None]
    unit: str
    sentence: str
    caveats: list[str]
    error: str | None


class PairingIn(Strict):
    """One trace against another, over all steps or some (``first`` to ``last``, both counted, from 0)."""

    result: int
    name: str = Field("Loop", max_length=120)
    x: TraceSpec
    y: TraceSpec
    first: int = Field(0, ge=0)
    last: int | None = Field(None, ge=0)
    prominence: float | None = Field(
        None, gt=0, lt=1, description="Share of the driver's range it comes back to have turned; none: found from its noise."
    )


class CycleOut(BaseModel):
    energy: float | None
    closed: bool
    secant_stiffness: float | None
    retained: float | None = None
    ductility: float | None = None
    damping_ratio: float | None
    x_peak: float | None
    y_peak: float | None
    x_trough: float | None
    y_trough: float | None
    start: int
    stop: int


class LoopsOut(BaseModel):
    x_unit: str | None
    y_unit: str | None
    energy_unit: str | None
    stiffness_unit: str | None
    energy_total: float | None
    cycles: list[CycleOut]
    envelope_x: list[float] = []
    envelope_y: list[float] = []
    yield_at: float | None = Field(None, description="Yield displacement of the first loading, by equal energy.")
    prominence: float = Field(0.02, description="Share of the driver's range it had to come back to have turned.")
    notes: list[str] = []


class AxisOut(BaseModel):
    values: list[float | None]
    label: str
    unit: str | None
    sentence: str


class FigureOut(BaseModel):
    """One figure of a curve, with what it is."""

    label: str
    value: float | None
    unit: str
    how: str


class PairingOut(BaseModel):
    id: int
    revision: int
    result: int
    name: str
    x: AxisOut
    y: AxisOut
    x_spec: TraceSpec
    y_spec: TraceSpec
    first: int
    last: int | None
    prominence: float | None = None
    steps: AxisOut
    loops: LoopsOut
    figures: list[FigureOut] = Field(default=[], description="Of a curve without a full cycle: stiffness, yield, energy.")
    caveats: list[str]
    error: str | None = Field(None, description="Why it cannot be drawn any more: what it is made of has gone or has changed.")


class ColumnUse(Strict):
    """How one column of a record is taken: y' = sign * scale * (y - zero), zero in the column's own unit."""

    column: str
    unit: str | None = None
    sign: Sign = 1
    scale: float = 1.0
    zero: float = 0.0
    smooth: int = Field(1, ge=1, le=100_000)


class LimitsIn(Strict):
    """Accept limits as shares: 0.1 is 10 %."""

    force: float = Field(0.10, ge=0)
    stiffness: float = Field(0.10, ge=0)
    energy: float = Field(0.12, ge=0)
    deviation: float = Field(0.10, ge=0)


class TestUse(Strict):
    """How a record is understood and what it is held to."""

    x: ColumnUse
    y: ColumnUse
    first: int = Field(1, ge=1, description="The first row taken, counted from 1.")
    last: int | None = Field(None, ge=1, description="The last row taken; none: to the end.")
    true: bool = Field(False, description="Engineering strain and stress are turned into true ones.")
    limits: LimitsIn = LimitsIn()
    pairing: int | None = Field(None, description="The curve it is held against; none: whichever is in view.")


class ColumnOut(BaseModel):
    name: str
    unit: str | None
    first: list[float | None]
    low: float | None
    high: float | None


class TestOut(BaseModel):
    id: int
    revision: int
    name: str
    rows: int
    separator: str
    decimal: str
    columns: list[ColumnOut]
    use: TestUse
    x: list[float | None]
    y: list[float | None]
    x_unit: str | None
    y_unit: str | None
    corrections: list[str]
    of: list[int] = Field(default=[], description="The records a mean is of.")
    picture: bool = Field(False, description="It was read off a picture, which is kept with it.")
    scatter: float | None = Field(None, description="Largest standard deviation against the largest mean force.")
    error: str | None = Field(None, description="Why there is no curve of it: what was said of a record does not go with the rest.")


class MeanIn(Strict):
    """The mean of several records, held against a curve."""

    name: str = Field("Mean", min_length=1, max_length=80)
    tests: list[int] = Field(min_length=2, max_length=50)
    pairing: int | None = None


class AxisMarksIn(Strict):
    """Two places of a picture (pixels, right and down) where an axis has known values."""

    first: tuple[float, float]
    first_value: float
    second: tuple[float, float]
    second_value: float
    logarithmic: bool = False
    label: str = Field(min_length=1, max_length=60)
    unit: str = Field("", max_length=30)


class PrintedIn(Strict):
    """A printed curve: its picture (PNG or JPEG, a data address), the marks on its axes, the places of its points in order."""

    name: str = Field(min_length=1, max_length=80)
    picture: str
    x: AxisMarksIn
    y: AxisMarksIn
    points: list[tuple[float, float]] = Field(min_length=2, max_length=5000)
    pairing: int | None = None


class OverlayOut(BaseModel):
    """A corrected record in the units of a curve; low and high where it is the mean of several."""

    name: str
    x: list[float | None]
    y: list[float | None]
    low: list[float | None] | None = None
    high: list[float | None] | None = None


class MetricOut(BaseModel):
    name: str
    label: str
    model: float | None
    test: float | None
    unit: str | None
    ratio: float | None
    limit: float | None
    accepted: bool | None


class DeviationOut(BaseModel):
    rms: float | None
    share: float | None
    told: str = Field(description="The share in per cent, with the digits that tell it from its limit.")
    largest: float | None
    largest_at_x: float | None
    determination: float | None
    unit: str | None
    limit: float
    accepted: bool
    x: list[float] = Field(description="Where the test has points that are compared.")
    away: list[float] = Field(description="Model less test there.")


class MatchOut(BaseModel):
    kind: str
    shift: float | None = Field(description="Of a comparison by time: by how much later the model is.")
    correlation: float | None = Field(description="Of a comparison by time: Pearson's, at that shift.")
    metrics: list[MetricOut]
    deviation: DeviationOut
    corrections: list[str]
    notes: list[str]
    verdict: str
    agrees: bool
    test: int
    pairing: int


class ExhibitIn(Strict):
    """A kept view, curve or table. ``picture`` is a PNG as a data address; ``table`` is CSV text."""

    kind: Literal["view", "curve", "table"]
    title: str = Field(max_length=200)
    sentence: str = Field(max_length=2000)
    caveats: list[str] = []
    note: str = Field("", max_length=4000)
    verdict: str = Field("", max_length=4000)
    address: str = Field("", max_length=4000)
    picture: str | None = None
    table: str | None = None


class ExhibitEdit(Strict):
    title: str = Field(max_length=200)
    note: str = Field("", max_length=4000)
    verdict: str = Field("", max_length=400)


class ExhibitOut(BaseModel):
    id: int
    revision: int
    kind: str
    title: str
    sentence: str
    caveats: list[str]
    note: str
    verdict: str
    address: str
    has_picture: bool
    has_table: bool


class Undone(BaseModel):
    label: str | None


class Problem(BaseModel):
    """An error as the analyst reads it."""

    title: str
    hint: str = ""
