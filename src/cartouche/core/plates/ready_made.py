"""The ready-made plates: those that a new lesson begins with, and more to begin one's own from."""

from cartouche.core.plates.model import WHOLE_RECT, ColourContent, Place, Plate, Role


def _place(role: Role, x: float = 0, y: float = 0, width: float = 1, height: float = 1, **more: object) -> Place:
    return Place.model_validate(
        {"content": {"kind": "role", "role": role}, "rect": {"x": x, "y": y, "width": width, "height": height}, **more}
    )


_FACE_BESIDE = {"x": 0.745, "y": 0.035, "width": 0.235, "height": 0.32, "fit": "fill", "rounding": 0.03, "off_writing": True}

FIRST_PLATES: tuple[Plate, ...] = (
    Plate(id="page-and-face", name="Page and face", layout="page-and-face", places=(_place("page"), _place("face", **_FACE_BESIDE))),  # type: ignore[arg-type]
    Plate(id="page", name="Page", places=(_place("page"),)),
    Plate(id="face", name="Face", places=(_place("face", fit="fill"),)),
    Plate(
        id="side-by-side",
        name="Side by side",
        layout="side-by-side",
        places=(_place("page", width=0.6), _place("face", x=0.6, width=0.4, fit="fill", rounding=0.03)),
    ),
    Plate(
        id="stacked",
        name="One above the other",
        layout="stacked",
        places=(_place("page", height=0.5), _place("face", y=0.5, height=0.5, fit="fill", rounding=0.03)),
    ),
    Plate(
        id="band-and-face",
        name="Reading band and face",
        layout="band-and-face",
        places=(_place("page", height=0.6, fit="fill"), _place("face", x=0.7, y=0.62, width=0.28, height=0.36, fit="fill", rounding=0.03)),
    ),
)

_WAITS = Place(content=ColourContent(colour="#E6EAF6"), rect=WHOLE_RECT, rounding=0.03)
READY_MADE: tuple[Plate, ...] = (
    *FIRST_PLATES,
    Plate(
        id="four", name="Four together", layout="four", places=(_place("page"), _place("face", fit="fill", rounding=0.03), _WAITS, _WAITS)
    ),
    Plate(
        id="slides-and-face",
        name="Slides and face",
        layout="slides-and-face",
        places=(_place("page"), _place("face", fit="fill", rounding=0.03)),
    ),
)
