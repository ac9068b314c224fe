"""What a field is called in sentences: plain words, in place of a name that was written for machines."""

from __future__ import annotations

import re
from collections.abc import Mapping

from ironstone.core.field.fields import Field


def machine_made(name: str) -> bool:
    """Whether a name reads like a program's: a letter or two, capitals throughout with joints, words run together."""
    plain = name.strip()
    joined = re.search(r"[a-z][A-Z]", plain) or "::" in plain
    capitals = plain.upper() == plain and re.search(r"[A-Z]", plain) and re.search(r"[_.:]|[A-Z]{5}", plain)
    return len(plain) <= 2 or bool(joined) or bool(capitals)


def _spaced(name: str) -> str:
    apart = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", " ", name) if re.search(r"[a-z][A-Z]", name) else name
    words = re.split(r"[\s_.:]+", apart.strip())
    kept = [w if len(w) <= 2 else w.lower() for w in words if w]
    return " ".join(kept)


def field_title(name: str, fields: Mapping[str, Field]) -> str:
    """Its name in plain words; of a name made for machines what it is, where no other field is that, else its words apart.

    No two fields of ``fields`` have one title: where plain words would be those of another, the name stays as it is.
    """
    own = _wanted(name, fields)
    if sum(_wanted(n, fields) == own for n in fields) > 1:
        own = name
    return f"'{own}'" if " of " in own or "," in own or ";" in own else own


def _wanted(name: str, fields: Mapping[str, Field]) -> str:
    field = fields.get(name)
    if field is None or not field.stored or not machine_made(name):
        return name.replace("_", " ")
    alone = field.kind and sum(f.kind == field.kind and not f.recovered for f in fields.values()) == 1
    return field.kind if alone else _spaced(name)
