"""Accounts of a hosted server: joining, signing in and out, passwords, tickets, the operator, leaving."""

import hashlib
import io
import zipfile
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import pytest
from helpers.hosted import HOST, HOSTING, PASSWORD, Hosted, hosted_on
from helpers.photographs import plain_jpeg
from helpers.studios import one_portrait, parse
from sqlalchemy import Engine, text
from starlette.testclient import TestClient

from evrant.cli import main
from evrant.core.edits.language import EditRefused
from evrant.core.studio.past import Whole
from evrant.files.whole import read_any
from evrant.store.attempts import Attempts
from evrant.store.people import IDLE, People, Role
from evrant.store.repository import Repository
from evrant.web import signing
from evrant.web.app import create_app
from evrant.web.hosting import Hosting, Unhostable, hosting_of


@pytest.fixture
def hosted(engine: Engine) -> Hosted:
    Attempts(engine).reset()
    return hosted_on(engine)


# --- in and out --------------------------------------------------------------------------------


def test_signed_in_one_finds_ones_studios_and_out_nothing(hosted: Hosted) -> None:
    away = hosted.browser().get("/")
    assert away.status_code == 303 and away.headers["location"] == "/sign-in"
    browser = hosted.someone("Ada Lens")
    page = browser.get("/")
    assert page.status_code == 200 and "Ada Lens" in page.text
    assert browser.post("/sign-out").headers["hx-redirect"] == "/sign-in"
    assert browser.get("/").status_code == 303


def test_one_is_led_back_to_where_one_wanted_and_never_elsewhere(hosted: Hosted) -> None:
    hosted.people.add("Ada Lens", PASSWORD)
    wanted = hosted.browser().get("/studios/3f2a/brief").headers["location"]
    assert wanted == "/sign-in?next=/studios/3f2a/brief"
    browser = hosted.browser()
    answer = browser.post("/sign-in", name="ada lens", password=PASSWORD, next="/studios/3f2a/brief")
    assert answer.headers["hx-redirect"] == "/studios/3f2a/brief"
    for elsewhere in ("https://elsewhere.example", "//elsewhere.example", "/\\elsewhere.example", "javascript:1"):
        assert signing._inside(elsewhere) == "/"


@pytest.mark.parametrize("name", ["Ada Lens", "Nobody Here", "", "x" * 10_000, "a\u0000b", "‮Ada"])
@pytest.mark.parametrize("password", ["wrong words here", "", "p" * 10_000])
def test_a_wrong_sign_in_says_no_more_than_that(hosted: Hosted, name: str, password: str) -> None:
    hosted.people.add("Ada Lens", PASSWORD)
    answer = hosted.browser().post("/sign-in", name=name, password=password)
    assert answer.status_code == 422 and "Name or password is wrong." in answer.text
    assert "evrant_session" not in answer.headers.get("set-cookie", "")


def test_guessing_is_slowed_for_the_name_and_the_right_one_waits_too(hosted: Hosted) -> None:
    hosted.people.add("Ada Lens", PASSWORD)
    browser = hosted.browser()
    codes = [browser.post("/sign-in", name="Ada Lens", password=f"guess number {n}").status_code for n in range(10)]
    assert codes[:8] == [422] * 8 and codes[8:] == [429, 429]
    assert browser.post("/sign-in", name="Ada Lens", password=PASSWORD).status_code == 429
    hosted.people.add("Ben Box", PASSWORD)
    assert browser.post("/sign-in", name="Ben Box", password=PASSWORD).status_code == 204


def test_wrong_passwords_are_counted_by_all_processes_together(hosted: Hosted, engine: Engine) -> None:
    """Guesses shared out between two processes on one database are stopped after as many as with one."""
    hosted.people.add("Ada Lens", PASSWORD)
    second = Hosted(create_app(engine, [HOST], hosting=HOSTING), hosted.people)
    both = [hosted.browser(), second.browser()]
    codes = [both[n % 2].post("/sign-in", name="Ada Lens", password=f"guess {n}").status_code for n in range(10)]
    assert codes == [422] * 8 + [429] * 2
    assert both[1].post("/sign-in", name="Ada Lens", password=PASSWORD).status_code == 429
    counted = Attempts(engine)
    key = signing.OF_NAME.key_for("name ada lens")
    assert counted.get(key) == 8 and counted.check()
    with engine.begin() as connection:
        connection.execute(text("UPDATE attempt SET at = at - interval '11 minutes'"))
    assert both[0].post("/sign-in", name="Ada Lens", password=PASSWORD).status_code == 204
    with engine.begin() as connection:
        connection.execute(text("UPDATE attempt SET at = at - interval '3 hours'"))
    both[0].post("/sign-in", name="Bea Lens", password="a guess of ten")
    with engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM attempt")).scalar_one() == 2, "what is over is forgotten"


