"""What a form asks for the values of a model: labels, kinds, choices, ranges and placeholders, from its own fields."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from types import NoneType, UnionType
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined

from percorso.vehicle.typed_fields import Typed

As = Literal["quantity", "number", "choice", "many", "flag", "text"]
Among = Literal["inputs", "key and inputs", "positions", "coils", "devices"]  # what a job itself has to choose from
FieldPart = Literal["", "measured", "duty"]


@dataclass(frozen=True)
class Asked:
    """Marks a field that a form asks for. ``usual`` stands in it while it is empty; ``more``: it is seldom asked.

    ``names`` say a choice in other words than its value; ``part`` is asked by a form of its own too.
    """

    label: str
    usual: str = ""
    more: bool = False
    part: FieldPart = ""
    among: Among | None = None
    quantity: str | None = None  # of a field that is no typed quantity, but understood as one
    names: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Choice:
    """One of several answers."""

    value: str
    label: str


@dataclass(frozen=True)
class FormField:
    """One field of a form; ``start`` is what a new thing has there, ``quantity`` the kind of a typed one.

    ``optional``: left empty it is typical, usual or unknown. ``lowest`` and ``highest`` bound the value in ``unit``.
    """

    name: str
    label: str
    answer: As
    quantity: str | None
    unit: str
    choices: tuple[Choice, ...]
    among: Among | None
    lowest: float | None
    highest: float | None
    usual: str
    help: str
    start: str
    optional: bool
    more: bool
    part: FieldPart


def form_fields(model: type[BaseModel]) -> tuple[FormField, ...]:
    """The fields of a model that a form asks for, in their order."""
    return tuple(_field(name, each) for name, each in model.model_fields.items() if _asked(each) is not None)


def _asked(info: FieldInfo) -> Asked | None:
    marked = next((each for each in info.metadata if isinstance(each, Asked)), None)
    return marked or (Asked(info.title) if info.title else None)


def _field(name: str, info: FieldInfo) -> FormField:
    asked = _asked(info) or Asked(name)
    told, optional = _without_none(info.annotation)
    marks = [*info.metadata, *(each for inner in getattr(told, "__metadata__", ()) for each in _marks(inner))]
    kind = next((each.func.__self__.kind for each in marks if _is_typed(each)), None)
    quantity = asked.quantity or (kind.name if kind else None)
    unit = kind.unit if kind else ""
    answer = _answer(told, quantity, asked)
    return FormField(
        name=name,
        label=asked.label,
        answer=answer,
        quantity=quantity,
        unit=unit,
        choices=_choices(told, asked),
        among=asked.among,
        lowest=_bound(marks, ("ge", "gt"), kind.lowest if kind else None, max),
        highest=_bound(marks, ("le", "lt"), kind.highest if kind else None, min),
        usual=asked.usual or (_text(info.default, unit) if answer in ("quantity", "number") else ""),
        help=info.description or "",
        start=_text(info.default, "") if answer not in ("quantity", "number") or isinstance(info.default, str) else "",
        optional=optional or (answer == "text" and info.default == ()),
        more=asked.more,
        part=asked.part,
    )


def _is_typed(mark: Any) -> bool:
    return isinstance(getattr(getattr(mark, "func", None), "__self__", None), Typed)


def _without_none(annotation: Any) -> tuple[Any, bool]:
    """A type without None, and whether it allowed it."""
    if get_origin(annotation) not in (Union, UnionType):
        return annotation, False
    left = [each for each in get_args(annotation) if each is not NoneType]
    return (left[0] if len(left) == 1 else annotation), len(left) < len(get_args(annotation))


def _answer(told: Any, quantity: str | None, asked: Asked) -> As:
    if quantity is not None:
        return "quantity"
    origin = get_origin(told)
    if told is bool:
        return "flag"
    if origin is tuple and (asked.among or _literals(get_args(told)[0])):
        return "many"
    if asked.among or _literals(told):
        return "choice"
    plain = get_args(told)[0] if hasattr(told, "__metadata__") else told
    return "number" if plain in (int, float) else "text"


def _literals(told: Any) -> tuple[str, ...]:
    return get_args(told) if get_origin(told) is Literal else ()


def _choices(told: Any, asked: Asked) -> tuple[Choice, ...]:
    of = get_args(told)[0] if get_origin(told) is tuple else told
    return tuple(Choice(each, asked.names.get(each, each)) for each in _literals(of))


def _marks(inner: Any) -> list[Any]:
    """What marks a value in a union: a constraint is inside a field of its own."""
    return inner.metadata if isinstance(inner, FieldInfo) else [inner]


def _bound(marks: Sequence[Any], names: tuple[str, str], of_kind: float | None, tighter: Any) -> float | None:
    said = [getattr(each, name) for each in marks for name in names if hasattr(each, name)]
    known = [each for each in (*said, of_kind) if each is not None]
    return float(tighter(known)) if known else None


def _text(default: Any, unit: str) -> str:
    """A usual value as it is written in a form; nothing where there is none."""
    if default is None or default is PydanticUndefined:
        return ""
    if isinstance(default, bool):
        return "true" if default else "false"
    if isinstance(default, tuple):
        return ",".join(map(str, default))
    return f"{default:g} {unit}".strip() if isinstance(default, int | float) else str(default)
