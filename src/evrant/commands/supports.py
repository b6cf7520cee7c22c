"""Which supports could hold a light or card where it is: all at hand and on offer, with the reason against each."""

import argparse
import json
import sys
from typing import TYPE_CHECKING, Any

from evrant.core.place.cards import way_words
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

if TYPE_CHECKING:
    from evrant.core.search.support_table import Option, SupportTable


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 when a support works, 1 when none does, 2 for no such set, light or card."""
    from evrant.catalogue import load
    from evrant.core.search.support_table import support_table

    plan = by_id(studio.sets, given.set)
    scene = scene_of(studio, plan) if plan else None
    word, key = ("light", given.light) if given.card is None else ("card", given.card)
    there = plan is not None and any(one.id == key for one in (plan.props if given.card else plan.lights))
    if plan is None or scene is None or not there:
        print(f"There is no {word} “{key}” in a set “{given.set}”.", file=sys.stderr)
        return 2
    kind = "lights" if given.card is None else "props"
    table = support_table(studio, scene, f"{scene.path}/{kind}/{key}", load().all())
    rows = [_row(option, table) for option in table.options]
    if given.json:
        what = {"set": plan.id, word: key, "always": [m.sentence for m in table.always], "supports": rows}
        print(json.dumps(what, ensure_ascii=False))
    else:
        _print(table, rows, scene)
    return 0 if any(row["works"] for row in rows) else 1


def _row(option: "Option", table: "SupportTable") -> dict[str, Any]:
    return {
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
        "nearer_m": option.moved,
        "floor_m2": option.floor,
        "way_out_m": option.way_out,
        "minutes": option.minutes,
        "packed_m": option.packed,
        "besides": option.besides,
        "price": None if option.price is None else str(option.price),
        "edit": option.edit.model_dump(mode="json"),
    }


def _print(table: "SupportTable", rows: list[dict[str, Any]], scene: Scene) -> None:
    say = Say.of(scene.brief)
    for margin in table.always:
        print(f"Whatever carries it: {margin.sentence}")
    for row in rows:
        nothing = "nothing more against it" if table.always else "works"
        words = "; ".join(row["against"]) or nothing
        bag = f", with {say.mass(row['bag_kg'])}" if row["bag_kg"] else ""
        near = f", {way_words(scene, row['nearer_m'])}" if row["nearer_m"] else ""
        buy = "" if row["at_hand"] else " (to buy)"
        more = f" [{row['besides']}]" if row["besides"] else ""
        print(f"  {'*' if row['used'] else ' '} {row['support']}{buy}{bag}{near}: {words}{more}")
