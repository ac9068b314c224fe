"""What goes over the wire. The front end's types are generated from these."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from ironstone.core.reading import Reading

Averaging = Literal["off", "element", "part", "material", "all"]
Order = Literal["components", "measure"]
Reduce = Literal["sum", "mean", "max", "min"]
Sign = Literal[1, -1]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ReadingQuery(Strict):
    """A reading as the address bar and the requests carry it."""

    field: str
    measure: str = ""
    averaging: Averaging = "off"
    order: Order = "components"
    step: int = 0
    region: str = "all"
    unit: str | None = None
    of: Literal["value", "jump", "jump-within-material"] = "value"

    def reading(self) -> Reading:
        return Reading(**self.model_dump(include=set(ReadingQuery.model_fields)))


class SurfaceQuery(ReadingQuery):
    detail: int = Field(0, ge=0, le=12, description="Pieces each face side is drawn in; 0 leaves it to the model's size.")


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


class StepOut(BaseModel):
    index: int
    kind: str
    value: float
    unit: str
    label: str


class MeasureOut(BaseModel):
    name: str
    label: str
    explanation: str
    signed: bool
    unit: str
    units: list[str]


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
    notes: list[str]
    measures: list[MeasureOut]


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


class ContentsOut(BaseModel):
    id: int
    name: str
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
    rail: RailOut


class ResultBrief(BaseModel):
    id: int
    name: str


class ReviewOut(BaseModel):
    name: str
    file: str
    results: list[ResultBrief]
    can_undo: str | None
    can_redo: str | None


class JobOut(BaseModel):
    id: str
    state: Literal["running", "done", "failed", "stopped"]
    share: float
    text: str
    error: str | None = None
    hint: str | None = None
    result: int | None = None


class UploadOut(BaseModel):
    id: str


class IntakeIn(Strict):
    upload: str
    name: str | None = Field(None, max_length=200)
    system: str | None = None


class UnitsIn(Strict):
    system: str


class KindIn(Strict):
    """What a field is; '' is a kind not known."""

    field: str
    kind: str


class ExtremeOut(BaseModel):
    value: float | None
    element: int | None
    node: int | None
    part: str | None
    xyz: list[float]


class Words(BaseModel):
    of: str
    measure: str
    field: str
    averaging: str
    region: str
    step: str
    unit: str


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
    unit: str
    element: int
    node: int
    part: str
    xyz: list[float]


class MeetingEntry(BaseModel):
    value: float | None
    element: int | None
    part: str | None


class MeetingOut(BaseModel):
    node: int
    xyz: list[float]
    sentence: str
    unit: str
    entries: list[MeetingEntry]
    jump: float | None
    jump_within_material: float | None
    jump_of_range: float | None


class FlagIn(Strict):
    result: int
    node: int


class FlagOut(FlagIn):
    id: int


class TraceSpec(Strict):
    """One trace: a field's measure at a node or over a set, followed through the steps."""

    field: str
    measure: str = ""
    at: str = Field(description="node:ID or set:NAME")
    reduce: Reduce | None = None
    averaging: Averaging = "off"
    order: Order = "components"
    unit: str | None = None
    sign: Sign = 1


class PairingIn(Strict):
    """One trace against another."""

    result: int
    name: str = Field("Loop", max_length=120)
    x: TraceSpec
    y: TraceSpec


class CycleOut(BaseModel):
    energy: float | None
    closed: bool
    secant_stiffness: float | None
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


class AxisOut(BaseModel):
    values: list[float | None]
    label: str
    unit: str | None
    sentence: str


class PairingOut(BaseModel):
    id: int
    result: int
    name: str
    x: AxisOut
    y: AxisOut
    x_spec: TraceSpec
    y_spec: TraceSpec
    steps: AxisOut
    loops: LoopsOut
    caveats: list[str]


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
    limits: LimitsIn = LimitsIn()


class ColumnOut(BaseModel):
    name: str
    unit: str | None
    first: list[float | None]
    low: float | None
    high: float | None


class TestOut(BaseModel):
    id: int
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


class OverlayOut(BaseModel):
    """A corrected record in the units of a curve."""

    name: str
    x: list[float | None]
    y: list[float | None]


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
    largest: float | None
    largest_at_x: float | None
    determination: float | None
    unit: str | None
    limit: float
    accepted: bool


class MatchOut(BaseModel):
    kind: str
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
    verdict: str = Field("", max_length=400)
    address: str = Field("", max_length=4000)
    picture: str | None = None
    table: str | None = None


class ExhibitEdit(Strict):
    title: str = Field(max_length=200)
    note: str = Field("", max_length=4000)
    verdict: str = Field("", max_length=400)


class ExhibitOut(BaseModel):
    id: int
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
