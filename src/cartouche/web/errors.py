"""What the interface refuses by itself."""

from cartouche.core.errors import CartoucheError


class CutOff(CartoucheError, ConnectionError):
    sentence = "The file did not come whole. Add it again."


class WholeScreenUnasked(CartoucheError, ValueError):
    sentence = "That is the whole screen: learners would see everything that comes up on it. Say so once more, or choose one window."


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
