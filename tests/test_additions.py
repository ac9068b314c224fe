"""What it takes to add a word of a reading or a format: done here as CONTRIBUTING says, and then it is known everywhere."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent

# A word, in the three files CONTRIBUTING names: what stands before it, and what is added.
WORD = {
    "core/reading/reading.py": (
        '    criterion: str = _word("", "Of the failure of plies: hashin, puck, ...; with +bond behind it also the bond lines.")\n',
        '    shade: str = _word("", "A made-up word.", carried=True)\n',
    ),
    "engine/words.py": ('    criterion: str = _said("criterion")\n', '    shade: str = _said("shade")\n'),
    "core/reading/resolved.py": (
        '            "criterion": self.criterion_words,\n',
        '            "shade": f"in the shade of {self.reading.shade}" if self.reading.shade else "",\n',
    ),
}


@pytest.fixture(scope="module")
def with_word(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The product with a word added."""
    source = tmp_path_factory.mktemp("word") / "src"
    shutil.copytree(ROOT / "src" / "ironstone", source / "ironstone", ignore=shutil.ignore_patterns("static"))
    for name, (before, added) in WORD.items():
        path = source / "ironstone" / name
        text = path.read_text()
        assert before in text, f"{name} has changed: say here and in CONTRIBUTING where a word goes now"
        path.write_text(text.replace(before, before + added))
    return source


def run(source: Path, *arguments: str) -> str:
    done = subprocess.run(
        [sys.executable, *arguments],
        capture_output=True,
        text=True,
        cwd=ROOT,
        env={**os.environ, "PYTHONPATH": str(source)},
        check=False,
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_a_word_in_three_files_is_known_to_commands_requests_page_and_sentence(with_word: Path, demo_file: Path) -> None:
    command = ["-m", "ironstone", "read", str(demo_file), "--result", "lug, fine", "--field", "stress", "--at", "node:8", "--json"]
    plain, shaded = (json.loads(run(with_word, *command, *more)) for more in ([], ["--shade", "oak"]))
    assert "in the shade of oak" in shaded["sentence"] and "shade" not in plain["sentence"]
    assert [v["value"] for v in plain["values"]] == [v["value"] for v in shaded["values"]]
    described = json.loads(run(with_word, "-m", "ironstone.service.openapi"))
    for schema in ("Read", "ProfileQuestion", "Cut", "TraceSpec-Input", "TraceSpec"):
        known = described["components"]["schemas"].get(schema)
        assert known is None or "shade" in known["properties"], schema
    asked = described["paths"]["/api/results/{result}/values"]["get"]["parameters"]
    assert "shade" in [p["name"] for p in asked]
    assert '  shade: {\n    kind: "text"' in run(with_word, "-m", "tools.reading_words")
    view = "from ironstone.engine.kept.in_view import InView as V; print(V.from_address('field=stress&shade=oak').address())"
    assert "shade=oak" in run(with_word, "-c", view)


FORMAT = '''"""A made-up format: a line for each node of a chain of bars, x y z and a temperature."""

import numpy as np

from ironstone.formats.registry import RawArray, RawStep


def read(path):
    rows = np.loadtxt(path, ndmin=2)
    count = len(rows)
    chain = np.stack([np.arange(count - 1), np.arange(1, count)], axis=1)
    yield RawStep(
        rows[:, :3],
        np.full(count - 1, 3, dtype=np.uint8),
        2 * np.arange(count, dtype=np.int64),
        chain.ravel().astype(np.int64),
        {"temperature": RawArray(rows[:, 3:4])},
    )
'''
LINE = '    ".unv": "ironstone.formats.universal",\n'


def test_a_format_is_a_module_and_a_line(tmp_path: Path) -> None:
    """Taken in by its suffix in the reader's own process, offered to be picked in the page."""
    source = tmp_path / "src"
    shutil.copytree(ROOT / "src" / "ironstone", source / "ironstone", ignore=shutil.ignore_patterns("static"))
    registry = source / "ironstone" / "formats" / "registry.py"
    text = registry.read_text()
    assert text.count(LINE) == 1
    registry.write_text(text.replace(LINE, LINE + '    ".chain": "ironstone.formats.chain",\n'))
    (source / "ironstone" / "formats" / "chain.py").write_text(FORMAT)
    file, review = tmp_path / "rope.chain", tmp_path / "r.ironstone"
    file.write_text("0 0 0 20\n1 0 0 25\n2 0 0 30\n")
    run(source, "-m", "ironstone", "intake", str(review), str(file))
    command = ["-m", "ironstone", "read", str(review), "--field", "temperature", "--at", "point:0.5,0,0", "--json"]
    assert json.loads(run(source, *command))["values"][0]["value"] == pytest.approx(22.5)
    offered = "from ironstone.formats.registry import READERS; print('.chain' in READERS)"
    assert run(source, "-c", offered).strip() == "True"
