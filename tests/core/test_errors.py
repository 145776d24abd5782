"""Every expected error has a sentence for a teacher, in one small tree."""

import inspect
from collections.abc import Iterator

import cartouche.errors
import cartouche.live.errors
import cartouche.live.files.errors
import cartouche.live.stream_feed
import cartouche.store.errors
import cartouche.web.errors
import cartouche.web.guests.errors  # noqa: F401
from cartouche.core.errors import CartoucheError

WORDS = {int: 8428, float: 1.5, str: "Words"}


def tree(kind: type[CartoucheError]) -> Iterator[type[CartoucheError]]:
    yield kind
    for child in kind.__subclasses__():
        yield from tree(child)


def made(kind: type[CartoucheError]) -> CartoucheError:
    if kind.__init__ is Exception.__init__:
        return kind()
    parameters = list(inspect.signature(kind.__init__).parameters.values())[1:]
    named = [p for p in parameters if p.kind is p.POSITIONAL_OR_KEYWORD and p.default is p.empty]
    return kind(*(WORDS[p.annotation] for p in named))


def test_each_class_says_a_whole_sentence_with_its_own_fields() -> None:
    kinds = list(tree(CartoucheError))
    assert len(kinds) > 12
    for kind in kinds:
        said = str(made(kind))
        assert said.lstrip("“")[0].isupper(), kind
        assert said.endswith("."), kind
        assert "{" not in said, kind
        assert len(said) > 25, kind


def test_no_class_borrows_the_sentence_of_its_parent() -> None:
    for kind in tree(CartoucheError):
        assert "sentence" in vars(kind), f"{kind.__name__} has no sentence of its own"
