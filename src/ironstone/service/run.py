"""Starts the service on a review."""

from __future__ import annotations

import gc
import signal
import socket
import threading
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from types import FrameType

import uvicorn

from ironstone.core.errors import IronstoneError
from ironstone.service.app import STATIC, create_app
from ironstone.store import Review


def _is_free(port: int) -> None:
    """Raise IronstoneError where a port is taken, before anything is said to be there."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise IronstoneError(
                f"Port {port} cannot be had ({error.strerror}).",
                "The bench may be open there already; else choose another with --port.",
            ) from error


def _end_in_order() -> None:
    """Let SIGTERM and SIGHUP end the service as Ctrl+C does, with the review closed: by itself a signal ends a process at once."""

    def end(number: int, _frame: object) -> None:
        raise SystemExit(128 + number)

    if threading.current_thread() is threading.main_thread():
        signal.signal(signal.SIGTERM, end)
        if hasattr(signal, "SIGHUP"):
            # The server knows how to end at a SIGTERM: its requests are answered first.
            signal.signal(signal.SIGHUP, lambda *_: signal.raise_signal(signal.SIGTERM))


class _Server(uvicorn.Server):
    """A server that lets go of those who listen and wait as soon as it is to end."""

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        state = self.config.app.state  # type: ignore[union-attr]
        state.changes.end()
        state.turns.end()
        super().handle_exit(sig, frame)


def serve(review: Path, port: int, folders: Sequence[Path] = ()) -> None:
    """Serve a review, and the others of its folder and of the folders given, on 127.0.0.1 until stopped."""
    if not STATIC.is_dir():
        raise IronstoneError("The bench has not been built.", "Run 'make build' once.")
    _is_free(port)
    # A service lives long and lets large results go: it looks for garbage as usual, whatever the command had chosen for its start.
    gc.set_threshold(700, 10, 10)
    _end_in_order()
    opened = Review.open(review) if review.exists() else Review.create(review)
    with opened:
        app = create_app(opened, folders)
        print(f"Ironstone Ridge: the bench is at http://127.0.0.1:{port}", flush=True)
        print(app.state.turns.said(), flush=True)
        with suppress(KeyboardInterrupt):
            _Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=1)).run()
