"""A set in its light: emission, settings, what the room does, rules and remedies, and what bad input gives."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.studios import demo, item, one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import SetFields
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.judge.rules.light.light_measures import evaluated
from evrant.core.judge.rules.light.sources import flicker_of
from evrant.core.light import account
from evrant.core.light.bust import bust
from evrant.core.light.emission import Emission, Missing, emission
from evrant.core.light.field import Overlay
from evrant.core.light.lit import Lit, lit
from evrant.core.light.powers import settable
from evrant.core.light.softness import glare, softness
from evrant.core.place.moves import change as apply
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.gear import Flash
from evrant.core.studio.words import setting_words
from evrant.demo import demo_studio

Data = dict[str, Any]


def painted(lrv: float = 80.0, colour: str = "#ffffff") -> Data:
    """The plain portrait in a room whose finishes are known."""
    data = one_portrait()
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 85, "colour": "#ffffff"}}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": lrv, "colour": colour}
    item(data, "paper")["reflectance"] = 36
    return data


def scene(data: Data) -> Scene:
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def lit_of(data: Data, patches: int = 200) -> Lit:
    state = lit(scene(data), patches)
    assert isinstance(state, Lit), state
    return state


def line(data: Data, code: str) -> Margin | None:
    return next((m for m in ledger_of(parse(data)).lines if m.code == code), None)


def needed(data: Data, code: str) -> Margin:
    found = line(data, code)
    assert found is not None, code
    return found


# --- emission ----------------------------------------------------------------------------------------


def emitted(data: Data) -> Emission:
    found = emission(scene(data).lights[0], None, 230.0)
    assert isinstance(found, Emission), found
    return found


def test_measured_lux_seconds_come_before_a_claim() -> None:
    data = one_portrait()
    claimed = emitted(data)
    item(data, "head")["dose"] = 2000
    measured = emitted(data)
    loss = 2 ** -float(item(data, "box")["loss"])
    assert measured.axis == pytest.approx(2000 * loss)
    assert "lux-seconds" in measured.basis and "guide number" in claimed.basis
    assert max(s.amount for s in measured.shares if "lux" in s.label) < 0.3


def test_energy_alone_is_the_widest_guess() -> None:
    data = one_portrait()
    del item(data, "head")["guide_number"]
    found = emitted(data)
    assert found.flux == pytest.approx(200 * 37.5 * item(data, "box")["efficiency"])
    assert any(s.label == "flash efficacy" for s in found.shares)


def lamp(**fields: Any) -> Data:
    """The portrait with a continuous lamp and no modifier."""
    data = one_portrait()
    head = {"kind": "lamp", "id": "head", "name": "lamp", "status": "owned", "supply": "mains", "flicker": "none"}
    data["gear"] = [g for g in data["gear"] if g["id"] != "head"] + [{**head, **fields}]
    data["sets"][0]["lights"][0].pop("modifier", None)
    return data


@pytest.mark.parametrize(
    ("fields", "flux"),
    [
        ({"lumens": 5000}, 5000),
        ({"equivalent": 100}, 1350),
        ({"power": 15, "technology": "LED"}, 1425),
        ({"power": 24, "technology": "compact fluorescent"}, 1440),
        ({"power": 100, "technology": "filament"}, 1350),
    ],
)
def test_bulbs_by_lumens_watts_and_equivalence(fields: Data, flux: float) -> None:
    assert emitted(lamp(form="bulb", **fields)).flux == pytest.approx(flux, rel=0.01)


def test_lux_at_a_distance_is_kept_on_the_axis() -> None:
    found = emitted(lamp(form="spot", beam=60, lux=4000, lux_at=1.0))
    assert found.axis == pytest.approx(4000)


def test_stacked_heads_add_up_and_layers_take_away() -> None:
    data = one_portrait()
    one = emitted(data).flux
    data["sets"][0]["lights"][0] |= {"heads": 3}
    assert emitted(data).flux == pytest.approx(3 * one)
    data["sets"][0]["lights"][0] |= {"heads": 1, "diffusers": 1}
    assert 0.5 * one < emitted(data).flux < 0.75 * one


def test_a_gel_shifts_colour_and_costs_light() -> None:
    data = one_portrait()
    data["gear"].append({"kind": "gel", "id": "amber", "name": "amber", "shift": 131, "loss": 0.7})
    data["sets"][0]["lights"][0]["gel"] = "amber"
    here = scene(data)
    gel = here.gear["amber"]
    found = emission(here.lights[0], gel, 230.0)  # type: ignore[arg-type]
    assert isinstance(found, Emission)
    assert found.kelvin == pytest.approx(1e6 / (1e6 / 5500 + 131), rel=1e-6)
    assert found.flux == pytest.approx(emitted(one_portrait()).flux * 2**-0.7, rel=1e-6)


@pytest.mark.parametrize(
    ("missing", "words"),
    [({}, "luminous flux"), ({"power": 40}, "luminous flux"), ({"lux": 3000}, "luminous flux")],
)
def test_a_lamp_without_figures_is_unknown(missing: Data, words: str) -> None:
    found = emission(scene(lamp(**missing)).lights[0], None, 230.0)
    assert isinstance(found, Missing) and words in found.text
    unknown = needed(lamp(**missing), "light.shutter")
    assert unknown.verdict is Verdict.UNKNOWN and words in unknown.sentence


# --- settings -------------------------------------------------------------------------------------------


def test_powers_are_those_the_head_really_has() -> None:
    head = Flash(id="h", name="h", steps="thirds", lowest_power=1 / 16)
    assert settable(head, 0.42) == pytest.approx(2 ** (-4 / 3))
    assert settable(head, 0.001) == 1 / 16
    assert setting_words(2 ** (-4 / 3), "thirds") == "1/4 + 2/3"
    assert setting_words(2**-2.4, "tenths") == "1/8 + 0.6"
    assert setting_words(0.5, "halves") == "1/2" and setting_words(1.0, "tenths") == "full power"


def test_key_and_fill_together_meet_the_aperture_with_the_fill_a_stop_and_a_half_under() -> None:
    data = painted()
    fill = {"id": "fill", "role": "fill", "head": "head", "modifier": "box", "support": "stand"}
    data["sets"][0]["lights"].append({**fill, "x": 2.2, "y": 0.9, "height": 1.7})
    item(data, "head")["quantity"] = 2
    state = lit_of(data)
    got = [state.measured(index) * state.wish(index) for index in (0, 1)]
    assert sum(got) == pytest.approx(state.needed, rel=1e-6)
    assert got[1] == pytest.approx(got[0] * 2**-1.5, rel=1e-6)
    assert abs(math.log2(state.powers[1] / state.wish(1))) <= 1 / 6 + 1e-9


def test_a_neutral_filter_asks_for_as_many_stops_more() -> None:
    data = painted()
    plain = needed(data, "light.power_lowest").margin or 0
    data["shots"][0]["dark_filter"] = 3
    assert needed(data, "light.power_lowest").margin == pytest.approx(plain + 3)


# --- the room ----------------------------------------------------------------------------------------


def test_white_walls_flatten_and_black_ones_do_not() -> None:
    white, dark = account.contrast(lit_of(painted(88))), account.contrast(lit_of(painted(5)))
    assert white is not None and dark is not None and dark > white + 1.0


def test_the_smaller_the_white_room_the_more_it_fills() -> None:
    """Common practice: the room's own fill grows as its walls come nearer; a lower ceiling alone counts too."""
    large = painted()
    large["room"]["footprint"] |= {"length": 9.0, "width": 8.0}
    large["room"]["height"] = 4.5
    small, wide = account.contrast(lit_of(painted())), account.contrast(lit_of(large))
    assert small is not None and wide is not None and wide > small + 0.4


