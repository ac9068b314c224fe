"""What is in view of the bench: one result and the reading on it, how it is drawn, what stands beside it.

The address bar holds the same, a named view a part of it: each field here is one word of the address, which is left
out where it is as usual.
"""

from __future__ import annotations

from typing import Annotated, Any, Self, TypeVar
from urllib.parse import parse_qsl, urlencode

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from ironstone.engine.words import ReadingWords


def _listed(value: Any) -> Any:
    """Numbers as an address has them: 0,3,7."""
    return [v for v in value.split(",") if v] if isinstance(value, str) else value


Positions = Annotated[list[int], BeforeValidator(_listed)]
Numbers = Annotated[list[float], BeforeValidator(_listed)]
Words = Annotated[list[str], BeforeValidator(_listed)]


class InView(BaseModel):
    """What is in view. Aliases are the words of the address; the reading's own words stand beside them there."""

    model_config = ConfigDict(extra="ignore", populate_by_name=True, allow_inf_nan=False)

    bay: str = "field"
    result: int | None = None
    reading: ReadingWords | None = None
    step: int = Field(0, ge=0)
    exaggeration: float = Field(1.0, ge=0, alias="shown")
    # The key.
    low: float | None = None
    high: float | None = None
    fit: str = "step"
    bands: int = Field(9, ge=0, le=64)
    map: str = "auto"
    log: bool = False
    iso: str = "none"
    weigh: str = "area"
    # What of the model is drawn.
    hidden: Positions = []
    translucent: Positions = []
    detail: int = Field(0, ge=0, le=12)
    style: str = "shaded"
    nodes: bool = False
    apart: bool = False
    solid: bool = False
    turned: str = ""
    perspective: bool = False
    mirrored: bool = True
    mesh_lines: bool = Field(True, alias="edges")
    undeformed: bool = True
    labelled: bool = True
    arrows: Words = Field([], description="Field, length, spacing, full or thin, at; then split, set.")
    camera: Numbers = Field([], description="Position, target, zoom: seven numbers.")
    # What stands beside it, by number, and what is shown of it.
    paths: Positions | None = None
    gauges: int | None = None
    along: bool = False
    pairing: int | None = Field(None, alias="curve")
    also: Positions = Field([], description="The results the curve is drawn of beside this one.")
    test: int | None = Field(None, alias="record")
    member: int | None = None
    second: int | None = Field(None, description="The result it is compared with.")
    study: str = Field(":highest:length", description="Results of a study (none: all of the same body), which value, what by.")
    front: str = Field("", description="The front that is followed: the value on it, and the way it goes.")
    between: str = Field("", description="Two bodies whose contact is looked at.")
    twin: str = Field("", max_length=4000, description="The second pane, as its own address; none: one pane.")
    active: int = Field(1, ge=1, le=2, description="The pane that is worked in.")
    untied: Words = Field([], description="What the two panes do not do together.")
    table: int | None = Field(None, description="The table of several results in view.")
    governing: str = Field("largest:part", description="What governs over steps and combinations: which value, and by what.")
    motion: str = Field(
        "",
        max_length=2000,
        description="Of a motion: the other result, direction, what is drawn, modes, of what, the place.",
    )
    swing: float = Field(0.0, description="The phase a mode is drawn at, in degrees; 0: at its largest.")
    responses: str = Field("", max_length=8000, description="The responses beside that of the place, separated by semicolons.")
    motion_ways: str = Field("", max_length=2000, alias="motion-ways", description="How a motion is worked out: NAME=VALUE;...")
    cut: int | None = None
    element: int | None = None
    criterion: str = Field("hashin", alias="by")
    envelope: str = "22-12"
    flags: str = ":all"
    distance: str = "true"
    shape: str = Field("undeformed", alias="along-shape")
    linearise: bool = Field(False, alias="linear")
    formula: str = ""
    profile_test: int | None = Field(None, alias="profile-record")
    # Which of the page's tabs are open.
    plot: str = Field("", description="The plot or table under the view; none: what goes with the bay's drawer, else the curve.")
    beside: str = ""
    strata: bool = True
    drawer: str = Field("", description="The tab of the bay's drawer; none: its first.")

    @classmethod
    def from_address(cls, address: str) -> Self:
        """What an address holds; what makes no sense there is as usual."""
        given = dict(parse_qsl(address.rpartition("?")[2], keep_blank_values=True))
        own = {field.alias or name for name, field in cls.model_fields.items()} - {"reading"}
        words: dict[str, Any] = {name: value for name, value in given.items() if name in own}
        # Two bays had words of their own for the tab of their drawer once.
        words.setdefault("drawer", given.get("places") or given.get("strength") or "")
        if given.get("field"):
            said = {name: given[name] for name in ReadingWords.model_fields if given.get(name)}
            words["reading"] = _without_nonsense(ReadingWords, said)
        return _without_nonsense(cls, words)

    def address(self) -> str:
        """The words of the address that reopen it."""
        words = self.model_dump(by_alias=True, exclude_defaults=True, exclude={"reading", "bay", "result", "step"})
        first: dict[str, Any] = {"bay": self.bay, **({} if self.result is None else {"result": self.result})}
        reading = {} if self.reading is None else self.reading.model_dump(exclude_defaults=True)
        return urlencode({n: _written(v) for n, v in {**first, **reading, "step": self.step, **words}.items()})


M = TypeVar("M", bound=BaseModel)


def _without_nonsense(model: type[M], words: dict[str, Any]) -> M:
    """A model of words; those it refuses are left out."""
    try:
        return model.model_validate(words)
    except ValidationError as error:
        wrong = {str(e["loc"][0]) for e in error.errors() if e["loc"]} or set(words)
        return _without_nonsense(model, {n: v for n, v in words.items() if n not in wrong})


def _written(value: Any) -> str:
    if isinstance(value, bool):
        return "1" if value else "0"
    if isinstance(value, list):
        return ",".join(_written(v) for v in value)
    return f"{value:.6g}" if isinstance(value, float) else str(value)
