"""Test records: measured data, how they are understood, and their means."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np
import xxhash
from pydantic import BaseModel, Field

from ironstone.core.curves.curves import Curve
from ironstone.core.curves.monotonic import true_curve
from ironstone.core.curves.rest import samples_at_rest
from ironstone.core.curves.scatter import Scatter, scatter
from ironstone.core.errors import IronstoneError
from ironstone.core.kept import remembered
from ironstone.engine.base import Kept, keep, readable, remove
from ironstone.engine.curves.measured import Measured
from ironstone.engine.curves.response_records import response_in, responses_of
from ironstone.engine.curves.uses import ColumnUse, TestUse, corrected
from ironstone.engine.reading import answers
from ironstone.engine.words import Strict
from ironstone.formats.tables import Table, parse_table
from ironstone.store import Review
from ironstone.store.items import Item


class Record(Kept):
    """A test record: the file it came as and how it is understood, or the records it is the mean of."""

    kind: ClassVar[str] = "test"
    name: str
    use: TestUse
    attachment: int | None = None
    of: list[int] = []
    picture: int | None = None
    printed: dict[str, Any] | None = None

    def check(self, review: Review) -> None:
        understood_as(review, self)

    def made(self) -> str:
        if self.of:
            return f"Mean of {len(self.of)} records made"
        return f"Printed curve '{self.name}' read off" if self.printed else f"Test record '{self.name}' brought in"

    def gone(self) -> str:
        return f"Test record '{self.name}' removed"


class ColumnOut(BaseModel):
    name: str
    unit: str | None
    first: list[float | None]
    low: float | None
    high: float | None


class ZeroOut(BaseModel):
    """The mean of a record's first samples, before its driver moves, in each column's own unit: what would be its zero."""

    samples: int
    x: float
    y: float


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
    zero_first: ZeroOut | None = Field(None, description="What its first samples would make its zero.")
    error: str | None = Field(None, description="Why there is no curve of it: what was said of a record does not go with the rest.")


class MeanIn(Strict):
    """The mean of several records, held against a curve."""

    name: str = Field("Mean", min_length=1, max_length=80)
    tests: list[int] = Field(min_length=2, max_length=50)
    pairing: int | None = None


LARGEST_RECORD = 64 * 1024**2


def bring(review: Review, data: bytes, name: str, pairing: int | None) -> TestOut:
    """Keep a record. A table of responses over frequency becomes one record for each of them; the first is returned."""
    table = _parsed(review, data, name)
    responses = responses_of(table)
    uses = responses or [_guess_use(table).model_copy(update={"pairing": pairing})]
    names = [name] if len(uses) == 1 else [f"{name}, {u.y.column.removesuffix(' (amplitude)')}" for u in uses]
    # What cannot be understood is refused before anything is kept.
    for use in responses:
        response_in(table, use)
    with review.writing():
        attachment = review.attach(name, "text/csv", data)
        kept = [Record(name=n, attachment=attachment, use=u) for n, u in zip(names, uses, strict=True)]
        items = [keep(review, one) for one in kept]
        if len(items) > 1:
            review.join([i.id for i in items], f"{len(items)} measured responses brought in")
    return understood_as(review, kept[0], items[0])[1]


def _parsed(review: Review, data: bytes, name: str) -> Table:
    """A record's table, read once and not at every question about it: the last few are kept, without what they were read from."""
    held = xxhash.xxh3_128_digest(data)
    return remembered(review, "record tables", (name, held), lambda: parse_table(data, name), most=8)


def _guess_use(table: Table) -> TestUse:
    """Driver and force by their units and names; the analyst sees and changes it."""
    if len(table.names) < 2:
        raise IronstoneError("A record needs at least two columns.", "One for the driver, one for the force.")

    def find(units: tuple[str, ...], names: tuple[str, ...]) -> int | None:
        for i, (label, unit) in enumerate(zip(table.names, table.units, strict=True)):
            if unit in units or any(n in label.lower() for n in names):
                return i
        return None

    y = find(("N", "kN", "MN", "lbf", "kip"), ("force", "load", "reaction"))
    x = find(("mm", "m", "in", "um", "µm"), ("disp", "stroke", "travel", "extension"))
    y = y if y is not None else len(table.names) - 1
    x = x if x is not None and x != y else (0 if y else 1)
    return TestUse(x=ColumnUse(column=table.names[x], unit=table.units[x]), y=ColumnUse(column=table.names[y], unit=table.units[y]))


