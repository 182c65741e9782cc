"""Starters of the starting and ground side: cables, solenoid triggers, grounds."""

from typing import ClassVar, Literal

from percorso.planning.templates.asking import RouteStarter, ask
from percorso.planning.templates.feeds import contact_for_a
from percorso.planning.templates.layout import Layout, Path
from percorso.targets import Family, Target
from percorso.vehicle.devices import Starter
from percorso.vehicle.model import Device
from percorso.vehicle.typed_fields import Current, Length

RELAY_COIL_OHM = 90.0  # of a 12 V power relay, from memory


def starter_motor(layout: Layout, cranking_a: float) -> Device:
    """The starter; one that turns with that current is laid where there is none."""
    found = layout.existing(Starter)
    if found is not None:
        return found
    scale = layout.nominal_v / 12
    values = {
        "kind": "starter",
        "running_v": 9.6 * scale,
        "running_a": cranking_a,
        "locked_v": 4.0 * scale,
        "locked_a": 3 * cranking_a,
    }
    terminals = {
        "30": layout.point("Starter stud"),
        "31": layout.point("Engine block"),
        "50": layout.point("Starter 50"),
    }
    return layout.device("Starter", values, terminals)


class StarterCables(RouteStarter):
    """Plus cable and grounds of a starter, also with the battery moved."""

    TITLE: ClassVar[str] = "Battery and starter cables"
    SAYS: ClassVar[str] = "Plus cable, battery ground and engine strap, also for a battery moved to the back."
    FAMILY: ClassVar[Family] = "starting"
    cranking_a: Current = ask("The starter draws, turning", "150 A")
    plus_m: Length = ask("Cable, battery to starter", "1.2 m", "a battery at the back: 4 to 6 m")
    body_m: Length = ask("Battery minus to the body", "0.4 m")
    strap_m: Length = ask("Engine block to the body", "0.5 m")

    def lay(self, layout: Layout) -> str:
        """The plus cable as one circuit, the grounds as another."""
        starter, battery = starter_motor(layout, self.cranking_a), layout.battery()
        block, minus = starter.terminals["31"], battery.terminals["-"]
        body, post = layout.point("Engine strap on body"), layout.point("Body at battery")
        back: Path = (
            layout.strap(block, body, self.length("strap_m")),
            layout.segment({"kind": "body"}, body, post),
            layout.wire(post, minus, self.length("body_m"), "engine bay"),
        )
        plus = layout.wire(
            battery.terminals["+"], starter.terminals["30"], self.length("plus_m"), "engine bay", moves=True
        )
        scale = layout.nominal_v / 12
        drops = Target("max_drop_v", 0.8 * scale)
        cable = layout.circuit(
            "Starter cables", "starting", starter, self.cranking_a, (plus,), block, back, state="cranking", target=drops
        )
        ground = Target("max_drop_v", 0.3 * scale)
        layout.circuit(
            "Engine ground", "ground", "Engine block", self.cranking_a, (), block, back, state="cranking", target=ground
        )
        return cable