def test_shares_of_surfaces_sum_to_one_and_a_green_wall_leads_the_tint() -> None:
    data = painted(62)
    data["room"]["walls"][0]["finish"] = {"lrv": 55, "colour": "#7fae7f"}
    state = lit_of(data)
    parts = account.parts(state)
    assert sum(p.share for p in parts) == pytest.approx(1.0, abs=1e-3)
    assert sum(p.amount for p in parts) == pytest.approx(state.total("shadow side", state.returned), rel=2e-3)
    tint = account.tint_at(state, "shadow side")
    plain = account.tint_at(lit_of(painted(62)), "shadow side")
    assert tint is not None and plain is not None and tint.white > plain.white + 1 and tint.duv > plain.duv


def test_the_slope_of_a_reflectance_is_what_a_new_solve_gives() -> None:
    """Adjoint slopes against a small step of each wall's reflectance."""
    data = painted(60)
    state = lit_of(data, 300)
    slopes = account.reflectance_shares(state, ("shadow side",))
    assert state.settled is not None
    for i, wall in enumerate(data["room"]["walls"]):
        number = next(k for k, s in enumerate(state.settled.surfaces) if s.name == wall["name"])
        more = painted(60)
        more["room"]["walls"][i]["finish"]["lrv"] = 61
        rise = lit_of(more, 300).total("shadow side") - state.total("shadow side")
        assert slopes[number][0] * 0.01 == pytest.approx(rise, rel=0.05, abs=1e-3)


