"""Do the lights make the pattern wished for? Code light.pattern."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.base.memo import is_plain
from evrant.core.edits.language import Light as LightEdit
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.place.patterns import PATTERNS, deviation, named
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.studio.studio import Studio

PATTERN = Line(
    "light.pattern",
    "Pattern: …",
    "°",
    Basis(
        "angle between where a light stands, seen from the face, and where the pattern wants it ≤ tolerance",
        "Angles from the nose line are common practice, no source",
        "common practice",
    ),
    asks="Do the lights make the pattern wanted?",
    step="light",
    search="kept",
    fails=True,
)


def margins(scene: Scene) -> Iterable[Margin]:
    """Whether the lights make the pattern that is wished for."""
    wish = scene.shot.pattern
    found = deviation(scene, wish) if wish else None
    if wish is None or found is None:
        return
    off, path = found
    near = PATTERNS[wish].near
    light = next(one for one in scene.lights if one.path == path)

    def off_by(one: Scene) -> float | None:
        there = deviation(one, wish)
        return there[0] if there else None

    now = "" if is_plain() else named(scene)
    made = "" if now in ("", wish) else f" Now it is: {now}."
    yield judge(
        PATTERN,
        (f"{scene.path}/pattern", path),
        Estimate(near - off, picture_shares(scene, off_by)),
        title=f"Pattern: {wish}",
        need=off,
        have=near,
        clear=f"The lights make {wish}.",
        short=f"The lights do not make {wish}.",
        reason=f"The {light.name} stands {off:.0f}° from where it belongs; up to {near:.0f}° still counts.{made}",
        at=None if light.at is None else (float(light.at[0]), float(light.at[1]), float(light.at[2])),
        placing=1.0,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The pattern placed anew."""
    if scene is None or scene.axis is None or scene.mark is None or not scene.shot.pattern:
        return
    for side in ("left", "right"):
        label = f"Place {scene.shot.pattern} from the subject's {side}"
        yield Proposal(label, LightEdit(target=scene.path, pattern=scene.shot.pattern, side=side))


RULE = SetRule("aim", margins, (PATTERN,), propose, order=5)
