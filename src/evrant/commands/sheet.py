"""The set-up sheet of a set as a PDF."""

import argparse
import sys

from evrant.core.studio.studio import Studio, by_id


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 with a sheet, 2 when there is no such set or the file cannot be written."""
    from evrant.core.carry.bring import bring
    from evrant.core.carry.sheet import sheet_of
    from evrant.core.log.calibrate import calibrate
    from evrant.core.space.scene import scene_of
    from evrant.files.setup_sheet import write_sheet

    plan = by_id(studio.sets, given.set)
    scene = scene_of(studio, plan) if plan is not None else None
    if plan is None or scene is None:
        known = ", ".join(one.id for one in studio.sets) or "none"
        print(f"There is no set “{given.set}” with a shot. Sets: {known}.", file=sys.stderr)
        return 2
    sheet = sheet_of(scene, calibrate(studio))
    try:
        given.output.write_bytes(write_sheet(scene, sheet, bring(studio, [plan]), practised=given.practised))
    except OSError as error:
        print(f"{given.output}: {error.strerror}", file=sys.stderr)
        return 2
    print(f"{sheet.name}: {len(sheet.steps)} steps, {len(sheet.marks)} tape marks, about {sheet.minutes():.0f} min.")
    for words in sheet.missing:
        print(words)
    return 0
