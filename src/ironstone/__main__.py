"""The entry point of the command line, as ``ironstone`` and as ``python -m ironstone``."""

from __future__ import annotations

import atexit
import gc
import sys
from importlib import import_module
from pathlib import Path


def module_of(command: str) -> str:
    """The module that has a command, found in the modules' text; the one that has all where none is named or known."""
    for path in (Path(__file__).parent / "cli").glob("*.py"):
        if f'@app.command("{command}")' in path.read_text(encoding="utf-8"):
            return f"ironstone.cli.{path.stem}"
    return "ironstone.cli.every"


def main() -> None:
    # What is loaded stays to the end: to look through it for garbage, again and again and once more at the end, takes a fifth of a
    # short command's time.
    gc.set_threshold(50_000, 20, 50)
    atexit.register(gc.freeze)
    import_module(module_of(sys.argv[1] if len(sys.argv) > 1 else ""))
    from ironstone.cli.base import app

    app()


if __name__ == "__main__":
    main()
