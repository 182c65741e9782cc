"""Fields of a model that take quantities as people type them, and keep what was typed."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, model_validator

from percorso import names
from percorso.errors import PercorsoError
from percorso.quantities import CURRENT, LENGTH, RESISTANCE, Kind, in_range, parse


@dataclass(frozen=True)
class Typed:
    """Marks a field that takes an SI number or text as people type it, of ``kind``."""

    kind: Kind

    def read(self, value: Any) -> Any:
        """The SI value of typed text; numbers are held to the kind's range; anything else is for pydantic."""
        if isinstance(value, bool):
            raise PercorsoError(f"yes or no is no {self.kind.name}; write for example {self.kind.example}")
        if isinstance(value, str):
            return parse(value, self.kind)
        if isinstance(value, int | float):
            return in_range(float(value), self.kind)
        return value


def typed(kind: Kind, *, optional: bool = False) -> Any:
    """The annotations of a float field that accepts typed text of ``kind``, or with ``optional`` None."""
    marker = Typed(kind)
    return BeforeValidator(marker.read, json_schema_input_type=float | str | None if optional else float | str)


Length = Annotated[float, typed(LENGTH)]


Current = Annotated[float, typed(CURRENT)]


Resistance = Annotated[float | None, typed(replace(RESISTANCE, above_lowest=False), optional=True)]  # None: typical


class KeepsTyped(BaseModel):
    """Values of which ``typed`` keeps, by field, the text a person typed for a quantity."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    typed: dict[str, names.TypedName] = {}

    @model_validator(mode="before")
    @classmethod
    def _keep_what_was_typed(cls, data: Any) -> Any:
        if not isinstance(data, dict) or not isinstance(data.get("typed", {}), dict):
            return data
        quantities = [
            name
            for name, field in cls.model_fields.items()
            if any(isinstance(mark, BeforeValidator) for mark in field.metadata)
        ]
        for name, field in cls.model_fields.items():
            if isinstance(data.get(name), bool) and field.annotation is not bool:
                raise PercorsoError("yes or no is no answer here; write a value", field=(name,))
        texts = {name: data[name] for name in quantities if isinstance(data.get(name), str)}
        kept = {name: text for name, text in data.get("typed", {}).items() if name in quantities}
        return {**data, "typed": kept | texts}


def merged(spec: KeepsTyped, change: Mapping[str, Any]) -> dict[str, Any]:
    """Values of ``spec`` with ``change`` over them, not yet validated; nothing is kept when the kind changes.

    Typed text of a changed value goes with the old value.
    """
    values = spec.model_dump()
    kept = {} if change.get("kind", values["kind"]) != values["kind"] else values
    texts = {name: text for name, text in kept.pop("typed", {}).items() if name not in change}
    return {**kept, **change, "typed": texts}
