"""What the process holds of the machine's memory: few heaps, and what is free in them given back.

The C library gives each thread a heap of its own, and what is worked out on some ten threads leaves all of them full of
holes: of 700 MB after random work 200 were such. Where it has no such settings, nothing is done.
"""

from __future__ import annotations

import ctypes
import threading
from typing import Any

ARENA_MAX, HEAPS = -8, 2  # of mallopt (malloc.h)


def _library() -> Any:
    return ctypes.CDLL(None)


def few_heaps() -> None:
    """Let all threads share two heaps; called before the first of them starts."""
    setting = getattr(_library(), "mallopt", None)
    if setting is not None:
        setting(ARENA_MAX, HEAPS)


def give_back() -> None:
    """Give free memory back to the system, beside the work: some 10 ms."""
    trim = getattr(_library(), "malloc_trim", None)
    if trim is not None:
        threading.Thread(target=trim, args=(0,), name="memory", daemon=True).start()
