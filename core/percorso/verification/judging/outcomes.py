"""Judges an outcome: against what is expected of sound metal, against what it must come to, with margin and doubt."""

from dataclasses import dataclass
from typing import Literal

from percorso.circuits.verdict import Verdict
from percorso.verification.checks.asked import CheckTarget
from percorso.verification.judging.expected import Expected
from percorso.verification.measured.instruments import UNITS, Quantity, error
from percorso.verification.measured.measurements import DEAD, Measurement

Compared = Literal["as expected", "higher", "lower", "otherwise", "not known"]
SAME_WORDS: tuple[frozenset[str], ...] = (frozenset(("works", "stays on")),)  # of one thing seen, meant well or ill


@dataclass(frozen=True)
class Outcome:
    """What an outcome says.

    ``margin`` is how far it lies inside what is expected (negative: outside), ``uncertainty`` how far the instrument
    may be off, both in the quantity's unit. ``verdict`` is of the target, where there is one. ``proves_nothing`` says
    why it does not, where it does not.
    """

    compared: Compared
    margin: float | None = None
    uncertainty: float | None = None
    verdict: Verdict | None = None
    proves_nothing: str = ""


def judge_outcome(measurement: Measurement, expected: Expected, target: CheckTarget | None = None) -> Outcome:
    """Judge what a measurement came to."""
    if measurement.value is None:
        return Outcome(_compare_words(measurement.outcome, expected.outcome))
    uncertainty = error(measurement.with_what, measurement.quantity, measurement.value)
    compared, margin = _compare(measurement.value, expected)
    return Outcome(
        compared,
        margin,
        uncertainty,
        _verdict(measurement.value, target, uncertainty, UNITS[measurement.quantity]) if target else None,
        _blind(measurement.quantity, measurement.value, uncertainty),
    )


def _compare_words(came: str | None, expected: str | None) -> Compared:
    if came is None or expected is None:
        return "not known"
    return "as expected" if are_alike(came, expected) else "otherwise"


def are_alike(word: str | None, other: str | None) -> bool:
    """Whether two words of what is seen say the same."""
    return word == other or any({word, other} <= words for words in SAME_WORDS)


def _compare(value: float, expected: Expected) -> tuple[Compared, float | None]:
    """A number against its interval, in which the instrument's error is counted already."""
    if expected.low is None or expected.high is None:
        return ("lower", None) if expected.outcome == "open" else ("not known", None)
    margin = min(value - expected.low, expected.high - value)
    if margin >= 0:
        return "as expected", margin
    return "higher" if value > expected.high else "lower", margin


def _verdict(value: float, target: CheckTarget, uncertainty: float, unit: str) -> Verdict:
    """Within, or over by less than the instrument can tell, or over."""
    margin = target.margin(value)
    wanted = f"{target.kind} {target.value:g} {unit}"
    if margin >= 0:
        return Verdict("pass", margin, f"{wanted}: {target.source}")
    if margin + uncertainty >= 0:
        return Verdict("marginal", margin, f"off by less than the instrument can tell; {wanted}: {target.source}")
    return Verdict("fail", margin, f"{-margin:.3g} {unit} off; {wanted}: {target.source}")


def _blind(quantity: Quantity, value: float, uncertainty: float) -> str:
    """Why a small resistance says nothing."""
    if quantity not in DEAD or value > uncertainty:
        return ""
    return (
        f"an ohmmeter cannot tell {max(value, 0.0) * 1000:.0f} mΩ from nothing: it proves that the path is there, not "
        "that it carries; measure the drop under load"
    )
