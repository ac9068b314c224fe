"""What an analyst states of a result that its files do not say: units, fields, materials, model, sets, axes. All can be undone."""

from __future__ import annotations

import json
from abc import abstractmethod
from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.field.axes import Axes
from ironstone.core.field.combined import Combination
from ironstone.core.field.combined import checked as _checked
from ironstone.core.field.constants import checked
from ironstone.core.field.fields import MODELS
from ironstone.core.field.loadings import computed
from ironstone.core.mesh.mesh import Int
from ironstone.core.moments import KINDS, values_of
from ironstone.core.reading.elsewhere import matched
from ironstone.core.strength.zones import placed
from ironstone.core.units import SYSTEMS
from ironstone.formats.laminates import parse_laminates
from ironstone.store import stale
from ironstone.store.entries import checked as checked_entry
from ironstone.store.items import Items
from ironstone.store.models import ItemRow
from ironstone.store.source import ReviewSource
from ironstone.store.stated import stated
from ironstone.store.transactions import in_one


def with_entry(table: Mapping[str, Any] | None, name: str, entry: Any) -> dict[str, Any]:
    """A table with one entry put in its place, or taken out where it is None."""
    rest = {n: e for n, e in (table or {}).items() if n != name}
    return rest if entry is None else {**rest, name: entry}


def _renamed(value: Any, old: str, new: str) -> Any:
    """What is kept, with a place put for another wherever it is named."""
    if isinstance(value, dict):
        return {k: _renamed(v, old, new) for k, v in value.items()}
    if isinstance(value, list):
        return [_renamed(v, old, new) for v in value]
    return new if value == old else value


