"""Ready-made layouts: rectangles worked out from the proportions of what the places hold.

All in units of the outgoing height; the outgoing picture is `wide` of them wide and 1 high.
"""

from collections.abc import Callable, Sequence

from cartouche.core.plates.model import Layout, Place, Plate, Rect

MARGIN = 0.025
MIN_COLUMN = 0.34  # a face narrower than that is no face: about a fifth of a 16:9 picture
FACE_ASPECTS = (0.75, 4 / 3)  # how a face may be cropped
BAND_ASPECT = 3.2  # of the part of a page that a reading band shows
Box = tuple[float, float, float, float]  # x, y, width, height


def arranged(plate: Plate, aspects: Sequence[float], wide: float) -> Plate:
    """The plate with the rectangles that its layout gives to what it holds; a plate that was laid by hand as it is.

    aspects: width / height of each place's picture, in the plate's order.  wide: the outgoing picture's.
    """
    shown = [number for number, place in enumerate(plate.places) if place.is_laid]
    if plate.layout is None or not shown:
        return plate
    boxes = _LAYOUTS[plate.layout]([aspects[number] for number in shown], [plate.places[number] for number in shown], wide)
    places = list(plate.places)
    for number, box in zip(shown, boxes, strict=True):
        places[number] = places[number].model_copy(update={"rect": _rect(box, wide)})
    return plate.model_copy(update={"places": tuple(places)})


def without(plate: Plate, gone: frozenset[int]) -> Plate:
    """The plate without some of its places, their room given to the others. gone: numbers of places."""
    left = [place for number, place in enumerate(plate.places) if number not in gone]
    if not gone or not any(place.has_picture for place in left):
        return plate
    if plate.layout is None:
        lost = max((plate.places[number] for number in gone), key=_area)
        heir = max((place for place in left if place.has_picture), key=_area)
        if _area(lost) > _area(heir):
            left = [place.model_copy(update={"rect": lost.rect}) if place is heir else place for place in left]
    return plate.model_copy(update={"places": tuple(left)})


def _area(place: Place) -> float:
    return place.rect.width * place.rect.height


def _rect(box: Box, wide: float) -> Rect:
    x, y, width, height = box
    x, y = min(max(x / wide, 0.0), 0.98), min(max(y, 0.0), 0.98)
    return Rect(x=x, y=y, width=min(max(width / wide, 0.011), 1 - x), height=min(max(height, 0.011), 1 - y))


def _alone(place: Place, wide: float) -> list[Box]:
    return [(0, 0, wide, 1)] if place.fit == "fill" else [(MARGIN, MARGIN, wide - 2 * MARGIN, 1 - 2 * MARGIN)]


def _beside(aspects: Sequence[float], places: Sequence[Place], wide: float) -> list[Box]:
    """The first as large as it gets, the others in what is left beside or below it; over it where too little is left."""
    if len(places) == 1:
        return _alone(places[0], wide)
    room = (wide - 2 * MARGIN, 1 - 2 * MARGIN)
    column = room[0] - MARGIN - min(room[1] * aspects[0], room[0] - MARGIN - MIN_COLUMN)
    row = room[1] - MARGIN - min(room[0] / aspects[0], room[1] - MARGIN - MIN_COLUMN)
    by_column = min(room[1], (room[0] - MARGIN - column) / aspects[0]) ** 2 * aspects[0]
    by_row = min(room[0] / aspects[0], room[1] - MARGIN - row) ** 2 * aspects[0]
    if by_column >= by_row:
        main = (MARGIN, MARGIN, room[0] - MARGIN - column, room[1])
        return [main, *_faces((wide - MARGIN - column, MARGIN, column, room[1]), aspects[1:], places[1:], down=True)]
    main = (MARGIN, MARGIN, room[0], room[1] - MARGIN - row)
    return [main, *_faces((MARGIN, 1 - MARGIN - row, room[0], row), aspects[1:], places[1:], down=False)]


def _over(aspects: Sequence[float], places: Sequence[Place], wide: float) -> list[Box]:
    """Beside it, or, where the first would have to shrink for that, over it: the second then keeps off the writing by itself."""
    spare = wide - 3 * MARGIN - (1 - 2 * MARGIN) * aspects[0]
    if len(places) != 2 or not places[1].off_writing or spare >= MIN_COLUMN:
        return _beside(aspects, places, wide)
    width = MIN_COLUMN
    return [(0, 0, wide, 1), (wide - MARGIN - width, MARGIN, width, width / _face_aspect(aspects[1]))]


