"""Routes of what the analyst makes: flags, pairings, test records, matches, exhibits, and undo."""

from __future__ import annotations

import base64
import binascii
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query, Request, Response

from ironstone import answers
from ironstone.core.curves import Curve, loops
from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.match import Correction, Limits, match
from ironstone.core.reading import Reading
from ironstone.formats.tables import Table, parse_table, write_table
from ironstone.service.deps import OpenReview, download
from ironstone.service.routes_results import meeting_answer
from ironstone.service.schemas import (
    AxisOut,
    ColumnOut,
    ColumnUse,
    ExhibitEdit,
    ExhibitIn,
    ExhibitOut,
    FlagIn,
    FlagOut,
    LoopsOut,
    MatchOut,
    MeetingOut,
    OverlayOut,
    PairingIn,
    PairingOut,
    ReadingQuery,
    TestOut,
    TestUse,
    TraceSpec,
    Undone,
)
from ironstone.store import Review
from ironstone.store.review import Item, ReviewSource

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
    found = [FlagOut(id=i.id, **i.payload) for i in review.items("flag")]
    return [f for f in found if f.result == result]


@router.post("/flags")
def plant_flag(flag: FlagIn, review: OpenReview) -> FlagOut:
    review.result(flag.result).mesh.node_position(flag.node)
    item = review.add("flag", flag.model_dump(), f"Flag planted at node {flag.node}")
    return FlagOut(id=item.id, **item.payload)


@router.delete("/flags/{flag}", status_code=204)
def remove_flag(flag: int, review: OpenReview) -> None:
    node = review.item(flag, "flag").payload["node"]
    review.remove(flag, f"Flag at node {node} removed")


@router.get("/results/{result}/flags.csv", response_class=Response)
def flags_table(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> Response:
    """Every element's value at every flag, as CSV."""
    source = review.result(result)
    told = [meeting_answer(source, query, f.node) for f in flags(review, result)]
    rows = [(i, m, e) for i, m in enumerate(told, start=1) for e in m.entries]
    length = source.system.length
    unit = told[0].unit if told else ""
    missing = float("nan")
    text = write_table(
        ("flag", "node", "element", "part", "x", "y", "z", _title(told), "jump"),
        (None, None, None, None, length, length, length, unit, unit),
        (
            [i for i, _, _ in rows],
            [m.node for _, m, _ in rows],
            ["" if e.element is None else e.element for _, _, e in rows],
            [e.part or "" for _, _, e in rows],
            *([m.xyz[axis] for _, m, _ in rows] for axis in range(3)),
            [missing if e.value is None else e.value for _, _, e in rows],
            [missing if m.jump is None else m.jump for _, m, _ in rows],
        ),
    )
    return download(text, f"{source.name} flags")


def _title(told: list[MeetingOut]) -> str:
    return told[0].sentence if told else "value"


# Pairings


def _axis(source: ReviewSource, spec: TraceSpec) -> tuple[Curve, AxisOut, list[str]]:
    reading = Reading(spec.field, spec.measure, spec.averaging, spec.order, unit=spec.unit)
    curve, sentence, caveats = answers.trace_curve(reading, source, spec.at, spec.reduce, spec.sign)
    values = [answers.number(v) for v in curve.y]
    return curve, AxisOut(values=values, label=curve.y_label, unit=curve.y_unit, sentence=sentence), caveats


def _pairing(review: Review, item: Item) -> tuple[Curve, PairingOut]:
    spec = PairingIn.model_validate(item.payload)
    source = review.result(spec.result)
    x, x_out, x_caveats = _axis(source, spec.x)
    y, y_out, y_caveats = _axis(source, spec.y)
    curve = Curve(x.y, y.y, x.y_unit, y.y_unit, x.y_label, y.y_label)
    first = source.steps[0]
    return curve, PairingOut(
        id=item.id,
        result=spec.result,
        name=spec.name,
        x=x_out,
        y=y_out,
        x_spec=spec.x,
        y_spec=spec.y,
        steps=AxisOut(values=[s.value for s in source.steps], label=first.kind, unit=first.unit, sentence=first.kind),
        loops=LoopsOut.model_validate(answers.loops_answer(loops(curve))),
        caveats=list(dict.fromkeys(x_caveats + y_caveats)),
    )


@router.get("/pairings")
def pairings(review: OpenReview, result: int) -> list[PairingOut]:
    return [_pairing(review, i)[1] for i in review.items("pairing") if i.payload["result"] == result]


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


@router.get("/pairings/{pairing}/curve.csv", response_class=Response)
def pairing_curve(pairing: int, review: OpenReview) -> Response:
    curve, out = _pairing(review, review.item(pairing, "pairing"))
    steps = np.array(out.steps.values, dtype=float)
    text = write_table(
        (out.steps.label, out.x.label, out.y.label), (out.steps.unit, curve.x_unit, curve.y_unit), (steps, curve.x, curve.y)
    )
    return download(text, f"{out.name} {out.y.label} against {out.x.label}"[:120])


@router.get("/pairings/{pairing}/cycles.csv", response_class=Response)
def pairing_cycles(pairing: int, review: OpenReview) -> Response:
    curve, out = _pairing(review, review.item(pairing, "pairing"))
    found = loops(curve)
    rows = found.cycles
    text = write_table(
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
    )
    return download(text, f"{out.name} cycles")


# Test records


@router.post("/tests")
async def bring_test(request: Request, review: OpenReview, name: str = Query(max_length=200)) -> TestOut:
    """Take a CSV record in (the body of the request) and guess which column is what."""
    data = await request.body()
    if len(data) > LARGEST_RECORD:
        raise IronstoneError(f"{name} is larger than {LARGEST_RECORD // 1024**2} MB.", "Thin it out first.")
    table = parse_table(data, name)
    use = _guess_use(table)
    attachment = review.attach(name, "text/csv", data)
    payload = {"name": name, "attachment": attachment, "use": use.model_dump()}
    return _test(review, review.add("test", payload, f"Test record '{name}' brought in"))[1]


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


def _test(review: Review, item: Item) -> tuple[Curve, TestOut]:
    name, _, data = review.attachment(item.payload["attachment"])
    table = parse_table(data, name)
    use = TestUse.model_validate(item.payload["use"])
    x, x_unit, x_said = _corrected(table, use.x)
    y, y_unit, y_said = _corrected(table, use.y)
    curve = Curve(x, y, x_unit, y_unit, use.x.column, use.y.column)
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
        name=item.payload["name"],
        rows=len(table.columns),
        separator=table.separator,
        decimal=table.decimal,
        columns=columns,
        use=use,
        x=[answers.number(v) for v in x],
        y=[answers.number(v) for v in y],
        x_unit=x_unit,
        y_unit=y_unit,
        corrections=[*x_said, *y_said],
    )


