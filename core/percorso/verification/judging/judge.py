"""What came held against the plan: what one should read, and what a measurement that was logged says of it."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Protocol

from percorso.circuits.voltage_profile import NotLive, Profile
from percorso.errors import PercorsoError, ReadingError
from percorso.house_rules import HouseRules
from percorso.kept import BoundedCache
from percorso.network.operating_point import Network
from percorso.patience import one_by_one
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.states import State
from percorso.verification.checks.asked import Check, CheckTarget
from percorso.verification.judging.expected import Expected, expect
from percorso.verification.judging.logged import Judged, Logged, unjudged
from percorso.verification.judging.outcomes import judge_outcome
from percorso.verification.judging.readings import Judgement, is_across, judge_reading, leg_at_device, own_drop_v
from percorso.verification.measured.measurements import Measurement, by_ids
from percorso.verification.measured.preparations import Preparation

MOST_EXPECTED = 5000  # measurements of which it is kept what one should read
MOST_STAGES = 2  # found and planned


class Plan(Protocol):
    """What judging asks of a job under study."""

    vehicle: Vehicle
    rules: HouseRules

    def at(self, stage: Stage, preparations: tuple[Preparation, ...] = ()) -> Network:
        """The network of one stage, prepared for a test or as it is."""

    def at_design_current(self, circuit_id: str, stage: Stage) -> Profile | None:
        """A circuit at its design current; None where its route is not there at the stage."""

    def live(
        self,
        circuit_id: str,
        state: State,
        stage: Stage,
        chosen: Mapping[str, str],
        preparations: tuple[Preparation, ...] = (),
    ) -> Profile | NotLive:
        """A circuit as it runs in a state, or why it does not."""

    def checks(self, stage: Stage, circuit_id: str | None = None) -> tuple[Check, ...]:
        """What the plan asks to be tested at a stage."""


Targets = dict[tuple[object, ...], CheckTarget | None]  # what measurements must come to, by their keys


class Judge:
    """Judges measurements of one job; what it found out is kept."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._expected = BoundedCache[tuple[object, ...], Expected](MOST_EXPECTED)
        self._judged = BoundedCache[tuple[object, ...], Judged](MOST_EXPECTED)
        self._targets = BoundedCache[Stage, Targets](MOST_STAGES)

    def expected(self, measurements: Sequence[Measurement]) -> list[Expected]:
        """What is read on sound metal; points and parts go by id. Raises PercorsoError."""
        unknown = {each.key: each for each in measurements if each.key not in self._expected}
        situations: dict[tuple[object, ...], list[Measurement]] = {}
        for each in unknown.values():
            situations.setdefault(each.situation.key, []).append(each)
        fresh: dict[tuple[object, ...], Expected] = {}
        for together in one_by_one(list(situations.values())):
            situation = together[0].situation
            network = self._plan.at(situation.stage, situation.preparations)
            found = expect(network, situation, [by_ids(network.vehicle, each) for each in together])
            fresh |= zip((each.key for each in together), found, strict=True)
        for key in fresh:
            self._expected.keep(key, fresh[key])
        return [fresh.get(each.key) or self._expected[each.key] for each in measurements]

    def judged(self, logged: Logged) -> Judged:
        """What a logged measurement says, against the plan as it is now."""
        return self._judged.get_or(logged.key, lambda: self._judge(logged))

    def _judge(self, logged: Logged) -> Judged:
        measurement = logged.net
        if not self._plan.vehicle.points:
            return unjudged("there is no point in this job")
        try:
            expected = self.expected([measurement])[0]
        except PercorsoError as error:
            return unjudged(str(error))
        outcome = judge_outcome(measurement, expected, self._target(logged))
        try:
            return Judged(expected, outcome, self.drop(logged))
        except PercorsoError as error:
            return Judged(expected, outcome, why_not=str(error))

    def _target(self, logged: Logged) -> CheckTarget | None:
        """What a measurement must come to, where the plan asks for it."""
        stage = logged.measurement.situation.stage

        def by_key() -> Targets:
            return {each.measurement.key: each.target for each in reversed(self._plan.checks(stage))}

        return self._targets.get_or(stage, by_key).get(logged.measurement.key)

    def drop(self, logged: Logged) -> Judgement | None:
        """A voltage along a circuit as a drop of it; None for what is none. Raises ReadingError."""
        measurement, stage = logged.measurement, logged.measurement.situation.stage
        if measurement.quantity != "voltage" or measurement.value is None or logged.circuit_id is None:
            return None
        is_planned = logged.circuit_id in self._plan.vehicle.circuits
        at_design = self._plan.at_design_current(logged.circuit_id, stage) if is_planned else None
        if at_design is None:
            raise ReadingError("this route is not there at that stage", field=("stage",))
        vehicle = self._plan.at(stage).vehicle
        circuit = vehicle.circuits[logged.circuit_id]
        if is_across(vehicle, circuit, measurement):
            return None
        if logged.current_a is not None:
            return judge_reading(vehicle, circuit, at_design, logged.as_drop(logged.current_a), self._plan.rules)
        reading = logged.as_drop(self._current_a(logged))
        expected_v = self.expected([measurement])[0].value or 0.0
        own_v = own_drop_v(reading, at_design, circuit, expected_v)
        if own_v < reading.lead_offset_v <= reading.value_v:
            others = f"{reading.value_v - own_v:.3g} V"
            raise ReadingError(
                f"other circuits alone should drop {others} of it on the path they share, and less was read: "
                "measure again with them off",
                field=("value_v",),
            )
        return judge_reading(vehicle, circuit, at_design, replace(reading, value_v=own_v), self._plan.rules)

    def _current_a(self, logged: Logged) -> float:
        """What a circuit itself drew where it was measured, as computed. Raises ReadingError."""
        measurement = logged.measurement
        situation = measurement.situation
        live = self._plan.live(
            logged.circuit_id or "", situation.state, situation.stage, situation.inputs, situation.preparations
        )
        if isinstance(live, NotLive):
            raise ReadingError(f"nothing flows here: {live.reason}")
        own = leg_at_device(live, measurement.red_point or "", measurement.black_point or "")
        return 0.0 if own is None else own.current_a
