"""The worker's side of the search for the best kit: only a worker loads the solver."""

import time
from collections.abc import Callable
from typing import Any

from evrant.catalogue import load
from evrant.core.search.kit.result import best_kit
from evrant.core.studio.studio import Studio
from evrant.jobs.aside import start
from evrant.store.jobs import LongJob


def find_kit(job: LongJob, tell: Callable[[str, Any], None], stop: Callable[[], bool]) -> dict[str, Any]:
    """Do the search. What is found on the way is told, so that a page can show it."""
    studio = Studio.model_validate(job.asked["studio"])
    return dict(
        best_kit(
            studio,
            load().all(),
            float(job.asked["budget"]),
            changes=True,
            tell=tell,
            stop=stop,
            helper=start,
            clock=time.perf_counter,
        )
    )
