"""Times 200 edits and 200 previews of a drag over HTTP on the demo studio: write, ledger, drawing and page, as a
browser gets them; then 100 edits as a hand makes them, which rests and sees the ledger before it lets go.

Starts its own database and app and prints one JSON line. Shares are parts of the server's median
answer, from its Server-Timing header. The bare page is a SELECT 1 page of the same app in the same
run; the 50-set figure is that of a studio with 50 sets and 150 items.
"""

import json
import os
import random
import statistics
import subprocess
import sys
import time
from pathlib import Path

import httpx

from evrant.catalogue import load
from evrant.core.studio.studio import Studio
from evrant.demo import demo_studio
from evrant.store import cluster
from evrant.store.migrate import migrate
from evrant.store.repository import Repository, engine_for

CHECKOUT = Path(__file__).parents[1]
EDITS = 200
SERVER = """
import sys, uvicorn
from evrant.store.repository import engine_for
from evrant.web.app import create_app
port = int(sys.argv[2])
app = create_app(engine_for(sys.argv[1]), [f"127.0.0.1:{port}"])
uvicorn.run(app, host="127.0.0.1", port=port, log_level="error", access_log=False)
"""


def large_studio() -> Studio:
    """The demo with 50 sets and 150 items."""
    demo = demo_studio("adoption-corner")
    sets = tuple(
        plan.changed(id=f"{plan.id}-{n}", name=f"{plan.name[:60]} {n}") for n in range(24) for plan in demo.sets
    )
    library, n = load().all(), 0
    gear = list(demo.gear)
    while len(gear) < 150:
        item = library[n % len(library)]
        gear.append(item.changed(id=f"{item.id[:36]}-x{n}", status="considered"))
        n += 1
    return demo.changed(name="Fifty sets", sets=demo.sets + sets, gear=tuple(gear))


def time_edits(client: httpx.Client, studio_id: str, count: int) -> tuple[list[float], dict[str, list[float]]]:
    """Seconds of each edit, and milliseconds of its parts."""
    random.seed(1)
    times: list[float] = []
    parts: dict[str, list[float]] = {"database": [], "ledger": [], "drawing": []}
    for n in range(count):
        edit = {
            "verb": "set",
            "target": "sets/kneeling-a/lights/key",
            "fields": {"x": round(random.uniform(1.5, 2.0), 4), "y": round(random.uniform(1.8, 2.2), 4)},
        }
        headers = {"HX-Request": "true", "X-Evrant-Page": "sets/kneeling-a", "X-Evrant-Revision": str(n + 1)}
        began = time.perf_counter()
        answer = client.post(
            f"/studios/{studio_id}/edits", data={"edit": json.dumps(edit), "edit_id": f"bench-{n:06d}"}, headers=headers
        )
        times.append(time.perf_counter() - began)
        answer.raise_for_status()
        found = dict(part.split(";dur=") for part in answer.headers["Server-Timing"].split(", "))
        for name, values in parts.items():
            values.append(float(found[name]))
    return times, parts


def time_previews(client: httpx.Client, studio_id: str, revision: int, part: str, count: int) -> list[float]:
    """Seconds of each preview while a light is dragged: of the `drawing`, which follows every movement, or of the
    `whole` with its ledger, which follows now and then and when the hand rests."""
    random.seed(2)
    times = []
    for _ in range(count):
        fields = {"x": round(random.uniform(1.5, 2.0), 4), "y": round(random.uniform(1.8, 2.2), 4)}
        edit = {"verb": "set", "target": "sets/kneeling-a/lights/key", "fields": fields}
        headers = {"HX-Request": "true", "X-Evrant-Page": "sets/kneeling-a", "X-Evrant-Revision": str(revision)}
        headers |= {"X-Evrant-Part": part, "X-Evrant-Turn": "0.3"}
        began = time.perf_counter()
        answer = client.post(f"/studios/{studio_id}/preview", data={"edit": json.dumps(edit)}, headers=headers)
        times.append(time.perf_counter() - began)
        answer.raise_for_status()
    return times


