"""Route starters: the usual kinds of work, each laid and sized from the answers to a few questions."""

from collections.abc import Callable, Mapping
from typing import Any

from pydantic import ValidationError

from percorso.components.conductors import Series
from percorso.errors import AnswersError, PathError
from percorso.house_rules import HouseRules
from percorso.planning.templates.asking import RouteStarter
from percorso.planning.templates.charging import ChargeBypass, ChargeCable, ExciterLead, RegulatorConversion
from percorso.planning.templates.feeds import IgnitionFeed, ModuleFeed, PressureInterlock, RelayFedDevice, TwoDevices
from percorso.planning.templates.layout import LayingError, Layout
from percorso.planning.templates.starting import GroundSet, SolenoidTrigger, StarterCables
from percorso.quantities import CURRENT
from percorso.vehicle.form_fields import form_fields
from percorso.vehicle.model import Vehicle

STARTERS: Mapping[str, type[RouteStarter]] = {
    "charge-cable": ChargeCable,
    "charge-bypass": ChargeBypass,
    "built-in-regulator": RegulatorConversion,
    "starter-cables": StarterCables,
    "start-trigger": SolenoidTrigger,
    "ground-set": GroundSet,
    "relay-fed-device": RelayFedDevice,
    "two-devices": TwoDevices,
    "pressure-interlock": PressureInterlock,
    "ignition-feed": IgnitionFeed,
    "exciter-lead": ExciterLead,
    "module-feed": ModuleFeed,
}


def answered(starter_id: str, answers: Mapping[str, Any]) -> RouteStarter:
    """A starter with its questions answered; what is left out is answered as usual.

    Raises PathError for an unknown starter and AnswersError for wrong answers.
    """
    if starter_id not in STARTERS:
        raise PathError(f'there is no starter "{starter_id}"', field=("starter",))
    try:
        return STARTERS[starter_id].model_validate(dict(answers))
    except ValidationError as error:
        raise AnswersError(error.errors()) from error


def lay_starter(
    vehicle: Vehicle, starter: RouteStarter, rules: HouseRules, new_id: Callable[[], str], series: Series
) -> tuple[Vehicle, str]:
    """The vehicle with a starter's route laid and sized, and the id of the circuit to look at first.

    Sizes go by the metric or the AWG series of standards [2], [3] or [4]. Raises PathError where what is there stands
    in the way, and LayingError where nothing is made for what is asked.

    >>> from itertools import count
    >>> asked = answered("relay-fed-device", {"name": "Fridge", "amps": 12})
    >>> numbers = count(1)
    >>> laid, circuit = lay_starter(van, asked, HouseRules(), lambda: f"n{next(numbers)}", "metric")
    >>> laid.circuits[circuit].name
    'Fridge feed'
    """
    layout = Layout(vehicle, rules, new_id, series)
    circuit = starter.lay(layout)
    try:
        return layout.finished(), circuit
    except LayingError as error:
        asked = next((each.name for each in form_fields(type(starter)) if each.quantity == CURRENT.name), "")
        raise LayingError(str(error), field=(asked,)) from error
