"""A web process that has shown many studios stays within its bound."""

import os
import subprocess
import sys

from conftest import LONG

from evrant.store.cluster import Cluster
from evrant.web.memory import USUAL

STUDIOS = 500 if LONG else 24
MOST = 700 if LONG else 640
"""Megabytes a process may hold after so many; the short run shows fewer than fill the caches."""
WALK = """
import sys, os
from starlette.testclient import TestClient
from evrant.demo import NAMES, demo_studio
from evrant.store.repository import Repository, engine_for
from evrant.web.asgi import Made
from evrant.web.hosting import Hosting
from evrant.web.memory import held
url, count = sys.argv[1], int(sys.argv[2])
app = Made(url, ("testserver",), Hosting())()
begun = held()
client = TestClient(app, base_url="http://testserver")
store = Repository(engine_for(url))
most = 0
for number in range(count):
    studio = demo_studio(NAMES[number % len(NAMES)])
    height = round(2.3 + 0.001 * number, 3)
    room = studio.room.model_copy(update={"height": type(studio.room.height)(value=height, pm=0.01, origin="tape")})
    studio = studio.changed(name=f"Room {number}", room=room)
    key = store.create(studio, label="walk").studio_id
    for page in ("brief", f"sets/{studio.sets[0].id}", f"light/{studio.sets[-1].id}", "kit"):
        answer = client.get(f"/studios/{key}/{page}")
        assert answer.status_code == 200, (page, answer.status_code)
    most = max(most, held())
    if number % 50 == 49:
        print(number + 1, held() // 10**6, file=sys.stderr, flush=True)
print(begun // 10**6, most // 10**6, held() // 10**6)
"""


def test_many_studios_stay_within_the_bound(own_cluster: Cluster, engine: object) -> None:
    environment = {key: value for key, value in os.environ.items() if not key.startswith("EVRANT_")}
    command = [sys.executable, "-c", WALK, own_cluster.url(), str(STUDIOS)]
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    begun, most, after = map(int, done.stdout.split())
    assert most <= MOST, f"{begun} MB at the start, {most} at most, {after} at the end; the bound is {USUAL} for caches"