def test_a_corner_bounce_is_broad_and_comes_by_way_of_the_room() -> None:
    """Common practice: one head fired backwards into the corner of wall and ceiling fills the face."""
    data = painted(85)
    light = data["sets"][0]["lights"][0]
    light.pop("modifier")
    light |= {"x": 4.2, "y": 1.0, "height": 1.7, "aim_x": 5.0, "aim_y": 0.0, "aim_height": 2.8}
    state = lit_of(data)
    assert account.returned_share(state, "face") > 0.95
    assert (account.contrast(state) or 9) < 1.0
    assert line(data, "light.power_full") is not None


def test_finishes_that_are_missing_are_named_not_guessed() -> None:
    data = painted()
    data["room"]["walls"][1]["finish"] = {}
    data["shots"][0]["contrast"] = "medium"
    state = lit_of(data)
    assert isinstance(state.around, Missing) and "east" in state.around.text
    assert needed(data, "light.contrast").verdict is Verdict.UNKNOWN
    assert "finish is missing" in needed(data, "light.power_full").reason
    data["room"]["walls"][1]["finish"] = {"lrv": 70}
    assert needed(data, "light.tint").verdict is Verdict.UNKNOWN


# --- rules and remedies ----------------------------------------------------------------------------------


def test_a_moody_picture_between_white_walls_is_short_and_its_remedies_are_computed() -> None:
    data = painted(88)
    data["shots"][0]["contrast"] = "strong"
    studio = parse(data)
    ledger = ledger_of(studio)
    found = next(m for m in ledger.lines if m.code == "light.contrast")
    assert found.verdict is Verdict.SHORT and "returns too much" in found.sentence
    options = remedies_of(studio, found, ledger)
    assert options and all(o.margin is not None and o.margin > (found.margin or 0) for o in options)
    rows = evaluated(studio, scene(data))
    assert [r.better for r in rows] == sorted((r.better for r in rows), reverse=True)
    black = next(r for r in rows if "lack cloth" in r.label)
    before = account.contrast(lit_of(data, 140))
    assert before is not None and (black.contrast or 0) > before


def test_each_measure_gives_what_it_says_when_it_is_done() -> None:
    data = painted(70, "#cfe3cf")
    studio, here = parse(data), scene(data)
    for row in evaluated(studio, here)[:4]:
        after = apply(studio, row.edit)
        again = scene_of(after, after.sets[0])
        assert again is not None
        state = lit(again)
        assert isinstance(state, Lit)
        assert account.contrast(state) == pytest.approx(row.contrast, abs=1e-9)


def test_a_background_goes_white_with_its_own_light() -> None:
    data = painted()
    data["shots"][0]["tone"] = "white"
    item(data, "paper")["reflectance"] = 85
    item(data, "head")["quantity"] = 2
    dark = needed(data, "light.background_tone")
    assert dark.verdict is Verdict.SHORT and "too dark" in dark.sentence
    ground = {"id": "ground", "role": "background light", "head": "head", "support": "stand"}
    data["sets"][0]["lights"].append({**ground, "x": 1.2, "y": 3.4, "height": 1.4})
    assert (needed(data, "light.background_tone").margin or -9) > (dark.margin or 0) + 0.5


def test_grey_paper_left_alone_goes_dark_with_distance() -> None:
    data = painted(5)
    data["shots"][0]["tone"] = "black"
    item(data, "paper")["reflectance"] = 18
    near = account.ground(lit_of(data))
    assert near is not None and near.stops < 0


