"""A review as one object: ``Review.open(path)``, its results, and what the analyst made of them."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine, create_engine, delete, event, insert, select, update
from sqlalchemy.orm import Session
from sqlalchemy.pool import QueuePool

from ironstone.core.axes import Axes
from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.fields import MODELS
from ironstone.core.mesh import Int, Mesh
from ironstone.core.units import SYSTEMS
from ironstone.store import known, lease, seal, stale
from ironstone.store.held import Held
from ironstone.store.models import (
    AttachmentRow,
    ChangeRow,
    FieldRow,
    ItemRow,
    ResultRow,
    ReviewRow,
    StepRow,
)
from ironstone.store.source import ReviewSource, describe_fields, describe_steps, stated


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
        self._arriving: dict[int, ReviewSource] = {}
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
        # On a full disk what is left over stays, out of sight; the rest can be read.
        with suppress(IronstoneError):
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
        with self._lock:
            self._sources.clear()
            self._arriving.clear()

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

    def ready(self, result_id: int, name: str, summary: dict[str, Any], warnings: list[str], files: list[dict[str, Any]]) -> None:
        """Show a result that has arrived whole: it is ready and among the review's items in one step."""
        with self.writing() as session:
            steps = session.scalars(select(StepRow).where(StepRow.result_id == result_id).order_by(StepRow.position)).all()
            fields = session.scalars(select(FieldRow).where(FieldRow.result_id == result_id).order_by(FieldRow.id)).all()
            described = {"steps": describe_steps(steps), "fields": describe_fields(fields)}
            summary = {**summary, "sealed": {what: seal.of_description(rows) for what, rows in described.items()}}
            told = {"state": "ready", "summary": summary, "warnings": warnings, "files": files}
            session.execute(update(ResultRow).where(ResultRow.id == result_id).values(**told))
            self._add(session, "result", {"result": result_id, "name": name}, f"Result '{name}' taken in")
        self._has_arrived(result_id)

    def show_arriving(self, result_id: int, held: Held, mesh: Mesh) -> None:
        """Let a result be looked at while it is being stored; nothing can be stated of it or kept yet."""
        with self.session() as session:
            row = session.get_one(ResultRow, result_id)
        source = ReviewSource(self, row, {}, held, mesh)
        with self._lock:
            self._arriving[result_id] = source

    def arriving(self) -> list[ReviewSource]:
        """Results that can be looked at and are not stored yet."""
        with self._lock:
            return list(self._arriving.values())

    def _has_arrived(self, result_id: int) -> None:
        with self._lock:
            source = self._arriving.pop(result_id, None)
        if source is not None and source.mesh_cache is not None:
            with self.session() as session:
                row = session.get_one(ResultRow, result_id)
            # The mesh stays the one that is drawn already.
            with self._lock:
                self._sources[result_id] = ReviewSource(self, row, self.correction(result_id), mesh=source.mesh_cache)

    def remove_result(self, result_id: int) -> None:
        with self.session() as session:
            session.execute(delete(ResultRow).where(ResultRow.id == result_id))
        with self._lock:
            self._sources.pop(result_id, None)
            self._arriving.pop(result_id, None)
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
        """All results that are in, oldest first. One that was removed (or whose intake was undone) is not among them."""
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

        which: its name; also of one that was removed and could still be brought back.
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
        self.remove(item.id, f"Result '{item.payload['name']}' removed")

    def forget_changes(self) -> None:
        """What was done so far can no longer be undone."""
        with self.session() as session:
            session.execute(delete(ChangeRow))

    def result(self, which: int | str | None = None) -> ReviewSource:
        """A result by id or name; None is the newest."""
        with self._lock:
            if isinstance(which, int) and which in self._arriving:
                return self._arriving[which]
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
            raise IronstoneError(
                "This model is not planar.", "Only a flat model can be in plane stress, plane strain or axisymmetric."
            )
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
        if kind != "result" and payload.get("result") in self._arriving:
            raise IronstoneError(
                "This result is still being stored: nothing can be kept with it yet.", "It can in a moment, once it is stored."
            )
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
