"""What goes over the wire. The front end's types are generated from these."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from ironstone.engine.words import LookQuery, ReadingQuery, Strict
from ironstone.store.items import Change
from ironstone.store.shelf import OnShelf


class DrawnQuery(LookQuery):
    """What is drawn of a model at a step."""

    step: int = 0


class ShapeQuery(DrawnQuery):
    """How a model is deformed at a step."""

    phase: str = Field("", max_length=40, description="Of a harmonic, as a reading has it: degrees; 0 of what is none.")


class SetQuery(ReadingQuery):
    name: str = Field(description="The node or element set whose nodes are read.")


class PartOut(BaseModel):
    name: str
    elements: int
    rigid: bool = Field(False, description="It is a rigid body: it has no stress.")


class SetOut(BaseModel):
    name: str
    of: Literal["nodes", "elements"]
    count: int
    held: str | None
    moves: bool
    made: str | None
    found: str | None = None


class StepOut(BaseModel):
    index: int
    kind: str
    value: float
    unit: str
    label: str
    name: str = Field("", description="Of a step made of others.")
    made_of: str = Field("", description="What is added, as it is written; empty of a step the result came with.")
    notes: list[str] = Field([], description="What is to be said wherever it is read.")


class MeasureChoice(BaseModel):
    name: str
    label: str
    explanation: str
    signed: bool
    unit: str
    units: list[str]
    needs: list[str]
    direction: int | None


class WayOut(BaseModel):
    """One thing that can be stated, and how it is said."""

    value: str
    label: str
    explanation: str


class EntryOut(BaseModel):
    """Something that can be stated of a field: how it stands (before and label, a piece of a sentence) and what it can be. state:
    stated, found (the file proves it), file (it says so), guessed."""

    name: str
    title: str
    before: str
    value: str
    label: str
    ways: list[WayOut]
    state: Literal["stated", "found", "file", "guessed"]
    doubtful: bool


class NumbersOut(BaseModel):
    """Whole numbers of the files, and what they are taken for."""

    name: str
    location: str
    entry: EntryOut


class ActOut(BaseModel):
    """A statement that settles a doubt: the last word of its address, and its body. Without words a form opens."""

    label: str
    what: Literal["units", "fields", "model", "steps"]
    words: dict[str, Any]


class DoubtOut(BaseModel):
    said: str
    why: str
    acts: list[ActOut]


class FieldOut(BaseModel):
    name: str
    kind: str
    rank: str
    location: str
    components: list[str]
    unit: str
    precision: str
    guessed: bool
    title: str
    entries: list[EntryOut]
    averaged_before: bool
    recovered: str
    names: bool
    points: int
    layers: int
    places: list[str]
    harmonic: bool
    notes: list[str]
    labels: list[str]
    measures: list[MeasureChoice]


class ConstantOut(BaseModel):
    name: str
    label: str
    symbol: str
    unit: str


class MaterialOut(BaseModel):
    """constants: those that are stated, by name."""

    name: str
    elements: int
    constants: dict[str, float]


class AxesOut(BaseModel):
    """Directions and origin of axes; third and first are unit vectors. how: how they were made."""

    name: str
    kind: str
    how: str
    origin: list[float]
    third: list[float]
    first: list[float]
    directions: list[str]


class FileOut(BaseModel):
    name: str
    bytes: int
    sha256: str | None = Field(None, description="Worked out after the result is there; null until then.")
    xxh3: str | None = None


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
    loads_sought: bool = Field(description="Whether it is still looked for where the body is loaded, as its files do not say.")
    removed_sets: list[str] = Field(description="Sets that were made here and removed: they can be brought back.")
    steps: list[StepOut]
    doubts: list[DoubtOut]
    whole_numbers: list[NumbersOut]
    steps_stated: str
    step_kinds: list[str]
    opens: str | None = Field(None, description="The field a result is first looked at by.")
    strength: Literal["plies", "metals"] = Field(description="What of it is held against strengths.")
    fields: list[FieldOut]
    system: str
    length_unit: str
    system_guessed: bool
    systems: list[str]
    welding: str
    raw_points: int
    files: list[FileOut]
    size: float
    centre: list[float]
    warnings: list[str]
    materials: list[MaterialOut]
    constants: list[ConstantOut]
    planar: bool
    moves: bool
    model: str
    models: list[str]
    mirror: MirrorOut | None
    sections: bool
    totals: list[str] = Field(description="Curves of the whole model that the files hold, by name.")
    axes: list[AxesOut]
    rail: RailOut
    meshes: list[int] = Field(description="For each step the first one that has its mesh; empty where the mesh is one.")


class ResultBrief(BaseModel):
    id: int
    name: str
    arriving: bool = False


class NameIn(Strict):
    name: str = Field(max_length=120)


class ReviewNameIn(NameIn):
    """A review that is to be made: its name, and which of the bench's folders it is made in."""

    folder: int = 0


class ReviewFileIn(Strict):
    file: str = Field(max_length=300)
    folder: int = 0


class ShelfOut(BaseModel):
    folders: list[str]
    reviews: list[OnShelf]


class ReviewOut(BaseModel):
    """``state``: another one after every change. ``unreadable``: what is kept and cannot be read, each with its reason.
    ``address``: how addresses name it."""

    unreadable: list[str]
    name: str
    file: str
    address: str
    results: list[ResultBrief]
    can_undo: Change | None
    can_redo: Change | None
    state: str


class Bytes(BaseModel):
    bytes: int


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


class FormatsOut(BaseModel):
    """Files that can be chosen and dropped, by their suffixes, and what results are called."""

    results: list[str]
    beside: list[str] = Field(description="Data that a result's file describes: chosen along with it.")
    tables: list[str]
    titles: list[str]


class Waiting(BaseModel):
    before: int = Field(description="How many heavy questions come before the first one of a page; 0 where none of it waits.")
    far: str = Field("", description="How far a table is that is being read for it.")


class UploadOut(BaseModel):
    id: str


class IntakeIn(Strict):
    """``look``: somebody waits for the first picture, which comes before the storing."""

    upload: str
    name: str | None = Field(None, max_length=200)
    system: str | None = None
    look: bool = False
    roles: dict[str, str] = Field({}, description="What groups of the files are, by name, where it is not what was found.")


class RoleOut(BaseModel):
    value: str
    label: str


class FileGroup(BaseModel):
    """Files that are one series, or one file: what they are to the body, why, and what else they could be."""

    name: str
    files: list[str]
    role: str
    why: str
    choices: list[RoleOut]


class MadeAxes(BaseModel):
    """What axes that were made are called, and which of their directions was wanted (0, 1, 2)."""

    name: str
    direction: int | None


class Said(BaseModel):
    words: str


class Undone(BaseModel):
    label: str | None


class Problem(BaseModel):
    """An error as the analyst reads it."""

    title: str
    hint: str = ""


class BesideOut(BaseModel):
    """Two pictures as data addresses, and the share of the model's pixels that differ."""

    then: str
    now: str
    differs: float


class CopySizes(BaseModel):
    """Bytes of a copy of the review, about: whole, and without meshes and values."""

    whole: int
    lean: int