def record_of(review: Review, number: int) -> tuple[Curve, TestOut]:
    """A kept record by its number, as it is understood."""
    item = review.item(number, "test")
    return understood_as(review, Record.understood(item.payload), item)


def records_of(review: Review) -> list[TestOut]:
    return [_or_why_not(review, item, kept) for item, kept in readable(review, Record)]


def understood_as(review: Review, kept: Record, item: Item | None = None) -> tuple[Curve, TestOut]:
    """A record as a curve, and all there is to say of it; ``item`` where it is kept."""
    if kept.of:
        return _mean(review, kept, item)
    name, _, data = review.attachment(kept.attachment or 0)
    table = _parsed(review, data, name)
    use = kept.use
    x, x_unit, x_said = corrected(table, use.x)
    y, y_unit, y_said = corrected(table, use.y)
    curve, said = _taken(Curve(x, y, x_unit, y_unit, use.x.column, use.y.column), use)
    if use.form:
        said += response_in(table, use).said
    columns = []
    for i, (label, unit) in enumerate(zip(table.names, table.units, strict=True)):
        values = table.columns[:, i]
        there = values[~np.isnan(values)]
        columns.append(
            ColumnOut(
                name=label,
                unit=unit,
                first=[answers.number(v) for v in values[:5]],
                low=float(there.min()) if len(there) else None,
                high=float(there.max()) if len(there) else None,
            )
        )
    return curve, TestOut(
        id=item.id if item else 0,
        revision=item.revision if item else 1,
        name=kept.name,
        rows=len(table.columns),
        separator=table.separator,
        decimal=table.decimal,
        columns=columns,
        use=use,
        x=[answers.number(v) for v in curve.x],
        y=[answers.number(v) for v in curve.y],
        x_unit=curve.x_unit,
        y_unit=curve.y_unit,
        corrections=[*_printed_words(kept), *x_said, *y_said, *said],
        picture=kept.picture is not None,
        zero_first=_zero_first(table, use),
    )


def response_of(review: Review, number: int) -> tuple[Measured, Record]:
    """A kept record as a response over frequency. Raises IronstoneError where it is none."""
    kept = Record.understood(review.item(number, "test").payload)
    if not kept.use.form:
        raise IronstoneError(
            f"'{kept.name}' is no response over frequency.",
            "Say what its columns are: amplitude and phase, or real and imaginary part.",
        )
    name, _, data = review.attachment(kept.attachment or 0)
    return response_in(_parsed(review, data, name), kept.use), kept


def _zero_first(table: Table, use: TestUse) -> ZeroOut | None:
    """The mean of the samples before the driver moves."""
    x, y = (table.column(u.column)[0][use.first - 1 : use.last] for u in (use.x, use.y))
    count = samples_at_rest(x)
    if not count or not np.isfinite(y[:count]).any():
        return None
    return ZeroOut(samples=count, **{n: float(f"{np.nanmean(c[:count]):.6g}") for n, c in (("x", x), ("y", y))})


def _or_why_not(review: Review, item: Item, kept: Record) -> TestOut:
    """A mean whose records do not go together any more says so; the records themselves are not taken along."""
    try:
        return understood_as(review, kept, item)[1]
    except IronstoneError as error:
        return TestOut(
            id=item.id, revision=item.revision, name=kept.name, rows=0, separator="", decimal="", columns=[],
            x=[], y=[], x_unit=None, y_unit=None, use=kept.use, corrections=[],
            of=kept.of, error=f"{error.message} {error.hint}",
        )  # fmt: skip