def test_room_lamps_show_at_a_wide_aperture_and_not_at_a_small_one() -> None:
    """The frame without flash: an ordinary lit room records black at f/8 and 1/200 s, and does not at f/2."""
    data = painted()
    data["room"]["boxes"] = [
        {"id": "lamp", "name": "Lamp", "kind": "lamp", "x": 2.3, "y": 1.8, "length": 0.3, "width": 0.3}
        | {"base": 2.5, "height": 0.2, "lumens": 1500, "kelvin": 2700}
    ]
    data["shots"][0] |= {"around": "room lamps on", "aperture": 8}
    assert needed(data, "light.ambient").verdict in (Verdict.CLEAR, Verdict.TIGHT)
    data["shots"][0]["aperture"] = 2
    found = needed(data, "light.ambient")
    assert found.verdict is Verdict.SHORT
    studio = parse(data)
    labels = [r.label for r in remedies_of(studio, found, ledger_of(studio))]
    assert "Switch the room lamps off" in labels


def test_daylight_that_was_not_measured_is_unknown() -> None:
    data = painted()
    window = {"id": "w", "wall": "north", "offset": 1, "width": 1.2, "sill": 0.9, "height": 1.2}
    data["room"]["windows"] = [window]
    data["shots"][0]["around"] = "daylight"
    assert needed(data, "light.ambient").verdict is Verdict.UNKNOWN
    data["room"]["windows"][0]["daylight"] = 5000
    assert needed(data, "light.ambient").margin is not None


@pytest.mark.parametrize(
    ("shutter", "hertz", "steady"),
    [(1 / 50, 50, True), (1 / 100, 50, True), (1 / 60, 50, False), (1 / 60, 60, True), (1 / 48, 60, False)],
)
def test_flicker_against_the_mains(shutter: float, hertz: float, steady: bool) -> None:
    assert (flicker_of(shutter, hertz, 1.0) < 2.0) is steady
    assert flicker_of(1 / 1000, hertz, 1.0) == pytest.approx(100, abs=2)


def test_a_flickering_lamp_is_caught_and_an_unknown_one_is_said() -> None:
    data = lamp(lumens=9000, form="panel", width=0.6, height=0.6) | {}
    item(data, "head")["flicker"] = "with the mains"
    data["shots"][0] |= {"capture": "video", "frames": "24", "shutter": 1 / 48}
    assert needed(data, "light.flicker").verdict is Verdict.SHORT
    data["shots"][0]["shutter"] = 1 / 50
    assert needed(data, "light.flicker").verdict is Verdict.CLEAR
    del item(data, "head")["flicker"]
    assert needed(data, "light.flicker").verdict is Verdict.UNKNOWN


def test_film_wants_half_of_each_frames_time() -> None:
    data = lamp(lumens=9000, form="panel", width=0.6, height=0.6)
    data["shots"][0] |= {"capture": "video", "frames": "25", "shutter": 1 / 50}
    assert needed(data, "light.motion").verdict is Verdict.CLEAR
    data["shots"][0]["shutter"] = 1 / 200
    assert needed(data, "light.motion").verdict is Verdict.SHORT


def test_mixed_colours_ask_for_a_gel() -> None:
    data = painted()
    warm = {"kind": "lamp", "id": "warm", "name": "warm lamp", "lumens": 9000, "kelvin": 2800, "form": "panel"}
    data["gear"] += [
        {**warm, "width": 0.5, "height": 0.5, "flicker": "none"},
        {"kind": "gel", "id": "blue", "name": "blue gel", "shift": -170, "loss": 1.5},
    ]
    data["sets"][0]["lights"].append({"id": "fill", "role": "fill", "head": "warm", "x": 2.4, "y": 1.0, "height": 1.6})
    data["shots"][0]["shutter"] = 1 / 4
    found = needed(data, "light.mixed")
    assert found.verdict is Verdict.SHORT
    studio = parse(data)
    best = remedies_of(studio, found, ledger_of(studio))[0]
    assert "blue gel" in best.label and best.verdict is not Verdict.SHORT


