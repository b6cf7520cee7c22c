"""The command line: `evrant serve`, `evrant check`, `evrant schema`."""

import argparse
import json
import sys
from collections.abc import Sequence
from pathlib import Path

from evrant.core.ledger import Ledger, ledger_of
from evrant.core.studio.studio import Studio
from evrant.core.words import Say
from evrant.files.document import Refused, read_studio, schema
from evrant.files.report import ledger_data


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; the exit status is 0 when it worked, 1 when a check found Short lines, 2 for bad input."""
    parser = argparse.ArgumentParser(prog="evrant", description="Plan a small room as a studio.")
    commands = parser.add_subparsers(dest="command", required=True)
    check = commands.add_parser("check", help="print the ledger of a studio file")
    check.add_argument("file", type=Path)
    check.add_argument("--json", action="store_true", help="print the ledger as JSON")
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
    return _check(given.file, as_json=given.json)


def _check(file: Path, *, as_json: bool) -> int:
    try:
        studio = read_studio(file.read_bytes())
    except OSError as error:
        print(f"{file}: {error.strerror}", file=sys.stderr)
        return 2
    except Refused as refused:
        for fault in refused.faults:
            print(f"{file}: {fault}", file=sys.stderr)
        return 2
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
