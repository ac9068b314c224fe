"""Routes of what the analyst makes: flags, pairings, test records, matches, exhibits, and undo."""

from __future__ import annotations

import base64
import binascii
from dataclasses import replace
from functools import lru_cache
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from ironstone import answers
from ironstone.core.agreement import Correction, Limits
from ironstone.core.curves import Curve, loops
from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.match import match
from ironstone.core.monotonic import true_curve
from ironstone.core.printed import AxisMarks, read_off
from ironstone.core.scatter import Scatter, scatter
from ironstone.core.transient import in_time
from ironstone.formats.tables import Table, parse_table, write_table
from ironstone.service.deps import Form, OpenReview, table
from ironstone.service.routes_curves import traced
from ironstone.service.routes_drawn import flag_answer
from ironstone.service.schemas import (
    AxisOut,
    ColumnOut,
    ColumnUse,
    ExhibitEdit,
    ExhibitIn,
    ExhibitOut,
    FigureOut,
    FlagEdit,
    FlagIn,
    FlagOut,
    FlagTold,
    LoopsOut,
    MatchOut,
    MeanIn,
    OverlayOut,
    PairingIn,
    PairingOut,
    PrintedIn,
    ReadingQuery,
    TestOut,
    TestUse,
    TraceSpec,
    Undone,
    ViewIn,
    ViewOut,
)
from ironstone.store import Review
from ironstone.store.review import Item
from ironstone.store.source import ReviewSource

router = APIRouter(tags=["made"])
PNG = b"\x89PNG\r\n\x1a\n"
LARGEST_RECORD = 64 * 1024**2


@router.post("/undo")
def undo(review: OpenReview) -> Undone:
    return Undone(label=review.undo())


@router.post("/redo")
def redo(review: OpenReview) -> Undone:
    return Undone(label=review.redo())


# Flags


@router.get("/flags")
def flags(review: OpenReview, result: int) -> list[FlagOut]:
    found = [FlagOut(id=i.id, revision=i.revision, **i.payload) for i in review.items("flag")]
    return [f for f in found if f.result == result]


@router.post("/flags")
def plant_flag(flag: FlagIn, review: OpenReview) -> FlagOut:
    mesh = review.result(flag.result).mesh
    if flag.node is not None:
        mesh.node_position(flag.node)
    elif flag.element is not None and flag.xi is not None and np.isfinite(flag.xi).all():
        mesh.element_position(flag.element)
    else:
        raise IronstoneError("A flag needs a place.", "Name a node, or an element and natural coordinates inside it.")
    item = review.add("flag", flag.model_dump(), f"Flag planted at {_flag_place(flag)}")
    return FlagOut(id=item.id, revision=item.revision, **item.payload)


@router.put("/flags/{flag}")
def name_flag(flag: int, edit: FlagEdit, review: OpenReview) -> FlagOut:
    item = review.item(flag, "flag")
    payload = {**item.payload, "name": edit.name.strip()}
    changed = review.change(flag, payload, f"Flag named {edit.name.strip() or 'by its number'}")
    return FlagOut(id=flag, revision=changed.revision, **payload)


