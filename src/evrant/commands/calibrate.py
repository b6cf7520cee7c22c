"""What the readings in a studio's log say about its claims."""

import argparse
import json

from evrant.core.studio.studio import Studio


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 with corrections or nothing to correct, 1 when there is no reading."""
    from evrant.core.log.calibrate import calibrate
    from evrant.core.log.corrections import corrections

    found = calibrate(studio)
    rows = corrections(studio, found)
    if given.json:
        told = {
            "readings": [
                {
                    "id": one.reading.id,
                    "counts": one.counts,
                    "asked": one.asked,
                    "off_stops": round(one.off, 4),
                    "pm": one.pm,
                    "times_pm": round(one.odd, 3),
                    "missing": one.missing,
                    "because": [cause.words for cause in one.because],
                }
                for one in found.told
            ],
            "corrections": [
                {
                    "path": row.unknown.path,
                    "words": row.words,
                    "stops": round(row.stops, 4),
                    "pm": round(row.pm, 4),
                    "pm_before": round(row.unknown.prior, 4),
                    "taken": row.taken,
                }
                for row in rows
            ],
        }
        print(json.dumps(told, ensure_ascii=False))
    else:
        for row in rows:
            print(f"{row.words} Before: ± {row.unknown.prior:.1f}.{' Taken.' if row.taken else ''}")
        for one in found.told:
            if one.missing:
                print(f"{one.reading.id}: {one.missing}")
            elif one.asked:
                why = f" Likeliest: {one.because[0].words}." if one.because else ""
                print(f"{one.reading.id} is {one.odd:.1f} times its ± off; it is left out until you confirm it.{why}")
        if not found.told:
            print("There is no reading yet.")
    return 0 if found.told else 1
