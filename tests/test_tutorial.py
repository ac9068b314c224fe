"""The tutorial's cells run one after the other, and the reference is built offline of all that is public."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest

import ironstone

ROOT = Path(__file__).parents[1]


def test_the_cells_of_the_tutorial_run(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.chdir(ROOT)
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    book = json.loads((ROOT / "docs/tutorial.ipynb").read_text())
    space: dict[str, object] = {}
    for cell in book["cells"]:
        if cell["cell_type"] == "code":
            text = "".join(cell["source"])
            exec(text, space)
            last = text.splitlines()[-1]
            # A name that stands alone on the last line is what a notebook shows.
            if re.fullmatch(r"[a-z_]+", last):
                assert space[last]._repr_html_().startswith("<b>")  # type: ignore[attr-defined]
        assert not cell.get("outputs"), "outputs are not kept: they would grow old"
    said = capsys.readouterr().out
    assert "fine" in said and "changed" in said
    assert {"lug.png", "lug.pdf", "lug.html"} <= {p.name for p in tmp_path.rglob("lug.*")}
    assert "data:image/png" in space["seen"]._repr_html_()  # type: ignore[attr-defined]


def test_the_reference_and_the_guide_are_pages_that_load_nothing(tmp_path: Path) -> None:
    from tools.docs_site import main

    main(tmp_path)
    reference = (tmp_path / "reference/ironstone.html").read_text()
    for name in ironstone.__all__:
        assert f'id="{name}"' in reference, name
    for page in tmp_path.rglob("*.html"):
        text = page.read_text()
        assert not re.search(r"""<(?:script|link|img)[^>]+(?:src|href)=["']https?:""", text), page.name
    assert "<table>" in (tmp_path / "guide.html").read_text() or "<h2>" in (tmp_path / "guide.html").read_text()
