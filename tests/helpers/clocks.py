"""A clock for tests whose answer must not hang on how busy the machine is."""

import time

SLOWER = 8.0


def patient() -> float:
    """Seconds that pass at an eighth of their speed: a search that is given some has as much work as it wants."""
    return time.perf_counter() / SLOWER
