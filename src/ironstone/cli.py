"""The command line: the same engine without a window. Errors go to standard error with exit status 2, never a traceback."""

from __future__ import annotations

# The commands of these register themselves, and are listed in this order.
# isort: off
import ironstone.cli_review
import ironstone.cli_read
import ironstone.cli_gauges
import ironstone.cli_strength
import ironstone.cli_curves
import ironstone.cli_asked
import ironstone.cli_made
import ironstone.cli_serve  # noqa: F401

# isort: on
from ironstone.cli_base import app

__all__ = ["app"]
