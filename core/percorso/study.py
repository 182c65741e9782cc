"""One job under study: its stages, solved states, plans, findings and budgets, each computed when first asked for."""

from collections.abc import Mapping
from dataclasses import dataclass

from percorso.circuits.comparison import Difference, difference
from percorso.circuits.design_case import Planned, planned, untouched
from percorso.circuits.voltage_profile import NotLive, Profile, profile, solved_profile
from percorso.findings.finding import Finding, gravest_first
from percorso.findings.operating_state import behaviour
from percorso.findings.plan import plan_findings
from percorso.house_rules import HouseRules
from percorso.kept import BoundedCache, cached_property
from percorso.load_budget.budget import Budget, draw_up
from percorso.load_budget.ledger import ledger_findings
from percorso.load_budget.sources import budgeted
from percorso.network.branches import has_source
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.states.exploration import MOST_SITUATIONS
from percorso.states.proof import Proof, prove
from percorso.states.pulling import Pulled, part_named, pull_each, removable
from percorso.tracing.trace import Tracer
from percorso.vehicle.copper import by_house
from percorso.vehicle.model import STAGES, Stage, Vehicle
from percorso.vehicle.scenarios import Drive
from percorso.vehicle.stages import is_changed, vehicle_at
from percorso.vehicle.states import STATES, State, steps
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.checks.asked import Check
from percorso.verification.checks.build import list_checks
from percorso.verification.judging.judge import Judge
from percorso.verification.measured.preparations import Preparation

Preparations = tuple[Preparation, ...]
MOST_PREPARED, MOST_SOLVED = 40, 300  # networks prepared for a test, and solved states, that are kept
MOST_RUNS = 2000  # circuits as they run in a state
MOST_EXPECTED = 5000  # measurements of which it is kept what one should read


