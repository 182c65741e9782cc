"""Turns pydantic's findings into messages a tradesman understands."""

from typing import Any

from percorso.errors import PercorsoError

_PLAIN = {
    "missing": "this is needed",
    "string_too_short": "this must not be empty",
    "uuid_parsing": "this is not an id",
    "extra_forbidden": "there is no such field here",
    "float_parsing": "this is not a number; write figures only, with a decimal point",
    "float_type": "this must be a number",
    "finite_number": "this must be a number that ends",
}


def field_of(item: Any) -> tuple[str | int, ...]:
    """The field the core blames where pydantic only knows the whole object."""
    error = item.get("ctx", {}).get("error")
    return error.field if isinstance(error, PercorsoError) else ()


def plain_message(item: Any) -> str:
    """One problem of a pydantic error list as a short sentence."""
    context = item.get("ctx", {})
    if item["type"] == "string_too_long":
        return f"this must not be longer than {context['max_length']} characters"
    if item["type"] == "literal_error":
        return f"this must be one of {context['expected']}"
    return _PLAIN.get(item["type"]) or str(item["msg"]).removeprefix("Value error, ")
