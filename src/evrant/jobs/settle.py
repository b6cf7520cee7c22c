"""Settling a studio as a long job: how it is asked for, and the worker's side."""

import time
from collections.abc import Callable
from hashlib import sha256
from typing import Any

from evrant.core.search.causes import causes, told_cause
from evrant.core.search.settle import settle, told
from evrant.core.studio.studio import Studio
from evrant.store.jobs import Jobs, LongJob

KIND = "settle"
SECONDS = 240.0
"""How long it is looked for [s]."""


def ask_to_settle(jobs: Jobs, key: str, studio: Studio) -> str:
    """Queue it for a studio as it is now; the same studio gets the same job."""
    document = studio.model_dump(mode="json", by_alias=True, exclude_none=True)
    content = sha256(f"{key} {studio.dump_json()}".encode()).hexdigest()
    return jobs.ask(key, KIND, f"{KIND}-{content[:40]}", {"studio": document})


def settle_job(job: LongJob, tell: Callable[[str, Any], None], stop: Callable[[], bool]) -> dict[str, Any]:
    """Do it; each remedy taken is told."""
    studio = Studio.model_validate(job.asked["studio"])
    number = 0

    def heard(words: str) -> None:
        nonlocal number
        number += 1
        tell(f"{number}. {words}", None)

    tell("What is behind the lines", None)
    behind = [told_cause(studio, one) for one in causes(studio, stop)]
    return told(settle(studio, seconds=SECONDS, clock=time.monotonic, tell=heard, stop=stop)) | {"causes": behind}
