"""What faults are called on screens and papers, where job files and commands have an older word for them."""

from collections.abc import Mapping

FAULT_NAMES: Mapping[str, str] = {
    "thin place": "broken strands",
    "chafed to ground": "chafed through to ground",
    "touching its neighbour": "shorted to the next wire",
    "ways swapped": "pins swapped",
    "no contact": "poor contact in its holder",
    "needs too much to pull in": "weak relay coil",
    "does not wake up": "does not excite",
    "regulates wrongly": "wrong charging voltage",
    "gives too little": "low output",
}
_STORED = {name: stored for stored, name in FAULT_NAMES.items()}


def fault_name(fault: str) -> str:
    """What a fault is called where people read it."""
    return FAULT_NAMES.get(fault, fault)


def stored_fault(called: str) -> str:
    """The word of job files and commands for a fault, by either."""
    return _STORED.get(called, called)
