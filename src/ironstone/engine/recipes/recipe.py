"""A recipe: an open, versioned file that says what is asked of a result, what is taken of it, and which limits that has to keep."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from ironstone.core.errors import IronstoneError
from ironstone.core.units import SYSTEMS
from ironstone.engine.base import KEPT, QUESTIONS, Question, question_of, said_of
from ironstone.engine.picture.asked import PictureWords
from ironstone.engine.tabled import Form
from ironstone.engine.words import Strict

LARGEST = 4_000_000
Value = float | int | bool | str
_NAMED = re.compile(r"\{([A-Za-z][A-Za-z0-9_-]*)\}")
# Places that are told by a number of the file, which a remeshed model gives to another place.
_NUMBERED = re.compile(r"\b(?:node|element|corner|nodes|edge|route|gauss):\d")
OWN = {"name", "kind", "take", "unit", "at_least", "at_most", "forms"}


class _Worded(BaseModel):
    """A question: its kind, and its words beside what is said here."""

    model_config = ConfigDict(extra="allow")
    name: str = Field(min_length=1, max_length=100, description="What the value, or the table, is called.")
    kind: str = Field(max_length=80, description="The kind of the question, as in ask.")

    @field_validator("kind")
    @classmethod
    def _known(cls, kind: str) -> str:
        if kind not in QUESTIONS:
            raise ValueError(f"there is no question called '{kind}'; there are: {', '.join(sorted(QUESTIONS))}")
        return kind

    def words(self) -> dict[str, Any]:
        return {k: v for k, v in (self.model_extra or {}).items() if k not in OWN}


class Taking(_Worded):
    """One value: a question, what is taken of its answer, and the limits it has to keep."""

    take: str = Field(
        "value", max_length=200, description="highest, lowest, value, first, last, figure:LABEL, column:NAME:max|min|mean."
    )
    unit: str | None = Field(None, max_length=60, description="The unit of the value, and of its limits; none: that of the answer.")
    at_least: float | str | None = Field(None, description="The least it may be: a number, or {PARAMETER}.")
    at_most: float | str | None = Field(None, description="The most it may be.")


class Table(_Worded):
    """The whole table of an answer, as CSV and XLSX unless other forms are named; its curve as SVG where it is one."""

    forms: list[Form] = Field(["csv", "xlsx"], min_length=1, max_length=3)


class Pictured(BaseModel):
    """A picture of the model with its key and caption, as PNG: its name, and the words of a picture beside it."""

    model_config = ConfigDict(extra="allow")
    name: str = Field(min_length=1, max_length=100, description="What the picture is called.")
    field: str = Field(max_length=200)

    @model_validator(mode="after")
    def _said(self) -> Pictured:
        # What a parameter stands for is known when it is drawn.
        PictureWords.model_validate({k: v for k, v in self.words().items() if "{" not in json.dumps(v)} | {"field": self.field})
        return self

    def words(self) -> dict[str, Any]:
        return {"field": self.field, **(self.model_extra or {})}


class Stating(BaseModel):
    """Something that is kept before anything is asked: a path, a gauge list, a cut, a mass, by its kind and words."""

    model_config = ConfigDict(extra="allow")
    kind: str = Field(max_length=80)

    @field_validator("kind")
    @classmethod
    def _known(cls, kind: str) -> str:
        if kind not in KEPT:
            raise ValueError(f"nothing called '{kind}' can be kept; there are: {', '.join(sorted(KEPT))}")
        return kind

    def words(self) -> dict[str, Any]:
        return dict(self.model_extra or {})


class Recipe(Strict):
    """What is asked of every file: values with their limits, tables, pictures. {NAME} in any word stands for a parameter."""

    version: Literal[1] = 1
    title: str = Field("", max_length=200)
    units: str = Field("", max_length=40, description="The unit system of the files, like mm-N-s-t-MPa; none: as they say.")
    parameters: dict[str, Value] = Field({}, description="Names with their usual values.")
    constants: dict[str, dict[str, float]] = Field(
        {}, description="Material constants by part or material: young, poisson, density, ..."
    )
    keep: list[Stating] = Field([], max_length=200)
    ask: list[Taking] = Field([], max_length=1000)
    tables: list[Table] = Field([], max_length=200)
    pictures: list[Pictured] = Field([], max_length=100)

    @model_validator(mode="after")
    def _asks(self) -> Recipe:
        if not (self.ask or self.tables or self.pictures):
            raise ValueError("nothing is asked: neither ask nor tables nor pictures has an entry")
        return self

    @field_validator("units")
    @classmethod
    def _system(cls, units: str) -> str:
        if units and units not in SYSTEMS:
            raise ValueError(f"'{units}' is no unit system; there are: {', '.join(SYSTEMS)}")
        return units

    @field_validator("ask", "tables", "pictures")
    @classmethod
    def _apart(cls, found: list[Any]) -> list[Any]:
        names = [one.name for one in found]
        again = next((n for n in names if names.count(n) > 1), None)
        if again is not None:
            raise ValueError(f"two are called '{again}'")
        return found


def read_recipe(path: Path) -> Recipe:
    """A recipe from a JSON or YAML file. Raises IronstoneError that says what is wrong and where."""
    try:
        if path.stat().st_size > LARGEST:
            raise IronstoneError(f"{path.name} is larger than {LARGEST // 1_000_000} MB: it is no recipe.")
        text = path.read_text(encoding="utf-8")
    except FileNotFoundError as error:
        raise IronstoneError(f"There is no recipe {path.name}.", "Check the name and the folder.") from error
    except (OSError, UnicodeDecodeError) as error:
        raise IronstoneError(f"{path.name} cannot be read.", "A recipe is a JSON or YAML file in UTF-8.") from error
    return recipe_in(text, path.name)


def recipe_in(text: str, name: str = "the recipe") -> Recipe:
    """A recipe in a text, JSON or YAML. Raises IronstoneError."""
    try:
        stated = json.loads(text) if text.lstrip().startswith("{") else _yaml(text)
    except ValueError as error:
        raise IronstoneError(f"{name} is not written as a recipe is: {str(error)[:200]}.", "Write JSON, or YAML.") from error
    if not isinstance(stated, Mapping):
        raise IronstoneError(f"{name} is no recipe.", "It begins with version, title and a list called ask.")
    try:
        return Recipe.model_validate(dict(stated))
    except ValidationError as error:
        raise IronstoneError(f"{name}: {said_of(error)}.", "See the guide, Recipes, for its words.") from error


def _yaml(text: str) -> Any:
    import yaml

    try:
        return yaml.safe_load(text)
    except yaml.YAMLError as error:
        raise ValueError(" ".join(str(error).split())) from error


def parameters_of(recipe: Recipe, stated: Mapping[str, Value]) -> dict[str, Value]:
    """The parameters of a run: the usual values, but for those that are stated. Raises IronstoneError for one there is not."""
    for name in stated:
        if name not in recipe.parameters:
            raise IronstoneError(f"The recipe has no parameter '{name}'.", f"It has: {', '.join(recipe.parameters) or 'none'}.")
    return {**recipe.parameters, **stated}


def filled(words: Any, parameters: Mapping[str, Value]) -> Any:
    """Words with the parameters in their places: a text that is one parameter becomes its value. Raises IronstoneError."""
    if isinstance(words, Mapping):
        return {k: filled(v, parameters) for k, v in words.items()}
    if isinstance(words, list | tuple):
        return [filled(v, parameters) for v in words]
    if not isinstance(words, str):
        return words
    whole = _NAMED.fullmatch(words)
    if whole is not None:
        return _parameter(whole[1], parameters)
    return _NAMED.sub(lambda m: str(_parameter(m[1], parameters)), words)


def _parameter(name: str, parameters: Mapping[str, Value]) -> Value:
    if name not in parameters:
        raise IronstoneError(
            f"There is no parameter '{name}'.", f"Name it under parameters; there are: {', '.join(parameters) or 'none'}."
        )
    return parameters[name]


def limit_of(stated: float | str | None, parameters: Mapping[str, Value], name: str) -> float | None:
    """A limit as a number. Raises IronstoneError where it is none."""
    found = filled(stated, parameters)
    if found is None:
        return None
    try:
        return float(found)
    except (TypeError, ValueError) as error:
        raise IronstoneError(f"The limit of '{name}' is no number: {found}.", "Write a number, or {PARAMETER}.") from error


def asked_by(one: Taking | Table, parameters: Mapping[str, Value]) -> Question:
    """The question of a value or of a table. Raises IronstoneError that names which one it is."""
    words = filled(one.words(), parameters)
    fields = QUESTIONS[one.kind].model_fields
    if isinstance(one, Taking) and one.unit is not None and "unit" in fields and not one.take.startswith(("figure", "column")):
        words = {**words, "unit": filled(one.unit, parameters)}
    try:
        return question_of(one.kind, words)
    except IronstoneError as error:
        raise IronstoneError(f"'{one.name}', {error.message}", error.hint) from error


# Kinds of questions that read the field they name, and what they read beside it is always there.
OF_A_FIELD = ("read", "trace", "profile", "cut")


def fields_asked(recipe: Recipe, parameters: Mapping[str, Value]) -> frozenset[str] | None:
    """The fields that are read for a recipe; None where one of its questions reads others than it names: then all are."""
    if any(one.kind not in OF_A_FIELD for one in (*recipe.ask, *recipe.tables)) or recipe.keep:
        return None
    found = set()
    asked = [one.words() for one in (*recipe.ask, *recipe.tables)] + [one.words() for one in recipe.pictures]
    for words in (filled(one, parameters) for one in asked):
        if any(words.get(word) for word in ("criterion", "layer", "against", "curve")) or words.get("of", "value") == "error":
            return None
        found.add(str(words.get("field", "")))
    return frozenset(found) if "" not in found else None


def numbered_places(words: Any) -> bool:
    """Whether words tell a place by a bare number of the file."""
    return bool(_NUMBERED.search(json.dumps(words, default=str)))


def schema() -> dict[str, Any]:
    """The JSON Schema recipes are held against."""
    found = Recipe.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Recipe of Ironstone Ridge, version 1", **found}
