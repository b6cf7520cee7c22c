"""`light.soft`: how large what makes the shadows is seen, and what helps where that is too small."""

import math
from typing import Any

import pytest
from helpers.products import product
from helpers.studios import item, one_portrait, packed, parse
from helpers.windows import painted, the_scene

from evrant.core.base.margins import Margin, Remedy, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio

Data = dict[str, Any]


def lit_by(width: float | None, height: float | None = None, far: float = 1.2, **shot: Any) -> Data:
    """The portrait with its key straight before the face, so far off; without a size a bare head."""
    data = one_portrait()
    data["sets"][0]["lights"][0] |= {"modifier": "box" if width else None}
    data["shots"][0] |= shot
    if width:
        item(data, "box").update(width=width, height=height or width)
    face = the_scene(data).face
    assert face is not None
    place = {"x": float(face[0]) + far, "y": float(face[1]), "height": float(face[2])}
    data["sets"][0]["lights"][0] |= place
    return data


def line(data: Data | Studio) -> Margin | None:
    studio = parse(data) if isinstance(data, dict) else data
    return next((m for m in ledger_of(studio).lines if m.code == "light.soft"), None)


def seen(data: Data) -> float:
    found = line(data)
    assert found is not None and found.have is not None
    return found.have


def rectangle(a: float, b: float, far: float) -> float:
    """Full angle of the cone of a rectangle's solid angle from above its middle [degrees]: Ω = 4 arcsin of the product
    of its sides' half sines (closed form, any text on radiometry)."""
    x, y = a / 2 / math.hypot(a / 2, far), b / 2 / math.hypot(b / 2, far)
    return math.degrees(2 * math.acos(1 - 4 * math.asin(x * y) / (2 * math.pi)))


@pytest.mark.parametrize(
    ("width", "height", "far"), [(0.6, 0.6, 1.2), (0.9, 0.6, 1.0), (1.2, 0.3, 1.5), (0.3, 0.3, 2.5)]
)
def test_a_face_is_seen_as_large_as_its_solid_angle(width: float, height: float, far: float) -> None:
    assert seen(lit_by(width, height, far)) == pytest.approx(rectangle(width, height, far), rel=0.02)


def test_a_bare_head_is_hard_and_a_softbox_is_not() -> None:
    """Once: a bare flash as the key of a portrait had no line. 13 cm at 1.2 m, by hand."""
    bare = line(lit_by(None))
    assert bare is not None and bare.verdict is Verdict.SHORT and bare.have is not None
    assert bare.have == pytest.approx(math.degrees(2 * math.atan(0.065 / 1.2)), rel=0.02)
    assert "hard" in bare.reason
    soft = line(lit_by(0.6))
    assert soft is not None and soft.verdict is Verdict.CLEAR


def test_moved_back_it_hardens() -> None:
    assert seen(lit_by(0.6, far=1.0)) > 1.9 * seen(lit_by(0.6, far=2.0)) > 0
    far = line(lit_by(0.3, far=2.5))
    assert far is not None and far.verdict is Verdict.SHORT


def test_where_the_limit_is_nobody_knows_to_a_degree() -> None:
    """A round 10° across a cone, and both sides of it."""
    size = 2 * 1.2 * math.tan(math.radians(5.5)) * math.sqrt(math.pi) / 2
    found = line(lit_by(size))
    assert found is not None and found.verdict is Verdict.TIGHT and found.settles == "limit of what looks hard"


@pytest.mark.parametrize(
    "shot", [{"contrast": "strong"}, {"pattern": "split"}, {"pattern": "silhouette"}, {"pattern": "gobo"}]
)
def test_who_wants_hard_light_is_not_told(shot: Data) -> None:
    assert line(lit_by(None, **shot)) is None


def test_a_thing_is_lit_softly_too() -> None:
    data = product()
    found = line(data)
    assert found is not None and found.verdict is Verdict.CLEAR and "from the subject" in found.reason
    data["sets"][0]["lights"][0]["modifier"] = None
    bare = line(data)
    assert bare is not None and bare.verdict is Verdict.SHORT


def test_what_is_bounced_comes_from_the_wall() -> None:
    """A bare head turned into a white corner: what one sees is the wall, which is large."""
    data = lit_by(None)
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 85, "colour": "#ffffff"}}
    painted(data, 80)
    item(data, "paper")["reflectance"] = 36
    data["sets"][0]["lights"][0] |= {"aim_x": 4.9, "aim_y": 0.6, "aim_height": 2.7}
    found = line(data)
    assert found is not None and found.verdict is Verdict.CLEAR and "comes from the" in found.reason
    assert found.have is not None and found.have > 20
    item(data, "paper").pop("reflectance")
    assert line(data) is None, "what it comes from is not known"


def test_what_helps_is_larger_or_nearer() -> None:
    data = lit_by(0.2, far=1.6)
    data["gear"].append(packed(dict(item(data, "box"), id="large", name="Octabox 90", width=0.9, height=0.9)))
    studio = parse(data)
    before = line(studio)
    assert before is not None and before.verdict is Verdict.SHORT
    found: dict[str, Remedy] = {one.label: one for one in remedies_of(studio, before, ledger_of(studio))}
    assert found["Use the octabox 90"].verdict is Verdict.CLEAR
    near = next(one for label, one in found.items() if label.startswith("Bring the key to"))
    assert near.verdict is Verdict.CLEAR
    moved = change(studio, EDIT.validate_python(near.edit)).sets[0].lights[0]
    face = the_scene(data).face
    assert face is not None and moved.x is not None and 0.5 <= moved.x - float(face[0]) < 1.2


def test_strong_contrast_may_be_asked_for_instead() -> None:
    """A bare head so near that it comes no nearer, and no modifier in the kit."""
    data = lit_by(None, far=0.8)
    data["gear"] = [one for one in data["gear"] if one["kind"] != "modifier"]
    studio = parse(data)
    before = line(studio)
    assert before is not None and before.verdict is Verdict.SHORT
    ways = {one.label: one for one in remedies_of(studio, before, ledger_of(studio))}
    wish = ways["Hard shadows are wanted: ask for strong contrast"]
    assert line(change(studio, EDIT.validate_python(wish.edit))) is None
