"""What can be wrong with a file, in words for a teacher."""

from typing import ClassVar

from cartouche.core.errors import CartoucheError


class UnreadableFile(CartoucheError, ValueError):
    sentence: ClassVar[str] = "“{name}” cannot be read ({why}). Save it again in the program it came from, then add it again."

    def __init__(self, name: str, why: str = "") -> None:
        self.name, self.why = name, why
        super().__init__(name, why)


class EmptyFile(UnreadableFile):
    sentence = "“{name}” is empty: nothing was saved in it. Save it again, then add it."


class WrongKind(UnreadableFile):
    sentence = "“{name}” isn't really {why}. Pages may be PDF, PNG or JPEG; clips MP4 or WebM."


class LockedFile(UnreadableFile):
    sentence = "“{name}” is locked with a password. Open it in your reader, save a copy without the password, then add that."


class TooManyPages(UnreadableFile):
    sentence = "“{name}” has {why} pages; Cartouche takes up to 500. Save the pages that the lesson needs as a PDF of their own."


class TooManyPixels(UnreadableFile):
    sentence = "“{name}” is {why} pixels large; Cartouche takes up to 50 million. Save it smaller, then add it again."


class TooComplicated(UnreadableFile):
    sentence = "“{name}” is too complicated to draw. Export it again from its program, or send its pages as pictures."
