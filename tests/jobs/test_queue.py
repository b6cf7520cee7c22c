"""Long jobs: killed workers, a restarted database, two workers, cancel, and many jobs drained."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from functools import partial

import pytest
from conftest import CHECKOUT, LONG
from helpers.studios import one_portrait, parse
from sqlalchemy import Engine, text

from evrant.catalogue import load
from evrant.core.search.kit.result import best_kit
from evrant.core.studio.studio import Studio
from evrant.jobs.kit import ask_for_kit
from evrant.jobs.worker import work
from evrant.store import cluster
from evrant.store.jobs import Jobs, LongJob, State

BUDGET = 700.0


def small() -> Studio:
    """A studio whose search takes a few seconds: one shot, only camera, lens and table owned."""
    studio = parse(one_portrait())
    gear = tuple(i.changed(status="owned") for i in studio.gear if i.kind in ("camera", "lens", "table"))
    return studio.changed(gear=gear, sets=())


@pytest.fixture
def jobs(engine: Engine) -> Jobs:
    with engine.begin() as connection:
        connection.execute(text("TRUNCATE long_job, procrastinate_jobs, procrastinate_workers CASCADE"))
    return Jobs(engine)


@pytest.fixture
def start(own_cluster: cluster.Cluster) -> Iterator[Callable[..., subprocess.Popen[bytes]]]:
    """Starts worker processes, and ends them with the test."""
    running: list[subprocess.Popen[bytes]] = []
    url = own_cluster.url().replace("postgresql+psycopg://", "postgresql://", 1)

    def begin(*words: str) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "evrant.cli", "worker", "--heartbeat", "0.5", "--stalled", "4", *words]
        environment = os.environ | {"EVRANT_DATABASE_URL": url, "OPENBLAS_NUM_THREADS": "1"}
        made = subprocess.Popen(command, env=environment, cwd=CHECKOUT, stderr=subprocess.DEVNULL)
        running.append(made)
        return made

    yield begin
    for one in running:
        one.terminate()
    for one in running:
        try:
            one.wait(10)
        except subprocess.TimeoutExpired:
            one.kill()


def until(check: Callable[[], bool], seconds: float = 900.0) -> None:
    """Wait for something, as long as a search of some ten seconds may take beside three other test runs."""
    end = time.monotonic() + seconds
    while not check():
        assert time.monotonic() < end, "it never came"
        time.sleep(0.1)


def all_done(jobs: Jobs, asked: list[str]) -> bool:
    return all(held(jobs, job).state is State.DONE for job in asked)


def held(jobs: Jobs, job: str) -> LongJob:
    found = jobs.find(job)
    assert found is not None
    return found


def test_the_same_question_is_asked_once(jobs: Jobs, engine: Engine) -> None:
    first, again = (ask_for_kit(jobs, "studio-1", small(), BUDGET) for _ in range(2))
    other = ask_for_kit(jobs, "studio-1", small(), BUDGET + 1)
    assert first == again != other
    with engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM procrastinate_jobs")).scalar() == 2
    newest = jobs.newest("studio-1", "kit")
    assert newest is not None and newest.id == other and newest.state is State.WAITING


def test_a_killed_worker_s_job_is_taken_up_again_and_answered_once(
    jobs: Jobs, start: Callable[..., subprocess.Popen[bytes]], engine: Engine
) -> None:
    job = ask_for_kit(jobs, "studio-1", small(), BUDGET)
    first = start()
    until(lambda: held(jobs, job).state is State.RUNNING)
    os.kill(first.pid, signal.SIGKILL)
    first.wait()
    assert held(jobs, job).answer is None or not held(jobs, job).over
    start()
    until(lambda: held(jobs, job).over)
    done = held(jobs, job)
    assert done.state is State.DONE and done.attempts >= 2 and done.answer is not None
    expected = best_kit(small(), load().all(), BUDGET, whole=False)
    assert done.answer["proved"] and done.answer["cost"] == expected["cost"]
    assert {row["key"]: row["count"] for row in done.answer["buy"]} == {
        row["key"]: row["count"] for row in expected["buy"]
    }
    with engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM long_job")).scalar() == 1


def test_a_restarted_database_loses_no_job(
    jobs: Jobs, start: Callable[..., subprocess.Popen[bytes]], own_cluster: cluster.Cluster
) -> None:
    job = ask_for_kit(jobs, "studio-1", small(), BUDGET)
    start()
    until(lambda: held(jobs, job).state is State.RUNNING)
    cluster.stop(own_cluster.folder)
    cluster._start(own_cluster.folder, own_cluster.port, cluster.find_binaries(), cluster._account())
    until(lambda: held(jobs, job).over)
    assert held(jobs, job).state is State.DONE and held(jobs, job).answer is not None


def test_two_workers_do_each_job_once(jobs: Jobs, start: Callable[..., subprocess.Popen[bytes]]) -> None:
    asked = [jobs.ask("studio-1", "alive", f"alive-{number}", {}) for number in range(60)]
    start(), start()
    until(lambda: all(held(jobs, job).over for job in asked))
    assert {held(jobs, job).state for job in asked} == {State.DONE}
    assert {held(jobs, job).attempts for job in asked} == {1}


def test_cancel_before_and_while_it_runs(jobs: Jobs, start: Callable[..., subprocess.Popen[bytes]]) -> None:
    waiting = ask_for_kit(jobs, "studio-1", small(), BUDGET)
    jobs.cancel(waiting)
    assert held(jobs, waiting).state is State.CANCELLED
    again = ask_for_kit(jobs, "studio-1", small(), BUDGET)
    assert again != waiting, "a cancelled question may be asked again"
    start()
    until(lambda: held(jobs, again).state is State.RUNNING and held(jobs, again).progress != "")
    jobs.cancel(again)
    begun = time.monotonic()
    until(lambda: held(jobs, again).over)
    assert held(jobs, again).state is State.CANCELLED and time.monotonic() - begun < 20
    answer = held(jobs, again).answer
    assert answer is None or answer["stopped"]


def test_a_worker_without_an_address_says_so(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.delenv("EVRANT_DATABASE_URL", raising=False)
    assert work() == 2
    assert "EVRANT_DATABASE_URL" in capsys.readouterr().err


def test_an_unknown_kind_fails_with_words(jobs: Jobs, start: Callable[..., subprocess.Popen[bytes]]) -> None:
    job = jobs.ask("studio-1", "else", "else-1", {})
    start("--drain")
    until(lambda: held(jobs, job).over)
    assert held(jobs, job).state is State.FAILED and "else" in held(jobs, job).progress


@pytest.mark.skipif(not LONG, reason="a long form: a thousand jobs by one and by two workers")
def test_a_thousand_jobs_drained_by_one_and_by_two(
    jobs: Jobs, start: Callable[..., subprocess.Popen[bytes]], capsys: pytest.CaptureFixture[str]
) -> None:
    took = []
    for workers in (1, 2):
        asked = [jobs.ask("studio-1", "alive", f"alive-{workers}-{number}", {}) for number in range(1000)]
        begun = time.monotonic()
        for _ in range(workers):
            start("--drain")
        until(partial(all_done, jobs, asked[::97]), 300)
        until(partial(all_done, jobs, asked), 60)
        took.append(time.monotonic() - begun)
    with capsys.disabled():
        print(f"\n1,000 jobs: one worker {took[0]:.1f} s, two {took[1]:.1f} s, ratio {took[0] / took[1]:.2f}")
    assert took[1] < took[0] * 1.5
