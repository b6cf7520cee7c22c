"""How the room rings for a filmed shot, and what its microphone hears."""

import argparse
import json
import sys

from evrant.core.studio.studio import Studio


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 with figures, 1 when the set has no microphone yet, 2 when there is no such shot or room."""
    from evrant.core.base.tables.absorption import OCTAVES
    from evrant.core.sound.hall import critical_distance, hall_of
    from evrant.core.sound.heard import noises, over_noise, over_reverberant, pickup_of
    from evrant.core.space.scene import scene_of

    plan = next((one for one in studio.sets if given.shot in (one.id, one.shot)), None)
    scene = scene_of(studio, plan) if plan is not None else None
    hall = hall_of(scene) if scene is not None else None
    if scene is None or hall is None:
        words = f"There is no set of a shot “{given.shot}”." if scene is None else "The room is not measured yet."
        print(words, file=sys.stderr)
        return 2
    pickup = pickup_of(scene)
    found = noises(scene, hall, pickup) if pickup is not None else []
    told = {
        "set": scene.plan.id,
        "volume": round(hall.volume, 3),
        "surface": round(hall.surface, 3),
        "octaves": list(OCTAVES),
        "absorption": [round(float(v), 3) for v in hall.absorption],
        "sabine_s": [round(float(v), 3) for v in hall.sabine],
        "eyring_s": [round(float(v), 3) for v in hall.eyring],
        "critical_distance": round(critical_distance(hall.for_speech), 3),
        "microphone": None
        if pickup is None
        else {
            "item": pickup.item.id,
            "distance": round(pickup.distance, 3),
            "over_reverberant_db": round(over_reverberant(hall, pickup), 2),
            "over_noise_db": round(over_noise(found, pickup), 2) if found else None,
            "nearest_over_the_picture": None if pickup.nearest is None else round(pickup.nearest, 3),
        },
        "noises": [{"name": one.name, "level_db": round(one.level, 1)} for one in found],
    }
    if given.json:
        print(json.dumps(told, ensure_ascii=False))
    else:
        print(f"{hall.volume:.1f} m³, {hall.surface:.1f} m²")
        for octave, sabine, eyring in zip(OCTAVES, hall.sabine, hall.eyring, strict=True):
            print(f"  {octave:5d} Hz  Eyring {eyring:.2f} s  Sabine {sabine:.2f} s")
        if pickup is not None:
            room, far = over_reverberant(hall, pickup), pickup.distance
            print(f"{pickup.item.name}, {pickup.words}: {far:.2f} m from the mouth, {room:+.1f} dB over the room")
            for one in found:
                print(f"  {one.level:4.0f} dB  {one.name}")
        else:
            print("The set has no microphone whose place is known.")
    return 0 if pickup is not None else 1
