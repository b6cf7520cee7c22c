"""The database goes away and comes back: a clear answer meanwhile, nothing lost, and no restart of the app."""

import httpx
import pytest
from conftest import CHECKOUT
from helpers.studios import demo

from evrant.store import cluster
from evrant.store.migrate import migrate
from evrant.store.repository import Repository, engine_for
from store.test_kill import serving


@pytest.fixture
def own() -> "cluster.Cluster":
    return cluster.start(CHECKOUT, fresh=True, name="pg-restart")


def edit(height: float) -> dict[str, object]:
    return {"verb": "set", "target": "room", "fields": {"height": height}}


def test_the_app_survives_a_crash_of_the_database(own: cluster.Cluster) -> None:
    engine = engine_for(own.url())
    migrate(engine)
    studio_id = Repository(engine).create(demo(), label="Demo").studio_id
    address = f"/studios/{studio_id}/edits"
    try:
        with serving(own.url(), cluster.free_port()) as (_, client):
            first = client.post(address, json={"edit_id": "edit-one", "revision": 1, "edit": edit(2.4)})
            assert first.status_code == 200
            cluster.kill(own.folder)
            away = client.post(address, json={"edit_id": "edit-two", "revision": 2, "edit": edit(2.5)})
            assert away.status_code == 503 and "try again" in away.text
            again = _start_on(own)
            assert again.port == own.port
            back = client.post(address, json={"edit_id": "edit-two", "revision": 2, "edit": edit(2.5)})
            assert back.status_code == 200 and back.json()["revision"] == 3
            page = client.get(f"/studios/{studio_id}/room")
            assert page.status_code == 200 and "2.5 m" in page.text
        newest = Repository(engine_for(own.url())).newest(studio_id)
        assert newest.number == 3 and newest.studio.room.height is not None
    finally:
        engine.dispose()
        cluster.stop(own.folder)


def _start_on(own: cluster.Cluster) -> cluster.Cluster:
    """The same cluster on the port it had."""
    cluster._start(own.folder, own.port, cluster.find_binaries(), cluster._account())
    return cluster.Cluster(own.folder, own.port, own.password, own.key)


def test_a_cluster_killed_with_its_starter_is_taken_up_again(own: cluster.Cluster) -> None:
    """What a killed start leaves behind: a stale pid file and files as a crash leaves them."""
    engine = engine_for(own.url())
    migrate(engine)
    studio_id = Repository(engine).create(demo(), label="Demo").studio_id
    engine.dispose()
    cluster.kill(own.folder)
    (own.folder / "data" / "postmaster.pid").write_text("999999\n/nowhere\n0\n1\n")
    again = cluster.start(CHECKOUT, name="pg-restart")
    try:
        assert Repository(engine_for(again.url())).newest(studio_id).studio == demo()
    finally:
        cluster.stop(again.folder)


def test_a_page_of_another_day_is_told_to_reload(own: cluster.Cluster) -> None:
    """The token is a cookie's twin; without it nothing is changed and the words say what to do."""
    migrate(engine_for(own.url()))
    try:
        with serving(own.url(), cluster.free_port()) as (_, client):
            refused = httpx.post(f"{client.base_url}/studios", data={"name": "x"}, trust_env=False)
            assert refused.status_code == 403 and "reload" in refused.text
    finally:
        cluster.stop(own.folder)