def test_many_at_once_get_no_more_guesses_than_one_by_one(engine: Engine) -> None:
    counted = Attempts(engine)
    counted.reset()
    with ThreadPoolExecutor(6) as pool:
        taken = list(pool.map(lambda _: counted.acquire_entry("one", 5, 60), range(24)))
    assert sum(taken) == 5 and counted.get("one") == 5
    counted.clear("one")
    assert counted.get("one") == 0


def test_only_digests_are_kept(hosted: Hosted, engine: Engine) -> None:
    browser = hosted.someone("Ada Lens")
    session = browser.client.cookies["evrant_session"]
    with engine.connect() as connection:
        held = connection.execute(text("SELECT token FROM sign_in")).scalar_one()
        password = connection.execute(text("SELECT password FROM account")).scalar_one()
    assert held == hashlib.sha256(session.encode()).hexdigest() and session not in held
    assert password.startswith("$argon2id$") and PASSWORD not in password


def test_a_sign_in_ends_when_nobody_comes_back(hosted: Hosted, engine: Engine) -> None:
    browser = hosted.someone("Ada Lens")
    assert browser.get("/account").status_code == 200
    with engine.begin() as connection:
        connection.execute(text("UPDATE sign_in SET seen = :then"), {"then": datetime.now(UTC) - IDLE})
    assert browser.get("/account").status_code == 303


@pytest.mark.parametrize("forged", ["", "x", "x" * 4000, "é", "a.b", "' OR 1=1 --"])
def test_a_forged_session_is_nobodys(hosted: Hosted, forged: str) -> None:
    hosted.someone("Ada Lens")
    client = TestClient(hosted.app, base_url=f"http://{HOST}", raise_server_exceptions=False)
    headers = {"Cookie": f"evrant_session={forged}".encode(), "accept": "text/html"}
    assert client.get("/", headers=headers, follow_redirects=False).status_code == 303


def test_a_change_needs_the_token_of_ones_own_sign_in(hosted: Hosted) -> None:
    """Another's token, a token of before the sign-in and a made-up one are none."""
    ada, ben = hosted.someone("Ada Lens"), hosted.someone("Ben Box")
    ben.get("/")
    theirs = ben.client.cookies["evrant_token"]
    ada.get("/")
    session = ada.client.cookies["evrant_session"]
    for token in (theirs, "nonce." + "0" * 64, "", theirs.partition(".")[0]):
        headers = {"Cookie": f"evrant_session={session}; evrant_token={token}", "X-Evrant-Token": token}
        client = TestClient(hosted.app, base_url=f"http://{HOST}", raise_server_exceptions=False)
        assert client.post("/sign-out", headers=headers).status_code == 403
    assert ada.get("/account").status_code == 200


# --- passwords and tickets ---------------------------------------------------------------------


def test_an_invitation_makes_one_account(hosted: Hosted) -> None:
    operator = hosted.someone("Opal", operator=True)
    page = operator.post("/operator/invite").text
    path = page.partition(f"http://{HOST}")[2].partition("\n")[0].partition("<")[0].strip()
    browser = hosted.browser()
    assert browser.get(path).status_code == 200
    short = browser.post(path, name="Cleo", password="short")
    assert short.status_code == 422 and "at least 10 letters" in short.text and 'value="Cleo"' in short.text
    assert browser.post(path, name="opal", password=PASSWORD).status_code == 422, "the name is taken"
    assert browser.post(path, name="Cleo", password=PASSWORD).status_code == 204
    assert "Cleo" in browser.get("/").text
    assert hosted.browser().get(path).status_code == 404, "it is used up"
    assert hosted.browser().get("/invited/cut-off").status_code == 404


def test_a_ticket_ends_after_its_week(hosted: Hosted, engine: Engine) -> None:
    token = hosted.people.hand_out("invitation")
    with engine.begin() as connection:
        connection.execute(text("UPDATE ticket SET ends = :then"), {"then": datetime.now(UTC) - timedelta(seconds=1)})
    assert hosted.browser().get(f"/invited/{token}").status_code == 404
    with pytest.raises(EditRefused, match="week"):
        hosted.people.join(token, "Late", PASSWORD)
    assert hosted.people.named("Late") is None


