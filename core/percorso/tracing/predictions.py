"""What instruments would show in one situation with each of many faults in the vehicle, one fault at a time."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Mask, Numbers
from percorso.errors import PercorsoError
from percorso.faults.at_segments import OPENS
from percorso.faults.model import Fault
from percorso.network.branches import TURNING, Branch
from percorso.network.device_results import GIVES_A, least_drawn_a, works
from percorso.network.laws import battery_law, filament_law
from percorso.tracing.batch import Batch, Settled
from percorso.vehicle.devices import Battery, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Vehicle
from percorso.verification.instruments import (
    BUZZES_BELOW_OHM,
    OHMMETER_V,
    TEST_LAMP_W,
    loads_ohm,
    ranges,
)
from percorso.verification.measurements import DEAD, Measurement, Situation
from percorso.verification.measuring import Bench
from percorso.verification.metering import NOTHING, Shown, brightness
from percorso.verification.seen import SLOW_SHARE, WEAK_SHARE

TOGETHER = ("voltage", "current", "seen", "wiggle")  # read off one batch without an instrument in it


@dataclass(frozen=True)
class Predicted:
    """What one measurement shows with each fault, shape (faults,): values, NaN where there is none, and words.

    ``known``: those that were asked about.
    """

    value: Array
    word: NDArray[np.object_]
    known: Mask


class Predictions:
    """One situation of a whole vehicle with each of some faults in it, the first of which is None: sound metal."""

    def __init__(self, whole: Vehicle, at_stage: Vehicle, situation: Situation, faults: Sequence[Fault | None]) -> None:
        self._whole, self._vehicle, self._situation, self._faults = whole, at_stage, situation, faults
        self._batch = Batch(at_stage, situation, faults)
        self._benches: dict[Hashable, Bench | None] = {}
        self._known: dict[Hashable, Predicted] = {}

    def show(self, measurements: Sequence[Measurement], among: Numbers | None = None) -> list[Predicted]:
        """What each of some measurements of this situation shows; all go by id. Raises PercorsoError.

        ``among``: the faults that are asked about, by their places; of others what is not known yet stays NaN.
        """
        wanted = np.arange(len(self._faults)) if among is None else among
        asked = list({one.key: one for one in measurements}.values())
        for each in asked:
            if each.key not in self._known:
                self._known[each.key] = self._of_batch(each)
        for fault in wanted.tolist():
            missing = [each for each in asked if not self._known[each.key].known[fault]]
            if not missing:
                continue
            for each, one in zip(missing, self._alone(fault, missing), strict=True):
                known = self._known[each.key]
                known.value[fault] = np.nan if one.value is None else one.value
                known.word[fault] = one.outcome
                known.known[fault] = True
        return [self._known[each.key] for each in measurements]

    def _of_batch(self, measurement: Measurement) -> Predicted:
        """What a measurement shows with the faults that are solved together."""
        count = len(self._faults)
        found = Predicted(np.full(count, np.nan), np.full(count, None, dtype=object), np.zeros(count, dtype=bool))
        batches = [self._batch] if measurement.quantity in TOGETHER else self._with_instrument(measurement)
        _read(batches, measurement, found)
        return found

    def _with_instrument(self, measurement: Measurement) -> list[Batch]:
        """The batch with an instrument that loads the circuit in it, in each of its ranges."""
        pair = measurement.red_point or "", measurement.black_point or ""
        nominal = self._vehicle.nominal_v
        if measurement.quantity in DEAD:
            laws = [
                battery_law(OHMMETER_V, each.loads_ohm or 1.0, each.loads_ohm or 1.0)
                for each in ranges("multimeter", "resistance")
            ]
            made = [Branch("", "instrument", *pair, law=law) for law in laws]
        elif measurement.with_what == "test lamp":
            made = [Branch("", "instrument", *pair, law=filament_law(nominal, TEST_LAMP_W / nominal))]
        else:
            made = [Branch("", "instrument", *pair, resistance_ohm=loads_ohm("LED tester", "lamp"))]
        return [Batch(self._vehicle, self._situation, self._faults, [each]) for each in made]

    def _alone(self, place: int, measurements: Sequence[Measurement]) -> Sequence[Shown]:
        """What comes with one fault in the vehicle that is solved by itself."""
        fault = self._faults[place]
        # whatever parts a segment does so alike, but for how a fuse looks
        looked_at = fault is not None and any(each.segment == fault.part for each in measurements)
        alike = fault is not None and fault.fault in OPENS and not looked_at
        key = (fault.part, "parted") if fault is not None and alike else place
        if key not in self._benches:
            self._benches[key] = self._bench(fault)
        bench = self._benches[key]
        return [NOTHING] * len(measurements) if bench is None else bench.show_all(measurements)

    def _bench(self, fault: Fault | None) -> Bench | None:
        try:
            return Bench(self._whole, self._situation, [] if fault is None else [fault])
        except PercorsoError:
            return None  # the preparation is of what this fault took away


def _read(batches: Sequence[Batch], measurement: Measurement, into: Predicted) -> None:
    """Write down what a measurement shows in its batches, of which the first that shows something counts."""
    value, word, known = into.value, into.word, into.known
    for number, batch in enumerate(batches):
        for settled in batch.settled:
            here = settled.places
            match measurement.quantity:
                case "voltage":
                    value[here] = settled.across(*_pair(measurement), loads_ohm("multimeter", "voltage"))
                case "current":
                    value[here] = settled.current_a(measurement.segment or "")
                case "seen":
                    word[here] = _seen(settled, measurement)
                case "lamp":
                    nominal = settled.network.vehicle.nominal_v
                    lit = np.abs(settled.across(*_pair(measurement))).tolist()
                    word[here] = [brightness(measurement.with_what, each, nominal) for each in lit]
                case "wiggle":
                    word[here] = "steady"
                case _:
                    _read_ohm(settled, measurement, number, into)
        if measurement.quantity not in DEAD:
            known[batch.known] = True
    if measurement.quantity in DEAD:
        beyond = np.logical_and.reduce([each.known for each in batches]) & ~known
        word[beyond] = "open"
        known[beyond] = True


def _read_ohm(settled: Settled, measurement: Measurement, number: int, into: Predicted) -> None:
    """What an ohmmeter shows in one of its ranges, for those faults of which a finer one did not show it yet."""
    value, word, known = into.value, into.word, into.known
    scale = ranges("multimeter", "resistance")[number]
    behind = scale.loads_ohm or 1.0
    volts = settled.across(*_pair(measurement))
    given = OHMMETER_V - volts
    shows = (given * (scale.up_to + behind) > OHMMETER_V * behind) & ~known[settled.places]
    here = settled.places[shows]
    value[here] = volts[shows] * behind / given[shows]
    if measurement.quantity == "continuity":
        word[here] = np.where(value[here] < BUZZES_BELOW_OHM, "connected", "open")
    known[here] = True


def _pair(measurement: Measurement) -> tuple[str, str]:
    return measurement.red_point or "", measurement.black_point or ""


def _seen(settled: Settled, measurement: Measurement) -> Array | str:
    """What is seen of a device or a fuse, shape (faults here,), or of all of them alike."""
    if measurement.device is None:
        return "blown" if measurement.segment in settled.blown else "whole"
    device = settled.network.vehicle.devices.get(measurement.device)
    if device is None:
        return "dead"
    spec, modes = device.spec, settled.group.modes
    if isinstance(spec, RelayCoil):
        return "works" if device.id in modes.pulled_in else "dead"
    if isinstance(spec, Starter):
        return _seen_starter(settled, device, spec)
    if isinstance(spec, Load):
        return _seen_load(settled, device, spec)
    return np.where(_given_a(settled, device) > GIVES_A, "works", "dead")


def _given_a(settled: Settled, device: Device) -> Array:
    """What a battery or an alternator gives, A, shape (faults here,)."""
    if isinstance(device.spec, Battery):
        return -settled.current_a(device.id)
    makers = [each.owner for each in settled.network.assembly.generators]
    turning = settled.group.modes.engine in TURNING
    return settled.generated_a[:, makers.index(device.id)] * turning


def _seen_starter(settled: Settled, device: Device, spec: Starter) -> Array:
    current = settled.current_a(device.id)
    speed = spec.speed(settled.across(device.terminals["30"], device.terminals["31"]), current)
    turns = (current > 0) & (np.asarray(speed) > 0)
    return np.where(~turns, "dead", np.where(np.asarray(speed) < SLOW_SHARE, "weak", "works"))


def _seen_load(settled: Settled, device: Device, spec: Load) -> Array:
    voltage = settled.across(device.terminals["+"], device.terminals["-"])
    on = works(spec, voltage)
    weak = np.where(
        on, np.abs(voltage) < WEAK_SHARE * spec.rated_v, np.abs(settled.current_a(device.id)) > least_drawn_a(spec)
    )
    return np.where(weak, "weak", np.where(on, "works", "dead"))
