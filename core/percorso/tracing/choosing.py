"""Chooses what to measure next: what tells most for its minutes, and before the end a look at what is condemned."""

from collections import defaultdict
from collections.abc import Callable, Collection, Mapping, Sequence

from percorso.arrays import Array
from percorso.faults.library import FaultMode
from percorso.network.modes import TURNING
from percorso.patience import one_by_one
from percorso.tracing.candidates import at_itself, candidates, looks_at
from percorso.tracing.complaints import Observation, looks_of
from percorso.tracing.history import History, live_of
from percorso.tracing.left_out import LeftOut, is_left_out
from percorso.tracing.next_check import LEAST_BITS, HypothesisSample, NextCheck, Weighed, best_of, weigh, worth
from percorso.tracing.pairs import SecondFault
from percorso.tracing.predictions import Predicted
from percorso.tracing.situations import CONDUCTS, Carries, looked_at, situations, trial_of, trials
from percorso.tracing.suspects import Posterior
from percorso.vehicle.devices import Alternator, Battery, Starter
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.states import ENGINE
from percorso.verification.checks.minutes import minutes
from percorso.verification.measured.measurements import Measurement, Situation

SHOWN_TESTS = 3
MOST_LOOKS = 3  # readings that are looked at again with a part on trial
LIKELY_BLOWN = 0.5  # probability from which a fuse is taken to have blown
A_RIVAL = 0.01  # probability from which the second likeliest part is one
TELLS = 0.3  # bits of whether it is a part or not, from which a look at it is worth making

# Of each of some measurements by how much it is higher with each fault, by what was read on the same metal, and one
# standard deviation of what is left
GivenOthers = Callable[[Sequence[Measurement]], list[tuple[Array, float]]]


