"""A review as one object: ``Review.open(path)``, its results, and what the analyst made of them."""

from __future__ import annotations

import hashlib
import json
import sqlite3
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from numpy.typing import NDArray
from sqlalchemy import Connection, Engine, create_engine, delete, event, insert, select, update
from sqlalchemy.orm import Session
from sqlalchemy.pool import QueuePool

from ironstone.core.axes import Axes
from ironstone.core.classify import single_valued
from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.evaluate import evaluate
from ironstone.core.fields import MODELS, Constants, Field, Mirror, Setup, Step, constants_of, partition_values, partitions
from ironstone.core.mesh import Int, Mesh
from ironstone.core.places import AtCorners, AtElements, AtNodes
from ironstone.core.reading import Reading, Values
from ironstone.core.recover import offered
from ironstone.core.recovered import recovered_rows, recovered_values
from ironstone.core.units import SYSTEMS, UnitSystem
from ironstone.core.units import known as known_unit
from ironstone.core.weld import KINDS_OF_RANK, OURS, TOLERANCE, third_direction
from ironstone.core.where import parse, place_of
from ironstone.store import arrays, known, lease, seal, stale
from ironstone.store.models import (
    ArrayRow,
    AttachmentRow,
    BlockRow,
    ChangeRow,
    FieldRow,
    ItemRow,
    ResultRow,
    ReviewRow,
    StepRow,
)
from ironstone.store.watch import Watch

CACHED_ARRAYS = 6


@dataclass(frozen=True)
class Item:
    """Something the analyst made: a flag, a test record, accept limits, an exhibit, a correction of a result."""

    id: int
    kind: str
    payload: dict[str, Any]
    revision: int


def with_entry(table: Mapping[str, Any] | None, name: str, entry: Any) -> dict[str, Any]:
    """A table with one entry put in its place, or taken out where it is None."""
    rest = {n: e for n, e in (table or {}).items() if n != name}
    return rest if entry is None else {**rest, name: entry}


def _migrations() -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return config


