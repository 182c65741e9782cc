"""Option types of the command line: quantities, sizes, inputs and preparations as the core reads them."""

from typing import Any

import click

from percorso.components.conductors import ConductorSize, find_size
from percorso.components.insulation import Insulation, named_insulation
from percorso.errors import PercorsoError
from percorso.quantities import PERCENT, SIZE_EXAMPLE, TEMPERATURE, VOLTAGE, Kind, parse
from percorso.targets import Target
from percorso.verification.measured.preparations import Preparation, preparation


class Quantity(click.ParamType[float]):
    """A typed quantity of one kind, converted to its SI value."""

    def __init__(self, kind: Kind) -> None:
        self.kind = kind
        self.name = kind.name

    def get_missing_message(self, param: click.Parameter, ctx: click.Context | None) -> str:
        """What to write when the option is missing."""
        return f"Write for example {self.kind.example}"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> float:
        """SI value of the option's text."""
        if not isinstance(value, str):
            return float(value)
        try:
            return parse(value, self.kind)
        except PercorsoError as error:
            self.fail(str(error), param, ctx)


class Size(click.ParamType[ConductorSize]):
    """A conductor size that is made."""

    name = "size"

    def get_missing_message(self, param: click.Parameter, ctx: click.Context | None) -> str:
        """What to write when the option is missing."""
        return f"Write for example {SIZE_EXAMPLE}"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> ConductorSize:
        """The size the option's text names."""
        try:
            return find_size(value)
        except PercorsoError as error:
            self.fail(str(error), param, ctx)


class MaxDrop(click.ParamType[Target]):
    """The drop a circuit may have: volts, or percent."""

    name = "drop"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Target:
        """The target the option's text names."""
        try:
            if value.strip().endswith(("%", "percent")):
                return Target("max_drop_percent", parse(value, PERCENT))
            return Target("max_drop_v", parse(value, VOLTAGE))
        except PercorsoError as error:
            self.fail(str(error), param, ctx)


class InputPosition(click.ParamType[tuple[str, str]]):
    """Where a named condition stands: ``oil_pressure=on``."""

    name = "input"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> tuple[str, str]:
        """The input's id and its position."""
        name, equals, position = (part.strip() for part in value.partition("="))
        if not (name and equals and position):
            self.fail(f'"{value}" is not an input with its position; write for example oil_pressure=on', param, ctx)
        return name, position


class Doing(click.ParamType[Preparation]):
    """What is done to the metal for a test: ``pull F3``."""

    name = "preparation"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Preparation:
        """The preparation that the option's text says."""
        try:
            return preparation(value)
        except PercorsoError as error:
            self.fail(str(error), param, ctx)


class InsulationOrLimit(click.ParamType["Insulation | float"]):
    """An insulation family by name, or the temperature an insulation stands."""

    name = "insulation"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Insulation | float:
        """The family, or the limit in °C."""
        try:
            return named_insulation(value)
        except PercorsoError as error:
            unknown = str(error)
        try:
            limit = parse(value, TEMPERATURE)
        except PercorsoError:
            self.fail(f"{unknown}, or a temperature such as 105C", param, ctx)
        if not 50 <= limit <= 260:
            self.fail(f"insulation is good for 50 to 260 °C, not {limit:g} °C", param, ctx)
        return limit
