"""What instruments would show in one situation with each of many faults in the vehicle, one fault at a time."""

from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Mask, Numbers
from percorso.errors import PercorsoError
from percorso.faults.model import Fault
from percorso.kept import cached_property
from percorso.network.device_results import works
from percorso.network.modes import TURNING
from percorso.network.results import AGREE
from percorso.tracing.batch import NOTHING_BLOWN, Batch, Blown
from percorso.tracing.settled import Settled
from percorso.vehicle.devices import Battery, DeviceKind, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Vehicle
from percorso.verification.bench.appearance import appearance
from percorso.verification.bench.instrument_model import brightness, buzzes, instrument_branches, ohm_shown, probes
from percorso.verification.bench.metering import NOTHING_SHOWN, Shown
from percorso.verification.bench.virtual_bench import Bench
from percorso.verification.measured.instruments import input_resistance_ohm, ranges
from percorso.verification.measured.measurements import DEAD, Measurement, Situation

OF_A_PHASE = 0.1  # of the time, one standard deviation of how long a phase lasts where something chatters; from memory
TOGETHER = ("current", "seen", "wiggle")  # read off one batch without an instrument in it


@dataclass(frozen=True)
class Predicted:
    """What one measurement shows with each fault, shape (faults,): values, NaN where there is none, and words.

    ``doubt`` is one standard deviation of a value beside what metal and instruments differ; ``known``: those that were
    asked about.
    """

    value: Array
    word: NDArray[np.object_]
    known: Mask
    doubt: Array

    @staticmethod
    def joined(tables: Sequence["Predicted"]) -> "Predicted":
        """Several as one, one after the other."""
        if len(tables) == 1:
            return tables[0]
        columns = zip(*((each.value, each.word, each.known, each.doubt) for each in tables), strict=True)
        return Predicted(*(np.concatenate(each) for each in columns))

    def higher(self, by: Array) -> "Predicted":
        """The same with values that are higher by so much, shape (faults,) or (1,)."""
        return replace(self, value=self.value + by)

    def replaced(self, places: Numbers, other: "Predicted") -> "Predicted":
        """The same with what another says of some faults."""
        here = np.zeros(len(self.known), dtype=bool)
        here[places] = True
        return Predicted(
            np.where(here, other.value, self.value),
            np.where(here, other.word, self.word),
            np.where(here, other.known, self.known),
            np.where(here, other.doubt, self.doubt),
        )


