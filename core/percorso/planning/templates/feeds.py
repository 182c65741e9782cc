"""Starters of relay-fed power: single and paired devices, interlocked pumps, ignition and module feeds."""

from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from percorso.names import Name
from percorso.planning.templates.asking import RouteStarter, ask
from percorso.planning.templates.layout import LEAD_M, Layout, Path
from percorso.quantities import VOLTAGE
from percorso.targets import Family, Target
from percorso.vehicle.model import Device
from percorso.vehicle.states import State
from percorso.vehicle.typed_fields import Current, Length, typed

Voltage = Annotated[float, typed(VOLTAGE)]
FedLoadKind = Literal["motor", "pump", "filament lamp", "resistive", "constant power", "constant current"]
Trigger = Literal["with the ignition", "hand switch", "module to ground"]
RUNS: tuple[State, ...] = ("idle", "road")
FEED: Family = "feed"


@dataclass(frozen=True)
class Fed:
    """A load with its relay: what is needed to lay its trigger."""

    load: Device
    coil: Device
    circuit: str


def relay_fed(
    layout: Layout,
    name: str,
    kind: str,
    amps: float,
    length: float | str,
    runs_in: tuple[State, ...] = RUNS,
    **more: Any,
) -> Fed:
    """A load over its own fuse and relay near the source, and its way back over the body."""
    source = layout.source()
    plus, minus = layout.new_point(f"{name} +"), layout.new_point(f"{name} −")
    values = {
        "kind": "motor" if kind == "pump" else kind,
        "rated_v": 13.5 * layout.nominal_v / 12,
        "rated_a": amps,
        "runs_in": runs_in,
    } | more
    load = layout.device(name, values, {"+": plus, "-": minus})
    coil_plus, coil_minus = layout.new_point(f"{name} relay 86"), layout.new_point(f"{name} relay 85")
    coil = layout.device(f"{name} relay", {"kind": "relay coil"}, {"86": coil_plus, "85": coil_minus})
    fused, near, out = (layout.new_point(f"{name} {place}") for place in ("fuse out", "relay 30", "relay 87"))
    contact = {"kind": "relay contact", "coil": coil.id, "rated_a": contact_for_a(amps)}
    supply = (
        *(layout.way(layout.battery().terminals["+"], source) or ()),
        layout.fuse(source, fused),
        layout.wire(fused, near, LEAD_M),
        layout.segment(contact, near, out, coil.designation),
        layout.wire(out, plus, length),
    )
    ground, home = layout.ground()
    back = (layout.wire(minus, ground, 0.5), *home)
    pumps = layout.rules.target("electronics and pumps") if kind == "pump" else None
    circuit = layout.circuit(f"{name} feed", FEED, load, amps, supply, minus, back, target=pumps)
    return Fed(load, coil, circuit)


def contact_for_a(amps: float) -> float:
    """A contact with room for any kind of load."""
    return next((rating for rating in (30.0, 40.0, 70.0, 100.0, 150.0, 200.0) if rating >= amps / 0.6), 200.0)


def coil_current_a(layout: Layout, coil: Device) -> float:
    """What a relay's coil draws at nominal voltage, A."""
    return round(layout.nominal_v / float(getattr(coil.spec, "resistance_ohm")), 3)  # noqa: B009


def trigger(layout: Layout, name: str, coil: Device, way: Trigger) -> str:
    """The coil switched on its plus side, by ignition or hand, or on its minus side by a module."""
    ignition, supply = layout.small_ignition()
    ground, home = layout.ground()
    plus, minus = coil.terminals["86"], coil.terminals["85"]
    out: Path
    back: Path
    if way == "module to ground":
        driver = layout.input(f"{name} request", RUNS)
        low = layout.new_point(f"{name} driver")
        out = (layout.wire(ignition, plus, 1.0),)
        back = (
            layout.wire(minus, low, 1.5),
            layout.segment({"kind": "switch", "input": driver, "closed_in": ("on",)}, low, ground),
            *home,
        )
    elif way == "hand switch":
        hand = layout.input(f"{name} switch", RUNS)
        switched = layout.new_point(f"{name} switch")
        out = (
            layout.segment({"kind": "switch", "input": hand, "closed_in": ("on",)}, ignition, switched),
            layout.wire(switched, plus, 1.5),
        )
        back = (layout.wire(minus, ground, 0.5), *home)
    else:
        out = (layout.wire(ignition, plus, 1.5),)
        back = (layout.wire(minus, ground, 0.5), *home)
    return layout.circuit(
        f"{name} trigger", "control", coil, coil_current_a(layout, coil), (*supply, *out), minus, back
    )


