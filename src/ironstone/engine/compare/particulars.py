"""Of several results: what only the answers of one kind of question have beside what every answer carries."""

from __future__ import annotations

from typing import Literal

from ironstone.core.curves.convergence import Verdict
from ironstone.engine.carrier import Numbers, Particulars
from ironstone.engine.reading.particulars import ReadAt


class DifferenceMore(Particulars):
    """rms: by volume, over where both are; share_without: of the volume where the second has no value."""

    min: ReadAt | None
    max: ReadAt | None
    rms: float | None
    matched: Literal["same mesh", "interpolated"]
    share_without: float | None
    values: list[ReadAt]


class ConvergeMore(Particulars):
    """Coarse to fine; see ``core.curves.convergence``."""

    results: list[str]
    sizes: list[float]
    values: Numbers
    order: float | None
    extrapolated: float | None
    band: float | None
    verdict: Verdict
    exponent: float | None


class Case(Particulars):
    """A step or combination of an envelope: its name, its position, and how many elements it governs."""

    name: str
    step: int
    elements: int


class GovernedRow(Particulars):
    """Of a part, a set or an element: the value, the case that makes it, and the element it is in."""

    of: str
    value: float | None
    case: str
    element: int


class GoverningMore(Particulars):
    """span: the cases as a reading's span has them."""

    cases: list[Case]
    rows: list[GovernedRow]
    span: str


class PenetratingSide(Particulars):
    """Whose nodes (of) lie inside whose faces (into): the deepest, how many, and at which node; a node of none is None. at, looks:
    the middle of the faces that are faced, and the way they look; None where the two are not near each other, or in a plane. book:
    how ``of`` is turned over to lie open beside ``into``, as a look is written."""

    of: str
    into: str
    deepest: float
    count: int
    node: int | None
    at: list[float] | None
    looks: list[float] | None
    book: str | None


class PenetrationMore(Particulars):
    """share_of_element: the deepest as a share of the elements' size there. stiffness: pressure over penetration."""

    unit: str
    sides: list[PenetratingSide]
    share_of_element: float | None
    stiffness: float | None


class SideBySideRow(Particulars):
    """One quantity of each result, in their order. spread: largest less smallest over the mean magnitude. odd: position of the
    result that stands apart. refused: why a result has no value."""

    name: str
    unit: str
    sentence: str
    values: Numbers
    places: list[str]
    spread: float | None
    odd: int | None
    refused: list[str]


class SideBySideMore(Particulars):
    """rows: what was asked. costs: what each run took."""

    results: list[str]
    rows: list[SideBySideRow]
    costs: list[SideBySideRow]


class MatchedStepsMore(Particulars):
    """Of each step the one that goes with it, by position, and whether it is the same moment; whether both hold one body."""

    steps: list[int]
    same: list[bool]
    one_body: bool


class FrontLine(Particulars):
    """A front at a step, seen across its way: x along it, y across, pieces parted by None. ends: of its pieces, in the
    body, both of a piece one after the other, as x, y, z."""

    step: int
    label: str
    x: Numbers
    y: Numbers
    ends: list[float]


class FrontMore(Particulars):
    """along: the direction its way is measured in."""

    along: list[float]
    fronts: list[FrontLine]


class BesideEntry(Particulars):
    """One of the elements that meet at a flag: what the flag says, what the other reading has there, and that less this."""

    part: str
    flag: float | None
    here: float | None
    difference: float | None


class BesideSide(Particulars):
    """The elements of one part that meet at a flag: lowest and highest of each; null where none has a value."""

    part: str
    flag: list[float] | None
    here: list[float] | None
    difference: list[float] | None


class FlagBesideMore(Particulars):
    """name, of: of the flag, and its result. xyz, moved: where it is in the result that is asked, and how far that moves there.
    undeformed: where the flag stands in its own."""

    name: str
    of: str
    xyz: list[float]
    moved: list[float]
    undeformed: list[float]
    flag_unit: str
    here_unit: str
    entries: list[BesideEntry]
    sides: list[BesideSide]
