"""What holds of every page there is, found by its declaration: for every demo studio and for an empty one."""

import html
import re

import pytest
from conftest import Live
from helpers.feet import in_feet, metric_in
from helpers.studios import one_portrait, parse

from evrant.core.judge.declared import lines
from evrant.core.judge.ledger import ledger_of
from evrant.core.studio.studio import Studio
from evrant.demo import NAMES, demo_studio
from evrant.web.registry import specs

HTML = {"HX-Request": "true"}
STUDIOS = {name: (lambda name=name: demo_studio(name)) for name in NAMES} | {
    "empty": lambda: Studio(name="Nothing yet"),
    "portrait": lambda: parse(one_portrait()),
}


def addresses(key: str, studio: Studio) -> list[tuple[str, str]]:
    """(page, address) of every page of a studio, for its first set."""
    found = []
    for spec in specs().values():
        if not spec.of_set or (spec.alone and studio.sets):
            found.append((spec.name, f"/studios/{key}/{spec.name}"))
        if spec.of_set and studio.sets:
            found.append((spec.name, f"/studios/{key}/{spec.of_set}/{studio.sets[0].id}"))
    return found


@pytest.mark.parametrize("name", STUDIOS)
def test_every_page_is_whole_and_plain(live: Live, name: str) -> None:
    """It answers, names itself, has one heading of the first order, unique ids, no inline script or style, no gap."""
    studio = STUDIOS[name]()
    key = live.store.create(studio, label="Test").studio_id
    for page, address in addresses(key, studio):
        answer = live.client.get(address)
        assert answer.status_code == 200, (page, answer.text[:200])
        text = answer.text
        assert "<h1" in text and f"page-{page}" in text, page
        ids = re.findall(r'\sid="([^"]+)"', text)
        assert len(ids) == len(set(ids)), (page, [one for one in set(ids) if ids.count(one) > 1])
        assert not re.search(r"\sstyle=|\shx-on|\bon(click|load|error)=|<script(?![^>]*src=)", text), page
        assert not re.search(r">None<|\"None\"|\bnan\b|undefined|Traceback", re.sub(r"<title>.*?</title>", "", text)), (
            page
        )
        assert "unsafe" not in answer.headers["content-security-policy"]


@pytest.mark.parametrize("name", ["adoption-corner", "empty"])
def test_a_fragment_is_the_page_without_its_frame(live: Live, name: str) -> None:
    studio = STUDIOS[name]()
    key = live.store.create(studio, label="Test").studio_id
    for page, address in addresses(key, studio):
        if specs()[page].alone:
            continue
        part = live.client.get(address, headers=HTML).text
        assert part.lstrip().startswith('<div id="page"') and "<!doctype" not in part, page
        assert 'data-studio="' + key in part, page


@pytest.mark.parametrize("name", STUDIOS)
def test_steps_lead_somewhere_and_one_of_them_is_here(live: Live, name: str) -> None:
    studio = STUDIOS[name]()
    key = live.store.create(studio, label="Test").studio_id
    for page, address in addresses(key, studio):
        text = live.client.get(address).text
        rail = re.search(r'<nav class="rail".*?</nav>', text, re.S)
        assert rail is not None, page
        steps = re.findall(r'href="([^"]+)"( aria-current="page")?', rail[0])
        assert len(steps) == sum(bool(spec.word) for spec in specs().values())
        here = [href for href, current in steps if current]
        assert len(here) == (0 if page in ("history", "remarks") else 1), (page, here)


@pytest.mark.parametrize("name", NAMES)
def test_counts_down_the_left_add_up_to_the_title(live: Live, name: str) -> None:
    studio = demo_studio(name)
    key = live.store.create(studio, label="Test").studio_id
    text = live.client.get(f"/studios/{key}/brief").text
    rail = re.search(r'<nav class="rail".*?</nav>', text, re.S)
    assert rail is not None
    counts = [int(one) for one in re.findall(r'class="count"[^>]*>(\d+)<', rail[0])]
    title = re.search(r"(\d+) Short", re.sub(r"<nav.*?</nav>", "", text, flags=re.S))
    assert sum(counts) == (int(title[1]) if title else 0)


@pytest.mark.parametrize("path", ["cellar", "sets/none", "light/none", "support/none/sheet", "sets", "light"])
def test_what_is_no_page_is_not_found(live: Live, path: str) -> None:
    key = live.store.create(demo_studio(NAMES[0]), label="Test").studio_id
    answer = live.client.get(f"/studios/{key}/{path}", headers={"Accept": "text/html"})
    assert answer.status_code == 404 and "All studios" in answer.text


@pytest.mark.parametrize("name", NAMES)
def test_every_page_of_a_studio_in_feet_speaks_of_feet(live: Live, name: str) -> None:
    """What a line rests on is a formula, and stays in its own units."""
    studio = in_feet(demo_studio(name))
    key = live.store.create(studio, label="Test").studio_id
    judged = {one.line for one in ledger_of(studio).lines} | set(lines().values())
    kept = [words for line in judged for words in (line.basis.formula, line.basis.source)]
    kept += ["level at 1 m", "empty: 60 cm, about 2 ft"]
    for page, address in addresses(key, studio):
        text = re.sub(r"<(script|style|title)\b.*?</\1>", " ", live.client.get(address).text, flags=re.S)
        text = " ".join(html.unescape(re.sub(r"<[^>]+>", " ", text)).split())
        for words in kept:
            text = text.replace(" ".join(words.split()), " ")
        assert metric_in(text, studio) == [], page
