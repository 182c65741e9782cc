"""What the rules notice about contacts and coils of a plan: ratings, coil diodes, devices that must fail alone."""

from collections.abc import Iterator

from percorso.changes.edits import ChangeSegment, MoveTerminals, ResizeCircuit, SetFate
from percorso.circuits.design_case import Planned
from percorso.components.contacts import choose_contact
from percorso.findings.finding import Finding, Remedy
from percorso.findings.rules import named
from percorso.sizing.contact_loads import load_kind_behind
from percorso.sizing.protection_zones import Guarding
from percorso.vehicle.connectivity import buses
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Circuit, Device, stations
from percorso.vehicle.segments import Contact, RelayContact


def switch_findings(plan: Planned) -> Iterator[Finding]:
    """Every finding about contacts and coils."""
    yield from _weak_contacts(plan)
    yield from _coil_diodes(plan)
    yield from _starved_coils(plan)
    yield from _joined_changeovers(plan)
    yield from _shared_fate(plan)


@named(
    "contact-too-weak",
    says="a contact is too weak for its load",
    when="the worst current is over the share of its rating that such a load may take",
    source="contact ratings by kind of load, from memory",
    cure="the smallest standard contact that does",
)
def _weak_contacts(plan: Planned) -> Iterator[Finding]:
    for segment in plan.pieces:
        spec = segment.spec
        if not isinstance(spec, Contact) or spec.rated_a is None:
            continue
        current = max(plan.worst.continuous(segment.id).current_a, plan.worst.cranking_a(segment.id))
        choice = choose_contact(current, load_kind_behind(plan.vehicle, segment.id))
        if spec.rated_a < choice.lowest_a * (1 - 1e-9):
            title = f"The contact {segment.designation} {spec.rated_a:g} A is too weak for {current:.3g} A."
            cure = None
            if choice.rated_a is not None:
                change = ChangeSegment(segment_id=segment.id, change={"rated_a": choice.rated_a})
                cure = Remedy(f"{segment.designation} with a {choice.rated_a:g} A contact", (change,))
            yield Finding("error", title, f"{choice.reason[0].upper()}{choice.reason[1:]}.", (segment.id,), cure)


@named(
    "coil-diode-reversed",
    says="a coil's diode is the wrong way round",
    when="plus comes in at 85 and its cathode is at 86",
    source="common practice",
    cure="85 and 86 exchanged",
)
def _coil_diodes(plan: Planned) -> Iterator[Finding]:
    """A coil diode has its cathode at 86: fed at 85 it is a short across the coil."""
    for circuit in plan.vehicle.circuits.values():
        device = plan.vehicle.devices.get(circuit.device_id or "")
        if device is None or not isinstance(device.spec, RelayCoil) or device.spec.suppression != "diode":
            continue
        if circuit.supply and stations(plan.vehicle, circuit, "supply")[-1] == device.terminals["85"]:
            title = f"The coil diode of {device.designation} is the wrong way round."
            reason = "Plus comes in at 85 and the diode's cathode is at 86: it shorts the coil and blows its fuse."
            swapped = {"86": device.terminals["85"], "85": device.terminals["86"]}
            cure = Remedy("85 and 86 exchanged", (MoveTerminals(device_id=device.id, terminals=swapped),))
            yield Finding("error", title, reason, (circuit.supply[-1],), cure, device_ids=(device.id,))


@named(
    "coil-starved",
    says="a coil does not pull in",
    when="it gets between drop-out and pull-in in some state",
    source="the coil's own limits",
    cure="the circuit sized anew",
)
def _starved_coils(plan: Planned) -> Iterator[Finding]:
    """Coils that get too little to pull in, in whatever state: cranking takes most from them."""
    for device, spec in plan.devices(RelayCoil):
        for solution in plan.solutions:
            result = solution.devices.get(device.id)
            voltage = abs(result.voltage_v or 0.0) if result else 0.0
            if result is None or result.pulled_in or not spec.drop_out_v < voltage < spec.pull_in_v:
                continue
            title = f"{device.designation} does not pull in, {solution.state}."
            reason = f"It gets {voltage:.1f} V and needs {spec.pull_in_v:g} V: too much is lost on the way to its coil."
            feeds = (each for each in plan.vehicle.circuits.values() if each.device_id == device.id)
            circuit = next(feeds, None)
            cure = Remedy(f"size {circuit.name} anew", (ResizeCircuit(circuit_id=circuit.id),)) if circuit else None
            yield Finding("error", title, reason, (), cure, device_ids=(device.id,))
            break


@named(
    "changeover-joined",
    says="87 and 87a are joined",
    when="both outputs of a changeover meet",
    source="common practice",
    cure="87a taken off",
)
def _joined_changeovers(plan: Planned) -> Iterator[Finding]:
    """A changeover whose 87 and 87a meet behind it switches nothing."""
    contacts = [(each, spec) for each, spec in plan.segments(RelayContact) if spec.coil is not None]
    bus = buses(plan.vehicle) if len(contacts) > 1 else {}
    for segment, spec in contacts:
        for other, theirs in contacts:
            if (spec.form, theirs.form, spec.coil) != ("NO", "NC", theirs.coil):
                continue
            ends = [{bus[each.from_point], bus[each.to_point]} for each in (segment, other)]
            if ends[0] == ends[1]:
                title = f"87 and 87a of {segment.designation} are joined: it switches nothing."
                reason = "Pulled in or not, its load is fed. Part the two outputs, or leave 87a open."
                cure = Remedy(f"{other.designation} taken off", (SetFate(segment_id=other.id, fate="removed"),))
                yield Finding("error", title, reason, (segment.id, other.id), cure)


@named(
    "shared-fate",
    says="two devices that must fail alone hang on one fuse or contact",
    when="a device says which it must not fail with",
    source="the job itself",
)
def _shared_fate(plan: Planned) -> Iterator[Finding]:
    """Two devices that must fail independently and hang on one fuse or contact."""
    fed = {each.device_id: each for each in plan.vehicle.circuits.values() if each.device_id and each.supply}
    for device in plan.vehicle.devices.values():
        if not isinstance(device.spec, Load) or device.spec.independent_of is None:
            continue
        own, others = fed.get(device.id), fed.get(device.spec.independent_of)
        if own is None or others is None:
            continue
        common = [each for each in own.supply if each in others.supply and _can_fail(plan, each)]
        if common:
            yield _one_for_both(plan, device, own, others, common)


def _can_fail(plan: Planned, segment_id: str) -> bool:
    return isinstance(plan.vehicle.segments[segment_id].spec, Guarding | RelayContact)


def _one_for_both(plan: Planned, device: Device, own: Circuit, other: Circuit, common: list[str]) -> Finding:
    names = " and ".join(plan.name(each) for each in common)
    title = f"{names} takes {device.name} and {other.device} down together."
    reason = "They are meant to fail independently: give each its own fuse and relay from the source on."
    return Finding("error", title, reason, tuple(common), device_ids=(device.id,))
