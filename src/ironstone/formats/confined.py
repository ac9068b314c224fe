"""Bounds of the process that reads files: how much memory it may take, and that it ends with the process that started it."""

from __future__ import annotations

import ctypes
import os
import resource
import signal
import sys

from ironstone.formats import memory

# Half of the machine's memory, no less than this where the machine has it.
LEAST = 4 * 1024**3


def memory_limit() -> int:
    """How many bytes of memory a reader may take: half of what there is for this process."""
    whole = memory.allowed()
    return max(whole // 2, min(LEAST, whole))


def limit_words() -> str:
    return f"{memory_limit() / 1024**3:.3g} GB, half of {memory.where()}"


def confine() -> None:
    """Bound this process: memory by the system's limit on its address space, life by its parent's (on Linux)."""
    limit = memory_limit()
    resource.setrlimit(resource.RLIMIT_AS, (limit, limit))
    parent = os.getppid()
    if sys.platform == "linux":
        set_death_signal = 1
        ctypes.CDLL(None).prctl(set_death_signal, signal.SIGKILL)
        if os.getppid() != parent:
            os._exit(1)
