"""One run of a recipe: its files are read into a review of its own, asked, and written down in a folder."""

from __future__ import annotations

import json
import os
import resource
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import xxhash
from pydantic import ValidationError

from ironstone.core.errors import IronstoneError
from ironstone.core.units import conversion
from ironstone.engine.base import ask, engine, keep, said_of, thing_of
from ironstone.engine.picture.asked import PictureWords, picture
from ironstone.engine.picture.plot import plot_of
from ironstone.engine.recipes.recipe import (
    Pictured,
    Recipe,
    Table,
    Taking,
    Value,
    asked_by,
    fields_asked,
    filled,
    limit_of,
    numbered_places,
)
from ironstone.engine.tabled import tabled
from ironstone.engine.take import taken
from ironstone.formats.tables import write_table, write_workbook
from ironstone.store import Review, intake

NUMBERED = "It is told by a number of the file: a remeshed model has another place there."
# Beside the answers of a run; written last, so that a run that has it is whole.
VALUES = "values.json"


@dataclass(frozen=True)
class Order:
    """What one run is to do: plain data, so that it can be sent anywhere. files: of one result, or a series of it."""

    recipe: str
    name: str
    files: tuple[str, ...]
    folder: str
    parameters: Mapping[str, Value] = field(default_factory=dict)
    keep_review: bool = False

    @property
    def out(self) -> Path:
        return Path(self.folder)


def mark_of(order: Order) -> str:
    """What a run hangs on: recipe, parameters, the bytes of its files, the program."""
    found = xxhash.xxh3_128()
    found.update(json.dumps([order.recipe, sorted(order.parameters.items()), engine()], default=str).encode())
    for file in order.files:
        found.update(Path(file).name.encode())
        with Path(file).open("rb") as stream:
            while piece := stream.read(1 << 22):
                found.update(piece)
    return found.hexdigest()


def done_before(order: Order) -> dict[str, Any] | None:
    """What a run came to, where it was finished before with the same recipe and files and nothing failed; else None."""
    try:
        found: dict[str, Any] = json.loads((order.out / VALUES).read_text())
        return found if found.get("mark") == mark_of(order) and found.get("status") != 2 else None
    except (OSError, ValueError):
        return None


def not_done(order: Order, said: str) -> dict[str, Any]:
    """What a run came to that was not done, with why in words."""
    return {
        "run": order.name, "files": [Path(f).name for f in order.files], "status": 2, "values": {}, "errors": [said],
        "seconds": None, "memory_mb": None, "engine": "", "mark": "",
    }  # fmt: skip


def carried_out(order: Order) -> dict[str, Any]:
    """Do one run and write its folder; what it came to, as in ``values.json``. Nothing is raised: what failed is said there.

    status: 0 all limits kept, 1 one is broken, 2 something could not be read.
    """
    began, log = time.monotonic(), [f"run '{order.name}' of {', '.join(Path(f).name for f in order.files)}"]
    order.out.mkdir(parents=True, exist_ok=True)
    (order.out / VALUES).unlink(missing_ok=True)
    values: dict[str, dict[str, Any]] = {}
    errors: list[str] = []
    mark = ""
    try:
        mark = mark_of(order)
        recipe = Recipe.model_validate_json(order.recipe)
        with TemporaryDirectory(prefix="ironstone-run-") as scratch:
            at = order.out if order.keep_review else Path(scratch)
            path = at / "run.ironstone"
            path.unlink(missing_ok=True)
            with Review.create(path, order.name) as review:
                _prepared(review, recipe, order, log)
                for one in recipe.ask:
                    values[one.name] = _value(review, one, order.parameters, log)
                for table in recipe.tables:
                    errors += _table(review, table, order, log)
                for picture in recipe.pictures:
                    errors += _picture(review, picture, order, log)
    except IronstoneError as error:
        errors.append(f"{error.message} {error.hint}".strip())
    except Exception as error:  # one broken file must not stop the rest: what was not foreseen is said, and counts as not read
        errors.append(f"It failed in a way that was not foreseen: {type(error).__name__}: {error}")
    errors += [f"'{name}': {v['error']}" for name, v in values.items() if v["error"]]
    broken = any(v["kept"] is False for v in values.values())
    came_to = {
        "run": order.name,
        "files": [Path(f).name for f in order.files],
        "status": 2 if errors else 1 if broken else 0,
        "values": values,
        "errors": errors,
        "seconds": round(time.monotonic() - began, 3),
        "memory_mb": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, 1),
        "engine": engine(),
        "mark": mark,
    }
    _written(order.out, came_to, [*log, *errors, f"took {came_to['seconds']} s; largest memory {came_to['memory_mb']} MB"])
    return came_to


def _prepared(review: Review, recipe: Recipe, order: Order, log: list[str]) -> None:
    """Take the files in, and state what the recipe states."""
    # A review that is left holds all there is in the files.
    only = None if order.keep_review else fields_asked(recipe, order.parameters)
    files = [Path(f) for f in order.files]
    result = intake(review, files, order.name, recipe.units or None, only=only)
    if only is not None and not only <= set(review.result(result).fields):
        # One is not there by that name: what there is instead is told of the whole.
        review.remove_result(result)
        result = intake(review, files, order.name, recipe.units or None)
    source = review.result(result)
    log.append(
        f"{len(source.mesh.points)} nodes, {len(source.mesh.types)} elements, {len(source.steps)} steps, units {source.system.name}"
    )
    log += [f"! {w}" for w in source.warnings]
    names = source.mesh.material_or_part_names
    for part, constants in recipe.constants.items():
        if part not in names:
            raise IronstoneError(f"There is no part or material '{part}' in this result.", f"There are: {', '.join(names)}.")
        review.set_constants(result, part, constants)
    for stated in recipe.keep:
        words = filled(stated.words(), order.parameters)
        keep(review, thing_of(stated.kind, words if "result" in words else {"result": result, **words}))


