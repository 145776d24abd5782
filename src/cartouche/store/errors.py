"""Expected failures of the store."""

from typing import ClassVar

from cartouche.core.errors import CartoucheError


class StoreError(CartoucheError):
    sentence: ClassVar[str] = "Cartouche could not reach what it has kept ({why})."

    def __init__(self, why: str) -> None:
        self.why = why
        super().__init__(why)


class DataFolderUnusable(StoreError, OSError):
    sentence = "Cartouche cannot write to its data folder {folder} ({why}). Give it another with --data FOLDER, or allow writing there."

    def __init__(self, folder: str, why: str) -> None:
        self.folder = folder
        super().__init__(why)


class WrittenByNewer(StoreError):
    sentence = "What lies in {why} was written by a newer Cartouche. Start that one, or give this one another folder with --data FOLDER."


class CannotSave(StoreError, OSError):
    """passes: it may be possible later, as it is: a lock, a full disk."""

    sentence = "This could not be saved ({why}). {mend}"

    def __init__(self, why: str, mend: str = "Try again.", *, passes: bool = False) -> None:
        self.mend, self.passes = mend, passes
        super().__init__(why)


class NotKept(StoreError, LookupError):
    """Asked for something that is not there."""

    sentence = "This {what} is not here any more. It may have been removed in another tab. Reload the page."

    def __init__(self, what: str, wanted: str) -> None:
        self.what, self.wanted = what, wanted
        super().__init__(wanted)


class TooLarge(StoreError, OSError):
    sentence = "This file is larger than {why} MB. Save the part that the lesson needs as a file of its own."

    def __init__(self, max_mb: int) -> None:
        super().__init__(str(max_mb))


class LastPlate(StoreError):
    sentence = "This is the lesson's last plate: something must go out. Make another one first."

    def __init__(self) -> None:
        super().__init__("")


class NoSuchPlate(StoreError, LookupError):
    sentence = "This lesson has no plate number {number}."

    def __init__(self, number: int) -> None:
        self.number = number
        super().__init__(str(number))


class TooManyPlates(StoreError):
    sentence = "A lesson holds {why} plates at most. Delete one that you no longer use."


class NotPlates(StoreError, ValueError):
    sentence = "This file holds no plates that Cartouche can read: {why}."


class NotSteps(StoreError, ValueError):
    sentence = "This file holds no steps that Cartouche can read: {why}."


class NotAKit(StoreError, ValueError):
    sentence = "This file is no kit that Cartouche can read: {why}."
