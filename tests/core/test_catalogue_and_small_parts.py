"""The catalogue's figures hang together; paths and memory; first arrangements; next steps."""

import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.catalogue.loader import CatalogueFault, load, read
from evrant.core.base.margins import Verdict
from evrant.core.base.memo import Memo, fresh
from evrant.core.edits import paths
from evrant.core.edits.language import Add, Edit, EditRefused, Reorder, SetFields
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.next_step import next_step
from evrant.core.place.moves import change as apply
from evrant.core.place.starting_set import starting_set
from evrant.core.studio.gear import Backdrop, Flash, Holder, Item, Modifier, Stand
from evrant.core.studio.presets import PRESETS
from evrant.core.studio.studio import Studio
from evrant.web.actions import ACTIONS, action_edit
from evrant.web.naming import free_id, slug
from evrant.web.parts import NEW_THINGS

ITEMS = load().all()


@pytest.mark.parametrize("item", ITEMS, ids=lambda item: item.id)
def test_an_item_hangs_together(item: Item) -> None:
    """Invented figures, but physically possible ones."""
    assert item.price is not None and item.mass and item.packed_length and item.library == item.name
    match item:
        case Stand() if item.use == "boom arm":
            assert item.reach and item.tail and item.boom_mass and item.seat and item.top and item.max_height is None
        case Stand() | Holder():
            assert item.min_height and item.max_height and item.min_height.value < item.max_height.value
            assert item.packed_length.value < 2.1
        case Backdrop():
            assert item.width and item.length and item.reflectance and 1 < item.reflectance.value < 95
            rolled = item.material in ("paper", "vinyl")
            assert not rolled or 0 < item.packed_length.value - item.width.value < 0.08
        case Flash():
            assert item.energy and item.guide_number and item.lowest_power and item.recycle
            # Energy → guide number with a reflector grows about with √W s: 3.1 … 5.0 m per √(W s).
            assert 3.0 < item.guide_number.value / item.energy.value**0.5 < 5.1
            assert item.lowest_power in {2.0**-n for n in range(4, 9)}
        case Modifier():
            assert item.width and item.depth and item.efficiency and item.loss is not None
            assert item.depth.value < item.width.value * 1.2 or item.form in ("snoot", "gobo holder")


def test_larger_modifiers_lose_more_and_weigh_more() -> None:
    octas = [i for i in ITEMS if isinstance(i, Modifier) and i.form == "octabox"]
    octas.sort(key=lambda i: i.width.value if i.width else 0)
    losses = [i.loss.value for i in octas if i.loss]
    masses = [i.mass.value for i in octas if i.mass]
    assert losses == sorted(losses) and masses == sorted(masses) and len(octas) >= 3


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("id,name,width [furlong]\na,A,3", "furlong"),
        ("id,name,width [cm]\na,A,wide", "line 2, width"),
        ("id,name\na", "line 2: 1 cells"),
        ("id,name,smell\na,A,3", "column “smell”"),
        ("id,!name\na,A", "column"),
        ("id,name,width [cm]\na,A,3\nb,B,-3", "line 3, width"),
    ],
)
def test_a_faulty_catalogue_file_is_refused_by_line_and_column(text: str, words: str) -> None:
    with pytest.raises(CatalogueFault, match=words.replace("[", r"\[")):
        read(text, "modifier")


def test_paths() -> None:
    studio = demo()
    assert paths.find(studio, "studio") is studio
    assert paths.find(studio, "sets/kneeling-a/lights/key").role == "key"
    assert not paths.exists(studio, "sets/none") and not paths.exists(studio, "room/height/value")
    changed = paths.replace(studio, "room/boxes/pipe", lambda box: box.changed(name="Duct"))
    assert changed.room.boxes[0].name == "Duct" and changed.shots is studio.shots


def test_memory_is_bounded_and_by_identity() -> None:
    calls: list[int] = []
    memo: Memo[int] = Memo(1000, lambda n: 100)

    def make(n: int) -> int:
        calls.append(n)
        return n

    parts = [[n] for n in range(30)]
    for _ in range(2):
        for n in (0, 1, 2):
            assert memo.get("x", (parts[n],), lambda n=n: make(n)) == n  # type: ignore[misc]
    assert calls == [0, 1, 2]
    for n in range(30):
        memo.get("x", (parts[n],), lambda n=n: make(n))  # type: ignore[misc]
    assert len(memo._held) <= 10
    with fresh():
        memo.get("x", (parts[29],), lambda: make(99))
    assert calls[-1] == 99
    memo.put("named", 5)
    memo.put("named", 6)
    assert memo.get_by("named", lambda: 7) == 6


