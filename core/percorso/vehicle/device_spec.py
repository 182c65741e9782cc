"""What the values of every device have in common: its terminals, and the quantities they are said in."""

from collections.abc import Mapping
from typing import Annotated, ClassVar

from pydantic import Field

from percorso.quantities import CURRENT, POWER, RESISTANCE, TEMPERATURE, VOLTAGE
from percorso.vehicle.typed_fields import KeepsTyped, typed

LEAST_V = 0.1  # of what a device is rated for or needs: less is a slip of the pen
Volts = Annotated[float, typed(VOLTAGE), Field(ge=LEAST_V)]
Amperes = Annotated[float, typed(CURRENT)]
Ohms = Annotated[float, typed(RESISTANCE)]
MaybeVolts = Annotated[Annotated[float, Field(ge=LEAST_V)] | None, typed(VOLTAGE, optional=True)]
MaybeAmperes = Annotated[float | None, typed(CURRENT, optional=True)]
MaybeWatts = Annotated[float | None, typed(POWER, optional=True)]
MaybeOhms = Annotated[float | None, typed(RESISTANCE, optional=True)]
Celsius = Annotated[float, typed(TEMPERATURE)]


class DeviceSpec(KeepsTyped):
    """Values of one device. ``TERMINALS`` are needed, its voltage is between the two; others may be left open.

    ``LABEL`` is what its kind is called, ``LETTER`` what its designations begin with (IEC 81346-2, as the trade uses
    it). ``BY_VOLTAGE``: usual values that go with a power of the vehicle's nominal voltage.
    """

    LABEL: ClassVar[str]
    LETTER: ClassVar[str]
    TERMINALS: ClassVar[tuple[str, str]] = ("+", "-")
    OPTIONAL_TERMINALS: ClassVar[tuple[str, ...]] = ()
    BY_VOLTAGE: ClassVar[Mapping[str, int]] = {}
