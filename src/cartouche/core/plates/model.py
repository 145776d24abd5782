"""A plate: places in order, each with its content, rectangle and looks."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Part = Annotated[float, Field(ge=0.0, le=1.0)]
Hex = Annotated[str, Field(pattern=r"^#[0-9A-Fa-f]{6}$")]
Id = Annotated[str, Field(min_length=1, max_length=64)]
MAX_PLACES = 6  # beside caption and frame
PAPER = "#F3EEE3"

Role = Literal["page", "face"]
Layout = Literal["page-and-face", "side-by-side", "stacked", "four", "slides-and-face", "band-and-face"]


class _Kept(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class RoleContent(_Kept):
    """Whatever feed serves as page, or as face, in this lesson."""

    kind: Literal["role"] = "role"
    role: Role


class FeedContent(_Kept):
    """One feed, whatever it serves as: a camera, a sheet, slides, a clip, a window."""

    kind: Literal["feed"] = "feed"
    feed_id: str = Field(max_length=64)


class ColourContent(_Kept):
    """A plain colour."""

    kind: Literal["colour"] = "colour"
    colour: Hex


class CaptionContent(_Kept):
    """A name, and a line below it."""

    kind: Literal["caption"] = "caption"
    name: str = Field(default="", max_length=80)
    line: str = Field(default="", max_length=120)


class FrameContent(_Kept):
    """A frame round its rectangle, nothing in it."""

    kind: Literal["frame"] = "frame"
    colour: Hex = "#23459B"


class TimerContent(_Kept):
    """The lesson's timer, as large as its place allows."""

    kind: Literal["timer"] = "timer"


Content = Annotated[RoleContent | FeedContent | ColourContent | CaptionContent | FrameContent | TimerContent, Field(discriminator="kind")]


class Rect(_Kept):
    """Shares of the outgoing picture's width and height."""

    x: Part
    y: Part
    width: Annotated[float, Field(gt=0.01, le=1.0)]
    height: Annotated[float, Field(gt=0.01, le=1.0)]

    @model_validator(mode="after")
    def _inside(self) -> "Rect":
        if self.x + self.width > 1.0001 or self.y + self.height > 1.0001:
            raise ValueError("the place reaches beyond the outgoing picture")
        return self


class Focus(_Kept):
    """Which part of a picture that fills its place is kept: its middle, in shares of the picture."""

    x: Part = 0.5
    y: Part = 0.5


class Border(_Kept):
    """width: share of the outgoing height."""

    width: Annotated[float, Field(gt=0.0, le=0.03)] = 0.006
    colour: Hex = "#FFFDF8"


class Behind(_Kept):
    """way: what happens to what is behind a person.  colour: in its place.  feed_id: whose picture stands there, cropped to fit.
    light: more on the person, 0-1."""

    way: Literal["as it is", "soften", "replace", "picture"] = "as it is"
    colour: Hex = "#E2F0E9"
    feed_id: str = Field(default="", max_length=64)
    light: Part = 0.0

    @property
    def does_nothing(self) -> bool:
        return self.way == "as it is" and self.light == 0


Signed = Annotated[float, Field(ge=-1.0, le=1.0)]


class Grade(_Kept):
    """A face made the best of. even: how much of the light's unevenness over it is taken away.  balanced: white balance by itself.

    brightness, contrast, warmth, saturation: by hand, 0 as it comes; saturation -1 is black and white.  framed: on the head.
    """

    even: Part = 0.0
    balanced: bool = False
    brightness: Signed = 0.0
    contrast: Signed = 0.0
    warmth: Signed = 0.0
    saturation: Signed = 0.0
    framed: bool = False

    @property
    def does_nothing(self) -> bool:
        return not (self.needs_light or self.brightness or self.contrast or self.warmth or self.saturation)

    @property
    def needs_light(self) -> bool:
        """Whether how the picture is lit must be measured."""
        return self.even > 0 or self.balanced


LOOKS: dict[str, Grade] = {
    "Clear": Grade(even=0.7, balanced=True, brightness=0.12, contrast=0.15),
    "Warm": Grade(even=0.5, balanced=True, warmth=0.3, brightness=0.08, saturation=0.1),
    "Black and white": Grade(even=0.5, contrast=0.2, saturation=-1.0),
}
"""Where a teacher may start from."""


class Place(_Kept):
    """content in rect; fit shows all of it with margins, fill crops it to the rectangle around its focus.

    rounding: of its corners, in shares of the outgoing height.  round: an ellipse instead.  off_writing: it keeps to where
    nothing is written.  adorns: one key takes it off and puts it back (caption, frame, background).  behind, grade: for a face.
    """

    content: Content
    rect: Rect
    fit: Literal["fit", "fill"] = "fit"
    focus: Focus = Focus()
    rounding: Annotated[float, Field(ge=0.0, le=0.2)] = 0.0
    round: bool = False
    border: Border | None = None
    shadow: bool = False
    off_writing: bool = False
    adorns: bool = False
    behind: Behind = Behind()
    grade: Grade = Grade()

    @property
    def is_laid(self) -> bool:
        """Whether a layout gives it its rectangle: a picture, or a plain colour that waits for one."""
        return not self.adorns and (self.has_picture or isinstance(self.content, ColourContent))

    @property
    def needs_person(self) -> bool:
        """Whether a person must be found in its picture: all but colours."""
        return not self.behind.does_nothing or self.grade.even > 0

    @property
    def has_picture(self) -> bool:
        """Whether it shows a feed."""
        return isinstance(self.content, RoleContent | FeedContent)


class Plate(_Kept):
    """places are drawn in their order: the first lies at the back.

    layout: how places that show a feed are laid by what they hold; None where the teacher laid them.
    background: colour under all.  fade_s: how long the change to this plate takes, 0 for a cut.
    """

    id: Id
    name: str = Field(min_length=1, max_length=60)
    places: tuple[Place, ...] = Field(max_length=MAX_PLACES + 3)
    layout: Layout | None = None
    background: Hex = PAPER
    fade_s: Part = 0.0

    @model_validator(mode="after")
    def _not_too_many(self) -> "Plate":
        if sum(place.has_picture for place in self.places) > MAX_PLACES:
            raise ValueError(f"more than {MAX_PLACES} places that show a picture")
        return self


WHOLE_RECT = Rect(x=0, y=0, width=1, height=1)
