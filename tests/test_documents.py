"""Documents are held to the code."""

import re
import subprocess

import pytest

from cartouche.web.app import create_app
from tests.helpers import ROOT

README = (ROOT / "README.md").read_text()
DOCS = sorted((ROOT / "docs").glob("*.md"))


def test_each_command_of_the_readme_is_one_that_run_knows() -> None:
    told = subprocess.run([str(ROOT / "run")], capture_output=True, text=True).stderr
    known = set(re.findall(r"\./run (\w+)", told))
    used = set(re.findall(r"\./run (\w+)", README + "".join(doc.read_text() for doc in DOCS)))
    assert {"demo", "test"} <= used <= known


def test_all_tests_are_run_by_the_one_command() -> None:
    named = (ROOT / "run").read_text()
    for place in {path.relative_to(ROOT).parts[1] for path in (ROOT / "tests").rglob("test_*.py")}:
        assert ("tests/test_*.py" if place.endswith(".py") else f"tests/{place}") in named, place


def test_each_benchmark_that_is_named_exists() -> None:
    names = set(re.findall(r"\./run bench (\w+)", README + "".join(doc.read_text() for doc in DOCS)))
    assert {"desk", "delay", "finder"} <= names
    for name in names:
        assert (ROOT / "benchmarks" / f"{name}.py").is_file(), name


@pytest.mark.parametrize("document", [ROOT / "README.md", *DOCS], ids=lambda path: path.name)
def test_each_link_leads_somewhere(document) -> None:  # type: ignore[no-untyped-def]
    for target in re.findall(r"\]\(([^)#]+)\)", document.read_text()):
        if not target.startswith("http"):
            assert (document.parent / target).exists(), target


def test_each_screenshot_is_shown_in_the_readme() -> None:
    shots = list((ROOT / "docs" / "screenshots").glob("*.png"))
    assert 4 <= len(shots) < 20
    for shot in shots:
        assert shot.name in README, shot.name


def test_each_route_is_in_the_architecture() -> None:
    told = (ROOT / "docs" / "architecture.md").read_text()
    for path in create_app(None).openapi()["paths"]:
        assert f"`{path}`" in told, path


def test_each_room_is_in_the_architecture() -> None:
    told = (ROOT / "docs" / "architecture.md").read_text()
    for room in (ROOT / "src" / "cartouche").iterdir():
        if room.is_dir() and (room / "__init__.py").exists():
            assert f"`{room.name}/`" in told, room.name


def test_lock_files_name_no_host() -> None:
    for lock in [*(ROOT / "requirements").glob("*.lock"), ROOT / "frontend" / "package-lock.json"]:
        text = lock.read_text()
        assert '"resolved"' not in text, lock.name
        assert not re.search(r"(--index-url|--find-links|@ (https?|file):)", text), lock.name


def test_each_file_that_the_architecture_names_is_there() -> None:
    text = (ROOT / "docs" / "architecture.md").read_text()
    table = text[text.index("## To change X, open Y") :]
    named = re.findall(r"`((?:src|frontend)/[\w/.]+)`", table)
    assert len(named) >= 20
    assert [path for path in named if not (ROOT / path).is_file()] == []


def test_the_glossary_gives_each_word_its_term() -> None:
    rows = [line.split("|")[1:-1] for line in (ROOT / "docs" / "glossary.md").read_text().splitlines() if line.startswith("|")][2:]
    assert len(rows) >= 20
    assert all(cell.strip() for row in rows for cell in row)
