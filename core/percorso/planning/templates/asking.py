"""What a route starter is: a title, five questions at most, and the way it lays what they describe."""

from abc import abstractmethod
from typing import Any, ClassVar, get_args

from pydantic import Field
from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined

from percorso.planning.templates.layout import Layout
from percorso.targets import Family
from percorso.vehicle.typed_fields import KeepsTyped, Typed


def ask(label: str, default: Any = ..., hint: str = "") -> Any:
    """A question with its label and usual answer, as people type it."""
    return Field(default, title=label, description=hint, validate_default=True)


class Starter(KeepsTyped):
    """A kind of route, described by the answers to its questions."""

    TITLE: ClassVar[str]
    SAYS: ClassVar[str]  # what it lays, in a sentence
    FAMILY: ClassVar[Family]

    @abstractmethod
    def lay(self, layout: Layout) -> str:
        """Lay the route; returns the id of the circuit to look at first."""

    def length(self, name: str) -> float | str:
        """A length as it was typed, else in metres."""
        value: float = getattr(self, name)
        return self.typed.get(name, value)


def questions(kind: type[Starter]) -> list[dict[str, Any]]:
    """The questions of a starter: name, label, hint, usual answer, and a quantity's kind or the choices."""
    return [
        {
            "name": name,
            "label": field.title,
            "hint": field.description or "",
            "usual": None if field.default is PydanticUndefined else field.default,
            "quantity": next((each.func.__self__.kind.name for each in field.metadata if _is_typed(each)), None),
            "choices": list(get_args(field.annotation)) if _is_choice(field) else None,
        }
        for name, field in kind.model_fields.items()
        if name != "typed"
    ]


def _is_typed(mark: Any) -> bool:
    return isinstance(getattr(getattr(mark, "func", None), "__self__", None), Typed)


def _is_choice(field: FieldInfo) -> bool:
    return all(isinstance(each, str) for each in get_args(field.annotation)) and bool(get_args(field.annotation))
