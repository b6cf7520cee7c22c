"""A process that is replaced answers what was on its way to it, and keeps nobody waiting."""

import asyncio
import contextlib
import os
import signal
import socket
import threading
import time
from collections.abc import Callable, Iterator
from typing import Any

import pytest
import uvicorn

from evrant.web import leaving
from evrant.web.leaving import Leaving, Watched

ASK = b"GET / HTTP/1.1\r\nHost: studio\r\n\r\n"


LATER = threading.Event()


async def says(scope: dict[str, Any], receive: Any, send: Any) -> None:
    """The smallest app: it answers, to `/later` when it is let."""
    while scope["path"] == "/later" and not LATER.is_set():
        await asyncio.sleep(0.01)
    await send({"type": "http.response.start", "status": 200, "headers": [(b"content-length", b"2")]})
    await send({"type": "http.response.body", "body": b"ok"})


@pytest.fixture
def served() -> Iterator[tuple[int, Callable[[], None], threading.Thread]]:
    listening = socket.socket()
    listening.bind(("127.0.0.1", 0))
    listening.listen(16)
    server = uvicorn.Server(uvicorn.Config(says, http=Leaving, lifespan="off", log_config=None))
    thread = threading.Thread(target=lambda: asyncio.run(server.serve([listening])), daemon=True)
    thread.start()
    end = time.monotonic() + 30
    while not server.started and time.monotonic() < end:
        time.sleep(0.01)

    def leave() -> None:
        server.should_exit = True
        end = time.monotonic() + 30
        while listening.fileno() != -1 and time.monotonic() < end:
            time.sleep(0.01)  # it is closed first, then every connection is told
        time.sleep(0.1)

    yield listening.getsockname()[1], leave, thread
    leave()
    thread.join(30)


def opened(port: int) -> socket.socket:
    line = socket.create_connection(("127.0.0.1", port))
    line.settimeout(30)
    return line


def answer(line: socket.socket) -> bytes:
    said = b""
    with contextlib.suppress(ConnectionResetError):
        while not said.endswith(b"ok") and (more := line.recv(4096)):
            said += more
    return said


def test_what_was_opened_before_the_leave_is_still_answered(
    served: tuple[int, Callable[[], None], threading.Thread], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(leaving, "ROOM_TO_ASK_AGAIN", 10.0)
    LATER.clear()
    port, leave, thread = served
    silent, halfway, asked, kept = (opened(port) for _ in range(4))
    kept.sendall(ASK)
    assert answer(kept).startswith(b"HTTP/1.1 200")
    halfway.sendall(ASK[:20])
    asked.sendall(ASK.replace(b"/ ", b"/later ", 1))
    time.sleep(0.1)
    leave()
    LATER.set()
    silent.sendall(ASK)
    halfway.sendall(ASK[20:])
    kept.sendall(ASK)
    for line in (silent, halfway, asked, kept):
        said = answer(line)
        assert said.startswith(b"HTTP/1.1 200") and b"connection: close" in said.lower()
        assert line.recv(1) == b"", "and it was the last"
        line.close()
    thread.join(5)
    assert not thread.is_alive(), "nobody is waited for who was answered"


def test_the_silent_are_not_waited_for_without_end(
    served: tuple[int, Callable[[], None], threading.Thread], monkeypatch: pytest.MonkeyPatch
) -> None:
    port, leave, thread = served
    monkeypatch.setattr(leaving, "ROOM_TO_ASK", 0.5)
    line = opened(port)
    time.sleep(0.2)
    leave()
    thread.join(10)
    assert not thread.is_alive() and line.recv(1) == b""
    line.close()


def test_a_process_that_dies_while_it_is_asked_is_missed_at_once() -> None:
    listening = socket.socket()
    listening.bind(("127.0.0.1", 0))
    listening.listen(16)
    process = Watched(uvicorn.Config(says, http=Leaving, lifespan="off", log_config=None), [listening])
    process.start()
    try:
        assert process.wait_until_ready(60) and process.is_alive(30)
        assert process.pid is not None
        for _ in range(2):
            process.parent_conn.send(b"ping")
        assert process.parent_conn.poll(30), "answered, but nobody waits for it any more"
        os.kill(process.pid, signal.SIGSTOP)
        assert os.WIFSTOPPED(os.waitpid(process.pid, os.WUNTRACED)[1]), "it answers no more before it is asked"
        began = time.monotonic()
        threading.Timer(0.5, os.kill, (process.pid, signal.SIGKILL)).start()
        assert not process.ping(60), "asked while it could not answer, then gone"
        assert 0.3 < time.monotonic() - began < 20
    finally:
        process.kill()
        process.join()
        listening.close()
