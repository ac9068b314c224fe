"""Starts the service on a review."""

from __future__ import annotations

from pathlib import Path

import uvicorn

from ironstone.core.errors import IronstoneError
from ironstone.service.app import STATIC, create_app
from ironstone.store import Review


def serve(review: Path, port: int) -> None:
    """Serve a review on 127.0.0.1 until stopped."""
    if not STATIC.is_dir():
        raise IronstoneError("The bench has not been built.", "Run 'make build' once.")
    opened = Review.open(review) if review.exists() else Review.create(review)
    with opened:
        print(f"Ironstone Ridge: the bench is at http://127.0.0.1:{port}", flush=True)
        uvicorn.run(create_app(opened), host="127.0.0.1", port=port, log_level="warning")
