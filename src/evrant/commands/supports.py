"""Which supports could hold a light where it is: all at hand and in the catalogue, with the reason against each."""

import argparse
import json
import sys
from typing import Any

from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 when a support works, 1 when none does, 2 for no such set or light."""
    from evrant.catalogue import load
    from evrant.core.search.support_table import support_table

    plan = by_id(studio.sets, given.set)
    scene = scene_of(studio, plan) if plan else None
    light = by_id(plan.lights, given.light) if plan else None
    if plan is None or scene is None or light is None:
        print(f"There is no light “{given.light}” in a set “{given.set}”.", file=sys.stderr)
        return 2
    table = support_table(studio, scene, f"{scene.path}/lights/{light.id}", load().all())
    say = Say.of(studio.brief)
    rows: list[dict[str, Any]] = [
        {
            "support": option.name,
            "on": None if option.column is None else option.column.id,
            "id": option.item.id,
            "at_hand": option.ours,
            "used": option.used,
            "works": option.works and not table.always,
            "against": [m.sentence for m in (*option.short, *option.unknown)],
            "reach_m": option.reach,
            "load_kg": option.load,
            "bag_kg": option.bag,
            "floor_m2": option.floor,
            "way_out_m": option.way_out,
            "minutes": option.minutes,
            "packed_m": option.packed,
            "price": None if option.price is None else str(option.price),
            "edit": option.edit.model_dump(mode="json"),
        }
        for option in table.options
    ]
    if given.json:
        always = [m.sentence for m in table.always]
        print(json.dumps({"set": plan.id, "light": light.id, "always": always, "supports": rows}, ensure_ascii=False))
        return 0 if any(row["works"] for row in rows) else 1
    for margin in table.always:
        print(f"Whatever carries it: {margin.sentence}")
    for row in rows:
        nothing = "nothing more against it" if table.always else "works"
        words = "; ".join(row["against"]) or nothing
        bag = f", with {say.mass(row['bag_kg'])}" if row["bag_kg"] else ""
        print(f"  {'*' if row['used'] else ' '} {row['support']}{'' if row['at_hand'] else ' (to buy)'}{bag}: {words}")
    return 0 if any(row["works"] for row in rows) else 1
