"""A review as one object: ``Review.open(path)``, its results, and what the analyst made of them."""

from __future__ import annotations

import sqlite3
import threading
from collections import OrderedDict
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
from alembic import command
from alembic.config import Config
from numpy.typing import NDArray
from sqlalchemy import Connection, Engine, create_engine, delete, event, insert, select, update
from sqlalchemy.orm import Session

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.fields import Field, Step
from ironstone.core.mesh import Int, Mesh
from ironstone.core.units import SYSTEMS, UnitSystem
from ironstone.core.weld import KINDS_OF_RANK
from ironstone.store import arrays
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

CACHED_ARRAYS = 6


@dataclass(frozen=True)
class Item:
    """Something the analyst made: a flag, a test record, accept limits, an exhibit, a correction of a result."""

    id: int
    kind: str
    payload: dict[str, Any]
    revision: int


class Review:
    """One open review file. Safe to use from several threads; closed by ``close`` or a with statement."""

    def __init__(self, path: Path, engine: Engine) -> None:
        self.path = path
        self.engine = engine
        self._sources: dict[int, ReviewSource] = {}
        self._lock = threading.RLock()

    @classmethod
    def create(cls, path: Path, name: str = "") -> Review:
        if path.exists():
            raise IronstoneError(f"{path.name} is there already.", "Open it, or choose another name.")
        path.parent.mkdir(parents=True, exist_ok=True)
        return cls._connect(path, name or path.stem.replace("_", " "))

    @classmethod
    def open(cls, path: Path) -> Review:
        """Open a review; what was still arriving when it was last closed is swept away."""
        if not path.is_file():
            raise NotFound(f"There is no review {path.name}.", "Check the name, or make one with 'intake'.")
        with path.open("rb") as stream:
            head = stream.read(16)
        if head and head != b"SQLite format 3\x00":
            raise IronstoneError(f"{path.name} is not a review.", "A review is a file made by this program.")
        review = cls._connect(path, path.stem)
        review.sweep()
        return review

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

        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        try:
            with engine.begin() as connection:
                config.attributes["connection"] = connection
                command.upgrade(config, "head")
            with engine.begin() as connection:
                if connection.execute(select(ReviewRow.id)).first() is None:
                    connection.execute(insert(ReviewRow).values(name=name))
        except Exception as error:
            engine.dispose()
            raise IronstoneError(f"{path.name} could not be opened as a review: {error}") from error
        return cls(path, engine)

    def __enter__(self) -> Review:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        self.engine.dispose()

    @contextmanager
    def session(self) -> Iterator[Session]:
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    @property
    def name(self) -> str:
        with self.session() as session:
            return session.scalars(select(ReviewRow)).one().name

    # Results

    def sweep(self) -> int:
        """Remove results that never finished arriving; returns how many there were."""
        with self.session() as session:
            orphans = session.scalars(select(ResultRow.id).where(ResultRow.state == "arriving")).all()
        for orphan in orphans:
            self.remove_result(orphan)
        return len(orphans)

    def remove_result(self, result_id: int) -> None:
        with self.session() as session:
            session.execute(delete(ResultRow).where(ResultRow.id == result_id))
        with self._lock:
            self._sources.pop(result_id, None)

    def results(self) -> list[ReviewSource]:
        """All results that are in, oldest first. One that was put away (or whose intake was undone) is not among them."""
        return [self.result(i) for i in self._shown()]

    def _shown(self) -> list[int]:
        ready = select(ResultRow.id).where(ResultRow.state == "ready")
        with self.session() as session:
            there = set(session.scalars(ready))
        return sorted(i.payload["result"] for i in self.items("result") if i.payload["result"] in there)

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
                kept = source.mesh_cache if source else None
                source = ReviewSource(self, row, correction)
                if kept is not None:
                    source.mesh_cache = kept
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
        self._correct(result_id, {"system": system}, "Unit system stated")

    def set_kind(self, result_id: int, field: str, kind: str) -> None:
        """State what a field is, in place of what its name was taken for; '' is a kind not known."""
        found = self.result(result_id).fields.get(field)
        if found is None:
            raise NotFound(f"There is no field named '{field}' in this result.")
        possible = KINDS_OF_RANK[found.rank]
        if kind and kind not in possible:
            raise IronstoneError(f"A {found.rank} field cannot be a {kind}.", f"It can be: {', '.join(possible)}.")
        kinds = {**self.correction(result_id).get("kinds", {}), field: kind}
        self._correct(result_id, {"kinds": kinds}, f"'{field}' stated to be {kind or 'of no known kind'}")

    def _correct(self, result_id: int, change: dict[str, Any], label: str) -> None:
        found = [i for i in self.items("correction") if i.payload.get("result") == result_id]
        if found:
            self.change(found[-1].id, {**found[-1].payload, **change}, label)
        else:
            self.add("correction", {"result": result_id, **change}, label)

    # What the analyst makes

    def items(self, kind: str | None = None) -> list[Item]:
        with self.session() as session:
            query = select(ItemRow).where(~ItemRow.removed).order_by(ItemRow.id)
            if kind:
                query = query.where(ItemRow.kind == kind)
            return [Item(r.id, r.kind, r.payload, r.revision) for r in session.scalars(query)]

    def item(self, item_id: int, kind: str | None = None) -> Item:
        with self.session() as session:
            row = session.get(ItemRow, item_id)
            if row is None or row.removed or (kind and row.kind != kind):
                raise NotFound(f"There is no {kind or 'item'} {item_id} in this review.", "It may have been removed.")
            return Item(row.id, row.kind, row.payload, row.revision)

    def add(self, kind: str, payload: dict[str, Any], label: str) -> Item:
        with self.session() as session:
            row = ItemRow(kind=kind, payload=payload)
            session.add(row)
            session.flush()
            self._record(session, row.id, label, None, payload)
            return Item(row.id, kind, payload, 1)

    def change(self, item_id: int, payload: dict[str, Any], label: str) -> Item:
        before = self.item(item_id)
        with self.session() as session:
            session.execute(update(ItemRow).where(ItemRow.id == item_id).values(payload=payload, revision=ItemRow.revision + 1))
            self._record(session, item_id, label, before.payload, payload)
        return Item(item_id, before.kind, payload, before.revision + 1)

    def remove(self, item_id: int, label: str) -> None:
        before = self.item(item_id)
        with self.session() as session:
            session.execute(update(ItemRow).where(ItemRow.id == item_id).values(removed=True))
            self._record(session, item_id, label, before.payload, None)

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
        with self.session() as session:
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


