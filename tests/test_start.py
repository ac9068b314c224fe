"""What a command loads before it answers: only what it needs, so that a loop over fifty files does not wait for the rest."""

from __future__ import annotations

import json
import subprocess
import sys
from importlib import import_module
from pathlib import Path
from pkgutil import walk_packages

import pytest
from typer.main import get_command

import ironstone.engine
from ironstone.__main__ import module_of
from ironstone.cli.every import app
from ironstone.engine.base import KEPT, QUESTIONS, Kept, Question
from ironstone.engine.found import Kinds
from ironstone.store import Review, intake

# Each costs a tenth of a second or more, or is of another trade than the command's.
NEVER = {"alembic", "fastapi", "h5py", "openpyxl", "pint", "rich", "scipy", "uvicorn", "vtkmodules"}
RUN = """
import json, sys
from ironstone.__main__ import main
sys.argv = ["ironstone", *sys.argv[1:]]
try:
    main()
except SystemExit as end:
    status = end.code
print(json.dumps([status, sorted(sys.modules)]), file=sys.stderr)
"""


def loaded(*words: str) -> set[str]:
    """What a command has loaded by its end, which has to be a good one."""
    ended = subprocess.run([sys.executable, "-c", RUN, *words], capture_output=True, text=True, check=True)
    status, modules = json.loads(ended.stderr.splitlines()[-1])
    assert not status, ended.stderr
    return set(modules)


def test_help_is_told_without_the_store_and_the_engine() -> None:
    assert loaded("--help") & (NEVER | {"sqlalchemy", "pydantic", "ironstone.store", "ironstone.engine.base"}) == set()
    assert loaded("ask", "--help") & (NEVER | {"sqlalchemy", "ironstone.store", "ironstone.engine.base"}) == set()


def test_help_that_is_asked_for_before_a_command_is_of_all_commands() -> None:
    assert {"ironstone.cli.read", "ironstone.cli.strength"} <= loaded("--help", "read")


def test_a_small_review_is_read_with_what_a_reading_needs(bar_files: list[Path], tmp_path: Path) -> None:
    path = tmp_path / "bar.ironstone"
    with Review.create(path) as review:
        intake(review, bar_files)
    read = loaded("read", str(path), "--field", "stress", "--measure", "von-mises", "--at", "node:4", "--extremes")
    assert (
        read & (NEVER | {"ironstone.engine.reading.gauges", "ironstone.engine.strength.failure", "ironstone.store.arrival"})
        == set()
    )
    assert loaded("contents", str(path)) & NEVER == set()
    asked = loaded("ask", str(path), "read", "field=stress", "at=node:4")
    assert (
        "ironstone.engine.reading.readings" in asked
        and asked & {"ironstone.engine.reading.gauges", "ironstone.engine.strength.failure"} == set()
    )


@pytest.mark.parametrize(("family", "known", "of"), [("Question", QUESTIONS, Question), ("Kept", KEPT, Kept)])
def test_the_kinds_found_in_the_text_are_those_that_are_defined(family: str, known: Kinds, of: type) -> None:
    fresh: Kinds = Kinds(family)
    names = list(fresh)
    assert len(names) == len(set(names)) > 8
    for kind in names:
        assert issubclass(known[kind], of) and known[kind].kind == kind
    # Also what the text does not show is loaded here, or it could not be missed.
    for module in walk_packages(ironstone.engine.__path__, "ironstone.engine."):
        import_module(module.name)
    defined = {c.kind for c in _below(of) if c.kind and c.__module__.startswith("ironstone.")}
    assert defined == set(names), "whatever is defined in the engine is found without being loaded"


def _below(of: type) -> list:
    return [c for direct in of.__subclasses__() for c in (direct, *_below(direct))]


def test_each_command_is_found_in_the_one_module_that_has_it() -> None:
    commands = get_command(app).commands  # type: ignore[attr-defined]
    assert len(commands) > 25
    for name, command in commands.items():
        assert module_of(name) == command.callback.__module__, name
    assert module_of("no-such-command") == module_of("") == "ironstone.cli.every"
