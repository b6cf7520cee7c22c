"""The command line: `evrant` serve, worker, check, arrange, light, safety, kit, stow, schema."""

import argparse
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from evrant.catalogue import load
from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.judge.safety import NOTICES, hazards
from evrant.core.search.arrange.changes import Possible, possible_with
from evrant.core.search.arrange.search import Result, arrange
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say
from evrant.files.document import Refused, read_studio, schema
from evrant.files.report import arrange_data, hazard_data, ledger_data


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; the exit status is 0 when it worked, 1 when a check found Short lines, 2 for bad input."""
    parser = argparse.ArgumentParser(prog="evrant", description="Plan a small room as a studio.")
    commands = parser.add_subparsers(dest="command", required=True)
    check = commands.add_parser("check", help="print the ledger of a studio file")
    check.add_argument("file", type=Path)
    check.add_argument("--json", action="store_true", help="print the ledger as JSON")
    find = commands.add_parser("arrange", help="find sets for a shot, or say what stands in the way")
    find.add_argument("file", type=Path)
    find.add_argument("--shot", required=True, help="the shot's id")
    find.add_argument("--json", action="store_true", help="print what was found as JSON")
    light = commands.add_parser("light", help="print a set's light: exposures, contrast, what the walls return, tint")
    light.add_argument("file", type=Path)
    light.add_argument("--shot", required=True, help="the shot's id, or a set's")
    light.add_argument("--json", action="store_true", help="print every figure as JSON")
    safety = commands.add_parser("safety", help="print the hazards of every set: cause, margins, caution, what to do")
    safety.add_argument("file", type=Path)
    safety.add_argument("--json", action="store_true", help="print the hazards as JSON")
    kit = commands.add_parser("kit", help="find the best kit under a budget, with proof, and say why not the rest")
    kit.add_argument("file", type=Path)
    kit.add_argument("--budget", type=float, help="in the studio's currency; its own budget when not given")
    kit.add_argument("--json", action="store_true", help="print everything as JSON")
    stow = commands.add_parser("stow", help="say where everything goes when the room is struck")
    stow.add_argument("file", type=Path)
    stow.add_argument("--json", action="store_true", help="print every place and position as JSON")
    work = commands.add_parser("worker", help="work off the queue of long jobs")
    work.add_argument("--heartbeat", type=float, default=5.0, help="seconds between signs of life")
    work.add_argument("--stalled", type=float, default=20.0, help="seconds without one until a job is taken up again")
    work.add_argument("--drain", action="store_true", help="stop when the queue is empty")
    serve = commands.add_parser("serve", help="start the database, the demo studios and the app")
    serve.add_argument("--port", type=int, default=8321)
    serve.add_argument("--fresh", action="store_true", help="begin with an empty database and the demo studios")
    commands.add_parser("schema", help="print the JSON Schema of the studio format")
    given = parser.parse_args(arguments)
    if given.command == "schema":
        sys.stdout.write(schema())
        return 0
    if given.command == "serve":
        from evrant.web.serve import serve as run

        return run(given.port, fresh=given.fresh)
    if given.command == "worker":
        from evrant.jobs.worker import work as run_worker

        return run_worker(heartbeat=given.heartbeat, stalled=given.stalled, drain=given.drain)
    studio = _read(given.file)
    if studio is None:
        return 2
    if given.command == "kit":
        return _kit(studio, given.budget, as_json=given.json)
    if given.command == "stow":
        return _stow(studio, as_json=given.json)
    if given.command == "arrange":
        return _arrange(studio, given.shot, as_json=given.json)
    if given.command == "light":
        return _light(studio, given.shot, as_json=given.json)
    if given.command == "safety":
        return _safety(studio, as_json=given.json)
    return _check(studio, as_json=given.json)


def _read(file: Path) -> Studio | None:
    try:
        return read_studio(file.read_bytes())
    except OSError as error:
        print(f"{file}: {error.strerror}", file=sys.stderr)
    except Refused as refused:
        for fault in refused.faults:
            print(f"{file}: {fault}", file=sys.stderr)
    return None


def _arrange(studio: Studio, shot_id: str, *, as_json: bool) -> int:
    """Exit status 0 when a set fits, 1 when none does, 2 when there is no such shot."""
    shot = by_id(studio.shots, shot_id)
    if shot is None:
        print(f"There is no shot “{shot_id}”; there are: {', '.join(s.id for s in studio.shots)}.", file=sys.stderr)
        return 2
    result = arrange(studio, shot)
    helped = None if result.fits or result.missing else possible_with(studio, shot, binding=_binding(result))
    changes = helped.found if helped else ()
    if as_json:
        print(json.dumps(arrange_data(result, changes), ensure_ascii=False, indent=1))
    else:
        _tell(studio, shot.name, result, changes)
    return 0 if result.fits else 1


def _binding(result: Result) -> list[str]:
    """Codes of what is Short in the nearest miss."""
    return [line.code for line in result.nearest.judged.short] if result.nearest else []


def _tell(studio: Studio, name: str, result: Result, changes: tuple[Possible, ...]) -> None:
    say = Say.of(studio.brief)
    if result.missing:
        print(f"{name}: {result.missing}")
    for found in result.sets:
        line = found.judged.lines[0]
        print(f"{name}: fits. Worst: {line.title} {say.margin(line.margin, line.unit)}. {line.reason}")
    if result.nearest is not None:
        print(f"{name}: does not fit{' (every place tried)' if result.proved else ''}. The nearest miss:")
        for line in result.nearest.judged.short:
            print(f"  {say.margin(line.margin, line.unit):>10}  {line.sentence} {line.reason}")
    for possible in changes:
        print(f"  It becomes possible with: {possible.change.label}.")


def _light(studio: Studio, key: str, *, as_json: bool) -> int:
    """Exit status 0 when there was a set to compute, 1 when something kept it from being known, 2 when there is
    no such shot or set."""
    from evrant.files.light_report import light_data

    plans = [plan for plan in studio.sets if key in (plan.shot, plan.id)]
    scenes = [scene for plan in plans if (scene := scene_of(studio, plan)) is not None]
    if not scenes:
        shots = ", ".join(plan.shot for plan in studio.sets)
        print(f"There is no set for “{key}”; there are sets for: {shots}.", file=sys.stderr)
        return 2
    data = [light_data(studio, scene) for scene in scenes]
    if as_json:
        print(json.dumps(data[0] if len(data) == 1 else data, ensure_ascii=False, indent=1))
    else:
        for one in data:
            _tell_light(one)
    return 1 if any(one["missing"] for one in data) else 0


def _tell_light(data: dict[str, Any]) -> None:
    print(f"{data['set']}:")
    for missing in data["missing"]:
        print(f"  Unknown: {missing['what']}")
    for one in data.get("lights", []):
        print(f"  {one['name']:12} {one['distance_m']:.2f} m, power {one['power']:.3g}: f/{one['f_number']:.1f}")
    if data.get("contrast_stops") is not None:
        print(f"  contrast 1:{data['contrast_ratio']:.1f} ({data['contrast_stops']:.1f} stops)")
        for part in data["returned_by"]["shadow side"][:4]:
            print(f"    {part['share']:.0%} of the returned light from the {part['surface']}")


def _safety(studio: Studio, *, as_json: bool) -> int:
    """Exit status 1 when a hazard has a Short line."""
    ledger = ledger_of(studio)
    found = {
        plan.id: hazards(scene, ledger.shown_with(plan.id))
        for plan in studio.sets
        if (scene := scene_of(studio, plan)) is not None
    }
    if as_json:
        data = {key: [hazard_data(one) for one in told] for key, told in found.items()}
        print(json.dumps({"sets": data, "notices": list(NOTICES)}, ensure_ascii=False, indent=1))
    else:
        for key, told in found.items():
            print(f"{key}:")
            for one in told:
                print(f"  {one.verdict or 'beware':8} {one.name}: {one.cause} {one.caution} {one.do}")
        print("\n".join(NOTICES))
    return 1 if any(one.verdict is Verdict.SHORT for told in found.values() for one in told) else 0


def _kit(studio: Studio, budget: float | None, *, as_json: bool) -> int:
    """Exit status 0 when a kit makes a shot, 1 when none does, 2 without a budget."""
    from evrant.core.search.kit.result import best_kit

    if budget is None and studio.brief.budget is not None:
        budget = float(studio.brief.budget)
    if budget is None or not 0 <= budget <= 10_000_000:
        print("Give a budget: --budget 450.", file=sys.stderr)
        return 2
    answer = best_kit(studio, load().all(), budget, whole=as_json)
    if as_json:
        print(json.dumps(answer, ensure_ascii=False, indent=1))
    else:
        _tell_kit(studio, answer)
    return 0 if answer["found"] else 1


def _tell_kit(studio: Studio, answer: Any) -> None:
    say = Say.of(studio.brief)
    head = "Proved" if answer["proved"] else "Not proved"
    print(f"{studio.name}: {say.money(answer['cost'])} of {say.money(answer['budget'])}. {head}.")
    for shot in answer["shots"]:
        left = f" (left to walls and settings: {' '.join(shot['left'])})" if shot.get("left") else ""
        print(f"  {'makes' if shot['made'] else 'not'}  {shot['name']}{left if shot['made'] else ': ' + shot['why']}")
    for row in answer["buy"]:
        print(f"  phase {row['phase']}  {row['count']} × {row['name']}  {say.money(row['cost'])}")
    print(answer["covers"])


def _stow(studio: Studio, *, as_json: bool) -> int:
    """Exit status 0 when everything finds a place, 1 when something does not."""
    from evrant.core.stowage.report import stow_data

    data = stow_data(studio)
    if as_json:
        print(json.dumps(data, ensure_ascii=False, indent=1))
    else:
        for place in data["places"]:
            print(f"{place['name']}: " + (", ".join(one["name"] for one in place["things"]) or "nothing"))
        for one in data["left"]:
            print(f"no place: {one['name']} ({one['why']})")
        for name in data["unmeasured"]:
            print(f"not measured: {name}")
    return 1 if data["left"] or data["unmeasured"] else 0


def _check(studio: Studio, *, as_json: bool) -> int:
    ledger = ledger_of(studio)
    if as_json:
        print(json.dumps(ledger_data(ledger), ensure_ascii=False, indent=1))
    else:
        _print(studio, ledger)
    return 1 if ledger.shorts() else 0


def _print(studio: Studio, ledger: Ledger) -> None:
    say = Say.of(studio.brief)
    counts = ", ".join(f"{number} {verdict.value}" for verdict, number in ledger.counts().items())
    print(f"{studio.name}: {ledger.headline}. {counts}\n")
    for line in ledger.lines:
        print(f"{line.verdict.value:8} {say.margin(line.margin, line.unit):>12}  {line.sentence}")
        print(f"{'':22} {line.reason}  [{line.code}]")


if __name__ == "__main__":
    sys.exit(main())
