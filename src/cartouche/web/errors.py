"""What the interface refuses by itself."""

from cartouche.core.errors import CartoucheError


class CutOff(CartoucheError, ConnectionError):
    sentence = "The file did not come whole. Add it again."


class WholeScreenUnasked(CartoucheError, ValueError):
    sentence = "That is the whole screen: learners would see everything that comes up on it. Say so once more, or choose one window."
