"""The start command: database, migrations, demo studios, app, and a clean stop."""

import contextlib
import os
import socket
import sys
from collections.abc import Iterator
from pathlib import Path

import uvicorn
from sqlalchemy import Engine

from evrant.demo import NAMES, demo_studio
from evrant.store import cluster
from evrant.store.migrate import migrate
from evrant.store.repository import Repository, engine_for
from evrant.web.app import create_app

CHECKOUT = Path(__file__).parents[3]
WANTED_PORT = 8321


def serve(port: int, *, fresh: bool = False) -> int:
    """Run until interrupted. Returns the exit status."""
    try:
        with database(fresh=fresh) as url:
            engine = engine_for(url)
            migrate(engine)
            load_demos(engine)
            return _run(engine, port)
    except cluster.ClusterFault as fault:
        print(fault, file=sys.stderr)
        return 3


@contextlib.contextmanager
def database(*, fresh: bool = False) -> Iterator[str]:
    """Address of a database: EVRANT_DATABASE_URL, or the checkout's own cluster, stopped at the end."""
    given = os.environ.get("EVRANT_DATABASE_URL")
    if given:
        yield given.replace("postgresql://", "postgresql+psycopg://", 1)
        return
    own = cluster.start(CHECKOUT, fresh=fresh)
    try:
        yield own.url()
    finally:
        cluster.stop(own.folder)


def load_demos(engine: Engine) -> None:
    """The demo studios, once: deleting or changing them is the user's business."""
    store = Repository(engine)
    for name in NAMES:
        store.create(demo_studio(name), label="Demo studio", edit_id=f"demo-{name}")


def _run(engine: Engine, port: int) -> int:
    chosen = port if port != WANTED_PORT or _free(port) else cluster.free_port()
    hosts = [f"127.0.0.1:{chosen}", f"localhost:{chosen}"]
    app = create_app(engine, hosts)
    print(f"Evrant is ready: http://127.0.0.1:{chosen}   (stop with Ctrl-C)", flush=True)
    uvicorn.run(app, host="127.0.0.1", port=chosen, log_level="warning", access_log=False)
    return 0


def _free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
        return True