class Choosing:
    """What may be measured next, after all that is known."""

    def __init__(
        self,
        vehicle: Vehicle,
        stage: Stage,
        found: Posterior,
        known: Sequence[Observation],
        history: History,
        given: GivenOthers,
        carries_a: Carries,
        left_out: Collection[LeftOut],
    ) -> None:
        self._vehicle, self._found, self._known = vehicle, found, known
        self._history, self._given, self._carries_a = history, given, carries_a
        self._stage, self._left_out = stage, left_out
        self._readings = [each for each in known if isinstance(each, Measurement)]
        self._done, self._after = {each.key for each in self._readings}, live_of(known)
        self._before = self._readings[-1].situation if self._readings else None
        self._blown = self._blown_fuses()
        self._situations = situations(vehicle, stage, known, self._blown)

    def best(self, second_faults: Sequence[SecondFault], used: Mapping[int, History]) -> tuple[NextCheck, ...]:
        """The next best tests; ``used`` are the histories of what is beside each first fault."""
        sample = HypothesisSample.of(self._found, second_faults)
        histories = [self._history, *(used[each.first] for each in second_faults)]
        weighed: list[Weighed] = []
        for situation in one_by_one(self._situations):
            weighed += self._weighed(candidates(self._vehicle, self._found, sample, situation), sample, histories)
        best = best_of(weighed, sample, SHOWN_TESTS)
        for trial in trials(self._vehicle, self._found, self._known, self._blown, self._carries_a):
            takes = minutes(self._vehicle, trial.measurement, self._before)
            if len(best) < SHOWN_TESTS or worth(trial.most_bits, takes) > worth(best[-1].bits, best[-1].minutes):
                weighed += self._weighed([trial.measurement], sample, histories)
                best = best_of(weighed, sample, SHOWN_TESTS)
        return best

    def recheck(self) -> NextCheck | None:
        """A reading that the likeliest fault does not explain, to be read once more before it is believed."""
        keys = [each.key for each in self._readings]
        for each in (self._known[place] for place in self._found.unexplained):
            if isinstance(each, Measurement) and keys.count(each.key) == 1:
                return self._asked(each.model_copy(update={"value": None, "outcome": None}))
        return None

    def at_the_posts(self) -> NextCheck | None:
        """The voltage at the battery's posts, before anything else is measured of a starter that is slow or of a
        battery that is flat: it is at hand, and everything is fed from there. Common practice.
        """
        if any(each.value is not None for each in self._readings):
            return None
        looks = [one for each in self._known for one in looks_of(each) if _is_of_the_battery(self._vehicle, one)]
        batteries = [each for each, spec in self._vehicle.devices_of(Battery) if {"+", "-"} <= set(each.terminals)]
        if not looks or not batteries:
            return None
        pair = {"red_point": batteries[0].terminals["+"], "black_point": batteries[0].terminals["-"]}
        return self._asked(Measurement(quantity="voltage", **pair, situation=looks[0].situation))

    def look(self, share: float) -> NextCheck | None:
        """A look at the likeliest part itself, or at its best rival, where that was not looked at yet and would tell.

        ``share``: how probable it is that one part alone is bad.
        """
        units = sorted(self._found.of_units().items(), key=lambda each: -each[1])
        if units and (sense := self._sense_of(units[0][0])) is not None:
            return sense
        for unit, probability in units[:2]:
            if probability * share >= A_RIVAL and (look := self._look_at(unit)) is not None:
                return look
        return None

    def _sense_of(self, unit: str) -> NextCheck | None:
        """What a regulator senses while it regulates: it is not condemned before that was read. Common practice."""
        device = self._vehicle.devices.get(unit)
        if device is None or not isinstance(device.spec, Alternator) or "S" not in device.terminals:
            return None
        pin = device.terminals["S"]
        turning = [each.situation for each in self._readings if ENGINE[each.situation.state] in TURNING]
        if any(pin in (each.red_point, each.black_point) for each in self._readings if each.situation in turning):
            return None
        situation = turning[-1] if turning else Situation(stage=self._stage, state="idle")
        pair = {"red_point": pin, "black_point": device.terminals["B-"]}
        return self._asked(Measurement(quantity="voltage", **pair, situation=situation))

    def _asked(self, measurement: Measurement) -> NextCheck | None:
        """A measurement as a test, however little it tells; None where it is left out."""
        sample = HypothesisSample.of(self._found, ())
        return next(iter(best_of(self._weighed_again([measurement], sample, [self._history], 0), sample, 1)), None)

    def _look_at(self, unit: str) -> NextCheck | None:
        mode, modes = self._likeliest_of(unit), self._found.hypotheses.modes
        parts = {each.part for each in modes if each.unit == unit}
        conducts = mode.fault in CONDUCTS
        for place, each in enumerate(self._known):
            is_look = isinstance(each, Measurement) and looks_at(self._vehicle, parts, each, conducts=conducts)
            if is_look and self._found.speaks_for(unit, place):
                return None
        sample = HypothesisSample.against(self._found, unit)
        weighed: list[Weighed] = []
        for situation in one_by_one(self._situations):
            weighed += self._weighed(at_itself(self._vehicle, parts, situation), sample, [self._history])
        for trial in self._trials_of(mode):
            weighed += self._weighed([trial], sample, [self._history])
        return next(iter(best_of([each for each in weighed if each.bits >= TELLS], sample, 1)), None)

    def _likeliest_of(self, unit: str) -> FaultMode:
        """The likeliest fault mode of a unit."""
        modes = zip(self._found.hypotheses.modes, self._found.of_modes.tolist(), strict=True)
        return max((each for each in modes if each[0].unit == unit), key=lambda each: each[1])[0]

    def _trials_of(self, mode: FaultMode) -> list[Measurement]:
        """What was wrong, and the readings that speak most for a part, with it bridged, swapped or out of the way."""
        live = [
            (self._found.times_as_likely(mode.unit, place), each)
            for place, each in enumerate(self._known)
            if isinstance(each, Measurement) and not each.situation.is_dead and each.quantity != "wiggle"
        ]
        most = [each for _, each in sorted(live, key=lambda one: -one[0])[:MOST_LOOKS]]
        look = looked_at(self._known)
        looks = {each.key: each for each in (*([look] if look else []), *most)}.values()
        trials = [trial_of(self._vehicle, mode, each, self._blown, self._carries_a) for each in looks]
        return [each for each in trials if each is not None]

    def _weighed(
        self, measurements: Sequence[Measurement], sample: HypothesisSample, histories: Sequence[History]
    ) -> list[Weighed]:
        """Some measurements of one situation, but those that were made already."""
        asked = [each for each in measurements if each.key not in self._done]
        return self._weighed_again(asked, sample, histories) if asked else []

    def _weighed_again(
        self,
        asked: Sequence[Measurement],
        sample: HypothesisSample,
        histories: Sequence[History],
        least_bits: float = LEAST_BITS,
    ) -> list[Weighed]:
        """Some measurements of one situation, made already or not."""
        asked = [each for each in asked if not is_left_out(self._vehicle, each, self._left_out)]
        if not asked:
            return []
        after = self._after.difference([asked[0].situation])
        given = self._given(asked)
        tables = [each.show(asked, after, rows) for each, rows in zip(histories, sample.rows, strict=True)]
        single, *second_faults = (zip(each, given, strict=True) for each in tables)
        tables = [[each.higher(by) for each, (by, _) in single]]
        tables += [[each.higher(by[:1]) for each, (by, _) in beside] for beside in second_faults]  # as sound metal is
        predicted = [Predicted.joined(each) for each in zip(*tables, strict=True)]
        spreads = [left for _, left in given]
        return weigh(self._vehicle, sample, asked, predicted, spreads, self._before, least_bits)

    def _blown_fuses(self) -> list[str]:
        """The fuses that were seen blown, and those that most likely are."""
        seen = [each.segment for each in self._known if isinstance(each, Measurement) and each.outcome == "blown"]
        shares: defaultdict[str, float] = defaultdict(float)
        for mode, share in zip(self._found.hypotheses.modes, self._found.of_modes.tolist(), strict=True):
            shares[mode.part] += share if mode.fault == "blown" else 0.0
        for place, fuses in self._history.blown_in(self._after).items():
            for fuse in fuses:
                shares[fuse] += float(self._found.probability[place])
        likely = [fuse for fuse, share in shares.items() if share > LIKELY_BLOWN]
        return list(dict.fromkeys([*(each for each in seen if each), *likely]))


def _is_of_the_battery(vehicle: Vehicle, look: Measurement) -> bool:
    """Whether what one looks at asks for the battery's posts first: a starter that turns slowly or clicks, or a value
    that a customer's complaint is known by.
    """
    device = vehicle.devices.get(look.device or "")
    return look.quantity != "seen" or (
        device is not None and isinstance(device.spec, Starter) and look.outcome not in ("works", "dead")
    )
