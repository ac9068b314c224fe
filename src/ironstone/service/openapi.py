"""Prints the OpenAPI description, from which the front end's client is generated."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

from ironstone.service.app import create_app
from ironstone.store import Review


def main() -> None:
    with tempfile.TemporaryDirectory() as folder, Review.create(Path(folder) / "empty.ironstone") as review:
        print(json.dumps(create_app(review).openapi(), indent=1, sort_keys=True))


if __name__ == "__main__":
    main()
