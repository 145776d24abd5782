"""Plates as a file: JSON with a published schema (docs/plates.schema.json)."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from cartouche.core.plates.model import FeedContent, Plate
from cartouche.store.errors import NotPlates
from cartouche.web.validation import clause

MAX_PLATES = 40


class PlatesFile(BaseModel):
    """Plates in their order. A place that shows one device keeps that device's id: in another kit it must be given one anew."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    format: Literal["cartouche-plates"] = "cartouche-plates"
    version: Literal[1] = 1
    plates: Annotated[list[Plate], Field(min_length=1, max_length=MAX_PLATES)]


def schema() -> dict[str, Any]:
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **PlatesFile.model_json_schema()}


def read(content: bytes) -> PlatesFile:
    """Raises NotPlates with what is wrong and where."""
    try:
        return PlatesFile.model_validate_json(content)
    except ValidationError as exc:
        raise NotPlates(clause(exc.errors())) from exc


def unknown_feeds(plate: Plate, known: set[str]) -> int:
    """How many of its places show a device that is not in the kit."""
    return sum(isinstance(place.content, FeedContent) and place.content.feed_id not in known for place in plate.places)
