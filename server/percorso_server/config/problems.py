"""Which field is to blame for what pydantic finds."""

from typing import Any

from percorso.errors import PercorsoError


def field_of(item: Any) -> tuple[str | int, ...]:
    """The field the core blames where pydantic only knows the whole object."""
    error = item.get("ctx", {}).get("error")
    return error.field if isinstance(error, PercorsoError) else ()
