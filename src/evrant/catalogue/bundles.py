"""What people have, in their own words: a key of the catalogue, or a name for things that come as one."""

from collections.abc import Iterable

from evrant.catalogue.loader import load
from evrant.core.studio.gear import Item

BUNDLES: dict[str, tuple[str, ...]] = {"telephone": ("phone-large", "lens-phone-wide")}
"""Things that come as one: a telephone is camera and lens."""
OWNED_KINDS: dict[str, str] = {
    "camera": "Camera",
    "lens": "Lenses",
    "flash": "Flash",
    "lamp": "Lamps that stay on",
    "stand": "Stands and tripods",
    "table": "Table",
}
"""Kinds people are asked about, with their headings."""


def things(keys: Iterable[str]) -> list[Item]:
    """The items of some keys, each once; a part of a bundle brings the rest. Raises KeyError with the first unknown."""
    library = {item.id: item for item in load().all()}
    whole = {part: parts for name, parts in BUNDLES.items() for part in (name, *parts)}
    wanted = dict.fromkeys(one for key in keys for one in whole.get(key, (key,)))
    return [library[key] for key in wanted]


def offered() -> list[tuple[str, list[tuple[str, str]]]]:
    """What can be said to be owned: by heading, keys and names. Parts of a bundle are not offered by themselves."""
    within = {key for keys in BUNDLES.values() for key in keys}
    found = []
    for kind, heading in OWNED_KINDS.items():
        own = [(item.id, item.name) for item in load().by_kind[kind] if item.id not in within]
        bundled = [(name, name.capitalize()) for name in BUNDLES] if kind == "camera" else []
        found.append((heading, bundled + own))
    return found
