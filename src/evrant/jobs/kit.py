"""The search for the best kit as a long job."""

from collections.abc import Callable
from hashlib import sha256
from typing import Any

from evrant.catalogue import load
from evrant.core.search.kit.result import best_kit
from evrant.core.studio.studio import Studio
from evrant.store.jobs import Jobs, LongJob

KIND = "kit"


def ask_for_kit(jobs: Jobs, key: str, studio: Studio, budget: float, lonely: bool = False) -> str:
    """Queue the search for a studio's best kit under a budget; the same question gets the same job.

    What the search sees is kept with the job, so that any worker can do it and later edits do not change the
    question. `lonely`: what is planned is only on offer, at its price, and no set is kept.
    """
    seen = studio
    if lonely:
        offered = (item if item.status == "owned" else item.changed(status="considered") for item in studio.gear)
        seen = studio.changed(gear=tuple(offered), sets=())
    document = seen.model_dump(mode="json", by_alias=True, exclude_none=True)
    content = sha256(f"{key} {budget:.2f} {seen.dump_json()}".encode()).hexdigest()
    return jobs.ask(key, KIND, f"{KIND}-{content[:40]}", {"studio": document, "budget": budget})


def find_kit(job: LongJob, tell: Callable[[str, Any], None], stop: Callable[[], bool]) -> dict[str, Any]:
    """Do the search. What is found on the way is told, so that a page can show it."""
    studio = Studio.model_validate(job.asked["studio"])
    return dict(best_kit(studio, load().all(), float(job.asked["budget"]), tell=tell, stop=stop))
