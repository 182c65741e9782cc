"""What must never happen, looked for in every situation at once."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from percorso.arrays import Mask
from percorso.components.fuses import Guard, opens_between_s
from percorso.findings.operating_state import TRIGGER_SHARE
from percorso.network.device_results import least_drawn_a
from percorso.states.contacts import Contacts
from percorso.states.exploration import LIVE_A, Explored, ReachedSituation
from percorso.vehicle.devices import RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Segment, stations
from percorso.vehicle.segments import Breaker, Fuse
from percorso.vehicle.states import State

What = Literal[
    "runs and must not",
    "trigger alive",
    "engine outlasts its key",
    "ignition fed with the key off",
    "rests and must run",
    "gets too little",
    "never comes to rest",
    "fed past its own contact",
    "fed from its wrong end",
    "sources joined",
    "feeds joined",
    "latched after its key",
    "coil half pulled",
    "over its rating",
]
WHATS: tuple[What, ...] = get_args(What)

WRONG_END_SHARE = 0.1  # of the nominal voltage, from where on a device is fed from its wrong end; from memory
CRANKED_S = 10.0  # what a fuse that feeds a starter must hold; common practice: no longer at a time
KEY_BACK: tuple[State, ...] = ("off", "accessory")  # in which nothing that the key started may go on


@dataclass(frozen=True)
class Happening:
    """Something forbidden: of which device or segment, and in which moments, shape (moments,)."""

    what: What
    part: str
    moments: Mask


def happenings(explored: Explored) -> list[Happening]:
    """Everything forbidden that happens somewhere, the gravest kind first."""
    view = _View(explored)
    rules = (
        _against_what_is_meant,
        _live_triggers,
        _engine_without_key,
        _never_at_rest,
        _past_its_contact,
        _from_the_wrong_end,
        _joined,
        _latched,
        _half_pulled,
        _over_rating,
    )
    found = (each for rule in rules for each in rule(view) if each.moments.any())
    return sorted(found, key=lambda each: WHATS.index(each.what))


class _View:
    """Moments to be judged: what never comes to rest is judged as that alone, what runs without its key likewise."""

    def __init__(self, explored: Explored) -> None:
        self.seen, self.vehicle = explored, explored.network.vehicle
        self.judged = explored.settled & ~explored.running_on


def _against_what_is_meant(view: _View) -> Iterator[Happening]:
    """Loads that run where they must rest or the other way round.

    A device without any voltage is wrong where every input stands as usual: moved, a switch does what it is there for.
    One that gets too little is wrong everywhere.
    """
    for device, spec in view.vehicle.devices_of(Load):
        on, draws = view.seen.runs(device), np.abs(view.seen.current_a(device.id)) > least_drawn_a(spec)
        rests, runs = (view.seen.in_states(each) & view.judged for each in (spec.rests_in, spec.runs_in))
        yield Happening("runs and must not", device.id, rests & (on | draws))
        yield Happening("gets too little", device.id, runs & ~on & draws)
        yield Happening("rests and must run", device.id, runs & ~on & ~draws & view.seen.by_key_alone)
    cranks = view.seen.in_states(("cranking",)) & view.judged & view.seen.by_key_alone
    for device, _ in view.vehicle.devices_of(Starter):
        yield Happening("rests and must run", device.id, cranks & ~view.seen.runs(device))


def _live_triggers(view: _View) -> Iterator[Happening]:
    for device, spec in view.vehicle.devices_of(Starter):
        if "50" in device.terminals:
            alive = view.seen.voltage_v(device, "50", "31") > TRIGGER_SHARE * spec.pull_in_v
            yield Happening("trigger alive", device.id, alive & view.seen.settled & ~view.seen.in_states(("cranking",)))


def _engine_without_key(view: _View) -> Iterator[Happening]:
    """Running on needs everything that keeps the engine running, so that the first stands for all."""
    needed = [device for device, spec in view.vehicle.devices_of(Load) if spec.keeps_engine_running]
    for device in needed[:1]:
        yield Happening("engine outlasts its key", device.id, view.seen.running_on)
    for device in needed:
        fed = view.seen.runs(device) & view.judged & view.seen.in_states(KEY_BACK)
        yield Happening("ignition fed with the key off", device.id, fed)


def _never_at_rest(view: _View) -> Iterator[Happening]:
    moments = view.seen.moments
    for device in view.vehicle.devices.values():
        swings = np.array([device.id in each.swings for each in moments], dtype=bool)
        yield Happening("never comes to rest", device.id, swings)
    nobody = np.array([not each.settled and not each.swings for each in moments], dtype=bool)
    yield Happening("never comes to rest", "", nobody)


def _past_its_contact(view: _View) -> Iterator[Happening]:
    """What runs though none of its own circuits is closed: current reaches it through somebody else's contact."""
    for device in view.vehicle.devices.values():
        own = [each for each in view.vehicle.circuits.values() if each.device_id == device.id and each.supply]
        if not own or not isinstance(device.spec, Load | RelayCoil):
            continue
        closed = [np.all([view.seen.conducts(each) for each in circuit.whole_path], axis=0) for circuit in own]
        runs = view.seen.runs(device)
        yield Happening("fed past its own contact", device.id, runs & ~np.any(closed, axis=0) & view.judged)