def _taken(curve: Curve, use: TestUse) -> tuple[Curve, list[str]]:
    """The rows that are taken, as true stress and strain where that is asked for, and what was done in words."""
    said = []
    rows = len(curve.x)
    last = min(use.last or rows, rows)
    if use.first > 1 or last < rows:
        if last - use.first < 1:
            raise IronstoneError(f"Rows {use.first} to {last} leave no curve.", f"The record has {rows} rows.")
        kept = slice(use.first - 1, last)
        curve = replace(curve, x=curve.x[kept], y=curve.y[kept])
        said.append(f"rows {use.first} to {last} of {rows} taken")
    if use.true:
        curve = true_curve(curve)
        said.append("converted from engineering to true: ln(1 + e), s (1 + e)")
    return curve, said


def _printed_words(kept: Record) -> list[str]:
    printed = kept.printed
    if printed is None:
        return []
    scales = {a: " (logarithmic)" if printed[a]["logarithmic"] else "" for a in "xy"}
    axes = [f"{printed[a]['first_value']:g} and {printed[a]['second_value']:g} on {a}{scales[a]}" for a in "xy"]
    return [f"read off a picture at {printed['points']} points, axes marked at {', '.join(axes)}"]


def _scatter(review: Review, kept: Record) -> tuple[Scatter, list[TestOut]]:
    if any(Record.understood(review.item(number, "test").payload).of for number in kept.of):
        raise IronstoneError(f"'{kept.name}' is a mean of means, or of itself.", "Choose the records themselves.")
    members = [record_of(review, number) for number in kept.of]
    return scatter([curve for curve, _ in members]), [out for _, out in members]


def scatter_of(review: Review, number: int) -> Scatter:
    """How far the records of a mean scatter."""
    return _scatter(review, Record.understood(review.item(number, "test").payload))[0]


def _mean(review: Review, kept: Record, item: Item | None) -> tuple[Curve, TestOut]:
    """The mean of several records as a record of its own."""
    found, members = _scatter(review, kept)
    said = [f"mean of {', '.join(m.name for m in members)}", *found.notes]
    said += [f"{m.name}, {c}" for m in members for c in m.corrections]
    return found.mean, TestOut(
        id=item.id if item else 0,
        revision=item.revision if item else 1,
        name=kept.name,
        rows=len(found.mean.x),
        separator="",
        decimal="",
        columns=[],
        use=kept.use,
        x=[answers.number(v) for v in found.mean.x],
        y=[answers.number(v) for v in found.mean.y],
        x_unit=found.mean.x_unit,
        y_unit=found.mean.y_unit,
        corrections=said,
        of=kept.of,
        scatter=found.share,
    )


def make_mean(stated: MeanIn, review: Review) -> TestOut:
    """Several specimens in one: their mean, with how far they scatter."""
    with review.writing():
        members = [Record.understood(review.item(t, "test").payload) for t in stated.tests]
        if any(m.of for m in members):
            raise IronstoneError("A mean of means is not taken.", "Choose the records themselves.")
        if any(m.use.form for m in members):
            raise IronstoneError("A mean of responses over frequency is not taken.", "Hold each against the model.")
        kept = Record(name=stated.name, of=stated.tests, use=members[0].use.model_copy(update={"pairing": stated.pairing}))
        item = keep(review, kept)
    return understood_as(review, kept, item)[1]


def use_record(review: Review, number: int, use: TestUse) -> TestOut:
    """Say anew how a kept record is understood: which column is what, its unit, sign and zero, and the accept limits."""
    # What takes long is looked at before anything is locked: of a record nothing but its use ever changes.
    understood_as(review, Record.understood(review.item(number, "test").payload).model_copy(update={"use": use}))
    with review.writing():
        kept = Record.understood(review.item(number, "test").payload).model_copy(update={"use": use})
        item = review.change(number, kept.written(), f"Test record '{kept.name}' corrected")
    return understood_as(review, kept, item)[1]


def remove_record(review: Review, number: int) -> None:
    """Remove a record. Raises IronstoneError where a mean is made of it."""
    with review.writing():
        name = review.item(number, "test").payload["name"]
        means = [kept.name for item, kept in readable(review, Record) if number in kept.of and item.id != number]
        if means:
            raise IronstoneError(f"'{name}' is one of the records of '{means[0]}'.", "Remove the mean first.")
        remove(review, number, "test")
