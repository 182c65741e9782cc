"""What a starter that cranks today does on the coldest morning of the house."""

from collections.abc import Iterator

from percorso.components.batteries import WARM_C
from percorso.findings.finding import Finding
from percorso.findings.overloads import View
from percorso.findings.rules import named
from percorso.network.mornings import LEAST_POSTS_V, LEAST_SPEED, cranked
from percorso.vehicle.devices import Battery, Starter


@named(
    "cold-start",
    says="a starter that cranks today does not on the coldest morning",
    when=f"it turns at less than a third of its speed, or less than {LEAST_POSTS_V:g} V of 12 are left at the battery",
    source="common practice; engines' stiffness from memory",
)
def cold_start_findings(view: View) -> Iterator[Finding]:
    """Starters that are cranked, and would not start on the coldest morning."""
    is_cranked = view.solution.state == "cranking" and view.vehicle.outside_c == WARM_C
    has_battery = next(view.vehicle.devices_of(Battery), None) is not None
    for device, _ in view.vehicle.devices_of(Starter) if is_cranked and has_battery else ():
        today = view.solution.devices[device.id]
        if not today.on or (today.speed or 0.0) < LEAST_SPEED:
            continue
        morning = cranked(view.vehicle, device, view.rules.coldest_morning_c)
        if morning.starts(view.vehicle.nominal_v):
            continue
        at = f"at {morning.outside_c:.0f} °C"
        left = f", and {morning.posts_v:.1f} V are left at the battery" if morning.posts_v is not None else ""
        reason = (
            f"{device.name} {morning.does}{left}. How cold it still starts, and what limits it, stands at its circuit."
        )
        yield Finding("caution", f"{device.name} does not start the engine {at}.", reason, (), device_ids=(device.id,))
