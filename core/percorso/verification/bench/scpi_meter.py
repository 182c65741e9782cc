"""A simulated bench meter: SCPI in, SCPI out, and what it shows is what the network of a job says at its probes.

IEEE 488.2 and SCPI-1999 (from memory): short and long forms, several commands to a line, an error queue, 9.9E37 for
what is beyond its range and 9.91E37 for what is no number. Its own commands stand under SIMulated: which job's metal
lies on the bench, and where probes and clamp are.
"""

import hashlib
import re
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from pydantic import ValidationError

from percorso.errors import PercorsoError
from percorso.faults.model import Fault
from percorso.json_text import read_json
from percorso.plain import plain_messages
from percorso.vehicle.model import Vehicle
from percorso.verification.bench.virtual_bench import Bench
from percorso.verification.measured.instruments import Quantity, range_for
from percorso.verification.measured.measurements import Measurement

IDENTITY = "Percorso,Simulated meter,0,1"
OVERLOAD, NO_NUMBER = "9.9E37", "9.91E37"
MOST_ERRORS = 20
NO_ERROR = '0,"No error"'
_QUANTITIES: dict[str, Quantity] = {"VOLT": "voltage", "CURR": "current", "RES": "resistance"}
_SHORT = {"CONFIGURE": "CONF", "MEASURE": "MEAS", "VOLTAGE": "VOLT", "CURRENT": "CURR", "RESISTANCE": "RES"}
_SHORT |= {"SYSTEM": "SYST", "ERROR": "ERR", "SIMULATED": "SIM", "FUNCTION": "FUNC", "FRESISTANCE": "FRES"}


class ScpiError(Exception):
    """A command that cannot be carried out, by its number in SCPI-1999."""

    def __init__(self, number: int, text: str) -> None:
        super().__init__(f'{number},"{text}"')


@dataclass
class BenchMeter:
    """One meter and what lies on its bench; ``seed`` is of its noise, None for another one at every start."""

    vehicle: Vehicle | None = None
    measurement: Measurement | None = None
    faults: Sequence[Fault] = ()
    seed: int | None = None
    quantity: Quantity = "voltage"
    _job: str = ""
    _errors: deque[str] = field(default_factory=lambda: deque(maxlen=MOST_ERRORS))
    _benches: dict[tuple[object, ...], Bench] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.seed)

    def lay_out(self, vehicle: Vehicle, job: str) -> None:
        """Put another job's metal on the bench; ``job`` is what it was made from."""
        self.vehicle, self._job = vehicle, hashlib.sha256(job.encode()).hexdigest()
        self._benches.clear()

    def refuse(self, why: str) -> None:
        """Queue an error of what was laid out."""
        self._errors.append(str(ScpiError(-224, f"Illegal parameter value; {why}".replace('"', "'"))))

    def answer(self, line: str) -> str | None:
        """What is said to a line of commands; None where nothing was asked. What goes wrong is queued."""
        answers = []
        for command in [line] if _header(line).startswith("SIM:") else line.split(";"):
            try:
                said = self._carry_out(command.strip())
            except ScpiError as error:
                self._errors.append(str(error))
                said = None
            if said is not None:
                answers.append(said)
        return ";".join(answers) or None

    def _carry_out(self, command: str) -> str | None:
        header, _, argument = command.partition(" ")
        short = _header(header)
        if short.endswith("?"):
            return self._asked(short)
        self._set(short, argument)
        return None

    def _set(self, header: str, argument: str) -> None:
        match header.split(":"):
            case [""]:
                pass
            case ["*RST"]:
                self.quantity = "voltage"
            case ["*CLS"]:
                self._errors.clear()
            case ["CONF", "RES"] | ["CONF", "VOLT" | "CURR", "DC"] as parts:
                self.quantity = _QUANTITIES[parts[1]]
            case ["SIM", "MEAS"]:
                self.measurement = _measurement(argument)
            case _:
                raise ScpiError(-113, "Undefined header")

    def _asked(self, header: str) -> str:
        match header.removesuffix("?").split(":"):
            case ["*IDN"]:
                said = IDENTITY
            case ["*OPC"]:
                said = "1"
            case ["SYST", "ERR"] | ["SYST", "ERR", "NEXT"]:
                said = self._errors.popleft() if self._errors else NO_ERROR
            case ["CONF"]:
                said = f'"{next(short for short, each in _QUANTITIES.items() if each == self.quantity)}"'
            case ["READ"] | ["FETC"]:
                said = self._read()
            case ["MEAS", "RES"] | ["MEAS", "VOLT" | "CURR", "DC"] as parts:
                self.quantity = _QUANTITIES[parts[1]]
                said = self._read()
            case ["SIM", "JOB"]:
                said = self._job or "none"
            case _:
                raise ScpiError(-113, "Undefined header")
        return said

    def _read(self) -> str:
        """A reading of what the probes or the clamp are at."""
        if self.vehicle is None or self.measurement is None:
            raise ScpiError(-221, "Settings conflict; no metal on the bench or no probes on it")
        asked = self.measurement
        if self.quantity != ("resistance" if asked.quantity == "continuity" else asked.quantity):
            raise ScpiError(-221, f"Settings conflict; the probes are set for {asked.quantity}")
        key = asked.situation.key
        try:
            if key not in self._benches:
                self._benches[key] = Bench(self.vehicle, asked.situation, self.faults)
            shown, _ = self._benches[key].show(asked)
        except PercorsoError as error:
            raise ScpiError(-221, f"Settings conflict; {error}".replace('"', "'")) from error
        if shown.value is None:
            return OVERLOAD if shown.outcome == "open" else NO_NUMBER
        reading = range_for(asked.with_what, asked.quantity, shown.value)
        if reading is None:
            return OVERLOAD
        noisy = shown.value + self._random.normal(0, reading.error(shown.value) / 1.96)
        return f"{round(noisy / reading.digit) * reading.digit:+.8E}"


def _header(command: str) -> str:
    """A header in short forms and capitals."""
    words = re.split(r"([:?])", command.split(" ", 1)[0].strip().lstrip(":").upper())
    return "".join(_SHORT.get(word, word) for word in words)


def _measurement(text: str) -> Measurement:
    try:
        return Measurement.model_validate(read_json(text))
    except ValidationError as error:
        told = plain_messages(error.errors())
        raise ScpiError(-224, f"Illegal parameter value; {told}".replace('"', "'")) from error
    except ValueError as error:
        raise ScpiError(-104, "Data type error; no JSON") from error
