"""The picture a planned camera would take, as a PNG file."""

import argparse
import re
import sys

from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio

LEAST, MOST = 32, 2400


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 when a picture was written, 1 when something kept it from being computed, 2 for bad input."""
    from evrant.core.light.emission import Missing
    from evrant.core.light.lit import lit
    from evrant.core.picture.render import picture
    from evrant.core.picture.told import described, settings_of
    from evrant.files.pictures import png

    size = re.fullmatch(r"(\d{1,5})x(\d{1,5})", given.size)
    if size is None or not all(LEAST <= int(side) <= MOST for side in size.groups()):
        print(f"A size is written 960x640, each side {LEAST} to {MOST} pixels.", file=sys.stderr)
        return 2
    plan = next((one for one in studio.sets if given.shot in (one.shot, one.id)), None)
    scene = scene_of(studio, plan) if plan is not None else None
    if scene is None:
        shots = ", ".join(one.shot for one in studio.sets)
        print(f"There is no set for “{given.shot}”; there are sets for: {shots}.", file=sys.stderr)
        return 2
    state = lit(scene)
    if isinstance(state, Missing):
        print(state.text, file=sys.stderr)
        return 1
    only = None
    if given.light:
        numbers = [i for i, one in enumerate(state.beams) if one.path.endswith(f"/{given.light}")]
        if not numbers:
            lights = ", ".join(one.path.rsplit("/", 1)[-1] for one in state.beams)
            print(f"There is no light “{given.light}” in this set; there are: {lights}.", file=sys.stderr)
            return 2
        only = frozenset(numbers)
    view = scene.view
    wide, tall = (int(side) for side in size.groups())
    columns = wide if view is None else max(min(wide, round(tall * view.across / view.upward)), LEAST)
    found = picture(state, columns, only=only)
    if found is None:
        words = "Camera, lens and mark have no place yet." if view is None else "The room's surfaces are not known yet."
        print(words, file=sys.stderr)
        return 1
    given.output.write_bytes(png(found.pixels, settings_of(found)))
    for sentence in (*described(found), *found.missing):
        print(sentence)
    return 0
