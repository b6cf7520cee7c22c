"""The start command: database, migrations, demo studios, a worker, the app, and a clean stop."""

import contextlib
import logging
import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import uvicorn
from sqlalchemy import Engine
from uvicorn.supervisors import multiprocess

from evrant.core.search.warm import warm
from evrant.demo import NAMES, demo_studio
from evrant.jobs.worker import WITH_STARTER
from evrant.store import cluster
from evrant.store.migrate import migrate
from evrant.store.repository import Repository, engine_for
from evrant.web.app import create_app
from evrant.web.asgi import Made
from evrant.web.hosting import LOOPBACK, Hosting, Unhostable, hosting_of
from evrant.web.leaving import Leaving, Watched
from evrant.web.memory import allowed, keep_within
from evrant.web.telling import tell_in

CHECKOUT = Path(__file__).parents[3]
WANTED_PORT = 8321
_LOG = logging.getLogger("evrant.serve")


LOOK_AFTER = 1.0
"""Seconds between two looks at what was started."""
WAIT_MOST = 30.0


def serve(port: int, *, fresh: bool = False, workers: int = 1, bind: str = "127.0.0.1") -> int:
    """Run until interrupted or told to end. Returns the exit status. `bind`: the address listened on, loopback unless
    it is hosted; `workers`: how many processes answer."""
    signal.signal(signal.SIGTERM, _end)
    try:
        hosting, _ = hosting_of(), allowed()
        if bind not in LOOPBACK and not hosting.on:
            raise Unhostable("Without sign-in it is served on this machine only. Set EVRANT_ADDRESS (docs/hosting.md).")
    except Unhostable as fault:
        print(fault, file=sys.stderr)
        return 2
    tell_in(os.environ.get("EVRANT_LOG", ""))
    try:
        with database(fresh=fresh) as url:
            engine = engine_for(url)
            migrate(engine)
            if not hosting.on:
                load_demos(engine)
            warm()
            with worker(url):
                return _run(engine, url, hosting, bind, port, workers)
    except cluster.ClusterFault as fault:
        print(fault, file=sys.stderr)
        return 3


def _end(number: int, frame: object) -> None:
    """Told to end: as if the work were done, so that everything that was started is stopped."""
    raise SystemExit(0)


@contextlib.contextmanager
def database(*, fresh: bool = False) -> Iterator[str]:
    """Address of a database: EVRANT_DATABASE_URL, or the checkout's own cluster: started again when it goes down,
    stopped at the end."""
    given = os.environ.get("EVRANT_DATABASE_URL")
    if given:
        yield given.replace("postgresql://", "postgresql+psycopg://", 1)
        return
    own = cluster.start(CHECKOUT, fresh=fresh)
    mine = cluster.claim(own.folder)
    try:
        with looked_after(lambda: cluster.keep_up(own)) if mine else contextlib.nullcontext():
            yield own.url()
    finally:
        if mine:
            cluster.stop(own.folder)


@contextlib.contextmanager
def looked_after(look: Callable[[], None]) -> Iterator[None]:
    """Meanwhile, `look` is called again and again; what it raises is logged and waited out, longer each time."""
    over = threading.Event()

    def watch() -> None:
        wait = LOOK_AFTER
        while not over.wait(wait):
            try:
                look()
                wait = LOOK_AFTER
            except Exception:
                _LOG.exception("What was started could not be kept up; it is tried again.")
                wait = min(wait * 2, WAIT_MOST)

    thread = threading.Thread(target=watch, daemon=True, name="looks after what was started")
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join(WAIT_MOST)


SECRETS = frozenset({"EVRANT_DATABASE_URL", "EVRANT_METRICS_WORD"})
"""What is not handed on by environment, where every process of the account could read it."""