def _face_aspect(aspect: float) -> float:
    return min(max(aspect, FACE_ASPECTS[0]), FACE_ASPECTS[1])


def _faces(room: Box, aspects: Sequence[float], places: Sequence[Place], down: bool) -> list[Box]:
    """Each in its share of the room, as large as its proportions let it be, in the middle; a face is cropped towards them."""
    x, y, width, height = room
    rects, count = [], len(places)
    for number, (aspect, place) in enumerate(zip(aspects, places, strict=True)):
        cell_wide = width if down else (width - (count - 1) * MARGIN) / count
        cell_high = (height - (count - 1) * MARGIN) / count if down else height
        wanted = min(max(cell_wide / cell_high, FACE_ASPECTS[0]), FACE_ASPECTS[1]) if place.fit == "fill" else aspect
        wide = min(cell_wide, cell_high * wanted)
        high = wide / wanted
        left = x + (cell_wide - wide) / 2 + (0 if down else number * (cell_wide + MARGIN))
        top = y + (cell_high - high) / 2 + (number * (cell_high + MARGIN) if down else 0)
        rects.append((left, top, wide, high))
    return rects


def _side_by_side(aspects: Sequence[float], places: Sequence[Place], wide: float) -> list[Box]:
    """Columns of one height, as wide as their proportions ask: nothing is cropped that need not be."""
    if len(places) == 1:
        return _alone(places[0], wide)
    shapes = [_face_aspect(aspect) if place.fit == "fill" else aspect for aspect, place in zip(aspects, places, strict=True)]
    room = wide - (len(places) + 1) * MARGIN
    high = min(1 - 2 * MARGIN, room / sum(shapes))
    left, rects = (wide - high * sum(shapes) - (len(places) - 1) * MARGIN) / 2, []
    for shape in shapes:
        rects.append((left, (1 - high) / 2, high * shape, high))
        left += high * shape + MARGIN
    return rects


def _stacked(aspects: Sequence[float], places: Sequence[Place], wide: float) -> list[Box]:
    """Rows; the first two thirds high at most, all as wide as their height lets them be."""
    if len(places) == 1:
        return _alone(places[0], wide)
    shares = [0.62, *([0.38 / (len(places) - 1)] * (len(places) - 1))]
    top, rects = MARGIN, []
    for share, aspect, place in zip(shares, aspects, places, strict=True):
        high = (1 - (len(places) + 1) * MARGIN) * share
        width = min(wide - 2 * MARGIN, high * (aspect if place.fit == "fit" else max(aspect, 16 / 9)))
        rects.append(((wide - width) / 2, top, width, high))
        top += high + MARGIN
    return rects


def _four(aspects: Sequence[float], places: Sequence[Place], wide: float) -> list[Box]:
    """Two by two; three leave the last row to one, two stand side by side."""
    if len(places) < 3:
        return _side_by_side(aspects, places, wide)
    rows = (len(places) + 1) // 2
    high, rects = (1 - (rows + 1) * MARGIN) / rows, []
    for number in range(len(places)):
        row, alone = number // 2, number == len(places) - 1 and len(places) % 2 == 1
        cell = wide - 2 * MARGIN if alone else (wide - 3 * MARGIN) / 2
        rects.append((MARGIN + (number % 2) * (cell + MARGIN), MARGIN + row * (high + MARGIN), cell, high))
    return rects


def _band(aspects: Sequence[float], places: Sequence[Place], wide: float) -> list[Box]:
    """A band of the first across the whole width, the others below it."""
    if len(places) == 1:
        return [(0, (1 - wide / BAND_ASPECT) / 2, wide, wide / BAND_ASPECT)]
    high = wide / BAND_ASPECT
    below = (MARGIN, high + MARGIN, wide - 2 * MARGIN, 1 - high - 2 * MARGIN)
    return [(0, 0, wide, high), *_faces(below, aspects[1:], places[1:], down=False)]


_LAYOUTS: dict[Layout, Callable[[Sequence[float], Sequence[Place], float], list[Box]]] = {
    "page-and-face": _over,
    "side-by-side": _side_by_side,
    "stacked": _stacked,
    "four": _four,
    "slides-and-face": _beside,
    "band-and-face": _band,
}
