"""The command line: the same engine without a window. Errors go to standard error with exit status 2, never a traceback."""

from __future__ import annotations

# The commands of these register themselves, and are listed in this order.
# isort: off
import ironstone.cli.review
import ironstone.cli.read
import ironstone.cli.gauges
import ironstone.cli.strength
import ironstone.cli.compare
import ironstone.cli.motion
import ironstone.cli.curves
import ironstone.cli.asked
import ironstone.cli.made
import ironstone.cli.recipes
import ironstone.cli.picture
import ironstone.cli.serve  # noqa: F401

# isort: on
from ironstone.cli.base import app

__all__ = ["app"]