def time_drops(client: httpx.Client, studio_id: str, count: int) -> list[float]:
    """Seconds of each edit that was looked at with its ledger before it was made, at the sheet's own turn."""
    random.seed(3)
    page = client.get(f"/studios/{studio_id}/sets/kneeling-a").text
    turn = page.split('data-turn="')[1].split('"')[0]
    times = []
    for n in range(count):
        fields = {"x": round(random.uniform(1.5, 2.0), 4), "y": round(random.uniform(1.8, 2.2), 4)}
        edit = json.dumps({"verb": "set", "target": "sets/kneeling-a/lights/key", "fields": fields})
        headers = {"HX-Request": "true", "X-Evrant-Page": "sets/kneeling-a", "X-Evrant-Revision": str(n + 1)}
        looked = headers | {"X-Evrant-Part": "whole", "X-Evrant-Turn": turn}
        client.post(f"/studios/{studio_id}/preview", data={"edit": edit}, headers=looked).raise_for_status()
        began = time.perf_counter()
        answer = client.post(
            f"/studios/{studio_id}/edits", data={"edit": edit, "edit_id": f"drop-{n:06d}"}, headers=headers
        )
        times.append(time.perf_counter() - began)
        answer.raise_for_status()
    return times


def percentile(values: list[float], share: float) -> float:
    return sorted(values)[min(int(share * len(values)), len(values) - 1)]


def main() -> None:
    own = cluster.start(CHECKOUT, fresh=True, name="pg-bench")
    port = cluster.free_port()
    environment = os.environ | {"OPENBLAS_NUM_THREADS": "1"}
    engine = engine_for(own.url())
    migrate(engine)
    store = Repository(engine)
    server = subprocess.Popen([sys.executable, "-c", SERVER, own.url(), str(port)], env=environment)
    try:
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60, trust_env=False) as client:
            for _ in range(400):
                try:
                    client.get("/bare")
                    break
                except httpx.HTTPError:
                    time.sleep(0.05)
            client.headers["X-Evrant-Token"] = client.cookies["evrant_token"]
            demo = store.create(demo_studio("adoption-corner"), label="bench").studio_id
            large = store.create(large_studio(), label="bench").studio_id
            time_edits(client, store.create(demo_studio("adoption-corner"), label="warm").studio_id, 10)
            times, parts = time_edits(client, demo, EDITS)
            big, _ = time_edits(client, large, EDITS // 2)
            drags = time_previews(client, demo, EDITS + 1, "drawing", EDITS)
            judged = time_previews(client, demo, EDITS + 1, "whole", EDITS)
            drops = time_drops(client, store.create(demo_studio("adoption-corner"), label="drop").studio_id, EDITS // 2)
            bare = []
            for _ in range(EDITS):
                began = time.perf_counter()
                client.get("/bare")
                bare.append(time.perf_counter() - began)
        middle = statistics.median(times)
        print(
            json.dumps(
                {
                    "p50_ms": round(middle * 1000, 1),
                    "p95_ms": round(percentile(times, 0.95) * 1000, 1),
                    "p95_ms_50_sets": round(percentile(big, 0.95) * 1000, 1),
                    **{
                        f"share_{name}": round(statistics.median(values) / 1000 / middle, 3)
                        for name, values in parts.items()
                    },
                    "ratio_to_bare_page": round(middle / statistics.median(bare), 1),
                    "after_preview_p50_ms": round(statistics.median(drops) * 1000, 1),
                    "after_preview_p95_ms": round(percentile(drops, 0.95) * 1000, 1),
                    "after_preview_ratio_to_bare_page": round(statistics.median(drops) / statistics.median(bare), 1),
                    "preview_p50_ms": round(statistics.median(drags) * 1000, 1),
                    "preview_p95_ms": round(percentile(drags, 0.95) * 1000, 1),
                    "preview_ratio_to_bare_page": round(statistics.median(drags) / statistics.median(bare), 1),
                    "preview_judged_p50_ms": round(statistics.median(judged) * 1000, 1),
                    "preview_judged_p95_ms": round(percentile(judged, 0.95) * 1000, 1),
                }
            )
        )
    finally:
        server.kill()
        server.wait()
        engine.dispose()
        cluster.stop(own.folder)


if __name__ == "__main__":
    main()
