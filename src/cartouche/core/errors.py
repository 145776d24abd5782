"""The one small tree of expected errors. Each has a sentence that a teacher can act on."""

from typing import ClassVar


class CartoucheError(Exception):
    """Root of the tree. `sentence` is a format string over the instance's own fields."""

    sentence: ClassVar[str] = "Something went wrong. Try again."

    def __str__(self) -> str:
        return self.sentence.format(**vars(self))


class BadPicture(CartoucheError, ValueError):
    """A picture, plane or size of the wrong shape or type."""

    sentence = "This is not a picture Cartouche can use: wanted {wanted}, got {got}."

    def __init__(self, wanted: str, got: str) -> None:
        self.wanted, self.got = wanted, got
        super().__init__(wanted, got)


class DegenerateCorners(CartoucheError, ValueError):
    """Four corners that span no quadrilateral."""

    sentence = "These four corners do not make a page ({why}). Pull them apart, or press Square it up."

    def __init__(self, why: str) -> None:
        self.why = why
        super().__init__(why)
