"""What the interface refuses by itself."""

from cartouche.core.errors import CartoucheError


class WholeScreenUnasked(CartoucheError, ValueError):
    sentence = "That is the whole screen: learners would see everything that comes up on it. Say so once more, or choose one window."