class ReviewSource:
    """One result of a review as the evaluator sees it (ironstone.core.fields.Source). Arrays are read when asked for."""

    def __init__(self, review: Review, row: ResultRow, correction: dict[str, Any]) -> None:
        self.review = review
        self.id = row.id
        self.name = row.name
        self.created = row.created
        self.files: list[Any] = row.files
        self.summary: dict[str, Any] = row.summary
        self.warnings: list[str] = list(row.warnings)
        self.correction = correction
        self.system: UnitSystem = SYSTEMS[correction.get("system", row.system)]
        self.system_guessed = row.system_guessed and "system" not in correction
        self._part_names = tuple(row.part_names)
        self._cache: OrderedDict[tuple[str, int], NDArray[np.generic]] = OrderedDict()
        self._lock = threading.RLock()
        self.mesh_cache: Mesh | None = None

    @property
    def revision(self) -> str:
        return f"{self.id}.{self.correction.get('revision', 0)}"

    @cached_property
    def _field_rows(self) -> dict[str, FieldRow]:
        with self.review.session() as session:
            rows = session.scalars(select(FieldRow).where(FieldRow.result_id == self.id).order_by(FieldRow.id)).all()
        return {r.name: r for r in rows}

    @cached_property
    def fields(self) -> Mapping[str, Field]:
        stated: dict[str, str] = self.correction.get("kinds", {})
        return {
            r.name: Field(
                name=r.name,
                kind=stated.get(r.name, r.kind),
                rank=r.rank,
                location=r.location,
                components=tuple(r.components),
                unit=self.system.unit_of(stated.get(r.name, r.kind)),
                precision=r.precision,
                guessed=r.guessed and r.name not in stated,
                unit_guessed=self.system_guessed,
                notes=tuple(r.notes),
                averaged_before=r.averaged_before,
            )
            for r in self._field_rows.values()
        }

    @cached_property
    def steps(self) -> Sequence[Step]:
        with self.review.session() as session:
            rows = session.scalars(select(StepRow).where(StepRow.result_id == self.id).order_by(StepRow.position)).all()
        unit = {"time": self.system.time}
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
            connection = session.connection()
            found = {r.role: arrays.read(connection, r) for r in rows}
        flat = {role: values[:, 0] for role, values in found.items() if role != "points"}
        sets: dict[str, dict[str, Int]] = {"node": {}, "element": {}}
        for role, values in flat.items():
            kind, _, name = role.partition(" set ")
            if name:
                sets[kind][name] = values.astype(np.int64)
        return Mesh(
            points=found["points"].astype(np.float64),
            types=flat["types"].astype(np.uint8),
            offsets=flat["offsets"].astype(np.int64),
            connectivity=flat["connectivity"].astype(np.int64),
            node_ids=flat["node ids"].astype(np.int64),
            element_ids=flat["element ids"].astype(np.int64),
            part=flat["part"].astype(np.int32),
            part_names=self._part_names,
            node_sets=sets["node"],
            element_sets=sets["element"],
            material=flat["material"].astype(np.int32) if "material" in flat else None,
        )

    def _array(self, field: str, step: int) -> tuple[ArrayRow, list[int]] | None:
        return self._arrays.get((self._field_rows[field].id, step))

    def _entities(self, field: str) -> int:
        location = self.fields[field].location
        mesh = self.mesh
        return {"node": len(mesh.points), "element": len(mesh.types), "corner": len(mesh.connectivity)}[location]

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        with self._lock:
            if (field, step) in self._cache:
                self._cache.move_to_end((field, step))
                return self._cache[field, step]  # type: ignore[return-value]
        found = self._array(field, step)
        if found is None:
            width = len(self.fields[field].components)
            return np.full((self._entities(field), width), np.nan)
        with self.review.engine.connect() as connection:
            values = arrays.read(connection, found[0])
        with self._lock:
            self._cache[field, step] = values
            while len(self._cache) > CACHED_ARRAYS:
                self._cache.popitem(last=False)
        return values  # type: ignore[return-value]

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        with self._lock:
            cached = self._cache.get((field, step))
        if cached is not None:
            return cached[entities]  # type: ignore[return-value]
        found = self._array(field, step)
        if found is None:
            return np.full((len(entities), len(self.fields[field].components)), np.nan)
        with self.database() as database:
            return arrays.read_rows(database, *found, entities)  # type: ignore[return-value]

    @contextmanager
    def database(self) -> Iterator[sqlite3.Connection]:
        """The SQLite connection beneath, for seeking inside blocks."""
        raw = self.review.engine.raw_connection()
        try:
            connection = raw.driver_connection
            assert isinstance(connection, sqlite3.Connection)
            yield connection
        finally:
            raw.close()


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
    plain |= {f"node set {name}": members for name, members in mesh.node_sets.items()}
    plain |= {f"element set {name}": members for name, members in mesh.element_sets.items()}
    for role, values in plain.items():
        arrays.write(connection, result_id, role, values)