class Review:
    """One open review file. Safe to use from several threads; closed by ``close`` or a with statement."""

    def __init__(self, path: Path, engine: Engine) -> None:
        self.path = path
        self.engine = engine
        self._sources: dict[int, ReviewSource] = {}
        self._lock = threading.RLock()
        self._one_writer = threading.RLock()
        self._aside = ThreadPoolExecutor(1)

    @classmethod
    def create(cls, path: Path, name: str = "") -> Review:
        if path.exists():
            raise IronstoneError(f"{path.name} is there already.", "Open it, or choose another name.")
        path.parent.mkdir(parents=True, exist_ok=True)
        return cls._connect(path, name or path.stem.replace("_", " "))

    @classmethod
    def open(cls, path: Path) -> Review:
        """Open a review; what a process that has ended left arriving is swept away. In a folder that cannot be written to it opens
        for reading.

        Raises IronstoneError, with the file as it was, for what is no review and for one of a newer program.
        """
        if not path.is_file():
            raise NotFound(f"There is no review {path.name}.", "Check the name, or make one with 'intake'.")
        known.check(path, {script.revision for script in ScriptDirectory.from_config(_migrations()).walk_revisions()})
        if not known.writable(path):
            return cls._for_reading(path)
        review = cls._connect(path, path.stem)
        review.sweep()
        return review

    @classmethod
    def _for_reading(cls, path: Path) -> Review:
        """A review that cannot be written to. Raises IronstoneError where an older layout would have to be brought up first."""
        address = f"{path.resolve().as_uri()}?mode=ro&immutable=1"
        engine = create_engine(
            "sqlite://", creator=lambda: sqlite3.connect(address, uri=True, check_same_thread=False), poolclass=QueuePool
        )
        with known.in_words(path), engine.connect() as connection:
            made = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
        if made != ScriptDirectory.from_config(_migrations()).get_current_head():
            engine.dispose()
            raise IronstoneError(
                f"{path.name} was made by an older version, and cannot be brought up where it is: it can only be read.",
                "Copy it to a folder of your own and open it there.",
            )
        return cls(path, engine)

    @classmethod
    def _connect(cls, path: Path, name: str) -> Review:
        engine = create_engine(f"sqlite:///{path}", connect_args={"check_same_thread": False, "timeout": 30})

        @event.listens_for(engine, "connect")
        def prepare(connection: sqlite3.Connection, _record: Any) -> None:
            # Only a file without tables takes these two, and setting them again would touch a file that is only read.
            fresh = connection.execute("PRAGMA page_count").fetchone()[0] == 0
            shape = ["page_size = 16384", "auto_vacuum = INCREMENTAL"] if fresh else []
            for pragma in (*shape, "journal_mode = WAL", "synchronous = NORMAL", "foreign_keys = ON", "mmap_size = 268435456"):
                connection.execute(f"PRAGMA {pragma}")

        config = _migrations()
        try:
            with known.in_words(path):
                with engine.begin() as connection:
                    config.attributes["connection"] = connection
                    command.upgrade(config, "head")
                with engine.begin() as connection:
                    if connection.execute(select(ReviewRow.id)).first() is None:
                        connection.execute(insert(ReviewRow).values(name=name))
                with engine.connect() as connection:
                    if connection.exec_driver_sql("PRAGMA application_id").scalar() != known.APPLICATION:
                        connection.exec_driver_sql(f"PRAGMA application_id = {known.APPLICATION}")
                        connection.commit()
                        # The number is looked for in the file itself, not in its log.
                        connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
        except IronstoneError:
            engine.dispose()
            raise
        except Exception as error:
            engine.dispose()
            raise IronstoneError(f"{path.name} could not be opened as a review ({type(error).__name__}).") from error
        return cls(path, engine)

    def __enter__(self) -> Review:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        self._aside.shutdown()
        self.engine.dispose()

    @contextmanager
    def session(self) -> Iterator[Session]:
        with known.in_words(self.path), Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A transaction that nobody else writes beside: what is read in it is still so when it is written."""
        with self._one_writer, self.session() as session:
            # A write that changes nothing takes SQLite's lock before anything is read.
            session.execute(update(ReviewRow).values(name=ReviewRow.name))
            yield session

    @contextmanager
    def bulk(self) -> Iterator[Connection]:
        """A transaction for much at once: SQLite leaves it in its log, and ``settle`` moves it into the file beside other work."""
        with known.in_words(self.path), self.engine.connect() as connection:
            database: sqlite3.Connection = connection.connection.driver_connection  # type: ignore[assignment]
            database.execute("PRAGMA wal_autocheckpoint = 0")
            try:
                with connection.begin():
                    yield connection
            finally:
                database.execute("PRAGMA wal_autocheckpoint = 1000")

    def settle(self) -> Future[None]:
        """Begin to move what the log holds into the file; writing may go on, and what is read is the same before and after."""

        def move() -> None:
            with self.engine.connect() as connection:
                connection.exec_driver_sql("PRAGMA wal_checkpoint(PASSIVE)")

        return self._aside.submit(move)

    @property
    def name(self) -> str:
        with self.session() as session:
            return session.scalars(select(ReviewRow)).one().name

    # Results

    def sweep(self) -> int:
        """Remove results that never finished arriving and whose process has ended, and its folders; returns how many results."""
        with self.session() as session:
            rows = session.execute(select(ResultRow.id, ResultRow.summary).where(ResultRow.state == "arriving")).all()
        orphans = [i for i, summary in rows if lease.abandoned(self.path.parent / summary.get("arriving in", lease.ARRIVING))]
        for orphan in orphans:
            self.remove_result(orphan)
        lease.sweep(self.path.parent)
        return len(orphans)

    def ready(self, result_id: int, name: str, summary: dict[str, Any], warnings: list[str]) -> None:
        """Show a result that has arrived whole: it is ready and among the review's items in one step."""
        with self.writing() as session:
            steps = session.scalars(select(StepRow).where(StepRow.result_id == result_id).order_by(StepRow.position)).all()
            fields = session.scalars(select(FieldRow).where(FieldRow.result_id == result_id).order_by(FieldRow.id)).all()
            described = {"steps": describe_steps(steps), "fields": describe_fields(fields)}
            summary = {**summary, "sealed": {what: seal.of_description(rows) for what, rows in described.items()}}
            told = {"state": "ready", "summary": summary, "warnings": warnings}
            session.execute(update(ResultRow).where(ResultRow.id == result_id).values(**told))
            self._add(session, "result", {"result": result_id, "name": name}, f"Result '{name}' taken in")

    def remove_result(self, result_id: int) -> None:
        with self.session() as session:
            session.execute(delete(ResultRow).where(ResultRow.id == result_id))
        with self._lock:
            self._sources.pop(result_id, None)
        self._give_back()

    def _give_back(self) -> None:
        """Give the space of what was removed back to the disk, where nobody else is writing just now."""
        with self.database() as database:
            try:
                # A script is run to its end; a single statement without rows is left after its first page.
                database.executescript("PRAGMA incremental_vacuum;")
                database.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchall()
            except sqlite3.OperationalError:
                # It stays free inside the file, for what comes next.
                database.rollback()

    @contextmanager
    def database(self) -> Iterator[sqlite3.Connection]:
        """The SQLite connection beneath, for seeking inside blocks."""
        with known.in_words(self.path):
            raw = self.engine.raw_connection()
            try:
                connection = raw.driver_connection
                assert isinstance(connection, sqlite3.Connection)
                yield connection
            finally:
                raw.close()

    def results(self) -> list[ReviewSource]:
        """All results that are in, oldest first. One that was put away (or whose intake was undone) is not among them."""
        return [self.result(i) for i in self._shown()]

    def _shown(self) -> list[int]:
        ready = select(ResultRow.id).where(ResultRow.state == "ready")
        with self.session() as session:
            there = set(session.scalars(ready))
        return sorted(i.payload["result"] for i in self.items("result") if i.payload["result"] in there)

    def source(self, row: ResultRow) -> ReviewSource:
        """A result as it was taken in and corrected, whether it is shown or not."""
        return ReviewSource(self, row, self.correction(row.id))

    def discard(self, which: str) -> int:
        """Remove a result for good, with what was stated of it, and give its space back; it cannot be undone. Returns the bytes.

        which: its name; also of one that was put away.
        """
        with self.session() as session:
            found = session.scalars(select(ResultRow.id).where(ResultRow.name == which)).all()
        if not found:
            raise NotFound(f"There is no result '{which}' in this review.", "Names are those 'contents' shows.")
        before = self.path.stat().st_size
        with self.writing() as session:
            rows = session.scalars(select(ItemRow)).all()
            gone = [r.id for r in rows if r.payload.get("result") in found and r.kind in ("result", "correction")]
            session.execute(delete(ItemRow).where(ItemRow.id.in_(gone)))
        for result_id in found:
            self.remove_result(result_id)
        return before - self.path.stat().st_size

    def put_away(self, result_id: int) -> None:
        """Take a result out of sight; undo brings it back, nothing is lost."""
        item = next((i for i in self.items("result") if i.payload["result"] == result_id), None)
        if item is None:
            raise NotFound(f"There is no result {result_id} in this review.")
        self.remove(item.id, f"Result '{item.payload['name']}' put away")

    def forget_changes(self) -> None:
        """What was done so far can no longer be undone."""
        with self.session() as session:
            session.execute(delete(ChangeRow))

    def result(self, which: int | str | None = None) -> ReviewSource:
        """A result by id or name; None is the newest."""
        with self.session() as session:
            shown = self._shown()
            query = select(ResultRow).where(ResultRow.id.in_(shown)).order_by(ResultRow.id.desc())
            if isinstance(which, int):
                query = query.where(ResultRow.id == which)
            elif which is not None:
                query = query.where(ResultRow.name == which)
            row = session.scalars(query.limit(1)).first()
            if row is None:
                names = session.scalars(select(ResultRow.name).where(ResultRow.id.in_(shown))).all()
                raise NotFound(
                    f"There is no result '{which}' in this review." if which is not None else "This review holds no result.",
                    f"Results here: {', '.join(names)}." if names else "Take one in first.",
                )
        with self._lock:
            source = self._sources.get(row.id)
            correction = self.correction(row.id)
            if source is None or source.correction != correction:
                before = source
                source = ReviewSource(self, row, correction)
                if before is not None and before.mesh_cache is not None:
                    source.mesh_cache = before.mesh_cache
                    for name in before.correction.get("sets", {}):
                        source.mesh_cache.node_sets.pop(name, None)
                    source.mesh_cache.node_sets.update(source.made_sets)
                self._sources[row.id] = source
            return source

    def correction(self, result_id: int) -> dict[str, Any]:
        """What the analyst has corrected of a result's guesses."""
        found = [i for i in self.items("correction") if i.payload.get("result") == result_id]
        return {"revision": found[-1].revision, **found[-1].payload} if found else {}

    def set_units(self, result_id: int, system: str) -> None:
        """State the unit system of a result; nothing is converted, its numbers are understood anew."""
        if system not in SYSTEMS:
            raise IronstoneError(f"'{system}' is not a unit system.", f"Choose one of: {', '.join(SYSTEMS)}.")
        self._correct(result_id, lambda _: {"system": system}, "Unit system stated")

    def set_kind(self, result_id: int, field: str, kind: str) -> None:
        """State what a field is, in place of what its name was taken for; '' is a kind not known."""
        self.correct_field(result_id, field, {"kind": kind})

    def correct_field(self, result_id: int, field: str, entry: dict[str, Any]) -> None:
        """Correct a field's entry in the dictionary: kind, order, shear, averaged_before, unit. Nothing stored is changed.

        Raises IronstoneError, with what is possible, where an entry cannot be.
        """
        source = self.result(result_id)
        found = source.fields.get(field)
        if found is None or not found.stored:
            raise NotFound(f"There is no field named '{field}' in this result's files.")
        checked: dict[str, Any] = {}
        for name, value in entry.items():
            checked |= source.checked(found, name, value)
        said = ", ".join(f"{name.replace('_', ' ')} {value if value != '' else 'not known'}" for name, value in entry.items())

        def entered(now: dict[str, Any]) -> dict[str, Any]:
            fields = now.get("fields", {})
            return {"fields": with_entry(fields, field, {**fields.get(field, {}), **checked})}

        self._correct(result_id, entered, f"'{field}' stated: {said}")

    def set_constants(self, result_id: int, material: str, young: float | None, poisson: float | None) -> None:
        """State Young's modulus (in the result's stress unit) and Poisson's ratio of a material; None takes them back."""
        names = self.result(result_id).mesh.material_or_part_names
        if material not in names:
            raise NotFound(f"There is no material '{material}' in this result.", f"Here: {', '.join(names)}.")
        constants = None
        if young is not None and poisson is not None:
            if not (np.isfinite(young) and young > 0.0):
                raise IronstoneError("Young's modulus must be a number above zero.", "State it in the result's stress unit.")
            if not -1.0 < poisson < 0.5:
                raise IronstoneError(f"Poisson's ratio cannot be {poisson:g}.", "It lies between -1 and 0.5.")
            constants = {"young": young, "poisson": poisson}
        self._correct(
            result_id,
            lambda now: {"constants": with_entry(now.get("constants"), material, constants)},
            f"Constants of '{material}' {'stated' if young else 'taken back'}",
        )

    def set_model(self, result_id: int, model: str) -> None:
        """State what a planar model stands for: plane stress, plane strain, axisymmetric (x the radius), or '' not known."""
        if model not in MODELS:
            raise IronstoneError(f"'{model}' is not a model.", f"Choose one of: {', '.join(m for m in MODELS if m)}.")
        if model and not self.result(result_id).mesh.planar:
            raise IronstoneError("This model is not planar.", "Only a flat model can be in plane stress, plane strain or turned.")
        self._correct(result_id, lambda _: {"model": model}, f"Model stated: {model or 'not known'}")

    def set_mirror(self, result_id: int, axis: str, at: float) -> None:
        """State that a result is half of a body, mirrored at the plane where 'x', 'y' or 'z' is ``at``; '' takes it back.

        Raises IronstoneError where the plane cuts through the model: a half lies on one side of it.
        """
        source = self.result(result_id)
        if not axis:
            self._correct(result_id, lambda _: {"mirror": None}, "Not a half any more")
            return
        along = source.mesh.points[:, "xyz".index(axis)]
        slack = 1e-6 * max(source.mesh.size, 1e-300)
        if not np.isfinite(at) or (along.min() < at - slack and along.max() > at + slack):
            raise IronstoneError(
                f"The plane {axis} = {at:g} cuts through the model, which runs from {along.min():.6g} to {along.max():.6g} there.",
                "A half lies on one side of its plane: name the coordinate at which it was cut.",
            )
        plane = {"axis": "xyz".index(axis), "at": at}
        self._correct(result_id, lambda _: {"mirror": plane}, f"Half of a body, mirrored at {axis} = {at:g}")

    def make_set(self, result_id: int, name: str, nodes: Int, how: str) -> None:
        """Keep a node set under a name with a result; one made before under that name is replaced, one of the file is not."""
        mesh = self.result(result_id).mesh
        made = dict(self.correction(result_id).get("sets", {}))
        if not name.strip():
            raise IronstoneError("A set needs a name.", "Name it after what it is: support, pin, skin.")
        if name not in made and (name in mesh.node_sets or name in mesh.element_sets):
            raise IronstoneError(f"The file already has a set named '{name}'.", "Choose another name.")
        entry = {"nodes": [int(n) for n in nodes], "how": how}
        label = f"Set '{name}' made of {len(nodes)} nodes: {how}"
        self._correct(result_id, lambda now: {"sets": with_entry(now.get("sets"), name, entry)}, label)

    def remove_set(self, result_id: int, name: str) -> None:
        made = dict(self.correction(result_id).get("sets", {}))
        if name not in made:
            raise NotFound(f"No set named '{name}' was made here.", "Sets of the file stay.")
        self._correct(result_id, lambda now: {"sets": with_entry(now.get("sets"), name, None)}, f"Set '{name}' removed")

    def set_axes(self, result_id: int, axes: Axes) -> None:
        """Keep axes under their name with a result; others of that name are replaced."""
        self.result(result_id)
        entry = {"kind": axes.kind, "origin": list(axes.origin), "matrix": [list(row) for row in axes.matrix]}
        self._correct(result_id, lambda now: {"axes": with_entry(now.get("axes"), axes.name, entry)}, f"Axes '{axes.name}' kept")

    def remove_axes(self, result_id: int, name: str) -> None:
        if name not in self.correction(result_id).get("axes", {}):
            raise NotFound(f"There are no axes named '{name}' with this result.")
        self._correct(result_id, lambda now: {"axes": with_entry(now.get("axes"), name, None)}, f"Axes '{name}' removed")

    def _correct(self, result_id: int, change: Callable[[dict[str, Any]], dict[str, Any]], label: str) -> None:
        """Correct a result by what ``change`` makes of what is stated of it so far: read and written in one transaction."""
        with self.writing() as session:
            rows = session.scalars(select(ItemRow).where(~ItemRow.removed, ItemRow.kind == "correction").order_by(ItemRow.id)).all()
            found = [r for r in rows if r.payload.get("result") == result_id]
            stale.refuse_if_changed(stated(found[-1].payload if found else {}), "What is stated of this result")
            if found:
                self._change(session, found[-1].id, {**found[-1].payload, **change(dict(found[-1].payload))}, label)
            else:
                self._add(session, "correction", {"result": result_id, **change({})}, label)

    # What the analyst makes

    def items(self, kind: str | None = None) -> list[Item]:
        with self.session() as session:
            query = select(ItemRow).where(~ItemRow.removed).order_by(ItemRow.id)
            if kind:
                query = query.where(ItemRow.kind == kind)
            return [Item(r.id, r.kind, r.payload, r.revision) for r in session.scalars(query)]

    def item(self, item_id: int, kind: str | None = None) -> Item:
        with self.session() as session:
            row = self._there(session, item_id, kind)
            return Item(row.id, row.kind, row.payload, row.revision)

    def add(self, kind: str, payload: dict[str, Any], label: str) -> Item:
        with self.writing() as session:
            return self._add(session, kind, payload, label)

    def _add(self, session: Session, kind: str, payload: dict[str, Any], label: str) -> Item:
        row = ItemRow(kind=kind, payload=payload)
        session.add(row)
        session.flush()
        self._record(session, row.id, label, None, payload)
        return Item(row.id, kind, payload, 1)

    def change(self, item_id: int, payload: dict[str, Any], label: str) -> Item:
        with self.writing() as session:
            row = self._there(session, item_id)
            stale.refuse_if_changed(str(row.revision), f"This {row.kind}")
            return self._change(session, item_id, payload, label)

    def _change(self, session: Session, item_id: int, payload: dict[str, Any], label: str) -> Item:
        row = self._there(session, item_id)
        before, row.payload, row.revision = row.payload, payload, row.revision + 1
        self._record(session, item_id, label, before, payload)
        return Item(item_id, row.kind, payload, row.revision)

    def remove(self, item_id: int, label: str) -> None:
        with self.writing() as session:
            row = self._there(session, item_id)
            stale.refuse_if_changed(str(row.revision), f"This {row.kind}")
            row.removed = True
            self._record(session, item_id, label, row.payload, None)

    @staticmethod
    def _there(session: Session, item_id: int, kind: str | None = None) -> ItemRow:
        row = session.get(ItemRow, item_id)
        if row is None or row.removed or (kind and row.kind != kind):
            raise NotFound(f"There is no {kind or 'item'} {item_id} in this review.", "It may have been removed.")
        return row

    def _record(self, session: Session, item: int, label: str, before: Any, after: Any) -> None:
        session.execute(delete(ChangeRow).where(ChangeRow.undone))
        session.add(ChangeRow(item_id=item, label=label, before=before, after=after))

    def undo(self) -> str | None:
        """Take the last change back; returns what it was, None when there is nothing to undo."""
        return self._travel(select(ChangeRow).where(~ChangeRow.undone).order_by(ChangeRow.id.desc()), back=True)

    def redo(self) -> str | None:
        return self._travel(select(ChangeRow).where(ChangeRow.undone).order_by(ChangeRow.id), back=False)

    def next_changes(self) -> tuple[str | None, str | None]:
        """What ``undo`` and ``redo`` would take back or do again."""
        with self.session() as session:
            undo = select(ChangeRow.label).where(~ChangeRow.undone).order_by(ChangeRow.id.desc()).limit(1)
            redo = select(ChangeRow.label).where(ChangeRow.undone).order_by(ChangeRow.id).limit(1)
            return session.scalars(undo).first(), session.scalars(redo).first()

    def _travel(self, query: Any, back: bool) -> str | None:
        with self.writing() as session:
            change = session.scalars(query.limit(1)).first()
            if change is None:
                return None
            row = session.get_one(ItemRow, change.item_id)
            target = change.before if back else change.after
            row.removed = target is None
            if target is not None:
                row.payload = target
            row.revision += 1
            change.undone = back
            label: str = change.label
            return label

    def attach(self, name: str, media_type: str, data: bytes) -> int:
        with self.session() as session:
            row = AttachmentRow(name=name, media_type=media_type, data=data)
            session.add(row)
            session.flush()
            return row.id

    def attachment(self, attachment_id: int) -> tuple[str, str, bytes]:
        """Name, media type and bytes of a kept file."""
        with self.session() as session:
            row = session.get(AttachmentRow, attachment_id)
            if row is None:
                raise NotFound(f"There is no kept file {attachment_id} in this review.")
            return row.name, row.media_type, row.data


