"""How much memory this process may take: what the machine has, or less where the system bounds it (a limit, a control group)."""

from __future__ import annotations

import os
import resource
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

# Where Linux says what a control group may take: of its second and its first version.
BOUNDS = (Path("/sys/fs/cgroup/memory.max"), Path("/sys/fs/cgroup/memory/memory.limit_in_bytes"))


def machine() -> int:
    """Bytes of memory the machine has."""
    return os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")


def allowed() -> int:
    """Bytes of memory this process may take at most."""
    return min(machine(), *_bounds())


def where() -> str:
    """Whose memory that is, in words."""
    return "this machine's" if allowed() == machine() else "what this process is allowed"


def _bounds() -> Iterator[int]:
    yield machine()
    for kind in (resource.RLIMIT_AS, resource.RLIMIT_DATA):
        soft, _ = resource.getrlimit(kind)
        if soft != resource.RLIM_INFINITY:
            yield soft
    for path in BOUNDS:
        with suppress(OSError, ValueError):
            yield int(path.read_text())
