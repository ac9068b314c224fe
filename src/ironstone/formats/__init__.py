"""Open file formats, one module each. A module registers the suffixes it reads; adding a format touches nothing else."""

from __future__ import annotations

from ironstone.formats.registry import READERS, register
from ironstone.formats.series import dump, end_ahead, keep_readers, load, numbered_order, read_series, readers_kept, start_ahead

__all__ = [
    "READERS", "dump", "end_ahead", "keep_readers", "load", "numbered_order", "read_series", "readers_kept", "register",
    "start_ahead",
]  # fmt: skip