class Predictions:
    """One situation of a whole vehicle with each of some faults in it, the first of which is None: sound metal."""

    def __init__(
        self,
        whole: Vehicle,
        at_stage: Vehicle,
        situation: Situation,
        faults: Sequence[Fault | None],
        blown: Blown = NOTHING_BLOWN,
    ) -> None:
        """``blown``: the fuses that faults have blown before, in other situations."""
        self._whole, self._vehicle, self._situation, self._faults = whole, at_stage, situation, faults
        self._blown_before = blown
        self._batch = Batch(at_stage, situation, faults, blown=blown)
        self._benches: dict[int, Bench | None] = {}
        self._known: dict[Hashable, Predicted] = {}
        self._asked: dict[Hashable, Measurement] = {}

    def show(self, measurements: Sequence[Measurement], among: Numbers | None = None) -> list[Predicted]:
        """What each of some measurements of this situation shows; all go by id. Raises PercorsoError.

        ``among``: the faults that are asked about, by their places; of others what is not known yet stays NaN.
        """
        wanted = np.arange(len(self._faults)) if among is None else np.asarray(among, dtype=int)
        keys = [each.key for each in measurements]
        asked = dict(zip(keys, measurements, strict=True))
        self._asked |= asked
        found = [self._known.setdefault(key, self._nothing()) for key in asked]
        self._read_together(list(asked.values()), found, wanted)
        known = np.array([each.known[wanted] for each in found]).reshape(len(found), len(wanted))
        for fault in wanted[~known.all(axis=0)].tolist():
            missing = [each for each, one in zip(asked.values(), found, strict=True) if not one.known[fault]]
            into = [one for one in found if not one.known[fault]]
            for one, shown in zip(into, self._alone(fault, missing), strict=True):
                one.value[fault] = np.nan if shown.value is None else shown.value
                one.word[fault] = shown.outcome
                one.known[fault] = True
        return [self._known[key] for key in keys]

    def blown(self, among: Numbers | None = None) -> Blown:
        """The fuses that have blown here with each of some faults, or all, by their places."""
        self._batch.solve(np.arange(len(self._faults)) if among is None else among)
        return self._batch.blown

    def complete(self) -> None:
        """Find out with every fault what was asked of some."""
        self.show(list(self._asked.values()))

    def _nothing(self) -> Predicted:
        count = len(self._faults)
        unknown = np.full(count, np.nan), np.full(count, None, dtype=object), np.zeros(count, dtype=bool)
        return Predicted(*unknown, np.zeros(count))

    def _read_together(self, measurements: Sequence[Measurement], found: Sequence[Predicted], wanted: Numbers) -> None:
        """What measurements show with the faults that come to rest, at least with those that are wanted."""
        left = [(each, one) for each, one in zip(measurements, found, strict=True) if not one.known[wanted].all()]
        if left:
            self._batch.solve(wanted)
        self._read_voltages([(each, one) for each, one in left if each.quantity == "voltage"], wanted)
        self._read_currents([(each, one) for each, one in left if each.quantity == "current"], wanted)
        for each, one in left:
            if each.quantity not in ("voltage", "current"):
                batches = [self._batch] if each.quantity in TOGETHER else self._with_instrument(each, wanted)
                _read(batches, each, one)
            if each.quantity in (*TOGETHER, "voltage"):
                _read_chattering(self._batch, each, one)
            if each.quantity == "seen" and each.segment:
                one.word[self._blown.get(each.segment, [])] = "blown"

    @cached_property
    def _blown(self) -> dict[str, list[int]]:
        """Of each fuse the places of those faults that are that it has blown, for whatever reason."""
        places: dict[str, list[int]] = {}
        for place, each in enumerate(self._faults):
            if each is not None and each.fault == "blown":
                places.setdefault(each.part, []).append(place)
        return places

    def _settled(self, wanted: Numbers) -> Iterator[tuple[Settled, Numbers]]:
        """What came to rest with some of the faults that are wanted, and the rows of those."""
        is_wanted = np.zeros(len(self._faults), dtype=bool)
        is_wanted[wanted] = True
        for settled in self._batch.settled:
            rows = np.flatnonzero(is_wanted[settled.places])
            if rows.size:
                yield settled, rows

    def _read_voltages(self, asked: Sequence[tuple[Measurement, Predicted]], wanted: Numbers) -> None:
        """Voltages by a meter; those that are faint with the meter in the circuit."""
        if not asked:
            return
        pairs = [probes(each) for each, _ in asked]
        load_ohm = input_resistance_ohm("multimeter", "voltage")
        for settled, rows in self._settled(wanted):
            here = settled.places[rows]
            volts, faint = settled.metered(pairs, load_ohm, rows)
            for pair, column, weak, (_, into) in zip(pairs, volts.T, faint.T, asked, strict=True):
                into.value[here], into.known[here] = column, True
                if weak.any():
                    loaded = settled.only(rows[weak]).loaded(pair, load_ohm)
                    into.value[here[weak]], into.known[here[weak]] = loaded, ~np.isnan(loaded)

    def _read_currents(self, asked: Sequence[tuple[Measurement, Predicted]], wanted: Numbers) -> None:
        """Currents by a clamp."""
        if not asked:
            return
        for settled, rows in self._settled(wanted):
            here = settled.places[rows]
            amps = settled.currents_a([each.segment or "" for each, _ in asked])
            for column, (_, into) in zip(amps[rows].T, asked, strict=True):
                into.value[here], into.known[here] = column, True

    def _with_instrument(self, measurement: Measurement, wanted: Numbers) -> list[Batch]:
        """The batch with an instrument that loads the circuit in it, in each of its ranges."""
        branches = instrument_branches(measurement, self._vehicle.nominal_v)
        batches = [Batch(self._vehicle, self._situation, self._faults, [each], self._blown_before) for each in branches]
        for each in batches:
            each.solve(wanted)
        return batches

    def _alone(self, place: int, measurements: Sequence[Measurement]) -> Sequence[Shown]:
        """What comes with one fault in the vehicle that never comes to rest, or takes away what is prepared."""
        if place not in self._benches:
            self._benches[place] = self._bench(place)
        bench = self._benches[place]
        return [NOTHING_SHOWN] * len(measurements) if bench is None else bench.show_all(measurements)

    def _bench(self, place: int) -> Bench | None:
        fault, blown = self._faults[place], self._blown_before.get(place, frozenset())
        try:
            return Bench(self._whole, self._situation, [] if fault is None else [fault], blown)
        except PercorsoError:
            return None  # the preparation is of what this fault took away


def _read(batches: Sequence[Batch], measurement: Measurement, into: Predicted) -> None:
    """Write down what a measurement shows in its batches, of which the first that shows something counts."""
    word, known = into.word, into.known
    for number, batch in enumerate(batches):
        for settled in batch.settled:
            here = settled.places
            match measurement.quantity:
                case "seen":
                    word[here] = _seen(settled, measurement)
                case "lamp":
                    nominal = settled.network.vehicle.nominal_v
                    word[here] = brightness(measurement.with_what, settled.across(*probes(measurement)), nominal)
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


