"""The search for the best kit as a long job: how it is asked for."""

from hashlib import sha256

from evrant.core.studio.studio import Studio
from evrant.store.jobs import Jobs

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