def _value(review: Review, one: Taking, parameters: Mapping[str, Value], log: list[str]) -> dict[str, Any]:
    """One value with its limits; what could not be read has an error and no value."""
    reply: dict[str, Any] = {
        "value": None, "unit": one.unit or "", "sentence": "", "kept": None, "place": "", "caveats": [], "error": "",
        "at_least": None, "at_most": None,
    }  # fmt: skip
    try:
        low, high = (limit_of(v, parameters, one.name) for v in (one.at_least, one.at_most))
        reply |= {"at_least": low, "at_most": high}
        answer = ask(review, asked_by(one, parameters))
        found = taken(answer, str(filled(one.take, parameters)))
    except IronstoneError as error:
        return reply | {"error": f"{error.message} {error.hint}".strip()}
    caveats = [*answer.caveats, *([NUMBERED] if numbered_places(one.words()) else [])]
    reply |= {"sentence": answer.sentence, "place": found.place, "caveats": caveats, "unit": found.unit}
    value = found.value
    if one.unit is not None:
        unit = str(filled(one.unit, parameters))
        try:
            factor, offset = conversion(found.unit, unit)
        except IronstoneError as error:
            return reply | {"error": error.message}
        value, reply["unit"] = None if value is None else value * factor + offset, unit
    reply["value"] = value
    log.append(f"{one.name} = {'no value' if value is None else f'{value:.8g}'} {reply['unit']}".rstrip())
    if low is None and high is None:
        return reply
    if value is None:
        return reply | {"error": "It has no value, and so keeps no limit."}
    return reply | {"kept": (low is None or value >= low) and (high is None or value <= high)}


def _table(review: Review, one: Table, order: Order, log: list[str]) -> list[str]:
    """Write the table of an answer, and its curve where it is one; what went wrong, in words."""
    try:
        answer = ask(review, asked_by(one, order.parameters))
    except IronstoneError as error:
        return [f"table '{one.name}': {error.message} {error.hint}".strip()]
    where = order.out / "tables"
    where.mkdir(exist_ok=True)
    stem = file_name(one.name)
    for form in one.forms:
        (where / f"{stem}.{form}").write_bytes(tabled(answer.columns, form, answer.sentence))
    if curve := plot_of(answer):
        (where / f"{stem}.svg").write_text(curve, encoding="utf-8")
    log.append(f"table {stem}: {answer.sentence}")
    return []


def _picture(review: Review, one: Pictured, order: Order, log: list[str]) -> list[str]:
    """Draw a picture; what went wrong, in words."""
    where = order.out / "pictures"
    stem = file_name(one.name)
    try:
        words = PictureWords.model_validate(filled(one.words(), order.parameters))
        drawn = picture(review, words, said=f"{one.name}. Run {order.name}")
    except IronstoneError as error:
        return [f"picture '{one.name}': {error.message} {error.hint}".strip()]
    except ValidationError as error:
        return [f"picture '{one.name}': {said_of(error)}"]
    where.mkdir(exist_ok=True)
    (where / f"{stem}.png").write_bytes(drawn)
    log.append(f"picture {stem}")
    return []


def _written(out: Path, came_to: dict[str, Any], log: Sequence[str]) -> None:
    """The values as JSON, text, CSV and XLSX, and the log."""
    values = came_to["values"]
    rows = [(n, v["value"], v["unit"], kept_words(v), v["place"], v["sentence"], v["error"]) for n, v in values.items()]
    lines = [f"{n}: {'no value' if v is None else f'{v:.8g}'} {unit}  {kept}".rstrip() for n, v, unit, kept, *_ in rows]
    (out / "values.txt").write_text("\n".join([*lines, *came_to["errors"], ""]))
    names = ("name", "value", "unit", "limits", "place", "reading", "error")
    columns = [["" if cell is None else cell for cell in column] for column in zip(*rows, strict=True)] or [[] for _ in names]
    (out / "values.csv").write_text(write_table(names, ("",) * len(names), columns))
    (out / "values.xlsx").write_bytes(write_workbook(names, ("",) * len(names), columns))
    (out / "log.txt").write_text("\n".join([*log, ""]))
    # What is half written would be taken for done.
    half = out / f".{VALUES}.{os.getpid()}"
    half.write_text(json.dumps(came_to, indent=1, ensure_ascii=False))
    half.replace(out / VALUES)


def kept_words(value: Mapping[str, Any]) -> str:
    """Whether a value keeps its limits, in words."""
    if value["at_least"] is None and value["at_most"] is None:
        return ""
    limits = " and ".join(
        f"{word} {value[name]:.6g}" for word, name in (("at least", "at_least"), ("at most", "at_most")) if value[name] is not None
    )
    said = {True: "keeps", False: "breaks", None: "not judged:"}[value["kept"]]
    return f"{said} {limits} {value['unit']}".rstrip()


def file_name(name: str) -> str:
    """A name as that of a file or folder, on any system."""
    plain = "".join(c if c.isalnum() or c in " ._-+" else "_" for c in name).strip(" .")
    return plain[:80] or "run"