def _read_chattering(batch: Batch, measurement: Measurement, into: Predicted) -> None:
    """What is read while something chatters: the mean, for instruments are too slow; and what is seen of it."""
    for phases in batch.chattering:
        here = phases[0].places
        match measurement.quantity:
            case "voltage" | "current":
                through = [_value(each, measurement) for each in phases]
                into.value[here], into.doubt[here] = np.mean(through, axis=0), OF_A_PHASE * np.ptp(through, axis=0)
            case "seen":
                into.word[here] = _seen_chattering(phases, measurement)
            case _:
                into.word[here] = "steady"
        into.known[here] = True


def _value(settled: Settled, measurement: Measurement) -> Array:
    """A voltage or a current with each fault here."""
    if measurement.quantity == "current":
        return settled.current_a(measurement.segment or "")
    return settled.across(*probes(measurement))


def _read_ohm(settled: Settled, measurement: Measurement, number: int, into: Predicted) -> None:
    """What an ohmmeter shows in one of its ranges, for those faults of which a finer one did not show it yet."""
    value, word, known = into.value, into.word, into.known
    scale = ranges("multimeter", "resistance")[number]
    ohm, _, is_shown = ohm_shown(settled.across(*probes(measurement)), scale)
    shows = is_shown & ~known[settled.places]
    here = settled.places[shows]
    value[here] = ohm[shows]
    if measurement.quantity == "continuity":
        word[here] = buzzes(ohm[shows])
    known[here] = True


def _seen(settled: Settled, measurement: Measurement) -> NDArray[np.object_] | str:
    """What is seen of a device or a fuse, shape (faults here,), or of all of them alike."""
    if measurement.device is None:
        return "blown" if measurement.segment in settled.blown else "whole"
    device = settled.network.vehicle.devices.get(measurement.device)
    if device is None:
        return "dead"
    found = np.array(np.broadcast_to(_looks(settled, device, device.spec), len(settled.places)), dtype=object)
    for row in settled.rows_of.get(device.id, ()):
        change = settled.changes[row]
        if change.is_broken:
            found[row] = "clicks once" if device.id in settled.group.modes.pulled_in else "dead"
        elif change.spec is not None:  # a device that is another one now
            found[row] = _looks(settled.only(np.array([row])), device, change.spec)[0]
    return found


def _seen_chattering(phases: Sequence[Settled], measurement: Measurement) -> NDArray[np.object_]:
    """What is seen of a device that goes through phases, shape (faults here,): it clicks, flickers, or looks alike."""
    found = [np.broadcast_to(_seen(each, measurement), len(each.places)) for each in phases]
    alike = np.logical_and.reduce([each == found[0] for each in found])
    device = phases[0].network.vehicle.devices.get(measurement.device or "")
    if device is None or not isinstance(device.spec, Load):
        # a starter that never turns looks alike in every phase, and its solenoid is heard all the same
        moves = len({measurement.device in each.group.modes.pulled_in for each in phases}) > 1
        return np.where(alike & (not moves), found[0], "clicks").astype(object)
    volts = np.array([each.across(device.terminals["+"], device.terminals["-"]) for each in phases])
    on = works(device.spec, volts)
    flickers = np.where(on.all(axis=0), "weak", np.where(on.any(axis=0), "clicks", "dead"))
    dead = np.logical_and.reduce([each == "dead" for each in found])  # with nothing going through it, too
    return np.where((np.ptp(volts, axis=0) > AGREE) & ~dead, flickers, found[0]).astype(object)


def _looks(settled: Settled, device: Device, spec: DeviceKind) -> NDArray[np.object_]:
    """How a device looks, shape (faults here,)."""
    first, second = (device.terminals[each] for each in spec.TERMINALS)
    current = settled.current_a(device.id) if isinstance(spec, Load | Starter) else _given_a(settled, device)
    is_in = device.id in settled.group.modes.pulled_in
    return appearance(spec, settled.across(first, second), current, pulled_in=is_in)


def _given_a(settled: Settled, device: Device) -> Array:
    """What a battery or an alternator gives, A, shape (faults here,); a coil nothing."""
    if isinstance(device.spec, RelayCoil):
        return np.zeros(len(settled.places))
    if isinstance(device.spec, Battery):
        return -settled.current_a(device.id)
    makers = [each.owner for each in settled.network.assembly.generators]
    turning = settled.group.modes.engine in TURNING
    return settled.generated_a[:, makers.index(device.id)] * turning