@router.get("/tests")
def tests(review: OpenReview) -> list[TestOut]:
    return [_test(review, i)[1] for i in review.items("test")]


@router.put("/tests/{test}")
def change_test(test: int, use: TestUse, review: OpenReview) -> TestOut:
    """Say anew which column is what, its unit, sign and zero, and the accept limits."""
    item = review.item(test, "test")
    payload = {**item.payload, "use": use.model_dump()}
    _test(review, Item(test, "test", payload, 1))
    return _test(review, review.change(test, payload, f"Test record '{item.payload['name']}' corrected"))[1]


@router.delete("/tests/{test}", status_code=204)
def remove_test(test: int, review: OpenReview) -> None:
    review.remove(test, f"Test record '{review.item(test, 'test').payload['name']}' removed")


@router.get("/matches")
def match_of(review: OpenReview, pairing: int, test: int) -> MatchOut:
    """A curve held against a test record."""
    model, _ = _pairing(review, review.item(pairing, "pairing"))
    record, out = _test(review, review.item(test, "test"))
    limits = Limits(**out.use.limits.model_dump())
    found = match(model, record, limits, tuple(out.corrections))
    answer = answers.match_answer(found)
    d = found.deviation
    return MatchOut.model_validate(
        {
            **answer,
            "metrics": [{"name": m.name, **answer["metrics"][m.name]} for m in found.metrics],
            "deviation": {
                "rms": answers.number(d.rms),
                "share": answers.number(d.share),
                "largest": answers.number(d.largest),
                "largest_at_x": answers.number(d.largest_at_x),
                "determination": answers.number(d.determination),
                "unit": d.unit,
                "limit": d.limit,
                "accepted": d.accepted,
            },
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
    return OverlayOut(name=out.name, x=[answers.number(v) for v in shown.x], y=[answers.number(v) for v in shown.y])


@router.get("/matches.csv", response_class=Response)
def match_table(review: OpenReview, pairing: int, test: int) -> Response:
    found = match_of(review, pairing, test)
    rows = found.metrics
    text = write_table(
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
    )
    return download(text, "model against test")


def _float(value: float | None) -> float:
    return float("nan") if value is None else value


# Exhibits


def _exhibit(item: Item) -> ExhibitOut:
    p = item.payload
    return ExhibitOut(id=item.id, has_picture=p["picture"] is not None, has_table=p["table"] is not None,
                      **{k: p[k] for k in ("kind", "title", "sentence", "caveats", "note", "verdict", "address")})  # fmt: skip


@router.get("/exhibits")
def exhibits(review: OpenReview) -> list[ExhibitOut]:
    return [_exhibit(i) for i in review.items("exhibit")]


@router.post("/exhibits")
def keep_exhibit(exhibit: ExhibitIn, review: OpenReview) -> ExhibitOut:
    payload = exhibit.model_dump()
    if exhibit.picture is not None:
        try:
            data = base64.b64decode(exhibit.picture.removeprefix("data:image/png;base64,"), validate=True)
        except (binascii.Error, ValueError) as error:
            raise IronstoneError("The picture did not arrive whole.", "Keep it again.") from error
        if not data.startswith(PNG):
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
