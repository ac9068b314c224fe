"""Open file formats, one module each. A module registers the suffixes it reads; adding a format touches nothing else."""

from __future__ import annotations

from ironstone.formats.registry import READERS, register
from ironstone.formats.series import load, numbered_order, read_series

__all__ = ["READERS", "load", "numbered_order", "read_series", "register"]