def _from_the_wrong_end(view: _View) -> Iterator[Happening]:
    """Loads and lamps whose minus stands above their plus, and coils against the end that their circuit feeds."""
    ends = [(device, "", "+", "-") for device, _ in view.vehicle.devices_of(Load)]
    for device, spec in view.vehicle.devices_of(RelayCoil):
        fed = _fed_end(view, device)
        if fed is not None and spec.fitted:
            ends.append((device, "coil", fed, "85" if fed == "86" else "86"))
    for device, part, right, wrong in ends:
        flows = np.abs(view.seen.current_a(device.id, part)) > LIVE_A
        volts = view.seen.voltage_v(device, wrong, right)
        reverse = flows & (volts > WRONG_END_SHARE * view.vehicle.nominal_v)
        yield Happening("fed from its wrong end", device.id, reverse & view.judged)


def _fed_end(view: _View, coil: Device) -> str | None:
    """The terminal that a coil's circuit feeds."""
    own = (each for each in view.vehicle.circuits.values() if each.device_id == coil.id and each.supply)
    ends = {stations(view.vehicle, each, "supply")[-1] for each in own}
    return next((mark for mark in ("86", "85") if coil.terminals[mark] in ends), None)


def _joined(view: _View) -> Iterator[Happening]:
    """Sources and feeds that closed contacts join, looked for once in each pattern of closed contacts."""
    contacts = Contacts(view.vehicle)
    closed = np.array([view.seen.conducts(each) for each in contacts.ids]).reshape(
        len(contacts.ids), len(view.seen.moments)
    )
    patterns, of = np.unique(closed, axis=1, return_inverse=True)
    rules: tuple[tuple[What, Callable[[list[str]], set[str]]], ...] = (
        ("sources joined", contacts.joining_sources),
        ("feeds joined", contacts.joining_feeds),
    )
    for what, joining in rules:
        found = [joining([each for each, shut in zip(contacts.ids, one, strict=True) if shut]) for one in patterns.T]
        for contact in sorted({each for one in found for each in one}):
            there = np.array([contact in one for one in found], dtype=bool)[of]
            yield Happening(what, contact, there & view.judged)


def _latched(view: _View) -> Iterator[Happening]:
    """Coils that stay pulled in with the key back, though from rest they would not be."""
    moments = view.seen.moments
    judged = view.judged & view.seen.in_states(KEY_BACK)
    for device, _ in (*view.vehicle.devices_of(RelayCoil), *view.vehicle.devices_of(Starter)):
        held = np.flatnonzero(view.seen.pulled_in(device) & judged)
        latched = np.zeros(len(moments), dtype=bool)
        latched[[place for place in held if not _from_rest(view, moments[place], device)]] = True
        yield Happening("latched after its key", device.id, latched)


def _from_rest(view: _View, moment: ReachedSituation, coil: Device) -> bool:
    """Whether a coil pulls in where nothing was pulled in before."""
    step = view.seen.scope.step(moment.state, moment.positions)
    last = view.seen.network.enter(step, None).last
    return last is not None and coil.id in last.modes.pulled_in


def _half_pulled(view: _View) -> Iterator[Happening]:
    for device, spec in view.vehicle.devices_of(RelayCoil):
        if not spec.fitted:
            continue
        volts = np.abs(view.seen.voltage_v(device, "86", "85")) * (
            np.abs(view.seen.current_a(device.id, "coil")) > LIVE_A
        )
        between = (volts > spec.drop_out_v) & (volts < spec.pull_in_v) & ~view.seen.pulled_in(device)
        yield Happening("coil half pulled", device.id, between & view.judged)


def _over_rating(view: _View) -> Iterator[Happening]:
    """Fuses and breakers above their rating; while cranking those that open before it is over."""
    cranking = view.seen.in_states(("cranking",))
    rated: list[tuple[Segment, float, Guard]] = [
        (each, spec.rating_a, "fuse") for each, spec in view.vehicle.segments_of(Fuse)
    ]
    rated += [(each, spec.rating_a, "breaker") for each, spec in view.vehicle.segments_of(Breaker)]
    for segment, rating, guard in rated:
        amps = np.abs(view.seen.current_a(segment.id))
        over = (amps > rating) & view.judged
        for place in np.flatnonzero(over & cranking):
            within = opens_between_s(rating, float(amps[place]), guard).latest_s
            over[place] = within is not None and within <= CRANKED_S
        yield Happening("over its rating", segment.id, over)
