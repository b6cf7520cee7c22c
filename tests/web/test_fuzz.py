"""Anything may be sent to the write path: the answer is a change or a refusal, never a fault of the server."""

import json
from typing import Any

import pytest
from conftest import Live
from helpers.studios import demo
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from evrant.core.judge.ledger import ledger_of
from evrant.core.place.patterns import PATTERNS

NUMBERS = st.one_of(st.integers(-(10**20), 10**20), st.floats(allow_nan=False))
SCALARS = st.one_of(st.none(), st.booleans(), NUMBERS, st.text(max_size=12))


def nested(inner: st.SearchStrategy[Any]) -> st.SearchStrategy[Any]:
    return st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3)


def words(text: str) -> st.SearchStrategy[str]:
    return st.sampled_from(text.split())


ANYTHING = st.recursive(SCALARS, nested, max_leaves=8)
TARGETS = words(
    "room brief studio sets/cat-a sets/cat-a/camera sets/kneeling-a/lights/key gear/octa-90 shots/cat room/footprint "
    "room/doors/door shots/kneeling/subjects/dog brief/schools gear room/slopes room/zones room/diagonals "
    "room/boxes/pipe sets/cat-a/people sets/cat-a/aside sets/dog-a/background sets/dog-a/mark rooms room/footprint/legs"
)
FIELDS = words(
    "height width length x y name price focal lens body budget country aperture iso shutter wall offset power facing "
    "crop kind id angle parts movement moves keep_free front low high run clearance boom aim_x aim_y radius tilt legs"
)
PATTERN = st.sampled_from([*PATTERNS, "nonsense"])
LEG = st.builds(
    lambda i, long, turn: {"id": f"w{i}", "length": long, "turn": turn}, st.integers(0, 9), NUMBERS, NUMBERS
)
LEGS = st.lists(LEG, max_size=6)
THINGS = st.dictionaries(FIELDS, ANYTHING, max_size=4)
EDITS = st.one_of(
    st.builds(lambda t, f: {"verb": "set", "target": t, "fields": f}, TARGETS, THINGS),
    st.builds(lambda t: {"verb": "remove", "target": t}, TARGETS),
    st.builds(lambda t, i: {"verb": "add", "list": t, "item": i}, TARGETS, THINGS),
    st.builds(lambda t, o: {"verb": "reorder", "list": t, "order": o}, TARGETS, st.lists(st.text(max_size=5))),
    st.builds(lambda t, p, d: {"verb": "light", "target": t, "pattern": p, "distance": d}, TARGETS, PATTERN, SCALARS),
    st.builds(lambda t, f: {"verb": "turn", "target": t, "facing": f}, TARGETS, SCALARS),
    st.builds(lambda t: {"verb": "take-room", "target": t}, TARGETS),
    st.builds(lambda t, f: {"verb": "several", "edits": [{"verb": "set", "target": t, "fields": f}]}, TARGETS, THINGS),
    st.builds(lambda n: {"verb": "reshape", "footprint": {"kind": "walls", "legs": n}}, LEGS),
    st.builds(lambda f: {"verb": "reshape", "footprint": f}, ANYTHING),
    st.builds(lambda x, y: {"verb": "shift", "target": "sets/cat-a", "dx": x, "dy": y}, SCALARS, SCALARS),
    ANYTHING,
)


@pytest.fixture
def studio_id(live: Live) -> str:
    return live.store.create(demo(), label="Demo").studio_id


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(EDITS)
def test_no_edit_breaks_the_server_or_the_studio(live: Live, studio_id: str, edit: Any) -> None:
    newest = live.store.newest(studio_id).number
    try:
        body = json.dumps({"edit_id": f"fuzz-{newest}-{abs(hash(str(edit)))}", "revision": newest, "edit": edit})
    except ValueError:
        return
    answer = live.client.post(
        f"/studios/{studio_id}/edits",
        content=body.encode("utf-8", "surrogatepass"),
        headers={"Content-Type": "application/json"},
    )
    assert answer.status_code in (200, 409, 422), answer.text
    after = live.store.newest(studio_id)
    assert (after.number > newest) <= (answer.status_code == 200)
    assert all(m.sentence for m in ledger_of(after.studio).lines)


NAMES = words(
    "target height height.pm height.origin action edit revision name x list shape corners preset item status shot set "
    "kind"
)
ODD = st.sampled_from(["2.4 m", "1/0", "0,0\n1,1", "{}", "[]", "NaN", "1e999 m", "9" * 400])
MORE = words("room-thing shape corners own light ell alcove walls leg pattern person aside arranged keep-room new-room")
WORDS = st.one_of(
    st.text(max_size=20),
    TARGETS,
    words(
        "room-thing shape corners own light ell alcove walls leg pattern person aside arranged keep-room new-room loop"
    ),
    ODD,
)


@settings(max_examples=120, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.dictionaries(NAMES, WORDS, max_size=5),
    st.sampled_from(
        ["", "room", "sets/cat-a", "sets/none", "nonsense", "survey/height", "arrange/cat", "compare/a+b", "rooms"]
    ),
)
def test_no_form_breaks_the_server(live: Live, studio_id: str, form: dict[str, str], page: str) -> None:
    newest = live.store.newest(studio_id).number
    form = {key: text.encode("utf-8", "ignore").decode() for key, text in form.items()}
    answer = live.client.post(
        f"/studios/{studio_id}/edits",
        data=form,
        headers={"HX-Request": "true", "X-Evrant-Revision": str(newest), "X-Evrant-Page": page},
    )
    assert answer.status_code in (200, 204, 409, 422), answer.text
    assert "Traceback" not in answer.text


@pytest.mark.parametrize(
    "query",
    [
        "revision=1",
        "revision=1&set_id=none",
        "revision=1&set_id=cat-a&start=-5&count=-5",
        "revision=1&set_id=cat-a&start=999999&count=999999",
        "revision=99",
        "revision=x",
    ],
)
def test_remedies_of_anything(live: Live, studio_id: str, query: str) -> None:
    assert live.client.get(f"/studios/{studio_id}/remedies?{query}").status_code in (200, 404, 422)


@pytest.mark.parametrize("cookie", ["", "x", "760x", "-1x-1", "1e9x1e9", "nanxnan", "infxinf"])
def test_any_sheet_size(live: Live, studio_id: str, cookie: str) -> None:
    page = live.client.get(
        f"/studios/{studio_id}/sets/cat-a/sheet",
        headers={"Cookie": f"evrant_sheet={cookie}; evrant_token={live.client.cookies['evrant_token']}"},
    )
    assert page.status_code == 200 and "<svg" in page.text and "nan" not in page.text.lower().replace("unanimous", "")


@pytest.mark.parametrize(
    "path",
    ["arrange/none/found", "arrange/none/possible", "lenses/none", "rooms/none", "survey/%00", "compare/%3Cb%3E"],
)
def test_desks_of_things_that_are_not_there(live: Live, studio_id: str, path: str) -> None:
    answer = live.client.get(f"/studios/{studio_id}/{path}")
    assert answer.status_code in (200, 404) and "<b>" not in answer.text.replace("<body", "")
