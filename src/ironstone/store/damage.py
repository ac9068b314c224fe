"""Going through a whole review: what of it is still as it was stored, what is lost, and how to get it back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from typing import Any

from sqlalchemy import select

from ironstone.core.errors import IronstoneError
from ironstone.store import arrays, known, seal
from ironstone.store.models import ArrayRow, FieldRow, ResultRow
from ironstone.store.review import Review


@dataclass
class Checked:
    """One result that was gone through. ``lost``: what is not as it was stored, in words."""

    name: str
    arrays: int = 0
    lost: list[str] = field(default_factory=list)
    way_back: str = ""


def check(review: Review, tell: Callable[[float], None] = lambda share: None) -> dict[str, Any]:
    """Read everything a review holds and compare it with its checksums; nothing is changed.

    Returns ``whole`` (nothing is lost), ``results`` (of each: name, arrays, lost, way_back) and ``structure``: what SQLite finds
    wrong with the file itself.
    """
    structure = _structure(review)
    found = []
    with known.in_words(review.path), review.session() as session:
        rows = session.scalars(select(ResultRow).where(ResultRow.state == "ready").order_by(ResultRow.id)).all()
    for i, row in enumerate(rows):
        found.append(_result(review, row))
        tell((i + 1) / len(rows))
    made = review.damaged()
    whole = not structure and not made and not any(r.lost for r in found)
    return {"whole": whole, "results": [asdict(r) for r in found], "structure": structure, "made": made}


def _result(review: Review, row: ResultRow) -> Checked:
    checked = Checked(row.name)
    if not row.whole:
        checked.lost.append("what the review says of it")
    try:
        source = review.source(row)
        for described in ("steps", "stored_fields"):
            try:
                getattr(source, described)
            except arrays.Damaged as error:
                checked.lost.append(error.message)
        with review.session() as session:
            held = session.execute(
                select(ArrayRow, FieldRow.name)
                .outerjoin(FieldRow, FieldRow.id == ArrayRow.field_id)
                .where(ArrayRow.result_id == row.id)
                .order_by(ArrayRow.id)
            ).all()
    except IronstoneError as error:
        checked.lost.append(error.message)
        held = []
    for array, name in held:
        checked.arrays += 1
        try:
            with known.in_words(review.path), review.engine.connect() as connection:
                arrays.read(connection, array)
        except IronstoneError:
            where = f"'{name}' at step {(array.step or 0) + 1}" if array.field_id is not None else f"the mesh ({array.role})"
            checked.lost.append(where)
    with review.session() as session:
        now = arrays.arrays_held(session, row.id)
        names = dict(session.execute(select(FieldRow.id, FieldRow.name).where(FieldRow.result_id == row.id)).tuples().all())
    then = row.summary.get("arrays", now)
    checked.lost += [f"the mesh ({role}), which is not there any more" for role in then["mesh"] if role not in now["mesh"]]
    for number, steps in then["fields"].items():
        there = set(seal.steps_of(now["fields"].get(number, "")))
        gone = [step for step in seal.steps_of(steps) if step not in there]
        checked.lost += [f"'{names.get(int(number), number)}' at step {step + 1}, which is not there any more" for step in gone]
    if checked.lost:
        checked.way_back = arrays.way_back(row.files)
    return checked


def _structure(review: Review) -> list[str]:
    with review.engine.connect() as connection:
        try:
            said = [str(line) for (line,) in connection.exec_driver_sql("PRAGMA integrity_check(20)")]
        except Exception as error:  # SQLite may refuse even to look
            return [f"SQLite cannot go through the file ({type(error).__name__})"]
    return [] if said == ["ok"] else said