@router.get("/flags/{flag}/told")
def flag_told(flag: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> FlagTold:
    """What the flag says of a reading."""
    planted = FlagIn.model_validate(review.item(flag, "flag").payload)
    return flag_answer(review.result(planted.result), query, planted)


@router.delete("/flags/{flag}", status_code=204)
def remove_flag(flag: int, review: OpenReview) -> None:
    planted = FlagIn.model_validate(review.item(flag, "flag").payload)
    review.remove(flag, f"Flag at {_flag_place(planted)} removed")


def _flag_place(flag: FlagIn) -> str:
    return f"node {flag.node}" if flag.node is not None else f"a point of element {flag.element}"


@router.get("/results/{result}/flags.{form}", response_class=Response)
def flags_table(form: Form, result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> Response:
    """Every element's value at every flag, as computed and averaged, as CSV."""
    source = review.result(result)
    planted = flags(review, result)
    told = [flag_answer(source, query, f) for f in planted]
    rows = [(i, f, t, e) for i, (f, t) in enumerate(zip(planted, told, strict=True), start=1) for e in t.entries]
    length = source.system.length
    unit = told[0].unit if told else ""
    missing = float("nan")
    return table(
        form,
        ("flag", "name", "place", "element", "part", "x", "y", "z", *_flag_columns(told), "jump"),
        (None, None, None, None, None, length, length, length, unit, unit, unit),
        (
            [i for i, _, _, _ in rows],
            [f.name for _, f, _, _ in rows],
            [t.place for _, _, t, _ in rows],
            ["" if e.element is None else e.element for _, _, _, e in rows],
            [e.part or "" for _, _, _, e in rows],
            *([t.xyz[axis] for _, _, t, _ in rows] for axis in range(3)),
            [missing if e.value is None else e.value for _, _, _, e in rows],
            [missing if e.other is None else e.other for _, _, _, e in rows],
            [missing if t.jump is None else t.jump for _, _, t, _ in rows],
        ),
        f"{source.name} flags",
    )


def _flag_columns(told: list[FlagTold]) -> tuple[str, str]:
    """The reading, and the other averaging beside it."""
    if not told:
        return "value", "averaged"
    return f"{told[0].sentence} [{told[0].averaging}]", told[0].other_averaging or "no averaging"


# Views


@router.get("/views")
def views(review: OpenReview, result: int) -> list[ViewOut]:
    return [v for v in (ViewOut(id=i.id, **i.payload) for i in review.items("view")) if v.result == result]


@router.post("/views")
def keep_view(view: ViewIn, review: OpenReview) -> ViewOut:
    """Keep where the camera stands and what is shown, under a name; another of that name is replaced."""
    review.result(view.result)
    for old in views(review, view.result):
        if old.name == view.name:
            review.change(old.id, view.model_dump(), f"View '{view.name}' kept anew")
            return ViewOut(id=old.id, **view.model_dump())
    item = review.add("view", view.model_dump(), f"View '{view.name}' kept")
    return ViewOut(id=item.id, **item.payload)


@router.delete("/views/{view}", status_code=204)
def remove_view(view: int, review: OpenReview) -> None:
    name = review.item(view, "view").payload["name"]
    review.remove(view, f"View '{name}' removed")


# Pairings


def _axis(review: Review, source: ReviewSource, spec: TraceSpec, taken: list[bool]) -> tuple[Curve, AxisOut, list[str]]:
    curve, sentence, caveats = traced(review, source, spec)
    values = [answers.number(v) if inside else None for v, inside in zip(curve.y, taken, strict=True)]
    return curve, AxisOut(values=values, label=curve.y_label, unit=curve.y_unit, sentence=sentence), caveats


def _pairing(review: Review, item: Item) -> tuple[Curve, PairingOut]:
    spec = PairingIn.model_validate(item.payload)
    source = review.result(spec.result)
    count = len(source.steps)
    last = count - 1 if spec.last is None else min(spec.last, count - 1)
    if last <= spec.first:
        raise IronstoneError(f"Steps {spec.first} to {last} leave no curve.", f"Steps run from 0 to {count - 1}.")
    taken = [spec.first <= i <= last for i in range(count)]
    x, x_out, x_caveats = _axis(review, source, spec.x, taken)
    y, y_out, y_caveats = _axis(review, source, spec.y, taken)
    curve = Curve(x.y[taken], y.y[taken], x.y_unit, y.y_unit, x.y_label, y.y_label)
    first = source.steps[0]
    told = answers.loops_answer(curve, prominence=spec.prominence)
    for cycle in told["cycles"]:
        cycle["start"] += spec.first
        cycle["stop"] += spec.first
    return curve, PairingOut(
        id=item.id,
        revision=item.revision,
        result=spec.result,
        name=spec.name,
        x=x_out,
        y=y_out,
        x_spec=spec.x,
        y_spec=spec.y,
        first=spec.first,
        last=spec.last,
        prominence=spec.prominence,
        steps=AxisOut(values=[s.value for s in source.steps], label=first.kind, unit=first.unit, sentence=first.kind),
        loops=LoopsOut.model_validate(told),
        figures=[FigureOut(**f) for f in answers.figures(curve)],
        caveats=list(dict.fromkeys([*x_caveats, *y_caveats, *answers.few_steps(source, curve.y, spec.first), *told["notes"]])),
    )


def _pairing_or_why_not(review: Review, item: Item) -> PairingOut:
    """A curve whose set, field or named curve has gone says so; the others are not taken along."""
    try:
        return _pairing(review, item)[1]
    except IronstoneError as error:
        spec = PairingIn.model_validate(item.payload)
        nothing = AxisOut(values=[], label="", unit=None, sentence="")
        none = LoopsOut(x_unit=None, y_unit=None, energy_unit=None, stiffness_unit=None, energy_total=None, cycles=[])
        said = {**spec.model_dump(exclude={"x", "y"}), "x_spec": spec.x, "y_spec": spec.y}
        return PairingOut(
            id=item.id,
            revision=item.revision,
            **said,
            x=nothing,
            y=nothing,
            steps=nothing,
            loops=none,
            caveats=[],
            error=f"{error.message} {error.hint}",
        )


@router.get("/pairings")
def pairings(review: OpenReview, result: int) -> list[PairingOut]:
    return [_pairing_or_why_not(review, i) for i in review.items("pairing") if i.payload["result"] == result]


@router.post("/pairings")
def make_pairing(spec: PairingIn, review: OpenReview) -> PairingOut:
    _pairing(review, Item(0, "pairing", spec.model_dump(), 1))
    return _pairing(review, review.add("pairing", spec.model_dump(), f"Curve '{spec.name}' made"))[1]


@router.put("/pairings/{pairing}")
def change_pairing(pairing: int, spec: PairingIn, review: OpenReview) -> PairingOut:
    review.item(pairing, "pairing")
    _pairing(review, Item(pairing, "pairing", spec.model_dump(), 1))
    return _pairing(review, review.change(pairing, spec.model_dump(), f"Curve '{spec.name}' changed"))[1]


@router.delete("/pairings/{pairing}", status_code=204)
def remove_pairing(pairing: int, review: OpenReview) -> None:
    review.remove(pairing, f"Curve '{review.item(pairing, 'pairing').payload['name']}' removed")


@router.get("/pairings/{pairing}/curve.{form}", response_class=Response)
def pairing_curve(form: Form, pairing: int, review: OpenReview) -> Response:
    curve, out = _pairing(review, review.item(pairing, "pairing"))
    steps = np.array(out.steps.values, dtype=float)[out.first : out.first + len(curve.x)]
    return table(
        form,
        (out.steps.label, out.x.label, out.y.label),
        (out.steps.unit, curve.x_unit, curve.y_unit),
        (steps, curve.x, curve.y),
        f"{out.name} {out.y.label} against {out.x.label}"[:120],
        f"{out.y.sentence}; against {out.x.sentence}",
    )


@router.get("/pairings/{pairing}/cycles.{form}", response_class=Response)
def pairing_cycles(form: Form, pairing: int, review: OpenReview) -> Response:
    curve, out = _pairing(review, review.item(pairing, "pairing"))
    found = loops(curve, prominence=out.prominence)
    rows = found.cycles
    return table(
        form,
        ("cycle", "amplitude", "energy", "secant stiffness", "damping ratio", "closed"),
        (None, found.x_unit, found.energy_unit, found.stiffness_unit, "", None),
        (
            list(range(1, len(rows) + 1)),
            [c.amplitude for c in rows],
            [c.energy for c in rows],
            [c.secant_stiffness for c in rows],
            [c.damping_ratio for c in rows],
            ["yes" if c.closed else "no" for c in rows],
        ),
        f"{out.name} cycles",
    )


# Test records


@router.post("/tests")
async def bring_test(
    request: Request, review: OpenReview, name: str = Query(max_length=200), pairing: int | None = None
) -> TestOut:
    """Take a CSV record in (the body of the request), to be held against a curve, and guess which column is what."""
    data = await _bounded(request, name)
    # Read beside the service's other work, which a large record would hold up.
    return await run_in_threadpool(_bring, review, data, name, pairing)


async def _bounded(request: Request, name: str) -> bytes:
    """The body of a request, given up as soon as it is larger than a record may be, whatever it says of its length."""
    pieces, size = [], 0
    async for piece in request.stream():
        size += len(piece)
        if size > LARGEST_RECORD:
            raise IronstoneError(f"{name} is larger than {LARGEST_RECORD // 1024**2} MB.", "Thin it out first.")
        pieces.append(piece)
    return b"".join(pieces)


def _bring(review: Review, data: bytes, name: str, pairing: int | None) -> TestOut:
    table = _parsed(data, name)
    use = _guess_use(table).model_copy(update={"pairing": pairing})
    attachment = review.attach(name, "text/csv", data)
    payload = {"name": name, "attachment": attachment, "use": use.model_dump()}
    return _test(review, review.add("test", payload, f"Test record '{name}' brought in"))[1]


KEPT_RECORD = 8 * 1024**2


def _parsed(data: bytes, name: str) -> Table:
    """A record's table, read once and not at every question about it; one of more than 8 MB is not kept."""
    return _kept(data, name) if len(data) <= KEPT_RECORD else parse_table(data, name)


@lru_cache(maxsize=16)
def _kept(data: bytes, name: str) -> Table:
    return parse_table(data, name)


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


def _corrected(table: Table, use: ColumnUse) -> tuple[Any, str | None, list[str]]:
    values, stated = table.column(use.column)
    unit = stated if use.unit is None else use.unit
    correction = Correction(use.column, use.sign, use.scale, use.zero, use.smooth)
    said = correction.words(unit)
    if use.unit is not None and use.unit != stated:
        said.append(f"{use.column}: unit taken as {unit or 'a pure number'}, the file states {stated or 'none'}")
    return correction(values), unit, said


def _scatter(review: Review, item: Item) -> tuple[Scatter, list[TestOut]]:
    members = [_test(review, review.item(i, "test")) for i in item.payload["of"]]
    return scatter([curve for curve, _ in members]), [out for _, out in members]


def _mean(review: Review, item: Item) -> tuple[Curve, TestOut]:
    """The mean of several records as a record of its own."""
    found, members = _scatter(review, item)
    said = [f"mean of {', '.join(m.name for m in members)}", *found.notes]
    said += [f"{m.name}, {c}" for m in members for c in m.corrections]
    return found.mean, TestOut(
        id=item.id,
        revision=item.revision,
        name=item.payload["name"],
        rows=len(found.mean.x),
        separator="",
        decimal="",
        columns=[],
        use=TestUse.model_validate(item.payload["use"]),
        x=[answers.number(v) for v in found.mean.x],
        y=[answers.number(v) for v in found.mean.y],
        x_unit=found.mean.x_unit,
        y_unit=found.mean.y_unit,
        corrections=said,
        of=item.payload["of"],
        scatter=found.share,
    )


@router.post("/tests/mean")
def make_mean(stated: MeanIn, review: OpenReview) -> TestOut:
    """Several specimens in one: their mean, with how far they scatter."""
    first = review.item(stated.tests[0], "test")
    if any("of" in review.item(t, "test").payload for t in stated.tests):
        raise IronstoneError("A mean of means is not taken.", "Choose the records themselves.")
    use = {**first.payload["use"], "pairing": stated.pairing}
    payload = {"name": stated.name, "of": stated.tests, "use": use}
    _mean(review, Item(0, "test", payload, 1))
    return _mean(review, review.add("test", payload, f"Mean of {len(stated.tests)} records made"))[1]


def _test(review: Review, item: Item) -> tuple[Curve, TestOut]:
    if "of" in item.payload:
        return _mean(review, item)
    name, _, data = review.attachment(item.payload["attachment"])
    table = _parsed(data, name)
    use = TestUse.model_validate(item.payload["use"])
    x, x_unit, x_said = _corrected(table, use.x)
    y, y_unit, y_said = _corrected(table, use.y)
    curve, said = _taken(Curve(x, y, x_unit, y_unit, use.x.column, use.y.column), use)
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
        id=item.id,
        revision=item.revision,
        name=item.payload["name"],
        rows=len(table.columns),
        separator=table.separator,
        decimal=table.decimal,
        columns=columns,
        use=use,
        x=[answers.number(v) for v in curve.x],
        y=[answers.number(v) for v in curve.y],
        x_unit=curve.x_unit,
        y_unit=curve.y_unit,
        corrections=[*_printed_words(item), *x_said, *y_said, *said],
        picture="picture" in item.payload,
    )


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
        said.append("turned from engineering to true: ln(1 + e), s (1 + e)")
    return curve, said


def _printed_words(item: Item) -> list[str]:
    printed = item.payload.get("printed")
    if printed is None:
        return []
    axes = [f"{printed[a]['first_value']:g} and {printed[a]['second_value']:g} on {a}" for a in "xy"]
    return [f"read off a picture at {printed['points']} points, axes marked at {', '.join(axes)}"]


@router.post("/tests/printed")
def read_printed(stated: PrintedIn, review: OpenReview) -> TestOut:
    """A printed curve read off its picture by marked axes; the picture is kept with the record."""
    kind, data = _picture(stated.picture)
    marks = {a: AxisMarks(**getattr(stated, a).model_dump(exclude={"label", "unit"})) for a in "xy"}
    x, y = read_off(np.array(stated.points), marks["x"], marks["y"])
    labels = stated.x.label, stated.y.label if stated.y.label != stated.x.label else f"{stated.y.label} (y)"
    text = write_table(labels, (stated.x.unit, stated.y.unit), (x, y)).encode()
    use = TestUse(
        x=ColumnUse(column=labels[0], unit=stated.x.unit), y=ColumnUse(column=labels[1], unit=stated.y.unit), pairing=stated.pairing
    )
    parse_table(text, stated.name)
    payload = {
        "name": stated.name,
        "attachment": review.attach(f"{stated.name}.csv", "text/csv", text),
        "picture": review.attach(f"{stated.name}.{kind}", f"image/{kind}", data),
        "printed": {"points": len(stated.points), **{a: getattr(stated, a).model_dump() for a in "xy"}},
        "use": use.model_dump(),
    }
    return _test(review, review.add("test", payload, f"Printed curve '{stated.name}' read off"))[1]


@router.get("/tests/{test}/picture", response_class=Response)
def printed_picture(test: int, review: OpenReview) -> Response:
    item = review.item(test, "test")
    if "picture" not in item.payload:
        raise NotFound("That record was not read off a picture.")
    _, media_type, data = review.attachment(item.payload["picture"])
    return Response(data, media_type=media_type)


def _picture(address: str) -> tuple[str, bytes]:
    """Kind and bytes of a PNG or JPEG that came as a data address."""
    head, _, body = address.partition(",")
    try:
        data = base64.b64decode(body, validate=True)
    except (binascii.Error, ValueError) as error:
        raise IronstoneError("The picture did not arrive whole.", "Try again.") from error
    kind = "png" if data.startswith(PNG) else "jpeg" if data.startswith(b"\xff\xd8\xff") else ""
    if not kind or not head.startswith("data:image/"):
        raise IronstoneError("That is no PNG or JPEG picture.", "Save it as one of the two.")
    if len(data) > LARGEST_RECORD:
        raise IronstoneError(f"The picture is larger than {LARGEST_RECORD // 1024**2} MB.", "Scale it down first.")
    return kind, data


def _test_or_why_not(review: Review, item: Item) -> TestOut:
    """A mean whose records do not go together any more says so; the records themselves are not taken along."""
    try:
        return _test(review, item)[1]
    except IronstoneError as error:
        return TestOut(
            id=item.id, revision=item.revision, name=item.payload["name"], rows=0, separator="", decimal="", columns=[],
            x=[], y=[], x_unit=None, y_unit=None, use=TestUse.model_validate(item.payload["use"]), corrections=[],
            of=item.payload.get("of", []), error=f"{error.message} {error.hint}",
        )  # fmt: skip


@router.get("/tests")
def tests(review: OpenReview) -> list[TestOut]:
    return [_test_or_why_not(review, i) for i in review.items("test")]


@router.put("/tests/{test}")
def change_test(test: int, use: TestUse, review: OpenReview) -> TestOut:
    """Say anew which column is what, its unit, sign and zero, and the accept limits."""
    item = review.item(test, "test")
    payload = {**item.payload, "use": use.model_dump()}
    _test(review, Item(test, "test", payload, 1))
    return _test(review, review.change(test, payload, f"Test record '{item.payload['name']}' corrected"))[1]


@router.delete("/tests/{test}", status_code=204)
def remove_test(test: int, review: OpenReview) -> None:
    name = review.item(test, "test").payload["name"]
    means = [i.payload["name"] for i in review.items("test") if test in i.payload.get("of", ())]
    if means:
        raise IronstoneError(f"'{name}' is one of the records of '{means[0]}'.", "Remove the mean first.")
    review.remove(test, f"Test record '{name}' removed")


@router.get("/matches")
def match_of(review: OpenReview, pairing: int, test: int) -> MatchOut:
    """A curve held against a test record."""
    model, made = _pairing(review, review.item(pairing, "pairing"))
    record, out = _test(review, review.item(test, "test"))
    limits = Limits(**out.use.limits.model_dump())
    found = match(model, record, limits, tuple(out.corrections), made.prominence)
    answer = answers.match_answer(found)
    d = found.deviation
    return MatchOut.model_validate(
        {
            **answer,
            "metrics": [{"name": m.name, **answer["metrics"][m.name]} for m in found.metrics],
            "deviation": {
                "rms": answers.number(d.rms),
                "share": answers.number(d.share),
                "told": d.told,
                "largest": answers.number(d.largest),
                "largest_at_x": answers.number(d.largest_at_x),
                "determination": answers.number(d.determination),
                "unit": d.unit,
                "limit": d.limit,
                "accepted": d.accepted,
                "x": d.x.tolist(),
                "away": d.away.tolist(),
            },
            "shift": found.shift,
            "correlation": found.correlation,
            "test": test,
            "pairing": pairing,
        }
    )


@router.get("/overlays")
def overlay(review: OpenReview, pairing: int, test: int) -> OverlayOut:
    """A corrected record in the units of a curve, to be drawn on it."""
    model, _ = _pairing(review, review.item(pairing, "pairing"))
    record, out = _test(review, review.item(test, "test"))
    shown = record.in_units(model.x_unit, model.y_unit)
    if in_time(model) and in_time(shown):
        shown = replace(shown, x=shown.x + (match(model, record).shift or 0.0))
    told = OverlayOut(name=out.name, x=[answers.number(v) for v in shown.x], y=[answers.number(v) for v in shown.y])
    if out.of:
        found, _ = _scatter(review, review.item(test, "test"))
        for end, values in (("low", found.low), ("high", found.high)):
            turned = replace(found.mean, y=values).in_units(model.x_unit, model.y_unit)
            setattr(told, end, [answers.number(v) for v in turned.y])
    return told


@router.get("/matches.{form}", response_class=Response)
def match_table(form: Form, review: OpenReview, pairing: int, test: int) -> Response:
    found = match_of(review, pairing, test)
    rows = found.metrics
    return table(
        form,
        ("quantity", "unit", "model", "test", "ratio", "accepted share", "verdict"),
        (None,) * 7,
        (
            [m.label for m in rows] + ["RMS deviation"],
            [m.unit or "1" for m in rows] + [found.deviation.unit or "1"],
            [_float(m.model) for m in rows] + [_float(found.deviation.rms)],
            [_float(m.test) for m in rows] + [float("nan")],
            [_float(m.ratio) for m in rows] + [float("nan")],
            [_float(m.limit) for m in rows] + [found.deviation.limit],
            [{True: "agrees", False: "does not agree", None: "information"}[m.accepted] for m in rows]
            + ["agrees" if found.deviation.accepted else "does not agree"],
        ),
        "model against test",
    )


def _float(value: float | None) -> float:
    return float("nan") if value is None else value


# Exhibits


def _exhibit(item: Item) -> ExhibitOut:
    p = item.payload
    return ExhibitOut(id=item.id, revision=item.revision, has_picture=p["picture"] is not None, has_table=p["table"] is not None,
                      **{k: p[k] for k in ("kind", "title", "sentence", "caveats", "note", "verdict", "address")})  # fmt: skip


@router.get("/exhibits")
def exhibits(review: OpenReview) -> list[ExhibitOut]:
    return [_exhibit(i) for i in review.items("exhibit")]


@router.post("/exhibits")
def keep_exhibit(exhibit: ExhibitIn, review: OpenReview) -> ExhibitOut:
    payload = exhibit.model_dump()
    if exhibit.picture is not None:
        kind, data = _picture(exhibit.picture)
        if kind != "png":
            raise IronstoneError("The picture is no PNG.", "Keep it again.")
        payload["picture"] = review.attach(f"{exhibit.title}.png", "image/png", data)
    if exhibit.table is not None:
        payload["table"] = review.attach(f"{exhibit.title}.csv", "text/csv", exhibit.table.encode())
    return _exhibit(review.add("exhibit", payload, f"Exhibit '{exhibit.title}' kept"))


@router.put("/exhibits/{exhibit}")
def edit_exhibit(exhibit: int, edit: ExhibitEdit, review: OpenReview) -> ExhibitOut:
    item = review.item(exhibit, "exhibit")
    return _exhibit(review.change(exhibit, {**item.payload, **edit.model_dump()}, f"Exhibit '{edit.title}' edited"))


@router.delete("/exhibits/{exhibit}", status_code=204)
def remove_exhibit(exhibit: int, review: OpenReview) -> None:
    review.remove(exhibit, f"Exhibit '{review.item(exhibit, 'exhibit').payload['title']}' removed")


@router.get("/exhibits/{exhibit}/picture.png", response_class=Response)
def exhibit_picture(exhibit: int, review: OpenReview) -> Response:
    return _attachment(review, exhibit, "picture")


@router.get("/exhibits/{exhibit}/table.csv", response_class=Response)
def exhibit_table(exhibit: int, review: OpenReview) -> Response:
    return _attachment(review, exhibit, "table")


def _attachment(review: Review, exhibit: int, what: str) -> Response:
    item = review.item(exhibit, "exhibit")
    if item.payload[what] is None:
        raise NotFound(f"That exhibit has no {what}.")
    name, media_type, data = review.attachment(item.payload[what])
    safe = "".join(c if c.isalnum() or c in "-_. " else "_" for c in name).encode("ascii", "replace").decode()
    disposition = f'{"attachment" if what == "table" else "inline"}; filename="{safe}"'
    return Response(data, media_type=media_type, headers={"Content-Disposition": disposition})
