"""Imports go one way: service, command line -> engine -> store, formats -> core."""

from __future__ import annotations

import ast
import re
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

SOURCE = Path(__file__).resolve().parents[2] / "src" / "ironstone"
OUTSIDE_OF_CORE = {"fastapi", "pydantic", "sqlalchemy", "alembic", "typer", "uvicorn", "starlette", "sqlite3", "pathlib"}
ALLOWED = {
    "core": {"core"},
    "formats": {"core", "formats"},
    "store": {"core", "formats", "store"},
    "engine": {"core", "formats", "store", "engine"},
}


def imported(path: Path) -> set[str]:
    names = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            names |= {a.name for a in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
    return names


@pytest.mark.parametrize("layer", ALLOWED)
def test_a_layer_imports_only_from_below(layer: str) -> None:
    for path in (SOURCE / layer).rglob("*.py"):
        for name in imported(path):
            if name.startswith("ironstone."):
                assert name.split(".")[1] in ALLOWED[layer], f"{path.name} imports {name}"


def test_the_engine_knows_no_web() -> None:
    for path in (SOURCE / "engine").rglob("*.py"):
        tops = {name.split(".")[0] for name in imported(path)}
        assert not tops & {"fastapi", "starlette", "uvicorn", "typer"}, f"{path.name} imports {tops}"


def test_core_knows_no_web_no_database_no_files() -> None:
    for path in (SOURCE / "core").rglob("*.py"):
        tops = {name.split(".")[0] for name in imported(path)}
        assert not tops & OUTSIDE_OF_CORE, f"{path.name} imports {tops & OUTSIDE_OF_CORE}"


# Folders of the core from the bottom up; what stands in one pair of brackets stands beside each other.
CORE_LAYERS = ((), ("mesh",), ("geometry", "strength", "picture"), ("field",), ("reading",), ("curves", "motion", "statics"))


def test_the_folders_of_the_core_import_one_way() -> None:
    height = {folder: i for i, layer in enumerate(CORE_LAYERS) for folder in layer}
    for path in (SOURCE / "core").rglob("*.py"):
        inside = path.relative_to(SOURCE / "core").parts
        mine = inside[0] if len(inside) > 1 else ""
        for name in imported(path):
            theirs = name.split(".")[2] if name.startswith("ironstone.core.") else ""
            if theirs in height and theirs != mine:
                assert height[theirs] < height.get(mine, 0), f"{'/'.join(inside)} imports {name}"


WEB = SOURCE.parents[1] / "web" / "src"
# Folders of the front end from the bottom up: each imports from those before it; the bays are beside each other and know no other.
WEB_LAYERS = (("theme",), ("bench",), ("api",), ("reading",), ("lines",), ("controls",), ("view",), ("plots",), ("exhibits",),
              ("balance", "compare", "field", "intake", "motion", "path", "strength", "trace"), ("shell",), ("main",))  # fmt: skip


def test_the_front_end_imports_one_way() -> None:
    height = {folder: i for i, layer in enumerate(WEB_LAYERS) for folder in layer}
    for path in [p for p in WEB.rglob("*.ts*") if not p.name.endswith(".d.ts")]:
        inside = path.relative_to(WEB).parts
        mine = inside[0] if len(inside) > 1 else "main"
        assert mine in height, f"{mine} is not among the layers"
        for found in re.findall(r'(?:from|import) "(\.[^"]+)"', path.read_text()):
            target = (path.parent / found).resolve().relative_to(WEB.resolve()).parts
            theirs = target[0]
            if len(inside) > 1 and theirs != mine:
                assert height[theirs] < height[mine], f"{'/'.join(inside)} imports {found}"


# What follows whichever pane is worked in: the shell, and the address bar that tells of it.
OF_THE_ACTIVE_PANE = ("shell", "bench/address.ts", "bench/store.ts", "view/handle.ts")


def test_a_component_asks_and_changes_its_own_pane() -> None:
    for path in WEB.rglob("*.ts*"):
        inside = path.relative_to(WEB).as_posix()
        if not inside.startswith(OF_THE_ACTIVE_PANE):
            text = path.read_text()
            assert not re.search(r"\bactive(Pane|View)\b|\bpanes\.active\b", text), f"{inside} means the active pane"


def test_the_modules_of_the_store_do_not_import_each_other_in_a_circle() -> None:
    store = SOURCE / "store"
    mine = {p.stem for p in store.glob("*.py")}
    needs = {}
    for path in store.glob("*.py"):
        whole = {name.removeprefix("ironstone.store.") for name in imported(path) if name.startswith("ironstone.store.")}
        parts = re.findall(r"from ironstone\.store import (.+)", path.read_text())
        needs[path.stem] = ({w.split(".")[0] for w in whole} | {w.strip() for line in parts for w in line.split(",")}) & mine
    del needs["__init__"]
    order = TopologicalSorter(needs)
    order.prepare()