def test_a_jumping_subject_needs_a_short_flash() -> None:
    data = painted()
    data["shots"][0]["movement"] = 0.5
    assert needed(data, "light.freeze").verdict is Verdict.UNKNOWN
    item(data, "head")["duration"] = 0.02
    assert needed(data, "light.freeze").verdict is Verdict.SHORT
    item(data, "head")["duration"] = 0.0006
    assert needed(data, "light.freeze").verdict is Verdict.CLEAR


def test_glasses_mirror_a_light_that_stands_in_their_angle() -> None:
    data = painted()
    data["shots"][0]["subjects"][0]["glasses"] = True
    low = data["sets"][0]["lights"][0]
    here = scene(data)
    assert here.face is not None and here.eye is not None
    low |= {"x": float(here.eye[0]), "y": float(here.eye[1]) + 0.25, "height": float(here.face[2]) - 0.1}
    low.pop("boom", None)
    assert needed(data, "light.glare").verdict is Verdict.SHORT
    low |= {"x": float(here.face[0]) + 0.1, "y": float(here.face[1]) + 1.3, "height": float(here.face[2]) + 1.0}
    assert needed(data, "light.glare").verdict is not Verdict.SHORT


def test_softness_by_similar_triangles() -> None:
    """A 60 cm face at 1.2 m: 28° wide; a nose 25 mm off the cheek throws an edge of width × 25 / (distance − 25)."""
    here = scene(one_portrait())
    state = lit(here)
    assert isinstance(state, Lit) and here.face is not None
    source = state.beams[0].source
    far = float(np.linalg.norm(source.centre - here.face))
    found = softness(here, source)
    side, high = 0.3, far  # a square on its axis, any table of solid angles
    whole = 4 * math.asin(side**2 / (side**2 + high**2))
    assert math.radians(found.size) == pytest.approx(2 * math.acos(1 - whole / 2 / math.pi), rel=0.01)
    wide = 2 * far * math.tan(math.radians(found.size) / 2)
    assert wide == pytest.approx(2 * math.sqrt(0.36 / math.pi), rel=0.06)
    assert found.nose == pytest.approx(wide * 0.025 / (far - 0.025))
    moved = apply(parse(one_portrait()), SetFields(target="sets/s/lights/key", fields={"x": 4.5, "y": 3.5}))
    there = scene_of(moved, moved.sets[0])
    assert there is not None
    farther = lit(there)
    assert isinstance(farther, Lit) and softness(there, farther.beams[0].source).size < found.size
    assert -180 < glare(here, source) < 180


# --- overlay and bust -------------------------------------------------------------------------------------


def test_the_field_is_zero_stops_at_the_face_and_falls_away_from_the_lights() -> None:
    state = lit_of(painted())
    overlay = Overlay(state)
    field = overlay.plan(40)
    assert field is not None and state.scene.face is not None
    far = np.linalg.norm(field.points[..., :2] - state.scene.face[:2], axis=2)
    row, column = np.unravel_index(int(far.argmin()), far.shape)
    assert field.stops[row, column] == pytest.approx(0.0, abs=0.4)
    assert field.stops[far > 2.4].mean() < -0.8
    upright = overlay.section()
    assert upright is not None and np.isfinite(upright.stops).all()
    assert any(strip.path.startswith("room/walls") for strip in overlay.strips())


def test_the_bust_is_brighter_on_the_keys_side() -> None:
    data = painted(10)
    data["sets"][0]["mark"].pop("facing", None)
    state = lit_of(data)
    picture = bust(state, 60)
    assert picture is not None and 0.2 < picture.shown.mean() < 0.7
    grey = picture.pixels.astype(float).mean(axis=2)
    face = grey[20:40]
    left, right = (face[:, part][picture.shown[20:40, part]].mean() for part in (slice(0, 25), slice(25, 50)))
    side = state.scene.lights[0].at
    assert side is not None and abs(left - right) > 15
    assert picture.smoothed().shape == (*picture.shown.shape, 4)


