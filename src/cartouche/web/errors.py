"""What the interface refuses by itself."""

from cartouche.core.errors import CartoucheError


class CutOff(CartoucheError, ConnectionError):
    sentence = "The file did not come whole. Add it again."


class WholeScreenUnasked(CartoucheError, ValueError):
    sentence = "That is the whole screen: learners would see everything that comes up on it. Say so once more, or choose one window."


class StillOpen(CartoucheError, ValueError):
    sentence = "This recording is still being written. Stop it, wait a moment, then try again."


class ShortenedMeanwhile(CartoucheError, ValueError):
    sentence = "This recording has been shortened meanwhile. Look at what is left, then choose again."


class NothingLeft(CartoucheError, ValueError):
    sentence = "Nothing would be left of this recording. Choose a beginning before its end."


class NotPlayable(CartoucheError, ValueError):
    sentence = "A part of this recording cannot be played, so it was left as it is. Get the file and try another player."


class NothingSaid(CartoucheError, ValueError):
    sentence = "No sound has come from this microphone yet. Wait until its level moves, then try again."


class NothingToStep(CartoucheError, ValueError):
    """way: 'undo' or 'redo'."""

    sentence = "There is nothing here to {way}."

    def __init__(self, way: str) -> None:
        self.way = way
        super().__init__(way)


class AtTheEnd(CartoucheError, ValueError):
    """A step that leads nowhere. where: as in "This is the last page"."""

    sentence = "This is {where}, and it is shown already."

    def __init__(self, where: str) -> None:
        self.where = where
        super().__init__(where)


class NotPaired(CartoucheError, PermissionError):
    sentence = "This extension is not paired with this Cartouche. Press Pair in the extension, then confirm on the Way in screen."


class NothingAsksToPair(CartoucheError, LookupError):
    sentence = "No extension asks with this code any more. Press Pair in the extension again."


class TooManyPairings(CartoucheError, PermissionError):
    sentence = "Too many wished to be paired. Wait a minute, then press Pair in the extension again."


class NamedTwice(CartoucheError, ValueError):
    sentence = "Two audiences are the same one. Remove one of them."


class NoPageToTry(CartoucheError, LookupError):
    sentence = "No camera shows a page yet. Choose one for the page, lay the page under it, then try again."


class NoPageServes(CartoucheError, LookupError):
    sentence = "No camera is the page yet. Choose one under Kit."


class NothingToHold(CartoucheError, LookupError):
    sentence = "No picture of the page has come yet: there is nothing to hold. Look under Kit."


class NothingToKeep(CartoucheError, LookupError):
    sentence = "No picture of the page has come yet: there is no sheet to keep. Look under Kit."


class TooManySteps(CartoucheError, ValueError):
    sentence = "A lesson has at most {most} steps. Delete one you no longer need."

    def __init__(self, most: int) -> None:
        self.most = most
        super().__init__(most)
