"""What a route starter is: a title, five questions at most, and the way it lays what they describe."""

from abc import abstractmethod
from typing import Any, ClassVar

from pydantic import Field

from percorso.planning.templates.layout import Layout
from percorso.targets import Family
from percorso.vehicle.typed_fields import KeepsTyped


def ask(label: str, default: Any = ..., hint: str = "") -> Any:
    """A question with its label and usual answer, as people type it."""
    return Field(default, title=label, description=hint, validate_default=True)


class RouteStarter(KeepsTyped):
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