class Statements(Items):
    """The part of a review that holds what is stated of its results; nothing that was taken in is changed by it."""

    @abstractmethod
    def result(self, which: int | str | None = None) -> ReviewSource: ...

    @abstractmethod
    def correction(self, result_id: int) -> dict[str, Any]: ...

    def set_units(self, result_id: int, system: str) -> None:
        """State the unit system of a result; nothing is converted, its numbers are understood anew."""
        if system not in SYSTEMS:
            raise IronstoneError(f"'{system}' is not a unit system.", f"Choose one of: {', '.join(SYSTEMS)}.")
        self._correct(result_id, lambda _: {"system": system}, "Unit system stated")

    def set_kind(self, result_id: int, field: str, kind: str) -> None:
        """State what a field is, in place of what its name was taken for; '' is a kind not known."""
        self.correct_fields(result_id, [field], {"kind": kind})

    def correct_fields(self, result_id: int, fields: Sequence[str], entry: Mapping[str, str]) -> None:
        """Correct the entry of fields in the dictionary by the names of ``store.entries``. Nothing stored is changed.

        Raises IronstoneError, with what is possible, where an entry cannot be.
        """
        source = self.result(result_id)
        checked: dict[str, dict[str, Any]] = {}
        for field in fields:
            found = source.dictionary.get(field)
            if found is None:
                raise NotFound(f"There is no field named '{field}' in this result's files.")
            checked[field] = {}
            for name, value in entry.items():
                checked[field] |= checked_entry(source, found, name, value)
        said = ", ".join(f"{name.replace('_', ' ')} {value if value != '' else 'not known'}" for name, value in entry.items())

        def entered(now: dict[str, Any]) -> dict[str, Any]:
            known = now.get("fields", {})
            return {"fields": {**known, **{f: {**known.get(f, {}), **new} for f, new in checked.items()}}}

        self._correct(result_id, entered, f"{', '.join(repr(f) for f in fields)} stated: {said}")

    def set_constants(self, result_id: int, material: str, values: Mapping[str, float]) -> None:
        """State constants of a material by name (``core.field.constants``), in the result's units; none takes them back."""
        names = self.result(result_id).mesh.material_or_part_names
        if material not in names:
            raise NotFound(f"There is no material '{material}' in this result.", f"Here: {', '.join(names)}.")
        constants = checked(values) or None
        self._correct(
            result_id,
            lambda now: {"constants": with_entry(now.get("constants"), material, constants)},
            f"Constants of '{material}' {'stated' if constants else 'taken back'}",
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

    def set_steps(self, result_id: int, kind: str, written: str) -> None:
        """State what the steps stand for: a kind of ``core.moments.KINDS`` and their values as ``values_of`` reads them; a kind
        of '' takes the statement back, and the steps are what the files say."""
        source = self.result(result_id)
        if not kind:
            self._correct(result_id, lambda _: {"steps": None}, "Steps as the files say")
            return
        if kind not in KINDS:
            raise IronstoneError(f"A step is no '{kind}'.", f"Choose one of: {', '.join(KINDS)}.")
        values, how = values_of(written, len(computed(source.steps)), [f["name"] for f in source.files])
        if kind in ("frequency", "mode") and min(values) < 0:
            raise IronstoneError(f"A {kind} of {min(values):g} Hz does not exist.", "Give values of zero or more.")
        entry = {"kind": kind, "values": values, "how": how}
        self._correct(result_id, lambda _: {"steps": entry}, f"Steps stated: {kind}, {how}")

    def set_combinations(self, result_id: int, made: Sequence[Combination]) -> None:
        """State steps that are made of others, each under its name; one made before under that name is replaced.

        Raises IronstoneError where one cannot be formed: nothing is stated then.
        """
        source = self.result(result_id)
        own = len(computed(source.steps))
        known = [_checked(c, source, own, matched) for c in made]
        if len({c.name for c in known}) != len(known):
            raise IronstoneError("Two combinations have one name.", "Give each its own.")
        # By its number a result is known whatever it is called later.
        numbers = {t.result: str(source.other(t.result).id) if t.result else "" for c in known for t in c.terms}
        entries = {
            c.name: {"terms": [[t.step, t.factor, numbers[t.result]] for t in c.terms], "doubts": list(c.doubts)} for c in known
        }
        names = ", ".join(repr(c.name) for c in known[:3]) + (f" and {len(known) - 3} more" if len(known) > 3 else "")
        label = f"Combination{'s' if len(known) > 1 else ''} {names} stated"
        self._correct(result_id, lambda now: {"combinations": {**now.get("combinations", {}), **entries}}, label)

    @in_one
    def remove_combination(self, result_id: int, name: str) -> None:
        if name not in self.correction(result_id).get("combinations", {}):
            raise NotFound(f"There is no combination '{name}' of this result.")
        self._correct(
            result_id,
            lambda now: {"combinations": with_entry(now.get("combinations"), name, None)},
            f"Combination '{name}' removed",
        )

    def set_cost(self, result_id: int, name: str, value: float | None) -> None:
        """State what a run took that its files do not say, such as 'time [s]'; None takes it back."""
        self.result(result_id)
        if not name.strip() or len(name) > 60 or (value is not None and not (np.isfinite(value) and value >= 0)):
            raise IronstoneError("What a run took has a name and a number of zero or more.", "Write time [s]=340.")
        self._correct(result_id, lambda now: {"cost": with_entry(now.get("cost"), name.strip(), value)}, f"Cost stated: {name}")

    def set_rigid(self, result_id: int, part: str, rigid: bool) -> None:
        """State that a part is a rigid body: it has no stress and no strain, which is not zero. False takes it back."""
        names = self.result(result_id).mesh.part_names
        if part not in names:
            raise NotFound(f"There is no part '{part}' in this result.", f"Here: {', '.join(names)}.")

        def stated_as(now: dict[str, Any]) -> dict[str, Any]:
            others = [p for p in now.get("rigid", []) if p != part]
            return {"rigid": [*others, part] if rigid else others}

        self._correct(result_id, stated_as, f"Part '{part}' {'is rigid' if rigid else 'gives'}")

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

    @in_one
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

    @in_one
    def remove_set(self, result_id: int, name: str) -> None:
        made = dict(self.correction(result_id).get("sets", {}))
        if name not in made:
            raise NotFound(f"No set named '{name}' was made here.", "Sets of the file stay.")

        def without(now: dict[str, Any]) -> dict[str, Any]:
            gone = with_entry(now.get("removed sets"), name, made[name])
            return {"sets": with_entry(now.get("sets"), name, None), "removed sets": gone}

        self._correct(result_id, without, f"Set '{name}' removed")

    @in_one
    def bring_back_set(self, result_id: int, name: str) -> None:
        """Bring back a set that was made here and removed. Raises IronstoneError where another one is called so by now."""
        correction = self.correction(result_id)
        entry = dict(correction.get("removed sets", {})).get(name)
        if entry is None:
            raise NotFound(f"No set named '{name}' was removed here.")
        self._name_is_free(result_id, name)

        def back(now: dict[str, Any]) -> dict[str, Any]:
            gone = with_entry(now.get("removed sets"), name, None)
            return {"sets": with_entry(now.get("sets"), name, entry), "removed sets": gone}

        self._correct(result_id, back, f"Set '{name}' brought back")

    @in_one
    def rename_set(self, result_id: int, name: str, new: str) -> None:
        """Call a set that was made here something else; what is kept of the result and reads it goes along, and back with undo."""
        made = dict(self.correction(result_id).get("sets", {}))
        new = new.strip()
        if name not in made:
            raise NotFound(f"No set named '{name}' was made here.", "Sets of the file keep their names.")
        if not new:
            raise IronstoneError("A set needs a name.", "Name it after what it is: support, pin, skin.")
        if new == name:
            return
        self._name_is_free(result_id, new)

        def renamed(now: dict[str, Any]) -> dict[str, Any]:
            return {"sets": {(new if n == name else n): entry for n, entry in dict(now.get("sets", {})).items()}}

        label = f"Set '{name}' renamed '{new}'"
        with self.writing() as session:
            self._correct_in(session, result_id, renamed, label)
            rows = session.scalars(select(ItemRow).where(~ItemRow.removed, ItemRow.kind != "correction").order_by(ItemRow.id)).all()
            for row in rows:
                payload = _renamed(row.payload, f"set:{name}", f"set:{new}")
                if row.payload.get("result") == result_id and payload != row.payload:
                    self._change(session, row.id, payload, label, joined=True)

    def _name_is_free(self, result_id: int, name: str) -> None:
        mesh = self.result(result_id).mesh
        if name in mesh.node_sets or name in mesh.element_sets:
            raise IronstoneError(f"There is a set named '{name}' already.", "Choose another name.")

    def set_axes(self, result_id: int, axes: Axes, how: str = "") -> None:
        """Keep axes under their name with a result, and how they were made; others of that name are replaced."""
        self.result(result_id)
        entry = {"kind": axes.kind, "origin": list(axes.origin), "matrix": [list(row) for row in axes.matrix], "how": how}
        self._correct(result_id, lambda now: {"axes": with_entry(now.get("axes"), axes.name, entry)}, f"Axes '{axes.name}' kept")

    @in_one
    def remove_axes(self, result_id: int, name: str) -> None:
        if name not in self.correction(result_id).get("axes", {}):
            raise NotFound(f"There are no axes named '{name}' with this result.")
        self._correct(result_id, lambda now: {"axes": with_entry(now.get("axes"), name, None)}, f"Axes '{name}' removed")

    def set_laminates(self, result_id: int, content: Mapping[str, Any] | None, name: str, by_hand: bool = False) -> None:
        """State the laminates of a result: what a laminate file holds, and what it is called; None takes them back. by_hand: it is
        changed here, and from then on said to be, where it was read from a file before.

        Raises IronstoneError where the content makes no sense, or its zones are not those of this result.
        """
        source = self.result(result_id)
        if content is None:
            self._correct(result_id, lambda _: {"laminates": None}, "Laminates taken back")
            return
        placed(source.mesh, parse_laminates(json.dumps(content).encode(), name))

        def stated_as(now: dict[str, Any]) -> dict[str, Any]:
            before = now.get("laminates") or {}
            edited = by_hand and bool(before.get("edited") or before.get("content", content) != content)
            return {"laminates": {"name": name, "content": dict(content), "edited": edited}}

        self._correct(result_id, stated_as, f"Laminates stated: {name}")

    def set_ply_materials(self, result_id: int, materials: Mapping[str, Any]) -> None:
        """Keep materials of plies whose stacks have not come yet."""
        kept = {n: dict(m) for n, m in materials.items()}
        self._correct(result_id, lambda now: {"ply materials": {**now.get("ply materials", {}), **kept}}, "Ply materials stated")

    def _correct(self, result_id: int, change: Callable[[dict[str, Any]], dict[str, Any]], label: str) -> None:
        """Correct a result by what ``change`` makes of what is stated of it so far: read and written in one transaction."""
        with self.writing() as session:
            self._correct_in(session, result_id, change, label)

    def _correct_in(self, session: Session, result_id: int, change: Callable[[dict[str, Any]], dict[str, Any]], label: str) -> None:
        rows = session.scalars(select(ItemRow).where(~ItemRow.removed, ItemRow.kind == "correction").order_by(ItemRow.id)).all()
        found = [r for r in rows if r.payload.get("result") == result_id]
        stale.refuse_if_changed(stated(found[-1].payload if found else {}), "What is stated of this result")
        if found:
            self._change(session, found[-1].id, {**found[-1].payload, **change(dict(found[-1].payload))}, label)
        else:
            self._add(session, "correction", {"result": result_id, **change({})}, label)

    def take_statements(self, of: int, to: int) -> list[str]:
        """State of a result what is stated of another: constants by material, axes, model, mirror, laminates. Returns what could
        not be taken over, in words."""
        theirs, there = self.correction(of), self.result(to).mesh.material_or_part_names
        left = [f"constants of '{n}': this result has no such material" for n in theirs.get("constants", {}) if n not in there]
        plain: dict[str, Any] = {name: theirs[name] for name in ("axes", "model", "mirror") if name in theirs}
        constants = {n: c for n, c in theirs.get("constants", {}).items() if n in there}
        self._correct(to, lambda _: {**plain, "constants": constants}, "Statements of another result taken over")
        laminates = theirs.get("laminates")
        if laminates:
            try:
                self.set_laminates(to, laminates["content"], laminates["name"])
            except IronstoneError as error:
                left.append(f"laminates: {error.message}")
        return left