@dataclass(frozen=True)
class SolvedStage:
    """A stage of a vehicle, solved in one state; without any source there is nothing to solve."""

    network: Network
    solution: Solution
    rules: HouseRules
    chosen: Mapping[str, str]

    @property
    def vehicle(self) -> Vehicle:
        """The vehicle at this stage."""
        return self.network.vehicle

    @property
    def is_fed(self) -> bool:
        """Whether anything feeds this network."""
        return has_source(self.vehicle)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What the rules notice in this state."""
        return behaviour(self.network, self.network.looked_ahead(self.solution, self.chosen), self.rules)


Chosen = tuple[tuple[str, str], ...]  # inputs with their positions, in order


class Study:
    """Everything that can be asked of a vehicle, found and planned together, under house rules."""

    most_situations = MOST_SITUATIONS  # that a proof tries

    def __init__(self, vehicle: Vehicle, rules: HouseRules, before: "Study | None" = None) -> None:
        """``before`` has studied the vehicle as it was before a change: what it knows still and stays right is kept."""
        self.vehicle, self.rules = by_house(vehicle, rules), rules
        self._before = before.known if before else {}
        self._traced_before = before.tracers if before else {}
        self._networks: dict[Stage, Network] = {}
        self._prepared = BoundedCache[tuple[Stage, Preparations], Network](MOST_PREPARED)
        self._plans: dict[Stage, Planned] = {}
        self._noticed: dict[Stage, tuple[Finding, ...]] = {}
        self._solved = BoundedCache[tuple[Stage, State, Chosen, Preparations], SolvedStage](MOST_SOLVED)
        self._profiles: dict[Stage, dict[str, Profile]] = {}
        self._lives = BoundedCache[tuple[str, State, Stage, Chosen, Preparations], Profile | NotLive](MOST_RUNS)
        self._proofs = BoundedCache[tuple[Stage, Preparations], Proof](MOST_PREPARED)
        self._checks = BoundedCache[tuple[Stage, str | None], tuple[Check, ...]](MOST_PREPARED)
        self.judge = Judge(self)
        self._budgets: dict[tuple[Stage, str | None], Budget] = {}
        self._tracers = BoundedCache[Stage, Tracer](len(STAGES))

    def at(self, stage: Stage, preparations: Preparations = ()) -> Network:
        """The network of one stage, prepared for a test or as it is. The vehicle needs a point.

        Raises PreparationError.
        """
        key = stage, preparations
        if not preparations:
            return self._as_it_is(stage)
        whole = self._as_it_is(stage)
        return self._prepared.get_or(key, lambda: Network(prepared(whole.vehicle, preparations), like=whole))

    def _as_it_is(self, stage: Stage) -> Network:
        if stage not in self._networks:
            vehicle, earlier = vehicle_at(self.vehicle, stage), self._before.get(stage)
            is_same = earlier is not None and earlier[0].vehicle == vehicle  # what is planned leaves what is found
            self._networks[stage] = earlier[0] if earlier and is_same else Network(vehicle)
        return self._networks[stage]

    def plan(self, stage: Stage) -> Planned:
        """A stage in every state and each of its circuits at design current. The vehicle needs a point."""
        if stage not in self._plans:
            known = self._at_design(stage)
            self._plans[stage] = planned(self.at(stage), self.rules, known=known)
            known |= self._plans[stage].profiles
        return self._plans[stage]

    @property
    def known(self) -> dict[Stage, tuple[Network, Mapping[str, Profile]]]:
        """The network of each stage that was asked for, with what is known of its circuits at design current."""
        asked = dict(self._networks)  # and copies of what other threads may add to meanwhile
        return self._before | {each: (asked[each], dict(self._profiles.get(each, {}))) for each in asked}

    def _at_design(self, stage: Stage) -> dict[str, Profile]:
        """The circuits of a stage at design current that are known, by id."""
        if stage not in self._profiles:
            before, known = self._before.get(stage, (self.at(stage), {}))
            self._profiles[stage] = untouched(before.vehicle, known, self.at(stage).vehicle)
        return self._profiles[stage]

    def plan_findings(self, stage: Stage) -> tuple[Finding, ...]:
        """What the rules notice of a stage before anything is switched on, of its routes and of its load ledger."""
        if stage not in self._noticed:
            of_routes = plan_findings(self.plan(stage)) if self.vehicle.points else ()
            of_loads = ledger_findings(budgeted(self.vehicle, stage))
            self._noticed[stage] = gravest_first((*of_routes, *of_loads), self.vehicle)
        return self._noticed[stage]

    def at_design_current(self, circuit_id: str, stage: Stage) -> Profile | None:
        """A circuit's profile at its design current; None where its route is not there at the stage."""
        vehicle = self.at(stage).vehicle
        circuit, known = vehicle.circuits.get(circuit_id), self._at_design(stage)
        if circuit is None:
            return None
        if circuit_id not in known:
            known[circuit_id] = profile(vehicle, circuit, self.rules)
        return known[circuit_id]

    def designed(self, circuit_id: str, stage: Stage) -> Profile:
        """A circuit at its design current and nothing else; where its route is not there, as if it stood alone."""
        there, circuit = self.at_design_current(circuit_id, stage), self.vehicle.circuits[circuit_id]
        return there or profile(self.vehicle, circuit, self.rules, frozenset(circuit.whole_path))

    def live(
        self,
        circuit_id: str,
        state: State,
        stage: Stage,
        chosen: Mapping[str, str],
        preparations: Preparations = (),
    ) -> Profile | NotLive:
        """A circuit as it runs in a state, prepared for a test or as it is, or why it does not.

        Raises StateError for an unknown input, and PreparationError.
        """
        key = circuit_id, state, stage, tuple(sorted(chosen.items())), preparations
        return self._lives.get_or(key, lambda: self._live(*key[:3], chosen, preparations))

    def _live(
        self, circuit_id: str, state: State, stage: Stage, chosen: Mapping[str, str], preparations: Preparations
    ) -> Profile | NotLive:
        circuit = self.at(stage, preparations).vehicle.circuits.get(circuit_id)
        if circuit is None:
            return NotLive(f"this route is not there as {stage}")
        solved = self.solved(state, stage, chosen, preparations)
        if solved is None or not solved.is_fed:
            return NotLive("there is no battery or alternator yet to feed it")
        return solved_profile(solved.vehicle, circuit, solved.solution, self.rules)

    def difference(self, circuit_id: str, state: State, chosen: Mapping[str, str]) -> Difference | None:
        """What the work changes for a circuit in a state; None where nothing is planned, or nothing feeds it."""
        if not is_changed(self.vehicle):
            return None
        solved = [self.solved(state, stage, chosen) for stage in STAGES]
        if not all(each is not None and each.is_fed for each in solved):
            return None
        found, planned = (self.live(circuit_id, state, stage, chosen) for stage in STAGES)
        return difference(circuit_id, found, planned)

    def solved(
        self, state: State, stage: Stage, chosen: Mapping[str, str], preparations: Preparations = ()
    ) -> SolvedStage | None:
        """A state with inputs as chosen, prepared for a test or as it is; None while the job has no point.

        Raises StateError for an unknown input, and PreparationError.
        """
        if not self.vehicle.points:
            return None
        key = stage, state, tuple(sorted(chosen.items())), preparations
        network = self.at(stage, preparations)

        def solve() -> SolvedStage:
            return SolvedStage(network, network.solve(state, chosen, look_ahead=False), self.rules, chosen)

        return self._solved.get_or(key, solve)

    def proof(self, stage: Stage, preparations: Preparations = ()) -> Proof:
        """Every situation of a stage, tried. The vehicle needs a point. Raises PreparationError."""
        key = stage, preparations
        network = self.at(stage, preparations)
        return self._proofs.get_or(key, lambda: prove(network, self.most_situations))

    def pulled(self, stage: Stage, chosen: Mapping[str, str], part: str | None = None) -> list[Pulled]:
        """What each part does that can be taken out, or one of that name, with inputs as chosen.

        With none chosen every switch stands so that everything runs that can. Raises StateError and PreparationError.
        """
        network = self.at(stage)
        parts = removable(network.vehicle) if part is None else [part_named(network.vehicle, part)]
        situations = steps(STATES, chosen) if chosen else self.proof(stage).showing
        return pull_each(network, parts, situations)

    def state_findings(self, state: State, stage: Stage, chosen: Mapping[str, str]) -> tuple[Finding, ...]:
        """What the rules notice in a state; nothing where nothing feeds the vehicle. Raises StateError."""
        solved = self.solved(state, stage, chosen)
        return solved.findings if solved and solved.is_fed else ()

    def checks(self, stage: Stage, circuit_id: str | None = None) -> tuple[Check, ...]:
        """What the plan asks to be tested at a stage, of the whole vehicle or of one circuit. It needs a point."""
        key, coldest_c = (stage, circuit_id), self.rules.coldest_morning_c
        return self._checks.get_or(key, lambda: tuple(list_checks(self.at(stage), *key, coldest_c)))

    def tracer(self, stage: Stage) -> Tracer:
        """What traces faults at a stage. Raises TraceError where nothing feeds the vehicle."""
        return self._tracers.get_or(stage, lambda: self._tracer(stage))

    def _tracer(self, stage: Stage) -> Tracer:
        earlier = self._traced_before.get(stage)
        is_same = earlier is not None and earlier.vehicle == vehicle_at(self.vehicle, stage)
        return earlier if earlier and is_same else Tracer(self.vehicle, stage)

    @property
    def tracers(self) -> dict[Stage, Tracer]:
        """What traces faults at each stage that was asked for."""
        return self._traced_before | dict(self._tracers)

    def forget_tracers(self) -> None:
        """Let go of what traces faults: once a vehicle was traced, that is most of what is known of it."""
        self._tracers.clear()
        self._traced_before = {}

    def budget(self, stage: Stage, drive: Drive | None) -> Budget:
        """The load budget of a stage, with a drive or without."""
        key = stage, drive.id if drive else None
        if key not in self._budgets:
            self._budgets[key] = draw_up(self.vehicle, stage, self.rules, drive)
        return self._budgets[key]
