"""Whether a drop is within what is allowed, close to it, or over."""

from dataclasses import dataclass
from typing import Literal

from percorso.house_rules import HouseRules

VerdictWord = Literal["pass", "marginal", "fail", "unknown"]


@dataclass(frozen=True)
class Verdict:
    """pass · marginal · fail · unknown, with its reason; ``margin_v`` is what is left of the allowance, V."""

    word: VerdictWord
    margin_v: float
    reason: str


def judge_drop(drop_v: float, allowed_v: float, rules: HouseRules) -> Verdict:
    """Verdict of a drop against an allowance, V: close from the house's ``close_fraction`` of it on."""
    margin = allowed_v - drop_v
    if allowed_v <= 0:
        return Verdict("fail", margin, "the source is already below what the device needs")
    if margin < 0:
        return Verdict("fail", margin, f"drops {drop_v:.2f} V; {allowed_v:.2f} V allowed")
    if drop_v > rules.close_fraction * allowed_v:
        return Verdict("marginal", margin, f"only {margin * 1000:.0f} mV left of {allowed_v:.2f} V allowed")
    return Verdict("pass", margin, f"drops {drop_v:.2f} V; {allowed_v:.2f} V allowed")
