"""Of forces: what the answers of one kind of question have beside what every answer carries."""

from __future__ import annotations

from pydantic import BaseModel, Field


class ResultantOut(BaseModel):
    force: list[float]
    moment: list[float]


class AppliedOut(BaseModel):
    """What is applied; null where the file holds no loads and no stress tells them."""

    force: list[float | None]
    moment: list[float | None]


class SetForcesOut(BaseModel):
    name: str
    nodes: int
    held: str
    force: list[float]
    moment: list[float]
    reaction: ResultantOut
    applied: AppliedOut


class BalanceOut(BaseModel):
    step: int
    about: list[float]
    deformed: bool
    force_unit: str
    moment_unit: str
    applied: AppliedOut
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
    verdict: str = Field("", description="Of the two beside each other: agrees, doubtful or fails.")
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
    verdict: str = Field("", description="Of stress and what acts beside each other: agrees, doubtful or fails.")
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


class DoubtOut(BaseModel):
    name: str
    verdict: str
    said: str
    do: str
    node: int | None
    xyz: list[float] | None


class DoubtsOut(BaseModel):
    doubts: list[DoubtOut]
