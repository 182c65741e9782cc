"""What pydantic finds wrong, in plain words."""

from collections.abc import Iterable, Mapping
from typing import Any

# By the kind of what is wrong; what it names is of pydantic's context.
PLAIN: Mapping[str, str] = {
    "missing": "this is needed",
    "extra_forbidden": "there is no such field here",
    "string_type": "this must be text",
    "string_too_short": "this must not be empty",
    "string_too_long": "this must not be longer than {max_length} characters",
    "literal_error": "this must be one of {expected}",
    "uuid_parsing": "this is not an id",
    "bool_parsing": "this must be true or false",
    "bool_type": "this must be true or false",
    "int_parsing": "this must be a whole number",
    "int_type": "this must be a whole number",
    "int_from_float": "this must be a whole number",
    "float_parsing": "this is not a number; write figures only, with a decimal point",
    "float_type": "this must be a number",
    "finite_number": "this must be a number that ends",
    "greater_than": "this must be more than {gt:g}",
    "greater_than_equal": "this must be at least {ge:g}",
    "less_than": "this must be less than {lt:g}",
    "less_than_equal": "this must be at most {le:g}",
    "list_type": "this must be a list",
    "tuple_type": "this must be a list",
    "dict_type": "this must have fields of its own",
}


def plain_message(item: Any) -> str:
    """One problem of a pydantic error list as a short sentence."""
    said = PLAIN.get(item["type"])
    return said.format(**item.get("ctx", {})) if said else str(item["msg"]).removeprefix("Value error, ")


def plain_messages(items: Iterable[Any]) -> str:
    """All problems of a pydantic error list in a line, each after its field."""
    return "; ".join(f"{'.'.join(map(str, each['loc']))}: {plain_message(each)}" for each in items)