def test_a_new_password_signs_every_browser_out(hosted: Hosted) -> None:
    ada = hosted.someone("Ada Lens")
    second = hosted.browser()
    second.sign_in("Ada Lens")
    wrong = ada.post("/account/password", old="not my password", password="another set of words")
    assert wrong.status_code == 422 and "not the password you have" in wrong.text
    assert ada.post("/account/password", old=PASSWORD, password="short").status_code == 422
    assert ada.post("/account/password", old=PASSWORD, password="another set of words").status_code == 204
    assert ada.get("/account").status_code == 200 and second.get("/account").status_code == 303
    assert hosted.browser().sign_in("Ada Lens").status_code == 422
    assert hosted.browser().sign_in("Ada Lens", "another set of words").status_code == 204


def test_the_operator_hands_out_a_way_to_a_new_password_and_ends_accounts(hosted: Hosted) -> None:
    operator, ada = hosted.someone("Opal", operator=True), hosted.someone("Ada Lens")
    assert ada.account is not None and operator.account is not None
    page = operator.post(f"/operator/renew/{ada.account.id}").text
    path = page.partition(f"http://{HOST}")[2].partition("<")[0].strip()
    assert hosted.browser().post(path, password="words that are new").headers["hx-redirect"] == "/sign-in"
    assert ada.get("/account").status_code == 303, "whoever had it before is out"
    assert hosted.browser().sign_in("Ada Lens", "words that are new").status_code == 204
    assert operator.post(f"/operator/end/{operator.account.id}").status_code == 422
    assert operator.post(f"/operator/end/{ada.account.id}").status_code == 200
    assert hosted.browser().sign_in("Ada Lens", "words that are new").status_code == 422
    assert operator.post("/operator/end/nobody").status_code == 404


def test_only_an_open_server_lets_anyone_join(engine: Engine) -> None:
    closed, opened = hosted_on(engine), hosted_on(engine, Hosting(f"http://{HOST}", open=True))
    assert closed.browser().get("/join").status_code == 404
    assert closed.browser().post("/join", name="Cleo", password=PASSWORD).status_code == 404
    browser = opened.browser()
    assert "Make one" in browser.get("/sign-in").text
    assert browser.post("/join", name="Cleo", password=PASSWORD).status_code == 204
    assert browser.get("/account").status_code == 200


# --- leaving -----------------------------------------------------------------------------------


def test_everything_one_has_is_taken_away_and_then_deleted(hosted: Hosted, engine: Engine) -> None:
    ada, ben = hosted.someone("Ada Lens"), hosted.someone("Ben Box")
    assert ada.account is not None and ben.account is not None
    store = Repository(engine).acting(ada.account.id, ada.account.id)
    key = store.create(parse(one_portrait()), label="New").studio_id
    branch = store.branch(key, "a-second-plan").studio_id
    hosted.people.share_with(key, ada.account.id, "Ben Box", Role.EDITOR)
    picture = plain_jpeg(8, 8)
    store.keep_frame(key, picture, {"width": 8, "height": 8})
    taken = zipfile.ZipFile(io.BytesIO(ada.get("/account/everything.zip").content))
    assert taken.namelist() == [f"one-portrait-{key}.zip"]
    whole = read_any(taken.read(taken.namelist()[0]))
    assert isinstance(whole, Whole) and [list(pasts)[-1].number for pasts in whole.plans.values()] == [1, 1]
    assert [one.picture for one in whole.pictures] == [picture] and branch.endswith("~b")
    assert ada.post("/account/forget", password="not my password").status_code == 422
    assert store.count() == 1
    assert ada.post("/account/forget", password=PASSWORD).status_code == 204
    assert store.count() == store.count(archived=True) == 0
    assert hosted.people.named("Ada Lens") is None and hosted.browser().sign_in("Ada Lens").status_code == 422
    assert ben.get(f"/studios/{key}/brief").status_code == 404
    with engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM share")).scalar() == 0
        left = connection.execute(text("SELECT name FROM owner WHERE id = :id"), {"id": ada.account.id}).scalar()
        assert left == "someone who has left"


# --- how it is served --------------------------------------------------------------------------


