"""A review as one object: ``Review.open(path)``, its results, and what the analyst made of them."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, delete, event, insert, select, update
from sqlalchemy.pool import QueuePool

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.mesh.mesh import Mesh
from ironstone.store import known, lease, log_of, seal
from ironstone.store.arrays import Damaged, arrays_held, way_back
from ironstone.store.held import Held
from ironstone.store.items import Item
from ironstone.store.layout import bring_up, laid_out, layouts
from ironstone.store.loads import Loads, loads_in
from ironstone.store.models import (
    ChangeRow,
    FieldRow,
    ItemRow,
    ResultRow,
    ReviewRow,
    StepRow,
    seal_result,
)
from ironstone.store.naming import Naming
from ironstone.store.sent import check_sent
from ironstone.store.settling import is_open
from ironstone.store.source import ReviewSource
from ironstone.store.stated import stated
from ironstone.store.statements import Statements
from ironstone.store.step_rows import describe_fields, describe_steps
from ironstone.store.transactions import Transactions, in_one


class Review(Transactions, Statements):
    """One open review file. Safe to use from several threads; closed by ``close`` or a with statement."""

    def __init__(self, path: Path, engine: Engine) -> None:
        super().__init__(path, engine)
        self._sources: dict[int, ReviewSource] = {}
        self._arriving: dict[int, ReviewSource] = {}
        self._lock = threading.RLock()
        self.naming, self.loads = Naming(self), Loads(self)
        # What was noticed of the file when it was opened, in words.
        self.notices: list[str] = []

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
        if not (ours := is_open(path)):
            check_sent(path)
            known.check(path, set(layouts()))
        if not known.writable(path):
            return cls._for_reading(path)
        noticed = "" if ours else log_of.set_aside_foreign(path)
        review = cls._connect(path, path.stem)
        review.notices += [noticed] if noticed else []
        # On a full disk what is left over stays, out of sight; the rest can be read.
        with suppress(IronstoneError):
            review.sweep()
        return review

    @classmethod
    def _for_reading(cls, path: Path) -> Review:
        """A review that cannot be written to. Raises IronstoneError where an older layout would have to be brought up first."""
        address = log_of.readable_at(path)
        engine = create_engine(
            "sqlite://", creator=lambda: sqlite3.connect(address, uri=True, check_same_thread=False), poolclass=QueuePool
        )
        with known.in_words(path), engine.connect() as connection:
            made = laid_out(connection)
        if made != layouts()[-1]:
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
            for pragma in (*shape, "journal_mode = WAL", "synchronous = NORMAL", "foreign_keys = ON", "mmap_size = 33554432"):
                connection.execute(f"PRAGMA {pragma}")

        try:
            with known.in_words(path):
                with engine.begin() as connection:
                    bring_up(connection)
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
        self.loads.end()
        self.naming.end()
        self._aside.shutdown()
        self._settling.end()
        with self._lock:
            self._sources.clear()
            self._arriving.clear()

    @property
    def name(self) -> str:
        """What the review is called: as the analyst named it, else as it was made."""
        given = self.items("title")
        if given:
            return str(given[-1].payload["name"])
        with self.session() as session:
            return session.scalars(select(ReviewRow)).one().name

    @in_one
    def rename(self, name: str) -> None:
        """Call the review something else; its file keeps its name."""
        name = name.strip()
        if not name:
            raise IronstoneError("A review needs a name.", "Name it after its question.")
        given = self.items("title")
        if given:
            self.change(given[-1].id, {"name": name}, f"Review named '{name}'")
        else:
            self.add("title", {"name": name}, f"Review named '{name}'")

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
        """Show a result that has arrived whole: it is ready and among the review's items in one step. A run of steps of another
        result is no item of its own."""
        with self.writing() as session:
            steps = session.scalars(select(StepRow).where(StepRow.result_id == result_id).order_by(StepRow.position)).all()
            fields = session.scalars(select(FieldRow).where(FieldRow.result_id == result_id).order_by(FieldRow.id)).all()
            described = {"steps": describe_steps(steps), "fields": describe_fields(fields)}
            summary = {
                **summary,
                "arrays": arrays_held(session, result_id),
                "sealed": {what: seal.of_description(rows) for what, rows in described.items()},
            }
            answer = {"state": "ready", "summary": summary, "warnings": warnings, "files": files}
            session.execute(update(ResultRow).where(ResultRow.id == result_id).values(**answer))
            row = session.get_one(ResultRow, result_id, populate_existing=True)
            seal_result(row)
            if row.run_of is not None:
                return
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
                self._sources[result_id] = ReviewSource(
                    self, row, self.correction(result_id), mesh=source.mesh_cache, name=self._shown().get(result_id, "")
                )

    def remove_result(self, result_id: int) -> None:
        with self.session() as session:
            session.execute(delete(ResultRow).where(ResultRow.id == result_id))
        with self._lock:
            self._sources.pop(result_id, None)
            self._arriving.pop(result_id, None)
        self.give_back()

    def give_back(self) -> None:
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
        found = []
        for number in self._shown():
            with suppress(Damaged):  # it is named among what is damaged
                found.append(self.result(number))
        return found

    def _shown(self) -> dict[int, str]:
        """The results that are in, by number, with what they are called; oldest first."""
        ready = select(ResultRow.id).where(ResultRow.state == "ready")
        with self.session() as session:
            there = set(session.scalars(ready))
        found = [(i.payload["result"], i.payload["name"]) for i in self.items("result") if i.payload["result"] in there]
        return dict(sorted(found))

    def run(self, row_id: int, of: ReviewSource) -> ReviewSource:
        """The steps of a result that are on another mesh: what is stated of the result holds for them."""
        with self.session() as session:
            row = session.get_one(ResultRow, row_id)
        if not row.whole:
            raise Damaged(f"What the review says of {row.name} is damaged on the disk.", f"To get it back, {way_back(row.files)}")
        found = ReviewSource(self, row, of.correction, name=of.name, whole=of)
        assert found.runs is not None
        # The way back to the steps one came from.
        found.runs.sources.setdefault(found.runs.rows.index(of.row_id), of)
        return found

    def source(self, row: ResultRow) -> ReviewSource:
        """A result as it was taken in and corrected, whether it is shown or not."""
        return ReviewSource(self, row, self.correction(row.id))

    def discard(self, which: str) -> int:
        """Remove a result for good, with what was stated of it, and give its space back; it cannot be undone. Returns the bytes.

        which: its name; also of one that was removed and could still be brought back.
        """
        with self.session() as session:
            called = [
                int(r.payload["result"])
                for r in session.scalars(select(ItemRow).where(ItemRow.kind == "result"))
                if r.whole and r.payload.get("name") == which
            ]
            found = called or list(session.scalars(select(ResultRow.id).where(ResultRow.name == which)))
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

    @in_one
    def put_away(self, result_id: int) -> None:
        """Take a result out of sight; undo brings it back, nothing is lost."""
        item = self._item_of(result_id)
        self.remove(item.id, f"Result '{item.payload['name']}' removed")

    @in_one
    def rename_result(self, result_id: int, name: str) -> None:
        """Call a result something else. Raises IronstoneError where another one is called so already."""
        name = name.strip()
        item = self._item_of(result_id)
        if not name:
            raise IronstoneError("A result needs a name.", "Name it after what it is: a mesh, a revision, a load.")
        if any(other == name and number != result_id for number, other in self._shown().items()):
            raise IronstoneError(f"There is another result called '{name}'.", "Choose another name.")
        self.change(item.id, {**item.payload, "name": name}, f"Result '{item.payload['name']}' renamed '{name}'")

    def _item_of(self, result_id: int) -> Item:
        item = next((i for i in self.items("result") if i.payload["result"] == result_id), None)
        if item is None:
            raise NotFound(f"There is no result {result_id} in this review.", "It may have been removed: see what was removed.")
        return item

    def forget_source(self, *numbers: int) -> None:
        """What is held of some results in memory is of what they were."""
        with self._lock:
            for number in numbers:
                self._sources.pop(number, None)
                self._arriving.pop(number, None)

    def forget_changes(self) -> None:
        """What was done so far can no longer be undone."""
        with self.session() as session:
            session.execute(delete(ChangeRow))

    def result(self, which: int | str | None = None) -> ReviewSource:
        """A result by id or name; None is the newest."""
        with self._lock:
            if isinstance(which, int) and which in self._arriving:
                return self._arriving[which]
        shown = self._shown()
        number = next((i for i in reversed(shown) if which is None or which in (i, shown[i])), None)
        if number is None:
            raise NotFound(
                f"There is no result '{which}' in this review." if which is not None else "This review holds no result.",
                f"Results here: {', '.join(shown.values())}." if shown else "Take one in first.",
            )
        with self.session() as session:
            row = session.get_one(ResultRow, number)
        if not row.whole:
            raise Damaged(
                f"What the review says of {shown[number]} is damaged on the disk.",
                f"The other results can be read. To get it back, {way_back(row.files)}",
            )
        with self._lock:
            source = self._sources.get(row.id)
            correction = self.correction(row.id)
            beside = self._beside(correction, shown)
            now = (correction, shown[number], beside, row.created, loads_in(row.summary))
            loads = None if source is None else loads_in(source.stored_summary)
            if source is None or (source.correction, source.name, source.beside, source.created, loads) != now:
                # One that was read again has another mesh, for all that is known.
                before = source if source is not None and source.created == row.created else None
                source = ReviewSource(self, row, correction, name=shown[number], beside=beside)
                mesh = before.mesh_cache if before is not None and before.roles == source.roles else None
                # Sets that were found meanwhile by another program are not in the mesh that is held here.
                if before is not None and mesh is not None and mesh.node_sets.keys() >= row.summary.get("found sets", {}).keys():
                    source.mesh_cache = mesh
                    for name in before.correction.get("sets", {}):
                        mesh.node_sets.pop(name, None)
                    mesh.node_sets.update(source.made_sets)
                self._sources[row.id] = source
            source.files = row.files
            return source

    def _beside(self, correction: dict[str, Any], shown: dict[int, str]) -> tuple[str, ...]:
        """What is stated of the other results whose steps are part of a result's combinations."""
        others = {t[2] for made in correction.get("combinations", {}).values() for t in made["terms"] if t[2]}
        return tuple(f"{n} {shown.get(int(n))} {stated(self.correction(int(n)))}" for n in sorted(others))

    def correction(self, result_id: int) -> dict[str, Any]:
        """What the analyst has corrected of a result's guesses."""
        found = [i for i in self.items("correction") if i.payload.get("result") == result_id]
        return {"revision": found[-1].revision, **found[-1].payload} if found else {}

    # What the analyst makes
