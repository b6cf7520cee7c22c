"""What this process holds, and the bound on what its caches may add to it."""

import ctypes
import gc
import os
from pathlib import Path

from evrant.core.base.memo import BUDGET
from evrant.web.hosting import Unhostable

USUAL = 300
"""Megabytes that all caches of a process may hold together, where EVRANT_CACHE_MB says nothing else."""
_PAGE = os.sysconf("SC_PAGE_SIZE")
_STATM = Path("/proc/self/statm")


def held() -> int:
    """Memory this process holds [bytes]."""
    return int(_STATM.read_text().split()[1]) * _PAGE


def give_back() -> None:
    """Hand free memory back to the system, where its library can."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if trim is not None:
        trim(0)


def allowed() -> int:
    """Bytes that all caches of a process may hold together. Raises Unhostable for a setting that is no number."""
    said = os.environ.get("EVRANT_CACHE_MB", "")
    if said and not (said.isascii() and said.isdecimal() and len(said) < 7):
        raise Unhostable("EVRANT_CACHE_MB is a number of megabytes.")
    return 1_000_000 * (int(said) if said else USUAL)


GARBAGE = 10_000
"""New things after which a process looks for rings of them that nothing holds; caches hold many that are none."""


def keep_within() -> None:
    """From now on all caches together hold at most what is allowed, and what is there now is not looked through for
    garbage again."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(GARBAGE, 10, 10)
    BUDGET.watch(allowed(), held, give_back)
