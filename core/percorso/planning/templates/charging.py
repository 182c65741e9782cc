"""Starters of the charging side: charge cables and bypasses, regulator conversions, exciter leads."""

from typing import Any, ClassVar, Literal

from percorso.planning.templates.asking import RouteStarter, ask
from percorso.planning.templates.layout import Layout, Path
from percorso.targets import Family, Target
from percorso.vehicle.devices import Alternator
from percorso.vehicle.model import Device
from percorso.vehicle.typed_fields import Current, Length

Sensing = Literal["at the battery", "at the alternator"]
Excitation = Literal["charge lamp", "resistor", "lamp with resistor beside it", "switched feed with diode"]
BULB_A, EXCITER_OHM = 0.17, 470.0  # a 2 W bulb; common practice
CHARGING: Family = "charging"
CHARGE_DROP_V = 0.5  # post to post and back at the marked output, fuse and lugs included; common practice


def alternator(layout: Layout, output_a: float) -> Device:
    """The alternator; one of that output is laid where there is none."""
    found = layout.existing(Alternator)
    if found is not None:
        return found
    values = {
        "kind": "alternator",
        "setpoint_v": 14.2 * layout.nominal_v / 12,
        "at_1800_a": 0.5 * output_a,
        "at_6000_a": output_a,
    }
    return layout.device(
        "Alternator", values, {"B+": layout.point("Alternator B+"), "B-": layout.point("Engine block")}
    )


def charge_cable(
    layout: Layout, made: Device, output_a: float, length: float | str, ground: float | str, name: str = "Charge cable"
) -> str:
    """Cable from B+ to the battery with its fuse at the battery end, and the way back from the engine."""
    plus = layout.battery().terminals["+"]
    end = layout.new_point("Charge fuse")
    cable = layout.wire(made.terminals["B+"], end, length, "engine bay", moves=True)
    supply: Path = (cable, layout.fuse(end, plus, 100))
    back = layout.engine_ground(made.terminals["B-"], ground)
    battery = layout.battery()
    # The battery stands between: current goes in at plus and the way back starts at its minus post.
    return layout.circuit(
        name,
        CHARGING,
        battery,
        output_a,
        supply,
        battery.terminals["-"],
        tuple(reversed(back)),
        source=made.terminals["B+"],
        state="road",
        target=Target("max_drop_v", CHARGE_DROP_V * layout.nominal_v / 12),
    )


def sense_lead(layout: Layout, made: Device, length: float | str) -> None:
    """A lead from the battery's plus post to S, with a small fuse at the battery."""
    battery = layout.battery()
    sense, fused = layout.new_point("Alternator S"), layout.new_point("Sense fuse")
    made = layout.with_terminals(made, {"S": sense})
    fuse = layout.fuse(battery.terminals["+"], fused, 2)
    lead = layout.wire(fused, sense, length, "engine bay")
    back = layout.engine_ground(made.terminals["B-"], 1.0)
    target = Target("max_drop_v", 0.05 * layout.nominal_v / 12)
    layout.circuit(
        "Sense lead", "sense", made, 0.01, (fuse, lead), made.terminals["B-"], back, state="road", target=target
    )


def exciter_lead(layout: Layout, made: Device, way: Excitation, length: float | str) -> str:
    """From the ignition over a lamp, a resistor, both or a diode to D+."""
    ignition, supply = layout.small_ignition()
    far = made.terminals.get("D+") or layout.new_point("Alternator D+")
    made = layout.with_terminals(made, {"D+": far})
    back = layout.engine_ground(made.terminals["B-"], 1.0)
    current, scale = 0.15, layout.nominal_v / 12
    if way in ("charge lamp", "lamp with resistor beside it"):
        near = layout.new_point("Charge lamp D+")
        bulb = {"kind": "indicator lamp", "rated_v": 12 * scale, "rated_a": BULB_A / scale}
        lamp = layout.device("Charge lamp", bulb, {"+": ignition, "-": near})
        lead = layout.wire(near, far, length, "engine bay")
        if way == "lamp with resistor beside it":
            layout.segment(_resistor(scale), ignition, near)
        return layout.circuit(
            "Exciter lead", "exciter", lamp, BULB_A / scale, supply, near, (lead,), state="on", target=_free(layout)
        )
    piece: dict[str, Any] = {"kind": "diode"}
    target = Target("max_drop_v", 1.2)
    if way != "resistor" and made.origin == "new":  # who chooses this way has a regulator that wants the full feed
        made = layout.changed(made, {"exciter_max_a": 5.0})
    if way == "resistor":
        piece, current, target = _resistor(scale), 0.025 / scale, _free(layout)
    near = layout.new_point("Exciter lead")
    first = layout.segment(piece, ignition, near)
    lead = layout.wire(near, far, length, "engine bay")
    return layout.circuit(
        "Exciter lead",
        "exciter",
        made,
        current,
        (*supply, first, lead),
        made.terminals["B-"],
        back,
        state="on",
        target=target,
    )


