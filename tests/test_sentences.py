"""Every sentence that the program can say, found in its source; those of refused requests: tests/web/test_fuzz.py."""

import ast
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.sentences import faults

SOURCE = Path("src/cartouche")
PAGES = Path("frontend/src")
FOR_DEVELOPERS = {"cli.py", "app.py"}  # log lines and the description of the interface


def docstrings(tree: ast.AST) -> set[ast.Constant]:
    kinds = (ast.Module, ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef)
    bodies = [node.body for node in ast.walk(tree) if isinstance(node, kinds) and node.body]
    bodies += [[after] for node in ast.walk(tree) if isinstance(node, kinds) for after in node.body]
    return {one.value for body in bodies for one in body[:1] if isinstance(one, ast.Expr) and isinstance(one.value, ast.Constant)}


def texts(path: Path) -> Iterator[str]:
    """String constants that read like sentences; of f-strings what stands between the values."""
    tree = ast.parse(path.read_text())
    left_out = docstrings(tree)
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            yield "".join(str(part.value) if isinstance(part, ast.Constant) else "7" for part in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and node not in left_out:
            yield node.value


def is_sentence(text: str) -> bool:
    return len(text) > 20 and text.count(" ") >= 3 and text.lstrip("“{")[:1].isupper() and not text.isupper() and "SELECT" not in text


def said() -> list[tuple[str, str]]:
    files = [path for path in sorted(SOURCE.rglob("*.py")) if path.name not in FOR_DEVELOPERS and "store" not in path.parts[-2:-1]]
    files += sorted((SOURCE / "store").glob("errors.py"))
    return [(str(path), text) for path in files for text in texts(path) if is_sentence(text)]


def test_there_are_sentences_to_look_at() -> None:
    assert len(said()) > 100


@pytest.mark.parametrize(
    ("sentence", "wrong"),
    [
        ("This kit cannot be read..", "two full stops"),
        ("plates.0.name: String should have at most 60 characters", "a field path or machine words"),
        ("There is no device guest-3f2a9b here.", "an internal id"),
        ("Open the camera anew.", "“anew”: rather again"),
        ("It reads 8 % of the page.", "a space before %"),
    ],
)
def test_the_rules_find_what_they_are_for(sentence: str, wrong: str) -> None:
    assert wrong in faults(sentence)


def test_every_sentence_keeps_to_the_rules() -> None:
    wrong = [f"{path}: {text!r}: {', '.join(found)}" for path, text in said() if (found := faults(text))]
    assert not wrong, "\n".join(wrong)
