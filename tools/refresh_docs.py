"""Writes anew what is made from the code."""

import re
from pathlib import Path

from evrant.core.judge.declared import lines
from evrant.files.document import schema
from evrant.files.gear_table import column_guide

ROOT = Path(__file__).parents[1]
ROW = re.compile(r"^\| `[a-z]+\.[a-z_]+` \| .* \|\n", re.M)


def guide_rows() -> str:
    """The guide's table of codes: each with its question, set by set of first words."""
    ordered = sorted(lines().values(), key=lambda line: line.code.split(".")[0])
    return "".join(f"| `{line.code}` | {line.asks} |\n" for line in ordered)


def main() -> None:
    (ROOT / "src/evrant/files/studio.schema.json").write_text(schema())
    (ROOT / "docs/format/gear-csv.md").write_text(column_guide())
    guide = ROOT / "docs/guide.md"
    text = guide.read_text()
    first = ROW.search(text)
    assert first is not None
    bare = ROW.sub("", text)
    guide.write_text(bare[: first.start()] + guide_rows() + bare[first.start() :])


if __name__ == "__main__":
    main()