# --- bad input ------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "change",
    [
        lambda d: d["sets"][0]["lights"][0].update({"x": 5.4, "y": 2.0}),
        lambda d: d["room"]["footprint"].update({"length": 0.9, "width": 0.9}),
        lambda d: [w["finish"].update({"lrv": 99}) for w in d["room"]["walls"]] and None,
        lambda d: d["room"]["ceiling"].update({"lrv": 99}),
        lambda d: d["sets"][0]["mark"].update({"x": 9.0, "y": 9.0}),
        lambda d: d["sets"][0]["lights"][0].update({"height": 0.0}),
        lambda d: d["sets"][0]["background"].update({"x": 1.0, "y": 1.0, "height": 0.02}),
        lambda d: d["room"].update({"height": 0.5}),
        lambda d: item(d, "box").update({"width": 0.001, "height": 0.001}),
        lambda d: item(d, "box").update({"width": 30.0, "height": 30.0}),
    ],
)
def test_odd_rooms_and_places_give_figures_or_words_never_a_crash(change: Any) -> None:
    data = painted()
    change(data)
    for margin in ledger_of(parse(data)).lines:
        for value in (margin.margin, margin.need, margin.have, margin.uncertainty):
            assert value is None or math.isfinite(value), margin
    state = lit(scene(data))
    assert isinstance(state, Missing) or np.isfinite(state.whole).all()


@pytest.mark.parametrize("place", [{"x": 5.4, "y": 2.0}, {"x": 2.5, "y": -0.3}, {"height": 3.1}])
def test_a_light_behind_a_wall_or_ceiling_is_unknown_not_bright(place: Data) -> None:
    data = painted()
    data["sets"][0]["lights"][0] |= place
    found = needed(data, "light.power_full")
    assert found.verdict is Verdict.UNKNOWN and "not inside the room" in found.sentence


def test_every_demo_set_has_its_light() -> None:
    for name in ("adoption-corner", "hands-in-view", "stones-on-file"):
        studio = demo_studio(name)
        for plan in studio.sets:
            here = scene_of(studio, plan)
            state = lit(here) if here else None
            assert isinstance(state, Lit), plan.id
            if plan.lights:
                assert not isinstance(state.around, Missing) and not state.missing
                assert (account.contrast(state) or 0) < 6


def test_the_filmed_studio_is_even_and_does_not_flicker() -> None:
    lines = [m for m in ledger_of(demo_studio("hands-in-view")).lines if m.code.startswith("light.")]
    codes = {m.code: m.verdict for m in lines}
    assert codes["light.contrast"] is Verdict.CLEAR and codes["light.flicker"] is Verdict.CLEAR
    assert codes["light.motion"] is Verdict.CLEAR


def test_animals_corner_is_tinted_by_its_green_walls() -> None:
    found = [m for m in ledger_of(demo()).lines if m.code == "light.tint"]
    assert len(found) == 3 and all(m.verdict is Verdict.SHORT for m in found)


def test_a_group_is_even_where_the_key_is_as_far_from_each() -> None:
    """`light.group`: two faces, a key nearer to one of them. Independent figure: distance squared, no other light."""
    data = painted(3.0, "#202020")
    first = data["shots"][0]["subjects"][0]
    data["shots"][0]["subjects"] = [first | {"across": -0.4}, first | {"id": "other", "name": "Other", "across": 0.4}]
    data["shots"][0]["crop"] = "whole subject"
    here = scene(data)
    assert here.mark is not None and here.face is not None
    key = data["sets"][0]["lights"][0]
    turn = math.radians(here.facing)
    left = np.array([-math.sin(turn), math.cos(turn)])
    faces = [np.array([*(here.mark + left * across), here.face[2]]) for across in (-0.4, 0.4)]
    at = np.array([key["x"], key["y"], key["height"]])
    near, far = (float(np.linalg.norm(at - face)) for face in faces)
    expected = 2 * math.log2(near / far)
    found = needed(data, "light.group")
    assert found.need == pytest.approx(abs(expected), abs=0.45), "return and angle of the receptor make the rest"
    assert found.need is not None and (found.verdict is Verdict.SHORT) == (found.need > 0.5)
    ahead = np.array([math.cos(turn), math.sin(turn)])
    middle = here.mark + ahead * 2.0
    key |= {"x": round(float(middle[0]), 3), "y": round(float(middle[1]), 3), "aim_x": None, "aim_y": None}
    even = needed(data, "light.group")
    assert even.need is not None and even.need < 0.2 and even.verdict is not Verdict.SHORT
