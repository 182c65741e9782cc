"""Route starters: the usual kinds of work, each laid and sized from the answers to a few questions."""

from collections.abc import Callable, Mapping
from typing import Any

from percorso.conductors import Series
from percorso.house_rules import HouseRules
from percorso.starters.asking import Starter
from percorso.starters.charging import ChargeBypass, ChargeCable, ExciterLead, RegulatorConversion
from percorso.starters.feeds import IgnitionFeed, ModuleFeed, PressureInterlock, RelayFedDevice, TwoDevices
from percorso.starters.layout import Layout
from percorso.starters.starting import GroundSet, SolenoidTrigger, StarterCables
from percorso.vehicle import Vehicle

STARTERS: Mapping[str, type[Starter]] = {
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


def lay_starter(
    vehicle: Vehicle,
    starter_id: str,
    answers: Mapping[str, Any],
    rules: HouseRules,
    new_id: Callable[[], str],
    series: Series,
) -> tuple[Vehicle, str]:
    """The vehicle with a starter's route laid and sized, and the id of the circuit to look at first.

    Raises KeyError for an unknown starter, pydantic's ValidationError for wrong answers, PathError where what is there
    stands in the way.
    """
    layout = Layout(vehicle, rules, new_id, series)
    circuit = STARTERS[starter_id].model_validate(dict(answers)).lay(layout)
    return layout.finished(), circuit