@pytest.mark.parametrize("preset", [one.name for one in PRESETS])
@pytest.mark.parametrize("shape", ["rectangle", "ell"])
def test_every_preset_gets_a_first_arrangement_that_can_be_judged(preset: str, shape: str) -> None:
    data = one_portrait()
    data["sets"], data["shots"] = [], []
    if shape == "ell":
        data["room"]["footprint"] |= {"kind": "ell", "cut_length": 1.5, "cut_width": 1.2, "cut_corner": "B"}
    studio = apply(parse(data), action_edit(parse(data), {"action": "shot", "preset": preset}))
    studio = apply(studio, action_edit(studio, {"action": "set", "shot": studio.shots[0].id}))
    plan = studio.sets[0]
    assert None not in (plan.mark.x, plan.camera.x, plan.lights[0].x)
    assert (plan.background.x is None) is (studio.shots[0].angle >= 60)
    ledger = ledger_of(studio)
    assert len(ledger.lines) > 20 and not [
        m for m in ledger.lines if m.code == "frame.crop" and m.verdict is Verdict.SHORT
    ]


def test_the_first_arrangement_takes_the_longest_lens_that_fits() -> None:
    data = one_portrait()
    studio = parse(data)
    assert starting_set(studio, studio.shots[0], "x").camera.lens == "l85"
    data["room"]["footprint"] = {"kind": "rectangle", "length": 3.4, "width": 3.0}
    small = parse(data)
    assert starting_set(small, small.shots[0], "x").camera.lens == "l50"


NEED_NOTHING = {"own", "subject", "keep-room", "new-room", "shop", "upkeep", "session", "take-readings"}


@pytest.mark.parametrize("name", sorted(set(ACTIONS) - NEED_NOTHING))
def test_every_action_refuses_nonsense_with_words(name: str) -> None:
    with pytest.raises(EditRefused, match=r"\w+"):
        action_edit(demo(), {"action": name, "corners": "1;2;3"})


def test_actions_make_things_with_free_ids() -> None:
    studio = demo()
    for name in NEW_THINGS:
        for _ in range(2):
            studio = apply(studio, action_edit(studio, {"action": "room-thing", "list": name}))
    assert len({box.id for box in studio.room.boxes}) == len(studio.room.boxes)
    assert (
        free_id(studio.gear, "octa-90") == "octa-90-2" and slug("Ächt! 90 cm") == "cht-90-cm" and slug("!") == "thing"
    )
    studio = apply(studio, action_edit(studio, {"action": "corners", "corners": "0, 0\n4 m, 0\n4 m, 3 m\n0, 3 m"}))
    assert studio.room.footprint is not None and studio.room.footprint.kind == "outline"
    studio = apply(studio, action_edit(studio, {"action": "light", "set": "cat-a"}))
    studio = apply(studio, action_edit(studio, {"action": "prop", "set": "cat-a"}))
    assert [light.role for light in studio.sets[0].lights] == ["key", "fill"] and len(studio.sets[0].props) == 2


def test_the_next_step_leads_from_nothing_to_the_list() -> None:
    studio = Studio.model_validate({"format": "evrant-studio", "schema": 1, "name": "x"})
    seen = []
    steps: list[Edit] = [
        SetFields(target="brief", fields={"budget": "900", "tenure": "owned"}),
        *[
            SetFields(
                target="room", fields={"footprint": {"kind": "rectangle", "length": 5, "width": 4}, "height": 2.8}
            )
        ],
        Add(list="shots", item=one_portrait()["shots"][0]),
        *[Add(list="gear", item=thing) for thing in one_portrait()["gear"]],
        Reorder(list="shots", order=("half",)),
        Add(list="room/places", item=one_portrait()["room"]["places"][0]),
        Add(list="room/circuits", item=one_portrait()["room"]["circuits"][0]),
        Add(list="room/sockets", item=one_portrait()["room"]["sockets"][0] | {"wall": "wall-3"}),
        Add(list="sets", item=one_portrait()["sets"][0]),
    ]
    for edit in steps:
        seen.append(next_step(studio, ledger_of(studio)).page)
        studio = apply(studio, edit)
    assert [page for i, page in enumerate(seen) if i == 0 or page != seen[i - 1]] == [
        "brief",
        "survey",
        "shots",
        "proposals",
        "arrange/half",
    ]
    ledger = ledger_of(studio)
    assert ledger.ready and next_step(studio, ledger).words == "Take the shopping list"
    owned = studio.changed(gear=tuple(item.changed(status="owned") for item in studio.gear))
    then = next_step(owned, ledger_of(owned))
    assert (then.words, then.page) == ("Set it up", f"setup/{owned.sets[0].id}")


def test_the_next_step_says_which_of_several_sets_it_means() -> None:
    data = one_portrait()
    data["brief"] |= {"budget": "500", "tenure": "owned"}
    data["sets"][0]["lights"] = []
    for others, told in (([], ""), ([data["sets"][0] | {"id": "t", "name": "Second"}], "“set”: ")):
        studio = parse(data | {"sets": [data["sets"][0], *others]})
        step, worst = next_step(studio, ledger_of(studio)), ledger_of(studio).worst
        assert worst is not None and worst.set_id == "s" and step.why == f"{told}{worst.sentence}"
