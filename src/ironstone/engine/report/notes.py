"""Notes are Markdown: as HTML that is safe, and as plain pieces for whoever sets them otherwise."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from markdown_it import MarkdownIt
    from markdown_it.token import Token


def markdown() -> MarkdownIt:
    """Markdown without HTML of its own, without links that run something (the package's own rules) and without pictures."""
    from markdown_it import MarkdownIt

    return MarkdownIt("commonmark", {"html": False}).disable(["image"])


def blocks_of(text: str) -> list[dict[str, Any]]:
    """A note as blocks: {"kind": "p" | "h" | "code" | "rule", "runs": [...]}, {"kind": "ul" | "ol" | "quote", "items": [blocks]}.

    A run is {"text", "strong", "emph", "code"}; a link is its words, with its address behind them where that says more.
    """
    found, _ = _blocks(markdown().parse(text), 0, "")
    return found


LISTS = {"bullet_list_open": "ul", "ordered_list_open": "ol", "blockquote_open": "quote"}


def _blocks(tokens: Sequence[Token], at: int, end: str) -> tuple[list[dict[str, Any]], int]:
    """Blocks up to the token that ends what they are in, and the place after it."""
    found: list[dict[str, Any]] = []
    while at < len(tokens) and tokens[at].type != end:
        token = tokens[at]
        if token.type in LISTS:
            kind, items = LISTS[token.type], []
            at += 1
            if kind == "quote":
                inner, at = _blocks(tokens, at, "blockquote_close")
                items.append(inner)
            else:
                while tokens[at].type == "list_item_open":
                    inner, at = _blocks(tokens, at + 1, "list_item_close")
                    items.append(inner)
                at += 1
            found.append({"kind": kind, "items": items})
            continue
        if token.type == "inline":
            heading = tokens[at - 1].type == "heading_open"
            found.append({"kind": "h" if heading else "p", "runs": _runs(token.children or [])})
        elif token.type in ("fence", "code_block"):
            found.append({"kind": "code", "runs": [_run(token.content.rstrip("\n"), code=True)]})
        elif token.type == "hr":
            found.append({"kind": "rule", "runs": []})
        at += 1
    return found, at + 1


def _runs(children: Sequence[Token]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    strong = emph = 0
    address = ""
    for child in children:
        if child.type in ("strong_open", "strong_close"):
            strong += 1 if child.nesting > 0 else -1
        elif child.type in ("em_open", "em_close"):
            emph += 1 if child.nesting > 0 else -1
        elif child.type == "link_open":
            address = str(child.attrs.get("href", ""))
        elif child.type == "link_close":
            if address and found and found[-1]["text"] != address:
                found.append(_run(f" ({address})", strong > 0, emph > 0))
        elif child.type in ("softbreak", "hardbreak"):
            found.append(_run(" " if child.type == "softbreak" else "\n"))
        elif child.content:
            found.append(_run(child.content, strong > 0, emph > 0, child.type == "code_inline"))
    return found


def _run(text: str, strong: bool = False, emph: bool = False, code: bool = False) -> dict[str, Any]:
    return {"text": text, "strong": strong, "emph": emph, "code": code}