def _resistor(scale: float) -> dict[str, Any]:
    return {"kind": "resistor", "resistance_ohm": EXCITER_OHM * scale, "rated_w": 0.5 if scale <= 1 else 2.0}


def _free(layout: Layout) -> Target:
    """An exciter lead may lose nearly everything in its lamp or resistor."""
    return Target("min_device_v", 0.1)


class ChargeCable(RouteStarter):
    """Alternator to battery, sensed at either end."""

    TITLE: ClassVar[str] = "Charge cable"
    SAYS: ClassVar[str] = "From the alternator to the battery, fused at the battery, sensed at either end."
    FAMILY: ClassVar[Family] = CHARGING
    output_a: Current = ask("The alternator makes up to", "90 A")
    length_m: Length = ask("Cable, alternator to battery", "2.5 m")
    ground_m: Length = ask("Ground, engine to battery minus", "1 m", "only where there is none yet")
    sense: Sensing = ask("The regulator senses", "at the battery")

    def lay(self, layout: Layout) -> str:
        """Charge cable, ground where there is none, sense lead."""
        made = alternator(layout, self.output_a)
        circuit = charge_cable(layout, made, self.output_a, self.length("length_m"), self.length("ground_m"))
        if self.sense == "at the battery":
            sense_lead(layout, made, self.length("length_m"))
        return circuit


class ChargeBypass(RouteStarter):
    """A second way beside an old charge path."""

    TITLE: ClassVar[str] = "Charge bypass"
    SAYS: ClassVar[str] = "A fused cable beside an old charge path with its ammeter and bulkhead connectors."
    FAMILY: ClassVar[Family] = CHARGING
    output_a: Current = ask("The alternator makes up to", "55 A")
    length_m: Length = ask("Cable, alternator to battery", "2 m")
    ground_m: Length = ask("Ground, engine to battery minus", "1 m", "only where there is none yet")

    def lay(self, layout: Layout) -> str:
        """The cable with its fuse, as a circuit of its own."""
        made = alternator(layout, self.output_a)
        lengths = self.length("length_m"), self.length("ground_m")
        return charge_cable(layout, made, self.output_a, *lengths, "Charge bypass")


class RegulatorConversion(RouteStarter):
    """From an external to a built-in regulator."""

    TITLE: ClassVar[str] = "Built-in regulator"
    SAYS: ClassVar[str] = "Conversion from an external regulator: charge cable, exciter lead and sense lead."
    FAMILY: ClassVar[Family] = CHARGING
    output_a: Current = ask("The new alternator makes up to", "65 A")
    length_m: Length = ask("Cable, alternator to battery", "2.5 m")
    exciter: Excitation = ask("Exciter lead over", "charge lamp")
    exciter_m: Length = ask("Lead, dash to alternator", "2.5 m")
    sense: Sensing = ask("The regulator senses", "at the battery")

    def lay(self, layout: Layout) -> str:
        """Charge cable, exciter and sense."""
        made = alternator(layout, self.output_a)
        circuit = charge_cable(layout, made, self.output_a, self.length("length_m"), 1.0)
        exciter_lead(layout, made, self.exciter, self.length("exciter_m"))
        if self.sense == "at the battery":
            sense_lead(layout, layout.vehicle.devices[made.id], self.length("length_m"))
        return circuit


class ExciterLead(RouteStarter):
    """The lead that wakes the alternator up."""

    TITLE: ClassVar[str] = "Exciter lead"
    SAYS: ClassVar[str] = "From the ignition to D+ over a lamp, a resistor, both, or a diode."
    FAMILY: ClassVar[Family] = "exciter"
    way: Excitation = ask("Over", "charge lamp")
    length_m: Length = ask("Lead, dash to alternator", "2.5 m")
    output_a: Current = ask("The alternator makes up to", "65 A", "only where there is none yet")

    def lay(self, layout: Layout) -> str:
        """The exciter lead; a charge cable with it where the alternator is new too."""
        found = layout.existing(Alternator)
        made = found or alternator(layout, self.output_a)
        if found is None:
            charge_cable(layout, made, self.output_a, 2.5, 1.0)
        return exciter_lead(layout, layout.vehicle.devices[made.id], self.way, self.length("length_m"))