class RelayFedDevice(RouteStarter):
    """One consumer over its own relay."""

    TITLE: ClassVar[str] = "Device over a relay"
    SAYS: ClassVar[str] = "Its own fuse and relay near the source, switched on the plus or on the minus side."
    FAMILY: ClassVar[Family] = FEED
    name: Name = ask("Device", "Fan")
    kind: FedLoadKind = ask("It is a", "motor")
    amps: Current = ask("It draws", "15 A")
    length_m: Length = ask("From the relay to the device", "3 m")
    trigger: Trigger = ask("Switched", "with the ignition")

    def lay(self, layout: Layout) -> str:
        """Feed and trigger."""
        fed = relay_fed(layout, self.name, self.kind, self.amps, self.length("length_m"))
        trigger(layout, self.name, fed.coil, self.trigger)
        return fed.circuit


class TwoDevices(RouteStarter):
    """Two consumers that must not take each other down."""

    TITLE: ClassVar[str] = "Two devices, one trigger"
    SAYS: ClassVar[str] = "Each with its own fuse and relay, so that one keeps working when the other fails."
    FAMILY: ClassVar[Family] = FEED
    name: Name = ask("Both are called", "Fuel pump", "they become 1 and 2")
    kind: FedLoadKind = ask("They are", "pump")
    amps: Current = ask("Each draws", "6 A")
    length_m: Length = ask("From the relays to the devices", "3.5 m")
    trigger: Trigger = ask("Switched", "with the ignition")

    def lay(self, layout: Layout) -> str:
        """Two feeds side by side; both coils on one trigger."""
        length = self.length("length_m")
        first = relay_fed(layout, f"{self.name} 1", self.kind, self.amps, length)
        second = relay_fed(layout, f"{self.name} 2", self.kind, self.amps, length, independent_of=first.load.id)
        for number, fed in enumerate((first, second), start=1):
            trigger(layout, f"{self.name} {number}", fed.coil, self.trigger)
        return first.circuit


class PressureInterlock(RouteStarter):
    """A pump that stops when the engine does."""

    TITLE: ClassVar[str] = "Runs while cranking, then with pressure"
    SAYS: ClassVar[str] = "A pump that runs while cranking and afterwards only as long as there is oil pressure."
    FAMILY: ClassVar[Family] = FEED
    name: Name = ask("Device", "Fuel pump")
    amps: Current = ask("It draws", "6 A")
    length_m: Length = ask("From the relay to the device", "3.5 m")
    sensor_m: Length = ask("From the dash to the pressure switch", "2 m")

    def lay(self, layout: Layout) -> str:
        """One coil with two ways to it, each over a diode so that neither feeds the other."""
        fed = relay_fed(layout, self.name, "pump", self.amps, self.length("length_m"), ("cranking", *RUNS))
        plus, minus = fed.coil.terminals["86"], fed.coil.terminals["85"]
        start, to_start = layout.small_start()
        ignition, to_ignition = layout.small_ignition()
        ground, home = layout.ground()
        back = (layout.wire(minus, ground, 0.5), *home)
        pressure = layout.input("Oil pressure", RUNS)
        sensed, after = layout.new_point("Pressure switch in"), layout.new_point("Pressure switch out")
        cranking, running = layout.new_point(f"{self.name} start diode"), layout.new_point(f"{self.name} run diode")
        by_start = (
            *to_start,
            layout.wire(start, cranking, 1.0),
            layout.segment({"kind": "diode"}, cranking, plus),
        )
        by_pressure = (
            *to_ignition,
            layout.wire(ignition, sensed, self.length("sensor_m"), "engine bay"),
            layout.segment({"kind": "sensor switch", "input": pressure}, sensed, after),
            layout.wire(after, running, self.length("sensor_m"), "engine bay"),
            layout.segment({"kind": "diode"}, running, plus),
        )
        amps, target = coil_current_a(layout, fed.coil), Target("max_drop_v", 1.5 * layout.nominal_v / 12)
        name = self.name
        layout.circuit(
            f"{name} while cranking", "control", fed.coil, amps, by_start, minus, back, state="cranking", target=target
        )
        layout.circuit(f"{name} with pressure", "control", fed.coil, amps, by_pressure, minus, back, target=target)
        return fed.circuit


