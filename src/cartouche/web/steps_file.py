"""Steps as a file: JSON with a published schema (docs/steps.schema.json)."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from cartouche.core.plates.model import Plate
from cartouche.core.teach.steps import MAX_STEPS, Step
from cartouche.store.errors import NotSteps
from cartouche.web.validation import clause

MAX_BYTES = 2_000_000


class StepsFile(BaseModel):
    """Steps in their order. plate_names: by the ids that they name, so that another lesson finds its own plates by name. Devices and
    sheets keep their ids: where they are not there, the step says so."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    format: Literal["cartouche-steps"] = "cartouche-steps"
    version: Literal[1] = 1
    steps: Annotated[list[Step], Field(max_length=MAX_STEPS)]
    plate_names: dict[str, str] = {}


def schema() -> dict[str, Any]:
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **StepsFile.model_json_schema()}


def read(content: bytes) -> StepsFile:
    """Raises NotSteps with what is wrong and where."""
    try:
        return StepsFile.model_validate_json(content)
    except ValidationError as exc:
        raise NotSteps(clause(exc.errors())) from exc


def fitted(file: StepsFile, plates: tuple[Plate, ...]) -> list[Step]:
    """Its steps for a lesson with these plates: one that is not there by its id is looked for by its name."""
    ids, by_name = {plate.id for plate in plates}, {plate.name: plate.id for plate in plates}

    def plate_of(step: Step) -> str | None:
        if step.plate_id is None or step.plate_id in ids:
            return step.plate_id
        return by_name.get(file.plate_names.get(step.plate_id, ""), step.plate_id)

    return [step.model_copy(update={"plate_id": plate_of(step)}) for step in file.steps]
