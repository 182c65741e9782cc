"""Temporary changes of the metal for a test, undone afterwards: what they are, as data and as a person writes them."""

import shlex
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from percorso.errors import PreparationError


class _Preparation(BaseModel):
    """Parts go by designation or id, points by name or id."""

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True, allow_inf_nan=False)


class Pull(_Preparation):
    """A fuse, a link, a breaker or a relay is out."""

    do: Literal["pull"] = "pull"
    part: str


class Unplug(_Preparation):
    """A connector, a switch or a device is unplugged."""

    do: Literal["unplug"] = "unplug"
    part: str


class Lift(_Preparation):
    """One end of a wire is off, or a joint is undone."""

    do: Literal["lift"] = "lift"
    part: str


class Swap(_Preparation):
    """A part is another one of its kind, known to be good; of a relay its coil and its contacts."""

    do: Literal["swap"] = "swap"
    part: str


class Bridge(_Preparation):
    """A fused jumper lies between two points, or a booster cable where a starter's current goes."""

    do: Literal["bridge"] = "bridge"
    from_point: Annotated[str, Field(alias="from")]
    to_point: Annotated[str, Field(alias="to")]
    lead: Literal["jumper", "booster cable"] = "jumper"


class LampInPlace(_Preparation):
    """A lamp sits where a fuse or a contact was: it limits a short to its own current, and shows it."""

    do: Literal["lamp"] = "lamp"
    part: str


class LoadPoint(_Preparation):
    """A known lamp hangs between a point and the battery's minus, to load-test what feeds the point."""

    do: Literal["load"] = "load"
    point: str


class BatteryOff(_Preparation):
    """Every battery is disconnected."""

    do: Literal["battery off"] = "battery off"


Preparation = Annotated[
    Pull | Unplug | Lift | Swap | Bridge | LampInPlace | LoadPoint | BatteryOff, Field(discriminator="do")
]
PREPARATION: TypeAdapter[Preparation] = TypeAdapter(Preparation)
EXAMPLES = "pull F3, unplug X2, lift W9, swap K2, bridge A B, lamp F3, load A, or battery off"


def preparation(text: str) -> Preparation:
    """A preparation as a person writes it: ``pull F3``, ``bridge "main stud" kl15``. Raises PreparationError."""
    values: dict[str, Any]
    match _words(text):
        case ["pull" | "unplug" | "lift" | "swap" | "lamp" as do, part]:
            values = {"do": do, "part": part}
        case ["bridge", start, end]:
            values = {"do": "bridge", "from": start, "to": end}
        case ["bridge", start, end, "booster cable" as lead]:
            values = {"do": "bridge", "from": start, "to": end, "lead": lead}
        case ["load", point]:
            values = {"do": "load", "point": point}
        case ["battery", "off"]:
            values = {"do": "battery off"}
        case _:
            raise PreparationError(f'"{text}" says nothing to do; write {EXAMPLES}')
    return PREPARATION.validate_python(values)


def written(preparation: Preparation) -> str:
    """A preparation as ``preparation`` reads it, parts and points as it names them."""
    named = preparation.model_dump(exclude={"do"}, exclude_defaults=True)
    return shlex.join([*preparation.do.split(), *named.values()])


def _words(text: str) -> list[str]:
    """The words of a text, quoted ones together; none where a quotation does not end."""
    try:
        return shlex.split(text)
    except ValueError:
        return []