def test_behind_tls_cookies_are_bound_to_the_host(engine: Engine) -> None:
    hosted = hosted_on(engine, Hosting("https://studio.example"))
    app = create_app(engine, ["studio.example"], hosting=Hosting("https://studio.example"))
    client = TestClient(app, base_url="https://studio.example")
    answer = client.get("/sign-in")
    cookie = answer.headers["set-cookie"]
    assert cookie.startswith("__Host-evrant_token=") and "; Secure" in cookie and "SameSite=Strict" in cookie
    assert "HttpOnly" in cookie and "Path=/" in cookie and "Domain" not in cookie
    assert answer.headers["strict-transport-security"].startswith("max-age=31536000")
    hosted.people.add("Ada Lens", PASSWORD)
    token = client.cookies["__Host-evrant_token"]
    form = {"name": "Ada Lens", "password": PASSWORD}
    session = client.post("/sign-in", data=form, headers={"X-Evrant-Token": token}).headers["set-cookie"]
    assert session.startswith("__Host-evrant_session=") and "; Secure" in session


@pytest.mark.parametrize(
    "address", ["http://studio.example", "studio.example", "ftp://x.example", "https://x.example/path", "https://"]
)
def test_an_address_that_would_send_passwords_in_the_clear_is_refused(address: str) -> None:
    with pytest.raises(Unhostable):
        hosting_of({"EVRANT_ADDRESS": address})


def test_settings_come_from_the_environment() -> None:
    assert not hosting_of({}).on
    found = hosting_of({"EVRANT_ADDRESS": "https://studio.example:8443/", "EVRANT_OPEN": "yes"})
    assert found.on and found.secure and found.host == "studio.example:8443" and found.open
    assert hosting_of({"EVRANT_ADDRESS": "http://127.0.0.1:9000"}).cookie("session") == "evrant_session"


def test_without_an_address_nothing_but_loopback_is_bound(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["serve", "--bind", "0.0.0.0"]) == 2
    assert "EVRANT_ADDRESS" in capsys.readouterr().err


@pytest.mark.parametrize("said", ["much", "-5", "1e3", "9999999", "３００"])
def test_a_bound_that_is_no_number_ends_the_start_with_words(
    said: str, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("EVRANT_CACHE_MB", said)
    assert main(["serve"]) == 2 and "number of megabytes" in capsys.readouterr().err


def test_keepers_ask_for_health_and_figures_and_strangers_get_none(hosted: Hosted, engine: Engine) -> None:
    browser = hosted.browser()
    assert browser.get("/health").text.startswith("alive ")
    assert browser.get("/ready").text == "ready"
    assert browser.get("/metrics").status_code == 404, "not from this machine, and without the word"
    app = create_app(engine, [HOST], hosting=Hosting(f"http://{HOST}", metrics="a word for machines"))
    client = TestClient(app, base_url=f"http://{HOST}")
    client.get("/studios/a-secret-path/brief", follow_redirects=False)
    token = {"X-Evrant-Token": client.cookies["evrant_token"]}
    assert client.request("MADE-UP-BY-SOMEBODY", "/sign-in", headers=token).status_code == 405
    told = client.get("/metrics", headers={"Authorization": "Bearer a word for machines"})
    assert told.status_code == 200 and 'route="/studios/{studio_id}/brief"' in told.text
    assert "MADE-UP" not in told.text and 'method="other"' in told.text
    assert "a-secret-path" not in told.text and "evrant_memory_bytes" in told.text
    assert client.get("/metrics", headers={"Authorization": "Bearer another"}).status_code == 404


def test_the_first_operator_is_made_on_the_command_line(
    hosted: Hosted, engine: Engine, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    url = engine.url.render_as_string(hide_password=False).replace("postgresql+psycopg", "postgresql")
    monkeypatch.setenv("EVRANT_DATABASE_URL", url)
    monkeypatch.setenv("EVRANT_ADDRESS", f"http://127.0.0.1:{80}")
    assert main(["people", "add", "Opal", "--operator"]) == 0
    path = capsys.readouterr().out.strip().partition("/renew/")[2]
    assert hosted.browser().post(f"/renew/{path}", password=PASSWORD).status_code == 204
    browser = hosted.browser()
    browser.sign_in("Opal")
    assert browser.get("/operator").status_code == 200
    assert main(["people", "add", "opal"]) == 2 and "taken" in capsys.readouterr().err
    assert main(["people", "list"]) == 0 and "Opal (operator)" in capsys.readouterr().out
    assert main(["people", "end", "Nobody"]) == 2
    assert main(["people", "end", "Opal"]) == 0 and People(engine).named("Opal") is None
