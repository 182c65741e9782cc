"""When one part is known well enough: how to prove it before anything is replaced, and what cures it."""

from collections.abc import Sequence
from dataclasses import dataclass

from percorso.faults.at_segments import OPENS, RESISTS
from percorso.vehicle.model import Vehicle
from percorso.verification.measurements import Measurement
from percorso.verification.preparations import Bridge

CURES = {
    "thin place": "cut the thin place out and splice it, or renew the run",
    "open": "find the break and mend it, or renew the run",
    "chafed to ground": "sleeve it where it rubs, renew what is rubbed through, and lead it clear of the edge",
    "touching its neighbour": "part the two wires, renew what melted, and sleeve them",
    "resistance": "clean it to bright metal, renew its terminal and seal it",
    "terminal pushed out": "push the terminal home until it locks, and lock the plug",
    "blown": "find what blew it first, then a fuse of the same rating",
    "no contact": "renew the holder's terminals; the fuse itself is whole",
    "too large": "the rating that the wire asks for",
    "does not close": "renew the contact",
    "burnt": "renew the contact; one that carries more than it should needs a relay",
    "welded": "renew it, and look for what welded it",
    "shorted": "renew it",
    "wrong way round": "turn it round",
    "of the wrong kind": "a filament lamp of the right rating",
    "needs too much to pull in": "swap it with a relay that is known to be good",
    "low": "charge it, then measure it again after a night",
    "weak": "load-test it, and renew it if it fails",
    "dead cell": "renew it",
    "does not wake up": "look at brushes and rotor before it is renewed",
    "regulates wrongly": "measure at its sense terminal first; then its regulator",
    "gives too little": "look at belt and pulley first; then its rectifier",
    "drags": "turn the engine by hand first; then bushes and brushes",
    "solenoid contacts burnt": "renew the contacts of the solenoid",
    "dead": "look at its brushes before it is renewed",
    "draws too much": "turn it by hand; renew it if it is stiff without reason",
    "two leads swapped": "put the two leads on their own terminals",
}
BRIDGED = {*OPENS, *RESISTS} - {"blown"}  # never a jumper in place of a fuse that blew


@dataclass(frozen=True)
class Stop:
    """The part that is known well enough, a measurement that would read otherwise if it were not it, and its cures."""

    part: str
    prove: Measurement | None
    cures: tuple[str, ...]


def stop_at(vehicle: Vehicle, part: str, fault: str, readings: Sequence[Measurement]) -> Stop:
    """What to do once a part is known."""
    return Stop(part, _proof(vehicle, part, fault, readings), (CURES[fault],))


def _proof(vehicle: Vehicle, part: str, fault: str, readings: Sequence[Measurement]) -> Measurement | None:
    """What was read last, with the part bridged: it must come right, and does not where something else is bad."""
    segment = vehicle.segments.get(part)
    if segment is None or fault not in BRIDGED or not readings:
        return None
    last = next((each for each in readings if each.quantity == "seen" and each.device), readings[-1])
    if last.situation.is_dead or segment.from_point == segment.to_point:
        return None
    bridge = Bridge(from_point=segment.from_point, to_point=segment.to_point)
    preparations = (*last.situation.preparations, bridge)
    situation = last.situation.model_copy(update={"preparations": preparations})
    return last.model_copy(update={"situation": situation, "value": None, "outcome": None})
