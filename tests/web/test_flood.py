"""Thousands of requests nobody would make: none is a fault of the server, and every studio stays readable."""

from collections.abc import Callable
from functools import partial

import httpx
import pytest
from conftest import CHECKOUT, LONG, Live
from helpers.flood import Asked, Flood
from helpers.studios import one_portrait, parse

from evrant.core.studio.studio import Studio
from evrant.files.document import read_studio

REQUESTS = 100_000 if LONG else 3_000
PER_STUDIO = 250
EXAMPLES = sorted((CHECKOUT / "examples").glob("*.json"))

BEGINNINGS: tuple[Callable[[], Studio], ...] = (
    lambda: parse(one_portrait()),
    *(
        partial(lambda path: read_studio(path.read_bytes()), path)
        for path in EXAMPLES
        if LONG or path.stem == "hazards"
    ),
)


def ask(client: httpx.Client, one: Asked) -> httpx.Response:
    if one.file is not None:
        files = {"file": ("file.bin", one.file, "application/octet-stream")}
        return client.post(one.path, data=one.data, files=files, headers=one.headers)
    if one.body is not None:
        return client.post(one.path, content=one.body, headers=one.headers)
    if one.method == "POST":
        return client.post(one.path, data=one.data, headers=one.headers)
    return client.get(one.path, headers=one.headers)


def test_no_request_is_a_fault_of_the_server(live: Live) -> None:
    sent, round_number, faults = 0, 0, []
    while sent < REQUESTS:
        flood = Flood(round_number)
        begun = BEGINNINGS[round_number % len(BEGINNINGS)]()
        key = live.store.create(begun, label="Flood").studio_id
        until = min(sent + PER_STUDIO, REQUESTS)
        while sent < until:
            newest = live.store.newest(key)
            one = flood.asked(key, newest.studio, newest.number)
            try:
                answer = ask(live.client, one)
            except httpx.InvalidURL:
                continue
            sent += 1
            told = f"seed {round_number}, {one}: {answer.text[:300]}"
            assert "content-security-policy" in answer.headers, told
            if answer.status_code >= 500:
                faults.append(told)
            after = live.store.newest(key)
            if after.number == newest.number:
                continue
            for page in flood.every_page(key, after.studio):
                shown = ask(live.client, page)
                sent += 1
                if shown.status_code >= 500:
                    faults.append(f"after {told}: {page.path}: {shown.text[:300]}")
        live.store.set_archived(key, True)
        round_number += 1
    assert faults == [] and sent >= REQUESTS


@pytest.mark.parametrize("name", ["stand | old", "x__3", "besides", "[b] \"c\" 'd'", "🦔", "\u202eabc"])
def test_one_name_takes_no_page_down(live: Live, name: str) -> None:
    """A stand without a load figure under any name: every page that judges the studio stands."""
    data = one_portrait()
    for item in data["gear"]:
        if item["kind"] == "stand":
            item["name"] = name
            item.pop("load", None)
    studio = parse(data)
    key = live.store.create(studio, label="Named").studio_id
    for page in Flood(0).every_page(key, studio):
        answer = ask(live.client, page)
        assert answer.status_code in (200, 303), (page.path, answer.text[:200])
    shown = live.client.get(f"/studios/{key}/sets/{studio.sets[0].id}").text
    assert "is not entered" in shown