class Kept:
    """A worker process, started again when it ends by itself."""

    def __init__(self, url: str) -> None:
        self._address = url.replace("postgresql+psycopg://", "postgresql://", 1)
        self._environment = {key: value for key, value in os.environ.items() if key not in SECRETS}
        self._environment[WITH_STARTER] = str(os.getpid())
        self.process = self._begin()

    def _begin(self) -> "subprocess.Popen[bytes]":
        command = [sys.executable, "-m", "evrant.cli", "worker", "--address-on-stdin"]
        begun = subprocess.Popen(command, env=self._environment, stdin=subprocess.PIPE, start_new_session=True)
        assert begun.stdin is not None
        with contextlib.suppress(BrokenPipeError):
            begun.stdin.write(f"{self._address}\n".encode())
            begun.stdin.close()
        return begun

    def look(self) -> None:
        if self.process.poll() is not None:
            _LOG.warning("The worker ended (%s); another is started.", self.process.returncode)
            self.process = self._begin()

    def stop(self) -> None:
        self.process.terminate()
        try:
            self.process.wait(6)
        except subprocess.TimeoutExpired:
            self.process.kill()


@contextlib.contextmanager
def worker(url: str) -> Iterator[Kept]:
    """A worker for long jobs in a process of its own, so that pages stay quick; kept up, and stopped at the end."""
    own = Kept(url)
    try:
        with looked_after(own.look):
            yield own
    finally:
        own.stop()


def load_demos(engine: Engine) -> None:
    """The demo studios, once: deleting or changing them is the user's business."""
    store = Repository(engine)
    for name in NAMES:
        store.create(demo_studio(name), label="Demo studio", edit_id=f"demo-{name}")


def _run(engine: Engine, url: str, hosting: Hosting, bind: str, port: int, workers: int) -> int:
    """Listen first, then say so: the address works from the moment it is printed."""
    try:
        listening = _listen(bind, port)
    except OSError as fault:
        print(f"Port {port} cannot be used ({fault.strerror}); try another with --port.", file=sys.stderr)
        return 3
    chosen = listening.getsockname()[1]
    hosts = [hosting.host] if hosting.on else [f"127.0.0.1:{chosen}", f"localhost:{chosen}"]
    print(f"Evrant is ready: {hosting.address or f'http://127.0.0.1:{chosen}'}   (stop with Ctrl-C)", flush=True)
    if workers > 1:
        return _many(Made(url, tuple(hosts), hosting), listening, workers)
    keep_within()
    app = create_app(engine, hosts, hosting=hosting)
    uvicorn.Server(uvicorn.Config(app, **_settings())).run(sockets=[listening])
    return 0


def _settings() -> dict[str, Any]:
    """How uvicorn runs it. Whose word on the asker's address is taken: proxies on this machine, or those named."""
    return {
        "log_level": "warning",
        "access_log": False,
        "log_config": None,
        "server_header": False,
        "proxy_headers": True,
        "forwarded_allow_ips": os.environ.get("EVRANT_PROXIES", "127.0.0.1"),
        "timeout_graceful_shutdown": 25,
    }


def _many(made: Made, listening: socket.socket, workers: int) -> int:
    """Several processes on one socket, each started again when it ends."""
    for name in SECRETS:
        os.environ.pop(name, None)
    settings = {**_settings(), "http": Leaving, "timeout_worker_healthcheck": 60}
    config = uvicorn.Config(made, factory=True, workers=workers, **settings)
    multiprocess.Process = Watched  # type: ignore[misc]  # there is no other way to say which
    multiprocess.Multiprocess(config, [listening]).run()
    return 0


def _listen(bind: str, port: int) -> socket.socket:
    """A listening socket; any free port when the usual one is taken."""
    for candidate in (port, 0) if port == WANTED_PORT else (port,):
        listening = socket.socket()
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listening.bind((bind, candidate))
            listening.listen(512)
        except OSError:
            listening.close()
            if candidate == 0 or port != WANTED_PORT:
                raise
        else:
            return listening
    raise OSError("no port")
