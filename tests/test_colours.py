"""The colour tables the bench ships with, in the page and beside it, are those of the package they come from."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from ironstone.core.picture.colours import table as shipped
from tools.colour_maps import MAPS, names, table

TABLES = Path(__file__).resolve().parent.parent / "web" / "src" / "theme" / "colourTables.ts"


@pytest.mark.parametrize("name", [*MAPS, "batlowS"])
def test_the_colour_tables_are_those_of_the_package(name: str) -> None:
    expected = names(24) if name == "batlowS" else table(name)
    (of_the_page,) = re.findall(rf"export const {name}: number\[\] = \[([^\]]*)\]", TABLES.read_text())
    assert [int(v) for v in of_the_page.split(",") if v.strip()] == expected, "run 'make client'"
    assert shipped(name).ravel().tolist() == expected
