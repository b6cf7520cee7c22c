"""Work in pieces on both cores: the compiled loops let go of the interpreter while they run."""

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

WORKERS = 2
_POOL = ThreadPoolExecutor(WORKERS, thread_name_prefix="picture")


def in_pieces(count: int, work: Callable[[slice], None], least: int = 256) -> None:
    """Work on a range in pieces of at least so many."""
    piece = max(math.ceil(count / (4 * WORKERS)), least)
    for done in [_POOL.submit(work, slice(k, k + piece)) for k in range(0, count, piece)]:
        done.result()
