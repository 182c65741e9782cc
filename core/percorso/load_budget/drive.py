"""Runs a drive: the battery's charge and the system's voltage over time, starts included, and what comes home."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from percorso.arrays import Array
from percorso.circuits.verdict import VerdictWord
from percorso.errors import PercorsoError
from percorso.load_budget.system import ChargingSystem
from percorso.load_budget.table import Table, tables
from percorso.network.modes import TURNING
from percorso.network.mornings import LEAST_POSTS_V
from percorso.vehicle.scenarios import Drive, Scenario, find_scenario
from percorso.vehicle.states import ENGINE

STEP_MIN = 1.0
REPEATED_STEP_MIN = 5.0
START_S = 3.0  # of cranking, common practice
MOST_DRIVES = 60  # that are run one after the other to see where it ends
SAME_PERCENT = 0.5  # of charge, less is not worth a word
STEADY_PERCENT = 0.05  # a drive that changes the charge by less goes on for ever
MOST_STARTS = 200
COLUMNS = ("battery_v", "alternator_a", "taken_a", "battery_a")  # of a table, followed over a drive


@dataclass(frozen=True)
class Passed:
    """One spell of a drive as it went: from and to which minute, and the charge at its end, %."""

    name: str
    scenario: Scenario
    from_min: float
    to_min: float
    to_percent: float


@dataclass(frozen=True)
class Driven:
    """A drive as it went: a sample per minute (charge in %, V, A into the battery), Ah, and what is left.

    ``given_ah`` by the alternator, ``taken_ah`` by consumers and starts, ``charged_ah`` into and ``discharged_ah`` out
    of the battery. ``stranded_min``: the engine would not start then and the drive ended. ``empty_min``: the battery
    was empty. ``starts_left`` at its end on a morning of ``morning_c``, None without a starter; ``or_more``: more were
    not counted. ``lasts``: how many such drives one after the other until it strands, None where it goes on for ever,
    and then at ``settles_percent``. ``gained_percent`` is what it comes home with beyond what it left with; ``says`` is
    all that in a sentence.
    """

    drive: Drive
    minute: tuple[float, ...]
    charge_percent: tuple[float, ...]
    battery_v: tuple[float, ...]
    alternator_a: tuple[float, ...]
    taken_a: tuple[float, ...]
    battery_a: tuple[float, ...]
    spells: tuple[Passed, ...]
    given_ah: float
    taken_ah: float
    charged_ah: float
    discharged_ah: float
    stranded_min: float | None
    empty_min: float | None
    starts_left: int | None
    morning_c: float
    or_more: bool
    lasts: int | None
    settles_percent: float | None
    from_percent: float
    to_percent: float
    gained_percent: float
    lowest_percent: float
    lowest_v: float
    verdict: VerdictWord
    says: str


def run_drive(system: ChargingSystem, drive: Drive, coldest_morning_c: float) -> Driven:
    """A drive from its beginning to its end, and the starts that it leaves for the next morning, °C at the coldest.

    Raises PercorsoError without a battery, or for an unknown scenario.
    """
    if system.battery is None:
        raise PercorsoError("a drive needs a battery to end with; add one", field=("battery",))
    stretches = _stretches(system, drive)
    begun = system.battery.state_of_charge_percent if drive.from_percent is None else drive.from_percent
    run = _Run(system, begun, STEP_MIN)
    for stretch in stretches:
        run.go(stretch)
    lasts, settles = _repeated(system, stretches, begun)
    return run.driven(drive, stretches[-1], _next_morning(system, stretches[-1], coldest_morning_c), lasts, settles)


@dataclass(frozen=True)
class _Stretch:
    """A spell with what flows in it, and while the engine is started in it."""

    name: str
    minutes: float
    table: Table
    cranking: Table

    @property
    def turns(self) -> bool:
        return ENGINE[self.table.scenario.state] in TURNING


def _stretches(system: ChargingSystem, drive: Drive) -> list[_Stretch]:
    own = system.budget.vehicle.scenarios
    scenarios = [
        find_scenario(each.scenario, own, ("spells", place, "scenario")) for place, each in enumerate(drive.spells)
    ]
    cranking = [starting(each) for each in scenarios]
    known = tables(system, [*scenarios, *cranking])
    passed = zip(drive.spells, scenarios, cranking, strict=True)
    return [_Stretch(spell.name, spell.minutes, known[runs.id], known[crank.id]) for spell, runs, crank in passed]


def _next_morning(system: ChargingSystem, last: _Stretch, coldest_c: float) -> Table:
    """Starting the engine after a drive on the coldest morning, or as cold as the drive ends if that is colder."""
    ends = last.table.scenario
    [morning] = tables(system, [starting(replace(ends, outside_c=min(ends.outside_c, coldest_c)))]).values()
    return morning


def starting(scenario: Scenario) -> Scenario:
    """Starting the engine under the conditions of a scenario."""
    return Scenario(
        f"cranking-{scenario.time}-{scenario.season}-{scenario.outside_c:g}",
        "starting",
        "cranking",
        scenario.time,
        scenario.season,
        scenario.outside_c,
    )


class _Run:
    """A drive under way: where it is, and what it has passed."""

    def __init__(self, system: ChargingSystem, begun_percent: float, step_min: float) -> None:
        self.begun, self.charge, self.minute = begun_percent, begun_percent, 0.0
        self._step_min, self._least_v = step_min, least_cranking_v(system)
        self._has_starter = system.budget.starter is not None
        self._turning = False
        self.passed: list[tuple[_Stretch, list[float], list[float]]] = []  # with its minutes and charges
        self.starts: list[tuple[Table, float]] = []  # with the charge at which the engine was started
        self.stranded_min: float | None = None
        self.empty_min: float | None = None

    def go(self, stretch: _Stretch) -> None:
        """Pass one spell, starting the engine where it stood before; a stranded vehicle goes nowhere."""
        if self.stranded_min is not None:
            return
        if stretch.turns and not self._turning:
            if not can_start(stretch.cranking, self.charge, self._least_v):
                self.stranded_min = self.minute
                return
            self.starts.append((stretch.cranking, self.charge))
            self.charge = after_start(stretch.cranking, self.charge)
        self._turning = stretch.turns
        minutes, charges = [self.minute], [self.charge]
        left = stretch.minutes
        while left > 1e-9:
            passing = min(self._step_min, left)
            self.charge = stretch.table.after(self.charge, passing / 60)
            self.minute += passing
            left -= passing
            minutes.append(self.minute)
            charges.append(self.charge)
            if self.empty_min is None and self.charge <= stretch.table.floor_percent:
                self.empty_min = self.minute
        self.passed.append((stretch, minutes, charges))

    def driven(self, drive: Drive, last: _Stretch, morning: Table, lasts: int | None, settles: float | None) -> Driven:
        """The drive as it went."""
        along = {each: self._along(each) for each in COLUMNS}
        given, taken, charged, discharged = self._summed_ah().tolist()
        samples = [(minute, charge) for _, *both in self.passed for minute, charge in zip(*both, strict=True)]
        minute, charge = zip(*(samples or [(0.0, self.charge)]), strict=True)
        gained = self.charge - self.begun
        verdict, says = self._judged(gained, last, lasts)
        starts = starts_left(morning, self.charge, self._least_v) if self._has_starter else None
        return Driven(
            drive=drive,
            minute=minute,
            charge_percent=charge,
            **along,
            spells=tuple(
                Passed(stretch.name, stretch.table.scenario, minutes[0], minutes[-1], charges[-1])
                for stretch, minutes, charges in self.passed
            ),
            given_ah=given,
            taken_ah=taken,
            charged_ah=charged,
            discharged_ah=discharged,
            stranded_min=self.stranded_min,
            empty_min=self.empty_min,
            starts_left=starts,
            morning_c=morning.scenario.outside_c,
            or_more=starts == MOST_STARTS,
            lasts=lasts,
            settles_percent=settles,
            from_percent=self.begun,
            to_percent=self.charge,
            gained_percent=gained,
            lowest_percent=min(charge),
            lowest_v=min(along["battery_v"]),
            verdict=verdict,
            says=says,
        )

    def _along(self, column: str) -> tuple[float, ...]:
        """A column's values at every minute; one 0 where nothing was passed."""
        values = [stretch.table.at(charges, getattr(stretch.table, column)) for stretch, _, charges in self.passed]
        return tuple(np.concatenate(values).tolist()) if values else (0.0,)

    def _summed_ah(self) -> Array:
        """Ah the alternator gave, consumers and starts took, and the battery took and gave."""
        to_start = sum(float(crank.at(charge, crank.taken_a)) for crank, charge in self.starts) * START_S / 3600
        total = np.array([0.0, to_start, 0.0, to_start])
        for stretch, minutes, charges in self.passed:
            table, hours = stretch.table, np.array(minutes) / 60
            given, taken, into = (table.at(charges, of) for of in (table.alternator_a, table.taken_a, table.battery_a))
            flows = np.array([given, taken, np.maximum(into, 0.0), np.maximum(-into, 0.0)])
            total = total + np.trapezoid(flows, hours, axis=1)
        return total

    def _judged(self, gained: float, last: _Stretch, lasts: int | None) -> tuple[VerdictWord, str]:
        """The word and the sentence for what came of it."""
        cold = f"at {last.table.scenario.outside_c:.0f} °C".replace("-", "−")
        if self.stranded_min is not None:
            return "fail", f"After {self.stranded_min:.0f} minutes the battery no longer starts the engine {cold}."
        if self.empty_min is not None:
            return "fail", f"After {self.empty_min:.0f} minutes the battery is empty."
        home = f"Comes home {abs(gained):.0f} % {'higher' if gained > 0 else 'lower'} than it left"
        if abs(gained) < SAME_PERCENT:
            home = "Comes home as it left"
        if lasts is not None:
            drives = "one such drive" if lasts == 1 else f"{lasts} such drives"
            return "fail", f"{home}; after {drives} the battery is spent {cold}."
        if gained < -SAME_PERCENT:
            return "marginal", f"{home}, and settles there after some such drives."
        return "pass", f"{home}, and so for ever."


