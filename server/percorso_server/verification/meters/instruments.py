"""Reads instruments on the shop's network that the operator named, over SCPI; whatever they do, it ends in time.

Only what stands in the environment can be read: nobody makes the server connect elsewhere.
"""

import math
from collections.abc import Callable, Mapping
from concurrent.futures import Future
from concurrent.futures import TimeoutError as NotInTimeError
from dataclasses import dataclass
from functools import cache
from threading import Lock, Thread
from time import monotonic
from typing import Any

import pyvisa
from django.conf import settings
from pyvisa.errors import VisaIOError

from percorso.errors import PercorsoError
from percorso.verification.bench.scpi_meter import IDENTITY, NO_NUMBER, OVERLOAD
from percorso.verification.measured.instruments import Quantity
from percorso.verification.measured.measurements import DEAD, READ, Measurement

LONGEST_S = 2.5  # from the first step to the last
STEP_MS = 1000  # that one answer may take
CONFIGURE: Mapping[Quantity, str] = {
    "voltage": "CONF:VOLT:DC",
    "current": "CONF:CURR:DC",
    "resistance": "CONF:RES",
    "continuity": "CONF:RES",
}


class InstrumentError(PercorsoError):
    """An instrument gives no reading, and why."""

    code = "instrument"


@dataclass(frozen=True)
class Read:
    """What an instrument showed: a value in V, A or Ω, or ``open`` beyond its range; and what it says it is."""

    value: float | None
    outcome: str | None
    identity: str


@dataclass(frozen=True)
class LaidOut:
    """What a simulated meter must be told: a job file's text, what tells it apart, and where its probes are."""

    job: Callable[[], str]
    sha256: str
    measurement: Measurement


def instruments() -> Mapping[str, tuple[str, int]]:
    """Host and port of each instrument by the name the operator gave it: ``Bench meter 2=10.0.0.7:5025, …``."""
    return _named(settings.INSTRUMENTS)


@cache
def _named(text: str) -> Mapping[str, tuple[str, int]]:
    found = {}
    for each in filter(None, (piece.strip() for piece in text.split(","))):
        name, _, address = each.partition("=")
        host, _, port = address.rpartition(":")
        if not (name.strip() and host and port.isdigit() and 0 < int(port) < 65536):
            raise ValueError(f'PERCORSO_INSTRUMENTS: write "{each}" as name=host:port')
        found[name.strip()] = (host.strip("[] "), int(port))
    return found


def read(name: str, laid_out: LaidOut) -> Read:
    """Read an instrument. Raises InstrumentError within three seconds, whatever it does."""
    if name not in instruments():
        raise InstrumentError(f'there is no instrument "{name}"; the operator names them', field=("name",))
    if laid_out.measurement.quantity not in CONFIGURE:
        raise InstrumentError(f"no instrument reads {laid_out.measurement.quantity}: say what you see", field=("name",))
    lock = _busy(*instruments()[name])
    started = monotonic()
    if not lock.acquire(timeout=LONGEST_S / 2):
        raise InstrumentError(f"{name} is still busy with the reading before; try again", field=("name",))
    done: Future[Read] = Future()
    opened: list[Any] = []
    Thread(target=_carry_out, args=(done, opened, lock, name, laid_out), daemon=True).start()
    try:
        return done.result(LONGEST_S - (monotonic() - started))
    except NotInTimeError as error:
        for meter in opened:
            meter.close()  # so that its thread ends as well
        raise InstrumentError(
            f"{name} does not answer in time; look at its cable and its screen", field=("name",)
        ) from error


@cache
def _busy(host: str, port: int) -> Lock:
    """One reading at a time of each instrument: a second would take the first one's answer."""
    return Lock()


def _carry_out(done: "Future[Read]", opened: list[Any], lock: Any, name: str, laid_out: LaidOut) -> None:
    """Read in a thread of its own, so that nobody waits for what never comes."""
    try:
        done.set_result(_read(name, laid_out, opened))
    except InstrumentError as error:
        done.set_exception(error)
    except (VisaIOError, OSError) as error:
        done.set_exception(InstrumentError(f"{name} cannot be reached: {_why(error)}", field=("name",)))
    except Exception as error:  # whatever an instrument made of it, somebody waits for an answer
        done.set_exception(InstrumentError(f"{name} says what cannot be read: {error}", field=("name",)))
    finally:
        lock.release()


def _why(error: Exception) -> str:
    text = getattr(error, "description", "") or getattr(error, "strerror", "") or str(error)
    return str(text).split(". ")[0][:120].lower()


def _read(name: str, laid_out: LaidOut, opened: list[Any]) -> Read:
    host, port = instruments()[name]
    manager = pyvisa.ResourceManager("@py")
    address = f"TCPIP::{host}::{port}::SOCKET"
    ends: dict[str, Any] = {"read_termination": "\n", "write_termination": "\n"}
    with manager.open_resource(address, open_timeout=STEP_MS, timeout=STEP_MS, **ends) as meter:
        opened.append(meter)
        return _asked(meter, name, laid_out)


def _asked(meter: Any, name: str, laid_out: LaidOut) -> Read:
    """Ask a connected instrument; a simulated one is first told where its probes are."""
    identity = str(meter.query("*IDN?")).strip()
    if identity == IDENTITY:
        _lay_out(meter, laid_out)
    quantity = laid_out.measurement.quantity
    meter.write(CONFIGURE[quantity])
    said = str(meter.query("READ?")).strip()
    return _believed(name, said, quantity, identity)


def _lay_out(meter: Any, laid_out: LaidOut) -> None:
    if str(meter.query("SIM:JOB?")).strip() != laid_out.sha256:
        meter.write(f"SIM:JOB {laid_out.job()}")
    meter.write(f"SIM:MEAS {laid_out.measurement.model_dump_json(by_alias=True)}")


def _believed(name: str, said: str, quantity: Quantity, identity: str) -> Read:
    """A reading that can be one. Raises InstrumentError for an answer that is none, or that no vehicle has."""
    try:
        value = float(said)
    except ValueError:
        value = math.nan
    if math.isnan(value) or value == float(NO_NUMBER):
        raise InstrumentError(f'{name} shows no reading ("{said[:40]}")', field=("name",))
    if abs(value) >= float(OVERLOAD):
        if quantity in DEAD:
            return Read(None, "open", identity[:80])
        raise InstrumentError(f"{name} shows that it is beyond its range", field=("name",))
    kind = READ[quantity]
    if not kind.lowest <= value <= kind.highest:
        raise InstrumentError(f"{name} shows {value:g} {kind.unit}, which no vehicle has", field=("name",))
    return Read(value, None, identity[:80])
