"""Does the longest thing go into a storage place? Code stow.length."""

from collections.abc import Iterable

from evrant.core.edits import SetFields
from evrant.core.estimate import estimate
from evrant.core.margins import Basis, Margin, judge, unknown
from evrant.core.rules.rule import Proposal
from evrant.core.scene import Scene
from evrant.core.studio.room import Place
from evrant.core.studio.studio import Studio
from evrant.core.words import Say

DIAGONAL = Basis(
    "packed length ≤ √(a² + b² + c²) of the place's inside",
    "Space diagonal of a cuboid; a thin thing leans corner to corner",
    "published",
)


def margins(studio: Studio) -> Iterable[Margin]:
    """The longest packed item of the kit against the best place for it."""
    kit = [item for item in studio.gear if item.status != "considered"]
    if not kit or not studio.sets:
        return
    about_room = "room"
    title = "Longest thing to stow"
    if not studio.room.places:
        yield unknown(
            "stow.length",
            (about_room,),
            title,
            "m",
            "No storage place is described.",
            "Say where things go when they are struck.",
            DIAGONAL,
        )
        return
    unmeasured = [
        item for item in kit if item.packed_length is None and item.kind in ("backdrop", "holder", "stand", "board")
    ]
    if unmeasured:
        names = ", ".join(item.name for item in unmeasured[:3])
        yield unknown(
            "stow.length",
            (f"gear/{unmeasured[0].id}", about_room),
            title,
            "m",
            f"The packed length is missing: {names}.",
            "The data sheet gives it.",
            DIAGONAL,
        )
        return
    packed = [item for item in kit if item.packed_length is not None]
    places = [place for place in studio.room.places if place.length and place.width and place.height]
    if not packed or not places:
        if packed:
            yield unknown(
                "stow.length",
                (f"room/places/{studio.room.places[0].id}",),
                title,
                "m",
                "No storage place is measured inside.",
                "Measure its inside width, depth and height.",
                DIAGONAL,
            )
        return
    longest = max(packed, key=lambda item: item.packed_length.value if item.packed_length else 0.0)
    best = max(places, key=_diagonal)
    assert longest.packed_length and best.length and best.width and best.height

    def spare(inside_width: float, inside_depth: float, inside_height: float, packed_length: float) -> float:
        return float((inside_width**2 + inside_depth**2 + inside_height**2) ** 0.5) - packed_length

    result = estimate(
        spare,
        inside_width=best.length,
        inside_depth=best.width,
        inside_height=best.height,
        packed_length=longest.packed_length,
    )
    have = result.value + longest.packed_length.value
    say = Say.of(studio.brief)
    yield judge(
        "stow.length",
        (f"gear/{longest.id}", f"room/places/{best.id}"),
        title,
        result,
        need=longest.packed_length.value,
        have=have,
        unit="m",
        clear=f"The longest thing fits into {best.name}.",
        short=f"The {longest.called} is too long for {best.name}.",
        reason=f"{longest.name}: {say.length(longest.packed_length.value)} packed; {best.name} takes "
        f"{say.length(have)} corner to corner.",
        basis=DIAGONAL,
    )


def _diagonal(place: Place) -> float:
    sides = [side.value for side in (place.length, place.width, place.height) if side]
    return float(sum(side**2 for side in sides) ** 0.5)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Leave the long thing out of the plan, and use a shorter one where a set uses it."""
    if margin.margin is None:
        return
    key = margin.about[0].removeprefix("gear/")
    long = next((item for item in studio.gear if item.id == key), None)
    if long is None:
        return
    for plan in studio.sets:
        for field in ("backdrop", "holder"):
            if getattr(plan.background, field) != key:
                continue
            for item in studio.gear:
                if item.kind == field and item.id != key and item.packed_length:
                    yield Proposal(
                        f"Hang the {item.called} in “{plan.name}” instead",
                        SetFields(target=f"sets/{plan.id}/background", fields={field: item.id}),
                    )
    if long.status == "planned":
        yield Proposal(
            f"Only consider the {long.called}", SetFields(target=f"gear/{key}", fields={"status": "considered"})
        )
