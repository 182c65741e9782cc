"""A circuit at a glance: what it loses up to each of its stations, or why there is no loss to show."""

from dataclasses import dataclass

from percorso.circuits.verdict import Verdict
from percorso.circuits.voltage_profile import NOTHING_A, NotLive, Profile
from percorso.vehicle.model import Side

LIFTED_V = 0.005  # no loss, but a gain: what others carry on a way they share lifts the device


@dataclass(frozen=True)
class Glance:
    """What was lost up to each station of both sides, V from the source on; a side without a segment has none."""

    supply_lost_v: tuple[float, ...]
    return_lost_v: tuple[float, ...]
    total_drop_v: float
    allowed_drop_v: float
    verdict: Verdict


def glance(profile: Profile) -> Glance:
    """A profile in short."""
    return Glance(
        supply_lost_v=_lost_v(profile, "supply"),
        return_lost_v=_lost_v(profile, "return"),
        total_drop_v=profile.total_drop_v,
        allowed_drop_v=profile.allowed_drop_v,
        verdict=profile.verdict,
    )


def _lost_v(profile: Profile, side: Side) -> tuple[float, ...]:
    legs = [leg for leg in profile.legs if leg.side == side]
    return (*(leg.lost_before_v for leg in legs[:1]), *(leg.lost_after_v for leg in legs))


def running(live: Profile | NotLive) -> Glance | NotLive:
    """A circuit as it runs in a state, in short, or why it loses nothing worth a figure there."""
    if isinstance(live, NotLive):
        return live
    if abs(live.device_a) < NOTHING_A:
        return NotLive("no current here")
    if live.at_device.current_a < -NOTHING_A:
        return NotLive("current flows in reverse")
    return NotLive("raised by other circuits’ current") if live.total_drop_v < -LIFTED_V else glance(live)
