"""Proposals for five answers as a long job: how they are asked for, and the worker's side."""

import os
import time
from collections.abc import Callable
from hashlib import sha256
from typing import Any

from evrant.catalogue import load
from evrant.catalogue.bundles import things
from evrant.core.judge.assumed import deciding
from evrant.core.studio.studio import Studio
from evrant.jobs.aside import start
from evrant.store.jobs import Jobs, LongJob

KIND = "plan"


def pace() -> float:
    """How many times as long each step of a proposal may take here: EVRANT_PACE, for a slow or busy machine; else 1."""
    try:
        return min(max(float(os.environ.get("EVRANT_PACE", "1")), 0.1), 20.0)
    except ValueError:
        return 1.0


def ask_for_plan(jobs: Jobs, key: str, studio: Studio) -> str:
    """Queue proposals for a studio as it is now, its sets aside; the same question gets the same job."""
    seen = asked_of(studio)
    document = seen.model_dump(mode="json", by_alias=True, exclude_none=True)
    content = sha256(f"{key} {seen.dump_json()}".encode()).hexdigest()
    return jobs.ask(key, KIND, f"{KIND}-{content[:40]}", {"studio": document})


def asked_of(studio: Studio) -> Studio:
    """What proposals are made for: the room, the shots and what is owned."""
    owned = tuple(item for item in studio.gear if item.status == "owned")
    return studio.changed(gear=owned, sets=(), accepted=())


def plan_job(job: LongJob, tell: Callable[[str, Any], None], stop: Callable[[], bool]) -> dict[str, Any]:
    """Do it; each proposal is told as it is found, the best first."""
    from evrant.core.search.begin.propose import Proposal, propose
    from evrant.core.search.begin.told import told_assumed, told_of

    studio = Studio.model_validate(job.asked["studio"])
    found: list[Proposal] = []

    def heard(words: str, one: Proposal | None) -> None:
        if one is not None:
            found.append(one)
            found.sort(key=lambda one: one.rank)
        tell(words, {"proposals": [told_of(one) for one in found], "assumed": None} if one is not None else None)

    best = propose(
        studio,
        load().all(),
        pace=pace(),
        tell=heard,
        stop=stop,
        helper=start,
        clock=time.monotonic,
        pocket=things(["telephone"]),
    )
    assumed = told_assumed(deciding(best[0].studio if best else studio, stop))
    return {"proposals": [told_of(one) for one in best], "assumed": assumed}
