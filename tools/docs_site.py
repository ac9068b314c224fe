"""Writes the guide and the reference as pages that are read offline: ``python -m tools.docs_site [FOLDER]`` (docs/site).

The reference is made of the docstrings of what is public, by the package pdoc; the guide by markdown-it.
"""

from __future__ import annotations

import sys
from html import escape
from pathlib import Path

import pdoc
from markdown_it import MarkdownIt

ROOT = Path(__file__).parents[1]
PUBLIC = [
    "ironstone.engine.notebook",
    "ironstone.engine.carrier",
    "ironstone.engine.picture.asked",
    "ironstone.engine.recipes.recipe",
]
PAGES = {"guide": "User guide", "formats": "File formats", "terms": "Terms", "reliability": "Reliability", "speed": "Speed"}
STYLE = """body { font: 16px/1.6 Helvetica, Arial, sans-serif; max-width: 60rem; margin: 2rem auto; padding: 0 1rem;
color: #23282d; background: #fbf9f4; } pre, code { background: #f0ebe0; } pre { padding: .6rem; overflow: auto; }
table { border-collapse: collapse; } td, th { border-bottom: 1px solid #d9d2c4; padding: .2rem .6rem; text-align: left; }"""


def main(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    pdoc.render.configure(show_source=False, search=True)
    # The package itself without all that lies in it, then what else is public.
    pdoc.pdoc("ironstone", r"!ironstone\..*", *PUBLIC, output_directory=folder / "reference")
    reader = MarkdownIt("commonmark", {"html": False}).enable("table")
    links = "".join(f"<a href='{name}.html'>{words}</a> · " for name, words in PAGES.items())
    for name, words in PAGES.items():
        body = reader.render((ROOT / "docs" / f"{name}.md").read_text(encoding="utf-8")).replace(".md#", ".html#")
        page = f"<!doctype html><html lang='en'><head><meta charset='utf-8'><title>{escape(words)}</title>"
        nav = f"<nav>{links}<a href='reference/ironstone.html'>Reference</a></nav>"
        (folder / f"{name}.html").write_text(
            f"{page}<style>{STYLE}</style></head><body>{nav}{body}</body></html>", encoding="utf-8"
        )
    (folder / "index.html").write_text((folder / "guide.html").read_text(encoding="utf-8"), encoding="utf-8")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "site")
