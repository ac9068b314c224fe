"""The colour tables the bench ships with are those of the package they come from."""

from __future__ import annotations

from pathlib import Path

from tools.colour_maps import main

TABLES = Path(__file__).resolve().parent.parent / "web" / "src" / "theme" / "colourTables.ts"


def test_the_colour_tables_are_those_of_the_package(tmp_path: Path) -> None:
    main(tmp_path / "fresh.ts")
    assert (tmp_path / "fresh.ts").read_text() == TABLES.read_text(), "run 'make client'"
