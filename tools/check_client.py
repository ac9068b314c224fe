"""Fails when the front end's client is not the one generated from the service's own description."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

from tools.addresses import listed
from tools.reading_words import module

ROOT = Path(__file__).resolve().parent.parent
API = ROOT / "web" / "src" / "api"


def main() -> int:
    described = subprocess.run(
        [sys.executable, "-m", "ironstone.service.openapi"], capture_output=True, text=True, check=True
    ).stdout
    stale = described != (API / "openapi.json").read_text()
    stale = stale or module() != (ROOT / "web" / "src" / "bench" / "words.ts").read_text()
    stale = stale or listed() != (ROOT / "web" / "tests" / "addresses.json").read_text()
    with tempfile.TemporaryDirectory() as folder:
        fresh = Path(folder) / "schema.d.ts"
        generate = [str(ROOT / "tools" / "npm"), "exec", "--offline", "--", "openapi-typescript"]
        subprocess.run([*generate, str(API / "openapi.json"), "-o", str(fresh)], capture_output=True, check=True, cwd=ROOT / "web")
        stale = stale or fresh.read_text() != (API / "schema.d.ts").read_text()
    if stale:
        print("The client is stale: run 'make client'.")
    return int(stale)


if __name__ == "__main__":
    raise SystemExit(main())
