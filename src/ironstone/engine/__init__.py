"""Questions and answers: all that can be asked of a review and kept in it. Nothing above this has rules of its own.

A module here that defines a ``Question`` or a ``Kept`` with a ``kind`` is found by itself; service, command line and Python follow.
"""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")
