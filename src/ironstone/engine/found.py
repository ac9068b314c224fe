"""Which kinds there are of a family (questions, things kept), and in which module of the engine each is written down.

The names are found in the text of the modules; a module is loaded when one of its kinds is asked for. So a command that reads one
value does not load laminates, gauges and all they need.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, MutableMapping
from functools import cached_property
from importlib import import_module
from pathlib import Path
from typing import TypeVar

T = TypeVar("T")

# A class statement with its bases, or the kind among the lines of its body.
_LINES = re.compile(r'^(?:class \w+\((?P<bases>.*)\):|    kind: ClassVar\[str\] = "(?P<kind>[^"]+)")$', re.MULTILINE)


class Kinds(MutableMapping[str, type[T]]):
    """The classes of a family by their kind: those of the engine's modules, and those that anybody else has defined."""

    def __init__(self, family: str) -> None:
        self._family = family
        self._loaded: dict[str, type[T]] = {}

    @cached_property
    def _modules(self) -> dict[str, str]:
        """The module of each kind that is written down in the engine."""
        found = {}
        here = Path(__file__).parent
        for path in sorted(here.rglob("*.py")):
            bases: list[str] = []
            for line in _LINES.finditer(path.read_text(encoding="utf-8")):
                if line["bases"] is not None:
                    bases = line["bases"].split(", ")
                elif self._family in bases:
                    found[line["kind"]] = ".".join([__package__, *path.relative_to(here).with_suffix("").parts])
        return found

    def __getitem__(self, kind: str) -> type[T]:
        if kind not in self._loaded and kind in self._modules:
            import_module(self._modules[kind])
        return self._loaded[kind]

    def __contains__(self, kind: object) -> bool:
        return kind in self._loaded or kind in self._modules

    def __setitem__(self, kind: str, of: type[T]) -> None:
        """Raises TypeError where another class has this kind already."""
        home = self._modules.get(kind, of.__module__)
        known = self._loaded.get(kind, of)
        if home != of.__module__ or (known.__module__, known.__qualname__) != (of.__module__, of.__qualname__):
            raise TypeError(f"There is another {self._family} of the kind '{kind}', in {home}.")
        self._loaded[kind] = of

    def __delitem__(self, kind: str) -> None:
        del self._loaded[kind]

    def __iter__(self) -> Iterator[str]:
        yield from dict.fromkeys([*self._modules, *self._loaded])

    def __len__(self) -> int:
        return len({*self._modules, *self._loaded})
