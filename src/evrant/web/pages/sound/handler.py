"""The sound of a filmed set: how the room rings, and what each microphone would hear."""

from dataclasses import dataclass, field

from evrant.core.base.tables.absorption import OCTAVES
from evrant.core.sound.hall import Hall, critical_distance, hall_of
from evrant.core.sound.heard import noises, over_noise, over_reverberant, pickup_of
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Microphone
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.words import Say
from evrant.web.context import Page
from evrant.web.forms import Shown, fields
from evrant.web.parts import set_of
from evrant.web.registry import Context, PageSpec, Row


@dataclass(frozen=True)
class Heard(Context):
    """What its template shows."""

    plan: SetPlan
    counts: bool
    shot: str
    missing: str = ""
    octaves: list[Row] = field(default_factory=list)
    largest: list[Row] = field(default_factory=list)
    volume: str = ""
    microphones: list[Row] = field(default_factory=list)
    noises: list[Row] = field(default_factory=list)
    fields: list[Shown] = field(default_factory=list)


def sound(page: Page) -> Heard:
    """The room as sound finds it, for one set."""
    plan, scene = set_of(page)
    shot = next((one for one in page.studio.shots if one.id == plan.shot), None)
    blank = Heard(plan, bool(shot and shot.sound), f"shots/{plan.shot}")
    if scene is None:
        return Heard(plan, False, blank.shot, "The shot of this set is gone.")
    hall = hall_of(scene)
    if hall is None:
        return Heard(plan, blank.counts, blank.shot, "The room's outline or height is missing.")
    pickup = pickup_of(scene)
    heard = noises(scene, hall, pickup) if pickup is not None else []
    return Heard(
        plan=plan,
        counts=blank.counts,
        shot=blank.shot,
        octaves=[
            {"octave": octave, "sabine": f"{s:.2f}", "eyring": f"{e:.2f}"}
            for octave, s, e in zip(OCTAVES, hall.sabine, hall.eyring, strict=True)
        ],
        largest=_largest(hall, page.say),
        volume=f"{page.say.volume(hall.volume)}, {page.say.area(hall.surface)} of surfaces",
        microphones=[
            row for item in page.studio.gear if isinstance(item, Microphone) for row in _row(page, scene, hall, item)
        ],
        noises=[{"name": one.name, "level": f"{one.level:.0f}"} for one in heard],
        fields=[
            *fields(page.studio, f"sets/{plan.id}/camera", plan.camera, only=("microphone",)),
            *fields(page.studio, f"sets/{plan.id}", plan, only=("blankets",)),
        ],
    )


def _largest(hall: Hall, say: Say) -> list[Row]:
    """Surfaces by what they swallow at 1000 Hz, most first."""
    ranked = sorted(hall.areas, key=lambda one: -one.area * one.shares[3])
    return [
        {"name": one.name, "area": say.area(one.area), "takes": say.area(one.area * one.shares[3])}
        for one in ranked[:8]
        if one.area > 0
    ]


def _row(page: Page, scene: Scene, hall: Hall, item: Microphone) -> list[Row]:
    """What one of the kit's microphones would hear in this set."""
    plan = scene.plan.changed(camera=scene.plan.camera.changed(microphone=item.id))
    tried = Scene(scene.room, scene.brief, scene.shot, plan, scene.gear, scene.beside)
    pickup = pickup_of(tried)
    if pickup is None:
        return []
    found = noises(tried, hall, pickup)
    return [
        {
            "id": item.id,
            "name": item.name,
            "how": pickup.words,
            "far": page.say.length(pickup.distance),
            "room": f"{over_reverberant(hall, pickup):+.0f}".replace("-", "−"),
            "noise": f"{over_noise(found, pickup):.0f}" if found else "–",
            "equal": page.say.length(critical_distance(hall.for_speech, pickup.directivity)),
            "used": scene.plan.camera.microphone == item.id,
        }
    ]


SPEC = PageSpec("sound", sound, under="set", of_set="sound", ledger=("sound",))
