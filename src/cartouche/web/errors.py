"""What the interface refuses by itself."""

from cartouche.core.errors import CartoucheError


class CutOff(CartoucheError, ConnectionError):
    sentence = "The file did not come whole. Add it again."


class WholeScreenUnasked(CartoucheError, ValueError):
    sentence = "That is the whole screen: learners would see everything that comes up on it. Say so once more, or choose one window."


class NothingToStep(CartoucheError, ValueError):
    """way: 'undo' or 'redo'."""

    sentence = "There is nothing to {way}."

    def __init__(self, way: str) -> None:
        self.way = way
        super().__init__(way)


class AtTheEnd(CartoucheError, ValueError):
    """A step that leads nowhere. what: where it stands."""

    sentence = "{what}"

    def __init__(self, what: str) -> None:
        self.what = what
        super().__init__(what)