def least_cranking_v(system: ChargingSystem) -> float:
    """The voltage at the battery's posts below which the engine is not sure to start, V."""
    return LEAST_POSTS_V * system.nominal_v / 12


def can_start(cranking: Table, charge_percent: float, least_v: float) -> bool:
    """Whether the battery starts the engine: charged enough for how cold it is, and with voltage enough."""
    cranks_at = float(cranking.at(charge_percent, cranking.battery_v))
    return charge_percent >= cranking.starts_from_percent and cranks_at >= least_v


def after_start(cranking: Table, charge_percent: float) -> float:
    """The charge that one start leaves, %."""
    return charge_percent + cranking.change_at(charge_percent) * START_S / 3600


def starts_left(cranking: Table, charge_percent: float, least_v: float) -> int:
    """How often the engine can be started, one start after the other, before the battery is too low; 200 at most."""
    for turn in range(MOST_STARTS):
        if not can_start(cranking, charge_percent, least_v):
            return turn
        charge_percent = after_start(cranking, charge_percent)
    return MOST_STARTS


def _repeated(
    system: ChargingSystem, stretches: Sequence[_Stretch], begun_percent: float
) -> tuple[int | None, float | None]:
    """How many such drives there are until one strands; or None, and the charge at which it settles."""
    charge = begun_percent
    for turn in range(MOST_DRIVES):
        run = _Run(system, charge, REPEATED_STEP_MIN)
        for stretch in stretches:
            run.go(stretch)
        if run.stranded_min is not None or run.empty_min is not None:
            return turn, None
        if abs(run.charge - charge) < STEADY_PERCENT:
            return None, run.charge
        charge = run.charge
    return None, charge
