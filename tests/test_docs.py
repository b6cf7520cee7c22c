"""Documentation is tested: codes, format, commands and pictures."""

import json
import re
import subprocess
import sys
from pathlib import Path

import pytest
from helpers.studios import demo
from pydantic import TypeAdapter

from evrant import cli
from evrant.core.judge.declared import lines
from evrant.core.studio.studio import Studio
from evrant.files.document import schema

ROOT = Path(__file__).parents[1]


def test_every_code_is_documented_and_every_documented_code_exists() -> None:
    told = re.findall(r"^\| `([a-z]+\.[a-z_]+)` \| (.*?) \|$", (ROOT / "docs/guide.md").read_text(), re.M)
    assert dict(told) == {code: line.asks for code, line in lines().items()} and len(told) == len(lines()) >= 80


def test_the_schema_is_the_generated_one_and_accepts_the_example() -> None:
    written = (ROOT / "src/evrant/files/studio.schema.json").read_text()
    assert written == schema()
    assert json.loads(written) == TypeAdapter(Studio).json_schema(by_alias=True)
    assert Studio.model_validate_json((ROOT / "examples/adoption-corner.json").read_text()) == demo()


def test_the_readme_begins_with_the_two_commands_and_links_every_picture() -> None:
    readme = (ROOT / "README.md").read_text()
    assert readme.index("bin/demo") < readme.index("bin/test") < 300
    pictures = {path.name for path in (ROOT / "docs/screenshots").glob("*.png")}
    assert pictures == set(re.findall(r"docs/screenshots/([a-z-]+\.png)", readme)) and 0 < len(pictures) < 20


def test_the_command_line(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    assert cli.main(["check", str(ROOT / "examples/adoption-corner.json")]) == 1
    assert "Not ready to buy" in capsys.readouterr().out
    assert cli.main(["check", str(ROOT / "examples/adoption-corner.json"), "--json"]) == 1
    data = json.loads(capsys.readouterr().out)
    assert {
        "code",
        "about",
        "need",
        "have",
        "margin",
        "unit",
        "uncertainty",
        "verdict",
        "sentence",
        "basis",
        "remedies",
    } <= set(data["margins"][0])
    bad = tmp_path / "bad.json"
    bad.write_text(json.dumps({"format": "evrant-studio", "schema": 1, "name": "x", "room": {"height": 0.005}}))
    assert cli.main(["check", str(bad)]) == 2
    assert "room.height" in capsys.readouterr().err
    assert cli.main(["check", str(tmp_path / "none.json")]) == 2


def test_the_command_runs_from_anywhere(tmp_path: Path) -> None:
    done = subprocess.run(
        [str(ROOT / "bin/evrant"), "schema"], cwd=tmp_path, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0 and json.loads(done.stdout)["title"] == "Studio"


def luminance(colour: str) -> float:
    parts = (int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
    linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("ground", ["paper", "sheet"])
@pytest.mark.parametrize("text", ["ink", "soft", "light", "mark-text", "short", "tight", "clear"])
@pytest.mark.parametrize("theme", [0, 1], ids=["light", "dark"])
def test_text_colours_have_enough_contrast(ground: str, text: str, theme: int) -> None:
    """WCAG 2.2, 1.4.3 (AA): at least 4.5 : 1 for text."""
    css = (ROOT / "src/evrant/web/static/evrant.css").read_text()
    themes = re.findall(r":root \{(.*?)\}", css, re.S)
    assert len(themes) == 2
    colours = dict(re.findall(r"--([a-z-]+): (#[0-9a-f]{6})", themes[theme]))
    darker, lighter = sorted((luminance(colours[ground]), luminance(colours[text])))
    assert (lighter + 0.05) / (darker + 0.05) >= 4.5


def test_templates_and_styles_have_short_lines() -> None:
    """At most 120 characters, as the code has."""
    web = ROOT / "src/evrant/web"
    for path in (*web.rglob("*.html"), web / "static/evrant.css"):
        for number, line in enumerate(path.read_text().splitlines(), start=1):
            assert len(line) <= 120, (path.name, number)


def modules_of(code: str) -> set[str]:
    """What a fresh interpreter has loaded after some code."""
    told = subprocess.run(
        [sys.executable, "-c", f"{code}\nimport sys\nprint(' '.join(sys.modules))"],
        capture_output=True,
        text=True,
        check=True,
        env={"PYTHONPATH": str(ROOT / "src"), "PATH": "/usr/bin:/bin"},
    )
    return set(told.stdout.rpartition("\n}")[2].split())


def test_the_web_loads_no_solver_and_the_schema_loads_next_to_nothing() -> None:
    web = modules_of("import evrant.web.app, evrant.web.registry\nevrant.web.registry.specs()")
    assert "evrant.web.pages.best.handler" in web and not {"ortools", "pandas"} & web
    small = modules_of("from evrant import cli\ncli.main(['schema'])")
    assert not {"ortools", "pandas", "numba", "numpy", "fastapi", "sqlalchemy", "scipy", "shapely"} & small
    assert "evrant.cli" in small
