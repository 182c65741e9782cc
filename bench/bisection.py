"""Half-splitting by the book: the voltage in the middle of what is left of a device's way, again and again."""

from collections import deque
from collections.abc import Callable

from percorso.network.branches import reference_point
from percorso.network.operating_point import Network
from percorso.vehicle.devices import Battery, RelayCoil
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.segments import RelayContact
from percorso.verification.checks.minutes import minutes
from percorso.verification.judging.expected import expect
from percorso.verification.measured.measurements import Measurement, Situation

Read = Callable[[Measurement], Measurement]
LOST_V = 0.5  # more than on sound metal, from which a voltage counts as lost on the way


class Bisection:
    """One who looks for what is wrong with a device along its way, from the battery to it and back."""

    def __init__(self, vehicle: Vehicle, situation: Situation, read: Read) -> None:
        self._vehicle, self._situation, self._read = vehicle, situation, read
        self._reference = reference_point(vehicle)
        self._battery = next(each for each in vehicle.devices.values() if isinstance(each.spec, Battery))
        self.minutes = 0.0
        self._lower_v = self._off(self._battery.terminals["+"])

    def ends_at(self, device: str) -> str:
        """The part where it ends; a relay contact that is not fed through leads on to its coil."""
        part = self._along(device)
        segment = self._vehicle.segments.get(part)
        coil = segment.spec.coil if segment is not None and isinstance(segment.spec, RelayContact) else None
        return part if coil is None or coil == device else self._along(coil)

    def _along(self, device: str) -> str:
        """The part on the way of one device at which the voltage is lost."""
        spec, terminals = self._vehicle.devices[device].spec, self._vehicle.devices[device].terminals
        plus, minus = ("86", "85") if isinstance(spec, RelayCoil) else spec.TERMINALS
        out = _way(self._vehicle, self._battery.terminals["+"], terminals[plus])
        back = _way(self._vehicle, terminals[minus], self._battery.terminals["-"])
        way = [*out, (device, terminals[minus]), *back]  # each part with the point behind it
        low, high = 0, len(way)
        while high - low > 1:
            middle = (low + high) // 2
            lower_v = self._lower_v if middle <= len(out) else 0.0
            right = abs(self._off(way[middle - 1][1]) - lower_v) < LOST_V
            low, high = (middle, high) if right else (low, middle)
        return way[low][0]

    def _off(self, point: str) -> float:
        """How far a point is from what it has on sound metal, V."""
        if point == self._reference:
            return 0.0
        pair = {"red_point": point, "black_point": self._reference}
        asked = Measurement(quantity="voltage", **pair, situation=self._situation)
        self.minutes += minutes(self._vehicle, asked, self._situation if self.minutes else None)
        [sound] = expect(Network(self._vehicle), self._situation, [asked])
        came = self._read(asked).value
        return 0.0 if sound.value is None or came is None else came - sound.value


def _way(vehicle: Vehicle, start: str, end: str) -> list[tuple[str, str]]:
    """The parts from one point to another by the fewest, each with the point behind it."""
    reached: dict[str, tuple[Segment, str] | None] = {start: None}
    waiting = deque([start])
    while waiting and end not in reached:
        here = waiting.popleft()
        for each in vehicle.meeting.get(here, ()):
            there = each.to_point if each.from_point == here else each.from_point
            if there not in reached:
                reached[there] = (each, here)
                waiting.append(there)
    way: list[tuple[str, str]] = []
    at = end
    while at != start and (step := reached.get(at)) is not None:
        segment, before = step
        way.append((segment.id, at))
        at = before
    return way[::-1]