class IgnitionFeed(RouteStarter):
    """Ignition at full voltage."""

    TITLE: ClassVar[str] = "Full-voltage ignition feed"
    SAYS: ClassVar[str] = "A relay near the battery feeds the ignition; the old ignition wire only switches it."
    FAMILY: ClassVar[Family] = FEED
    amps: Current = ask("Coil and module draw", "8 A")
    length_m: Length = ask("From the relay to the coil", "1.5 m")

    def lay(self, layout: Layout) -> str:
        """A resistive load that must run while cranking too, triggered by the ignition."""
        runs: tuple[State, ...] = ("on", "cranking", *RUNS)
        fed = relay_fed(
            layout, "Ignition coil", "resistive", self.amps, self.length("length_m"), runs, keeps_engine_running=True
        )
        trigger(layout, "Ignition", fed.coil, "with the ignition")
        return fed.circuit


class ModuleFeed(RouteStarter):
    """A control module with its three leads."""

    TITLE: ClassVar[str] = "Module feed"
    SAYS: ClassVar[str] = "Permanent supply, switched supply and a ground of its own for a control module."
    FAMILY: ClassVar[Family] = FEED
    name: Name = ask("Module", "Control module")
    amps: Current = ask("It draws", "5 A")
    least_v: Voltage = ask("It needs at least", "7 V", "while cranking")
    length_m: Length = ask("From the source to the module", "2 m")
    ground_m: Length = ask("Its ground, to battery minus", "2 m")

    def lay(self, layout: Layout) -> str:
        """The switched supply carries the load; the permanent one keeps its memory."""
        battery = layout.battery()
        name, minus = self.name, layout.new_point(f"{self.name} 31")
        ground = (layout.wire(minus, battery.terminals["-"], self.length("ground_m")),)
        ignition, to_ignition = layout.ignition()
        fused, switched = layout.new_point(f"{name} fuse out"), layout.new_point(f"{name} 15")
        rated = {"rated_v": 13.0 * layout.nominal_v / 12, "rated_a": self.amps, "min_v": self.least_v}
        runs: tuple[State, ...] = ("on", "cranking", *RUNS)
        module = layout.device(name, {"kind": "constant current", "runs_in": runs} | rated, {"+": switched, "-": minus})
        supply = (
            *to_ignition,
            layout.fuse(ignition, fused),
            layout.wire(fused, switched, self.length("length_m")),
        )
        target = Target("min_device_v", self.least_v)
        circuit = layout.circuit(
            f"{name} switched supply",
            FEED,
            module,
            self.amps,
            supply,
            minus,
            ground,
            state="cranking",
            target=target,
            source_v=9.0 * layout.nominal_v / 12,
        )
        source = layout.source()
        kept, permanent = layout.new_point(f"{name} memory fuse"), layout.new_point(f"{name} 30")
        memory = {"kind": "constant current", "rated_v": rated["rated_v"], "rated_a": 0.05}
        device = layout.device(f"{name} memory", memory, {"+": permanent, "-": minus})
        always = (
            *(layout.way(battery.terminals["+"], source) or ()),
            layout.fuse(source, kept, 5),
            layout.wire(kept, permanent, self.length("length_m")),
        )
        layout.circuit(f"{name} permanent supply", FEED, device, 0.05, always, minus, ground, state="off")
        return circuit