def describe_fields(rows: Sequence[FieldRow]) -> list[Any]:
    """What is sealed of the rows of a result's fields."""
    return [
        [r.id, r.name, r.kind, r.rank, r.location, r.components, r.precision, r.guessed, r.averaged_before, r.notes, r.more]
        for r in rows
    ]


def describe_steps(rows: Sequence[StepRow]) -> list[Any]:
    """What is sealed of the rows of a result's steps."""
    return [[r.position, r.kind, r.value, r.loading] for r in rows]


def stated(correction: Mapping[str, Any]) -> str:
    """A mark of what is stated of a result: the same for the same statements, however they came about."""
    return _fingerprint({name: value for name, value in correction.items() if name not in ("revision", "result")})


def _fingerprint(content: object) -> str:
    return hashlib.sha256(json.dumps(content, sort_keys=True, default=str).encode()).hexdigest()[:24]


class ReviewSource:
    """One result of a review as the evaluator sees it (ironstone.core.fields.Source). Arrays are read when asked for."""

    def __init__(self, review: Review, row: ResultRow, correction: dict[str, Any]) -> None:
        self.review = review
        self.id = row.id
        self.name = row.name
        self.created = row.created
        self.files: list[Any] = row.files
        self._stored_summary: dict[str, Any] = row.summary
        self.warnings: list[str] = list(row.warnings)
        self.correction = correction
        self.system: UnitSystem = SYSTEMS[correction.get("system", row.system)]
        self.system_guessed = row.system_guessed and "system" not in correction
        self._part_names = tuple(row.part_names)
        self._cache: OrderedDict[tuple[str, int], NDArray[np.generic]] = OrderedDict()
        self._lock = threading.RLock()
        self.mesh_cache: Mesh | None = None

    @cached_property
    def identity(self) -> str:
        """Which intake of which files this is: results of two reviews may have one number, never this."""
        return _fingerprint([self.id, str(self.created), self.files])

    @cached_property
    def revision(self) -> str:
        """What every answer depends on beside the reading: the intake, and what was stated of it since.

        Told by what was stated, not by how often: after an undo something else may be stated as often.
        """
        return _fingerprint([self.identity, self.stated])

    @property
    def stated(self) -> str:
        """The state of what was stated of this result, as a change to it expects it."""
        return stated(self.correction)

    @cached_property
    def _field_rows(self) -> dict[str, FieldRow]:
        with self.review.session() as session:
            rows = session.scalars(select(FieldRow).where(FieldRow.result_id == self.id).order_by(FieldRow.id)).all()
        self._still("fields", describe_fields(rows))
        return {r.name: r for r in rows}

    def _still(self, what: str, described: list[Any]) -> None:
        """Raise Damaged where the rows that describe this result are not those it was taken in with."""
        sealed = self._stored_summary.get("sealed", {}).get(what)
        if sealed is not None and sealed != seal.of_description(described):
            raise arrays.Damaged(
                f"The list of {what} of {self.name} is damaged on the disk.",
                f"The other results can be read. To get it back, {arrays.way_back(self.files)}",
            )

    @property
    def stored_fields(self) -> list[str]:
        """Names of the fields that were taken in."""
        return list(self._field_rows)

    def stored_field(self, name: str) -> FieldRow | None:
        """A field's row as it was taken in; None for one that is recovered here."""
        return self._field_rows.get(name)

    @cached_property
    def summary(self) -> dict[str, Any]:
        """What was gathered over the steps; gathered anew where a corrected kind changes what there is to gather."""
        stated = {n: e["kind"] for n, e in self.correction.get("fields", {}).items() if "kind" in e}
        watched = ("displacement", "reaction", "plastic strain", "yielded share")
        changed = any(
            kind != self._field_rows[n].kind and {kind, self._field_rows[n].kind} & set(watched) for n, kind in stated.items()
        )
        if not changed:
            return self._stored_summary
        watch = Watch(self.mesh)
        for step in range(len(self.steps)):
            for f in self.fields.values():
                if f.kind in watched and f.stored:
                    watch.look(step, f.name, f.kind, f.location, f.precision, self.values(f.name, step))
        return {**self._stored_summary, **watch.summary(), "gaps": self._stored_summary.get("gaps", {})}

    @property
    def made_sets(self) -> dict[str, Int]:
        """Node sets the analyst made."""
        return {n: np.array(e["nodes"], dtype=np.int64) for n, e in self.correction.get("sets", {}).items()}

    @cached_property
    def setup(self) -> Setup:
        """Axes, material constants and model as the analyst stated them."""
        axes = {
            name: Axes(name, a["kind"], tuple(a["origin"]), tuple(tuple(r) for r in a["matrix"]))
            for name, a in self.correction.get("axes", {}).items()
        }
        constants = {n: Constants(c["young"], c["poisson"]) for n, c in self.correction.get("constants", {}).items()}
        stated = self.correction.get("fields", {})
        orientation = (n for n, r in self._field_rows.items() if stated.get(n, {}).get("kind", r.kind) == "orientation")
        half = self.correction.get("mirror")
        mirror = Mirror(half["axis"], half["at"]) if half else None
        return Setup(axes, constants, self.correction.get("model", ""), next(orientation, ""), mirror)

    @cached_property
    def fields(self) -> Mapping[str, Field]:
        declared = {r.name: self._field(r) for r in self._field_rows.values()}
        bars_alone = bool((self.mesh.dimensions < 2).all())
        recovered = offered(declared, bool(self.setup.constants), self.system.stress, self.system.force, self.steps, bars_alone)
        named = {f.name: f for f in partitions(self.mesh) if f.name not in declared}
        return declared | {f.name: f for f in recovered} | named

    def _field(self, r: FieldRow) -> Field:
        stated = self.correction.get("fields", {}).get(r.name, {})
        kind = stated.get("kind", r.kind)
        more = r.more or {}
        notes = [n for n in r.notes if not ("order" in stated and "assumed" in n) and not ("shear" in stated and "shear" in n)]
        if "order" in stated:
            notes.append(f"order {', '.join(stated['order'])} in the file, as stated")
        if r.rank == "tensor" and "shear" in stated:
            notes.append(f"{stated['shear']} shear in the file, as stated")
        if more.get("flat"):
            notes.append(self._flat_note(kind))
        return Field(
            name=r.name,
            kind=kind,
            rank=r.rank,
            location=stated.get("location", r.location),
            components=tuple(r.components),
            unit=stated.get("unit", self.system.unit_of(kind)),
            precision=r.precision,
            guessed=r.guessed and "kind" not in stated,
            unit_guessed=self.system_guessed and "unit" not in stated,
            notes=tuple(notes),
            averaged_before=stated.get("averaged_before", r.averaged_before),
            points=more.get("points", 0),
            names=more.get("names", False) and not kind,
            flat=more.get("flat", False),
        )

    def _flat_note(self, kind: str) -> str:
        model = self.setup.model
        if model in ("plane stress", "plane strain"):
            return f"the third direction follows from {model}, elastic"
        return "the third direction is not in the file: state the model (plane stress, plane strain)"

    def checked(self, found: Field, name: str, value: Any) -> dict[str, Any]:
        """One corrected entry of the field dictionary, with what else follows from it."""
        if name == "kind":
            possible = KINDS_OF_RANK[found.rank]
            if value and value not in possible:
                raise IronstoneError(f"A {found.rank} field cannot be a {value}.", f"It can be: {', '.join(possible)}.")
            return {"kind": value} | self._taken_at_nodes(found, value)
        if name == "averaged_before":
            if found.location != "node":
                raise IronstoneError(f"'{found.name}' is not at nodes.", "Only node values can have been averaged before import.")
            return {name: bool(value)}
        if name == "unit":
            if not known_unit(value):
                raise IronstoneError(f"The unit '{value}' is not known.", "Write it like kN, mm, MPa, s or in.")
            return {name: value}
        if found.rank != "tensor":
            raise IronstoneError(f"'{found.name}' is a {found.rank} field.", "Order and shear are stated of tensors.")
        if name == "shear":
            if value not in ("tensor", "engineering"):
                raise IronstoneError(f"'{value}' is not a shear convention.", "Choose tensor or engineering.")
            return {name: value}
        if name == "order":
            if sorted(value) != sorted(OURS) or (self._field_rows[found.name].more or {}).get("settled") or found.flat:
                raise IronstoneError(
                    f"The order {', '.join(value)} cannot be that of '{found.name}'.",
                    "State all six components once, of a field whose file names none.",
                )
            return {name: list(value)}
        raise IronstoneError(f"'{name}' cannot be stated of a field.", "State kind, order, shear, averaged_before or unit.")

    def _taken_at_nodes(self, found: Field, kind: str) -> dict[str, Any]:
        """A field kept at corners whose kind has one value at a node by nature moves there, where its copies agree."""
        stored = self._field_rows[found.name]
        if stored.location != "corner":
            return {}
        if not single_valued(kind):
            return {"location": "corner"}
        mesh, reach, apart = self.mesh, 0.0, 0.0
        for step in range(len(self.steps)):
            values = np.nan_to_num(np.asarray(self._stored(found.name, step), dtype=np.float64))
            reach = max(reach, float(np.abs(values).max(initial=0.0)))
            apart = max(apart, float(np.abs(values - values[mesh.first_corner][mesh.connectivity]).max(initial=0.0)))
        agree = apart <= TOLERANCE[found.precision] * 10 * max(reach, 1e-300)
        return {"location": "node" if agree else "corner"}

    @cached_property
    def steps(self) -> Sequence[Step]:
        with self.review.session() as session:
            rows = session.scalars(select(StepRow).where(StepRow.result_id == self.id).order_by(StepRow.position)).all()
        self._still("steps", describe_steps(rows))
        unit = {"time": self.system.time, "frequency": "Hz", "mode": "Hz"}
        return tuple(Step(r.position, r.kind, r.value, unit.get(r.kind, ""), r.loading) for r in rows)

    @cached_property
    def _arrays(self) -> dict[tuple[int, int], tuple[ArrayRow, list[int]]]:
        """Array and block ids of every field (by its id) and step."""
        with self.review.session() as session:
            rows = session.scalars(select(ArrayRow).where(ArrayRow.result_id == self.id, ArrayRow.role == "field")).all()
            blocks = session.execute(
                select(BlockRow.array_id, BlockRow.id)
                .join(ArrayRow, ArrayRow.id == BlockRow.array_id)
                .where(ArrayRow.result_id == self.id, ArrayRow.role == "field")
                .order_by(BlockRow.array_id, BlockRow.position)
            ).all()
        ids: dict[int, list[int]] = {}
        for array_id, block_id in blocks:
            ids.setdefault(array_id, []).append(block_id)
        return {(r.field_id or 0, r.step or 0): (r, ids.get(r.id, [])) for r in rows}

    @property
    def mesh(self) -> Mesh:
        with self._lock:
            if self.mesh_cache is None:
                self.mesh_cache = self._read_mesh()
            return self.mesh_cache

    def _read_mesh(self) -> Mesh:
        with self.review.session() as session:
            rows = session.scalars(select(ArrayRow).where(ArrayRow.result_id == self.id, ArrayRow.role != "field")).all()
            connection, found = session.connection(), {}
            for r in rows:
                try:
                    found[r.role] = arrays.read(connection, r)
                except arrays.Damaged as error:
                    # Without a set the rest of the mesh is what it is; without its points it is not.
                    if " set " not in r.role:
                        raise
                    self.warnings.append(str(error))
        flat = {role: values[:, 0] for role, values in found.items() if role != "points"}
        sets: dict[str, dict[str, Int]] = {"node": {}, "element": {}}
        for role, values in flat.items():
            kind, _, name = role.partition(" set ")
            if name:
                sets[kind][name] = values.astype(np.int64, copy=False)
        sets["node"].update(self.made_sets)
        return Mesh(
            points=found["points"].astype(np.float64, copy=False),
            types=flat["types"].astype(np.uint8, copy=False),
            offsets=flat["offsets"].astype(np.int64, copy=False),
            connectivity=flat["connectivity"].astype(np.int64, copy=False),
            node_ids=flat["node ids"].astype(np.int64, copy=False),
            element_ids=flat["element ids"].astype(np.int64, copy=False),
            part=flat["part"].astype(np.int32, copy=False),
            part_names=self._part_names,
            node_sets=sets["node"],
            element_sets=sets["element"],
            material=flat["material"].astype(np.int32, copy=False) if "material" in flat else None,
            material_names=tuple(self._stored_summary.get("material names", ())),
            breaks=flat["breaks"].astype(np.int32, copy=False) if "breaks" in flat else None,
        )

    def _array(self, field: str, step: int) -> tuple[ArrayRow, list[int]] | None:
        return self._arrays.get((self._field_rows[field].id, step))

    def _entities(self, field: str) -> int:
        location = self._field_rows[field].location
        mesh = self.mesh
        return {"node": len(mesh.points), "corner": len(mesh.connectivity)}.get(location, len(mesh.types))

    def _width(self, field: str) -> int:
        row = self._field_rows[field]
        return len(row.components) * max(int((row.more or {}).get("points", 0)), 1)

    def _stored(self, field: str, step: int) -> NDArray[np.floating]:
        """A field's array as it was taken in."""
        found = self._array(field, step)
        if found is None:
            return np.full((self._entities(field), self._width(field)), np.nan)
        with known.in_words(self.review.path), self.review.engine.connect() as connection:
            return arrays.read(connection, found[0])  # type: ignore[return-value]

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        with self._lock:
            if (field, step) in self._cache:
                self._cache.move_to_end((field, step))
                return self._cache[field, step]  # type: ignore[return-value]
        described = self.fields[field]
        if described.labels:
            return partition_values(self.mesh, field)
        if described.recovered:
            values: NDArray[np.floating] = recovered_values(self, field, step)
        else:
            stored = self._stored(field, step)
            if described.location == "node" and self._field_rows[field].location == "corner":
                stored = stored[self.mesh.first_corner]
            values = self._understood(described, stored, None)
        with self._lock:
            self._cache[field, step] = values
            while len(self._cache) > CACHED_ARRAYS:
                self._cache.popitem(last=False)
        return values

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        with self._lock:
            cached = self._cache.get((field, step))
        if cached is not None:
            return cached[entities]  # type: ignore[return-value]
        described = self.fields[field]
        if described.labels:
            return partition_values(self.mesh, field)[entities]
        if described.recovered:
            return recovered_rows(self, field, step, entities)
        found = self._array(field, step)
        if found is None:
            return np.full((len(entities), self._width(field)), np.nan)
        moved = described.location == "node" and self._field_rows[field].location == "corner"
        with self.review.database() as database:
            stored = self._seek(database, found, self.mesh.first_corner[entities] if moved else entities)
        return self._understood(described, stored, entities)  # type: ignore[arg-type]

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        """A few entities at many steps through one connection, without reading any step as a whole."""
        described = self.fields[field]
        moved = described.stored and described.location == "node" and self._field_rows[field].location == "corner"
        if not described.stored or moved:
            return np.stack([self.rows(field, int(step), entities) for step in steps])
        result = np.full((len(steps), len(entities), self._width(field)), np.nan)
        with self.review.database() as database:
            for i, step in enumerate(steps.tolist()):
                found = self._array(field, step)
                if found is not None:
                    result[i] = self._seek(database, found, entities)
        flat = self._understood(described, result.reshape(-1, result.shape[2]), np.tile(entities, len(steps)))
        return flat.reshape(result.shape)

    def _seek(self, database: sqlite3.Connection, found: tuple[ArrayRow, list[int]], entities: Int) -> NDArray[np.generic]:
        rows = arrays.read_rows(database, *found, entities)
        if rows is None:
            with self.review.engine.connect() as connection:
                raise arrays.damaged(connection, found[0])
        return rows

    def _understood(self, described: Field, stored: NDArray[np.floating], entities: Int | None) -> NDArray[np.floating]:
        """Stored numbers as the field dictionary says they are meant: order, shear, the third direction."""
        if described.rank != "tensor":
            return stored
        stated = self.correction.get("fields", {}).get(described.name, {})
        more = self._field_rows[described.name].more or {}
        engineering = stated.get("shear", "engineering" if more.get("engineering") else "tensor") == "engineering"
        engineering &= "strain" in described.kind
        order = stated.get("order")
        if not engineering and order is None and not described.flat:
            return stored
        table = np.array(stored).reshape(len(stored), -1, 6)
        if order is not None:
            table = table[:, :, [order.index(name) for name in OURS]]
        if engineering:
            table[:, :, 3:] /= 2.0
        if described.flat:
            poisson = self._poisson(described, entities)
            filled = third_direction(table.reshape(-1, 6), described.kind, self.setup.model, np.repeat(poisson, table.shape[1]))
            table = filled.reshape(table.shape)
        return table.reshape(len(stored), -1)

    def _poisson(self, described: Field, entities: Int | None) -> NDArray[np.float64]:
        """Poisson's ratio at the places of a field: of a node, that of the last element there."""
        mesh = self.mesh
        of_element = constants_of(mesh, self.setup)[1]
        if described.location == "node":
            table = np.full(len(mesh.points), np.nan)
            table[mesh.connectivity] = of_element[mesh.corner_element]
        elif described.location == "corner":
            table = of_element[mesh.corner_element]
        else:
            table = of_element
        return table if entities is None else table[entities]

    def read(self, field: str, measure: str = "", at: str = "corners", **words: Any) -> Values:
        """Ask a reading of this result: ``read("stress", "von-mises", at="node:8", averaging="part", step=-1)``.

        at: 'corners' (every corner), 'nodes', 'elements', or a place such as 'node:8' (see ``core.where``). words: those of a
        Reading; a step below zero counts from the last. Returns answers with ``values``, ``unit``, ``quantity`` and ``caveats``.
        """
        step = int(words.pop("step", 0))
        reading = Reading(field, measure, step=step + len(self.steps) if step < 0 else step, **words)
        mesh = self.mesh
        if at == "corners":
            return evaluate(reading, self, AtCorners())
        if at == "nodes":
            return evaluate(reading, self, AtNodes(np.arange(len(mesh.points))))
        if at == "elements":
            return evaluate(reading, self, AtElements(np.arange(len(mesh.types))))
        return evaluate(reading, self, place_of(parse(at), reading, self))


def write_mesh(connection: Connection, result_id: int, mesh: Mesh) -> None:
    """Store a mesh under its result. The caller commits."""
    plain: dict[str, NDArray[Any]] = {
        "points": mesh.points,
        "types": mesh.types,
        "offsets": mesh.offsets,
        "connectivity": mesh.connectivity,
        "node ids": mesh.node_ids,
        "element ids": mesh.element_ids,
        "part": mesh.part,
    }
    if mesh.material is not None:
        plain["material"] = mesh.material
    if mesh.breaks is not None:
        plain["breaks"] = mesh.breaks
    plain |= {f"node set {name}": members for name, members in mesh.node_sets.items()}
    plain |= {f"element set {name}": members for name, members in mesh.element_sets.items()}
    for role, values in plain.items():
        arrays.write(connection, result_id, role, values)
