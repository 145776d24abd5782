"""A plate: places in order, each with its content, rectangle and fit."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Part = Annotated[float, Field(ge=0.0, le=1.0)]

Role = Literal["page", "face"]


class RoleContent(BaseModel):
    """Whatever feed serves as page, or as face, in this lesson."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: Literal["role"] = "role"
    role: Role


class FeedContent(BaseModel):
    """One feed, whatever it serves as."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: Literal["feed"] = "feed"
    feed_id: str = Field(max_length=64)


Content = Annotated[RoleContent | FeedContent, Field(discriminator="kind")]


class Rect(BaseModel):
    """Shares of the outgoing picture's width and height."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    x: Part
    y: Part
    width: Annotated[float, Field(gt=0.01, le=1.0)]
    height: Annotated[float, Field(gt=0.01, le=1.0)]

    @model_validator(mode="after")
    def _inside(self) -> "Rect":
        if self.x + self.width > 1.0001 or self.y + self.height > 1.0001:
            raise ValueError("the place reaches beyond the outgoing picture")
        return self


class Place(BaseModel):
    """content in rect; fit shows all of it with margins, fill crops it to the rectangle; rounding in shares of the outgoing height."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    content: Content
    rect: Rect
    fit: Literal["fit", "fill"] = "fit"
    rounding: Annotated[float, Field(ge=0.0, le=0.2)] = 0.0


class Plate(BaseModel):
    """places are drawn in their order: the first lies at the back."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str = Field(max_length=64)
    name: str = Field(min_length=1, max_length=60)
    places: tuple[Place, ...] = Field(max_length=9)


def _place(role: Role, x: float, y: float, width: float, height: float, **more: object) -> Place:
    return Place.model_validate(
        {"content": {"kind": "role", "role": role}, "rect": {"x": x, "y": y, "width": width, "height": height}, **more}
    )


FIRST_PLATES: tuple[Plate, ...] = (
    Plate(
        id="page-and-face",
        name="Page and face",
        places=(
            _place("page", 0, 0, 0.8, 1),  # the face overlaps no more than a page's own margin
            _place("face", 0.745, 0.035, 0.235, 0.32, fit="fill", rounding=0.03),
        ),
    ),
    Plate(id="page", name="Page", places=(_place("page", 0, 0, 1, 1),)),
    Plate(id="face", name="Face", places=(_place("face", 0, 0, 1, 1, fit="fill"),)),
    Plate(
        id="side-by-side",
        name="Side by side",
        places=(
            _place("page", 0.0, 0.0, 0.62, 1.0),
            _place("face", 0.64, 0.16, 0.34, 0.68, fit="fill", rounding=0.03),
        ),
    ),
)
