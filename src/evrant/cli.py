"""The command line: `evrant` serve, worker, check, arrange, light, hours, supports, order, safety, kit and others."""

import argparse
import sys
from collections.abc import Sequence
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from evrant.core.studio.studio import Studio


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
    look = commands.add_parser("picture", help="write the picture a set's camera would take as a PNG file")
    look.add_argument("file", type=Path)
    look.add_argument("--shot", required=True, help="the shot's id, or a set's")
    look.add_argument("--size", default="960x640", help="the picture fits into this many pixels")
    look.add_argument("--light", help="the picture in this light alone, by its id")
    look.add_argument("-o", "--output", type=Path, required=True, help="where the PNG file is written")
    day = commands.add_parser("hours", help="print when a window carries a shot, by month and hour")
    day.add_argument("file", type=Path)
    day.add_argument("--shot", required=True, help="the shot's id, or a set's")
    day.add_argument("--json", action="store_true", help="print every hour as JSON")
    carry = commands.add_parser("supports", help="print what could hold a light or card, and what is against each")
    carry.add_argument("file", type=Path)
    carry.add_argument("--set", required=True, help="the set's id")
    held = carry.add_mutually_exclusive_group(required=True)
    held.add_argument("--light", help="the light's id")
    held.add_argument("--card", help="the id of an upright card in the set")
    carry.add_argument("--json", action="store_true", help="print every figure as JSON")
    order = commands.add_parser("order", help="put the sets in the order of least change-over, with every step")
    order.add_argument("file", type=Path)
    order.add_argument("--json", action="store_true", help="print every step and setting as JSON")
    ready = commands.add_parser("settle", help="find the fewest remedies that leave nothing Short, or what binds")
    ready.add_argument("file", type=Path)
    ready.add_argument("--json", action="store_true", help="print every change, the counts before and after as JSON")
    ready.add_argument("--seconds", type=float, default=90.0, help="how long it is looked for")
    ready.add_argument("-o", "--output", type=Path, help="write the settled studio here")
    safety = commands.add_parser("safety", help="print the hazards of every set: cause, margins, caution, what to do")
    safety.add_argument("file", type=Path)
    safety.add_argument("--json", action="store_true", help="print the hazards as JSON")
    begin = commands.add_parser(
        "plan", help="from five answers to proposals: what to buy, where it stands, how it is set"
    )
    begin.add_argument("file", type=Path, help="the answers (docs/begin.md says how)")
    begin.add_argument("--json", action="store_true", help="print the proposals with their studios as JSON")
    begin.add_argument("--seconds", type=float, default=150.0, help="how long they are worked on")
    kit = commands.add_parser("kit", help="find the best kit under a budget, with proof, and say why not the rest")
    kit.add_argument("file", type=Path)
    kit.add_argument("--budget", type=float, help="in the studio's currency; its own budget when not given")
    kit.add_argument("--json", action="store_true", help="print everything as JSON")
    stow = commands.add_parser("stow", help="say where everything goes when the room is struck")
    stow.add_argument("file", type=Path)
    stow.add_argument("--json", action="store_true", help="print every place and position as JSON")
    paper = commands.add_parser("sheet", help="write the set-up sheet of a set as a PDF")
    paper.add_argument("file", type=Path)
    paper.add_argument("--set", required=True, help="the set's id")
    paper.add_argument("--practised", action="store_true", help="minutes for those who have done it before")
    paper.add_argument("-o", "--output", type=Path, required=True, help="where the PDF is written")
    session = commands.add_parser("session", help="print the timetable of every session, or a calendar file")
    session.add_argument("file", type=Path)
    session.add_argument("--ics", action="store_true", help="print a calendar file (ICS)")
    session.add_argument("--json", action="store_true", help="print everything as JSON")
    log = commands.add_parser("calibrate", help="print what the readings in the log say about gear and walls")
    log.add_argument("file", type=Path)
    log.add_argument("--json", action="store_true", help="print everything as JSON")
    sound = commands.add_parser("sound", help="print how the room rings and what a set's microphone hears")
    sound.add_argument("file", type=Path)
    sound.add_argument("--shot", required=True, help="the shot's id, or a set's")
    sound.add_argument("--json", action="store_true", help="print everything as JSON")
    work = commands.add_parser("worker", help="work off the queue of long jobs")
    work.add_argument("--heartbeat", type=float, default=5.0, help="seconds between signs of life")
    work.add_argument("--stalled", type=float, default=20.0, help="seconds without one until a job is taken up again")
    work.add_argument("--address-on-stdin", action="store_true", help="read the database's address from stdin")
    work.add_argument("--drain", action="store_true", help="stop when the queue is empty")
    serve = commands.add_parser("serve", help="start the database, the demo studios and the app")
    serve.add_argument("--port", type=int, default=8321)
    serve.add_argument("--fresh", action="store_true", help="begin with an empty database and the demo studios")
    serve.add_argument("--workers", type=int, default=1, help="how many processes answer")
    serve.add_argument("--bind", default="127.0.0.1", help="the address listened on; another than loopback if hosted")
    folk = commands.add_parser("people", help="accounts of a hosted server: list, add, invite, renew, end")
    folk.add_argument("what", choices=("list", "add", "invite", "renew", "end"))
    folk.add_argument("name", nargs="?", default="")
    folk.add_argument("--operator", action="store_true", help="an account that may hand out others")
    keep = commands.add_parser("backup", help="write all studios with their history to one file")
    keep.add_argument("file", type=Path)
    back = commands.add_parser("restore", help="put a backup into the database")
    back.add_argument("file", type=Path)
    back.add_argument("--replace", action="store_true", help="in place of the studios that are there")
    commands.add_parser("schema", help="print the JSON Schema of the studio format")
    return _do(parser.parse_args(arguments))


def _do(given: argparse.Namespace) -> int:
    """Each command imports what it needs, so that a small one is quick."""
    if given.command == "serve":
        from evrant.web.serve import serve as run_server

        return run_server(given.port, fresh=given.fresh, workers=given.workers, bind=given.bind)
    if given.command == "worker":
        from evrant.jobs.worker import work as run_worker

        address = sys.stdin.readline().strip() if given.address_on_stdin else None
        return run_worker(url=address, heartbeat=given.heartbeat, stalled=given.stalled, drain=given.drain)
    if given.command == "schema":
        sys.stdout.write((Path(__file__).parent / "files" / "studio.schema.json").read_text())
        return 0
    if given.command in ("plan", "people", "backup", "restore"):
        alone: int = import_module(f"evrant.commands.{given.command}").run(given)
        return alone
    studio = _read(given.file)
    if studio is None:
        return 2
    done: int = import_module(f"evrant.commands.{given.command}").run(studio, given)
    return done


def _read(file: Path) -> "Studio | None":
    from evrant.files.document import Refused, read_studio

    try:
        return read_studio(file.read_bytes())
    except OSError as error:
        print(f"{file}: {error.strerror}", file=sys.stderr)
    except Refused as refused:
        for fault in refused.faults:
            print(f"{file}: {fault}", file=sys.stderr)
    return None


if __name__ == "__main__":
    sys.exit(main())