class SolenoidTrigger(RouteStarter):
    """What makes the starter pull in."""

    TITLE: ClassVar[str] = "Start trigger"
    SAYS: ClassVar[str] = "The solenoid from a push button, or over a relay near the starter at full voltage."
    FAMILY: ClassVar[Family] = "control"
    way: Literal["start relay", "push button"] = ask("The solenoid is fed", "start relay")
    coil_a: Current = ask("The solenoid draws", "10 A")
    button_m: Length = ask("Battery to the button or key", "2 m")
    starter_m: Length = ask("From there to the starter", "2.5 m")

    def lay(self, layout: Layout) -> str:
        """The solenoid's lead, and the relay's coil where there is one."""
        starter = starter_motor(layout, 150)
        if "50" not in starter.terminals:
            starter = layout.with_terminals(starter, {"50": layout.point("Starter 50")})
        return self._over_relay(layout, starter) if self.way == "start relay" else self._by_button(layout, starter)

    def _target(self, layout: Layout) -> Target:
        return Target("min_device_v", 8.0 * layout.nominal_v / 12)

    def _by_button(self, layout: Layout, starter: Device) -> str:
        plus, feed, out = (
            layout.battery().terminals["+"],
            layout.new_point("Start button in"),
            layout.new_point("Start button"),
        )
        fused = layout.new_point("Start fuse")
        pressed = layout.input("Start button", ("cranking",))
        supply = (
            layout.fuse(plus, fused),
            layout.wire(fused, feed, self.length("button_m")),
            layout.segment({"kind": "switch", "input": pressed, "closed_in": ("on",)}, feed, out),
            layout.wire(out, starter.terminals["50"], self.length("starter_m"), "engine bay", moves=True),
        )
        return self._solenoid(layout, starter, supply)

    def _solenoid(self, layout: Layout, starter: Device, supply: Path) -> str:
        back = layout.engine_ground(starter.terminals["31"], 1.0)
        return layout.circuit(
            "Start trigger",
            "control",
            starter,
            self.coil_a,
            supply,
            starter.terminals["31"],
            back,
            state="cranking",
            target=self._target(layout),
            source_v=10.5 * layout.nominal_v / 12,
        )

    def _over_relay(self, layout: Layout, starter: Device) -> str:
        stud, plus = starter.terminals["30"], layout.battery().terminals["+"]
        fused, near, out = map(layout.new_point, ("Start fuse", "Start relay 30", "Start relay 87"))
        starter, coil = self._relay(layout, starter)
        contact = {"kind": "relay contact", "coil": coil.id, "rated_a": contact_for_a(self.coil_a)}
        supply = (
            *(layout.way(plus, stud) or (layout.wire(plus, stud, 1.2, "engine bay", moves=True),)),
            layout.fuse(stud, fused, 15),
            layout.wire(fused, near, 0.15, "engine bay"),
            layout.segment(contact, near, out, coil.designation),
            layout.wire(out, starter.terminals["50"], self.length("starter_m"), "engine bay", moves=True),
        )
        return self._solenoid(layout, starter, supply)

    def _relay(self, layout: Layout, starter: Device) -> tuple[Device, Device]:
        """The relay's coil on the key's start output.

        An old trigger lead is taken off the solenoid and feeds the coil instead: left on, it would feed the coil back
        from the relay's own output and the starter would never let go.
        """
        old = starter.terminals["50"]
        has_lead = any(each.other_end(old) for each in layout.vehicle.segments.values() if each.fate == "kept")
        minus = layout.new_point("Start relay 85")
        ground, home = layout.ground()
        back = (layout.wire(minus, ground, 0.5, "engine bay"), *home)
        amps = layout.nominal_v / RELAY_COIL_OHM * (12 / layout.nominal_v) ** 2
        if has_lead:
            starter = layout.with_terminals(starter, {"50": layout.new_point("Starter 50")})
            coil = layout.device("Start relay", {"kind": "relay coil"}, {"86": old, "85": minus})
            layout.hand_over(starter, coil, amps, minus, back)
            return starter, coil
        plus = layout.new_point("Start relay 86")
        coil = layout.device("Start relay", {"kind": "relay coil"}, {"86": plus, "85": minus})
        key, to_key = layout.small_start()
        trigger = (*to_key, layout.wire(key, plus, self.length("button_m")))
        layout.circuit(
            "Start relay coil",
            "control",
            coil,
            amps,
            trigger,
            minus,
            back,
            state="cranking",
            target=self._target(layout),
            source_v=10.5 * layout.nominal_v / 12,
        )
        return starter, coil


class GroundSet(RouteStarter):
    """The four grounds an engine and a body need."""

    TITLE: ClassVar[str] = "Ground set"
    SAYS: ClassVar[str] = "Battery to body, battery to engine, engine to body, and head to head where there are two."
    FAMILY: ClassVar[Family] = "ground"
    cranking_a: Current = ask("The starter draws, turning", "150 A")
    body_m: Length = ask("Battery minus to the body", "0.4 m")
    engine_m: Length = ask("Battery minus to the engine", "0.8 m")
    strap_m: Length = ask("Engine to the body", "0.5 m")
    heads: Literal["one head", "two heads"] = ask("The engine has", "one head")

    def lay(self, layout: Layout) -> str:
        """Each ground a circuit of its own; the engine's carries the starter."""
        minus = layout.battery().terminals["-"]
        block = starter_motor(layout, self.cranking_a).terminals["31"]
        body = layout.point("Body at battery")
        engine = layout.wire(block, minus, self.length("engine_m"), "engine bay", moves=True)
        first = self._ground(layout, "Engine ground", "Engine block", self.cranking_a, block, (engine,), "cranking")
        to_body = layout.strap(body, minus, self.length("body_m"))
        self._ground(layout, "Body ground", "Body", 40.0, body, (to_body,), "idle")
        on_strap = layout.new_point("Engine strap")
        strap = layout.strap(on_strap, body, self.length("strap_m"))
        block_side = layout.segment({"kind": "joint"}, block, on_strap)
        self._ground(layout, "Engine strap", "Engine block", 40.0, block, (block_side, strap, to_body), "idle")
        if self.heads == "two heads":
            head = layout.point("Second head")
            link = layout.strap(head, block, 0.5)
            self._ground(layout, "Head to head", "Second head", 20.0, head, (link, engine), "idle")
        return first

    def _ground(
        self,
        layout: Layout,
        name: str,
        what: str,
        amps: float,
        start: str,
        back: Path,
        state: Literal["cranking", "idle"],
    ) -> str:
        target = Target("max_drop_v", 0.2 * layout.nominal_v / 12)
        return layout.circuit(name, "ground", what, amps, (), start, back, state=state, target=target)
