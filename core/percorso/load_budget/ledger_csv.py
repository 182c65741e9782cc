"""The load ledger as a CSV file, out and in: read line by line, every wrong one named, before anything is changed."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

from pydantic import TypeAdapter, ValidationError

from percorso.changes.edits import AddDevice, ChangeDevice
from percorso.changes.parts import with_device
from percorso.csv_lines import Format, line_place, of_pydantic, read_lines
from percorso.errors import FileProblem, JobFileError, PercorsoError
from percorso.load_budget.ledger import Entry
from percorso.names import Name
from percorso.spreadsheet import csv_text
from percorso.vehicle.devices import DEVICE_KINDS, DEVICE_SPEC, new_device
from percorso.vehicle.loads import IndicatorLamp, Load
from percorso.vehicle.model import Device, Vehicle, next_designation

LOAD_KINDS = tuple(
    each.model_fields["kind"].default
    for each in DEVICE_KINDS
    if issubclass(each, Load) and not issubclass(each, IndicatorLamp)
)
MAX_LINES = 500
MAX_BYTES = 1_000_000
_LISTS = ("used_in", "times", "seasons")
_QUANTITIES = ("rated_v", "rated_a", "rated_w", "measured_a", "measured_v", "inrush_a")
_NUMBERS = ("efficiency", "duty_percent")
_NEEDED = ("name", "kind", "rated_v")
_NAME: TypeAdapter[str] = TypeAdapter(Name)


@dataclass(frozen=True)
class LedgerRow:
    """One consumer as a line of the file; an empty cell says nothing. Lists are words apart by spaces."""

    name: str
    group: str
    priority: str
    kind: str
    rated_v: str
    rated_a: str
    rated_w: str
    efficiency: str
    measured_a: str
    measured_v: str
    measured_how: str
    inrush_a: str
    duty_percent: str
    used_in: str
    times: str
    seasons: str


COLUMNS = tuple(LedgerRow.__annotations__)
FORM = Format("ledger", "consumers", COLUMNS, _NEEDED, MAX_LINES, MAX_BYTES)


def ledger_csv(entries: Iterable[Entry]) -> str:
    """The ledger as CSV; reading it again changes nothing."""
    return csv_text([_row(each) for each in entries], LedgerRow)


def _row(entry: Entry) -> LedgerRow:
    values = entry.load.model_dump()
    if entry.load.rated_w is not None:
        values["rated_a"] = None
    texts = {each: _text(values[each]) for each in COLUMNS if each != "name"}
    return LedgerRow(name=entry.device.name, **texts)


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, tuple):
        return " ".join(value)
    return repr(value).removesuffix(".0") if isinstance(value, float) else str(value)


@dataclass(frozen=True)
class LedgerLine:
    """One line that was read: the device it will be, and whether that is new, changed or the same as before."""

    line: int
    device: Device
    load: Load
    does: Literal["add", "change", "leave"]


def read_ledger_csv(text: str | bytes, vehicle: Vehicle, new_id: Callable[[], str]) -> tuple[LedgerLine, ...]:
    """Read a ledger file against a vehicle whose consumers it names; nothing is written.

    Raises JobFileError, whose problems list every wrong line by its number and column.
    """
    rows = read_lines(text, FORM)
    _check_says_how_much(rows[0][1])
    problems: list[FileProblem] = []
    lines: list[LedgerLine] = []
    seen: dict[str, int] = {}
    grown = vehicle
    for number, cells in rows:
        try:
            read = _line(number, cells, grown, new_id)
        except ValidationError as error:
            problems += [of_pydantic(number, item, FORM) for item in error.errors()]
            continue
        except PercorsoError as error:
            problems.append(FileProblem(line_place(number, error.field), str(error)))
            continue
        name = read.device.name
        if name in seen:
            problems.append(FileProblem(line_place(number, ("name",)), f'"{name}" stands on line {seen[name]} already'))
        seen.setdefault(name, number)
        lines.append(read)
        grown = with_device(grown, read.device)
    if problems:
        raise JobFileError(problems)
    return tuple(lines)


def ledger_edits(lines: Iterable[LedgerLine]) -> list[AddDevice | ChangeDevice]:
    """The edits that carry out a ledger, one for each line that does something."""
    return [_edit(each) for each in lines if each.does != "leave"]


def _edit(line: LedgerLine) -> AddDevice | ChangeDevice:
    spec, device = line.load, line.device
    values = {name: spec.typed.get(name, value) for name, value in spec.model_dump(exclude={"typed"}).items()}
    if spec.rated_w is not None:
        del values["rated_a"]  # follows from the watts
    if line.does == "add":
        return AddDevice(name=device.name, spec=values)
    return ChangeDevice(device_id=device.id, change=values)


def _check_says_how_much(cells: Mapping[str, str]) -> None:
    if not {"rated_a", "rated_w"} & set(cells):
        known = f"columns are {', '.join(COLUMNS)}"
        missing = 'there is neither a column "rated_a" nor "rated_w"'
        raise JobFileError([FileProblem("line 1", each) for each in (missing, known)])


def _line(number: int, cells: Mapping[str, str], vehicle: Vehicle, new_id: Callable[[], str]) -> LedgerLine:
    name = _NAME.validate_python(cells["name"])
    found = next((each for each in vehicle.devices.values() if each.name == name), None)
    if found is not None and not isinstance(found.spec, Load):
        raise PercorsoError(f"{name} is a {found.spec.kind} in this job, not a consumer", field=("name",))
    values = {column: _value(column, cells[column]) for column in COLUMNS if column in cells and column != "name"}
    said = {column: value for column, value in values.items() if value is not None}
    if said.get("kind") not in LOAD_KINDS:
        wrong, known = cells["kind"] or "nothing", ", ".join(LOAD_KINDS)
        raise PercorsoError(f'"{wrong}" is not a kind of consumer; it is one of {known}', field=("kind",))
    if found is None:
        spec = new_device(said, vehicle.nominal_v)
        device = Device(new_id(), next_designation(vehicle, spec.LETTER), name, {}, spec)
        return _read(number, device, "add")
    kept = {each: value for each, value in found.spec.model_dump().items() if each not in (*values, "typed")}
    after = replace(found, spec=DEVICE_SPEC.validate_python(kept | said))
    return _read(number, after, "leave" if _same(after.spec, found.spec) else "change")


def _read(number: int, device: Device, does: Literal["add", "change", "leave"]) -> LedgerLine:
    assert isinstance(device.spec, Load)
    return LedgerLine(number, device, device.spec, does)


def _same(one: Any, other: Any) -> bool:
    return bool(one.model_dump(exclude={"typed"}) == other.model_dump(exclude={"typed"}))


def _value(column: str, cell: str) -> Any:
    """What a cell says; None where it says nothing. A bare number of a quantity is in its SI unit."""
    if not cell:
        return None
    if column in _LISTS:
        return tuple(cell.split())
    if column in _QUANTITIES or column in _NUMBERS:
        try:
            return float(cell)
        except ValueError:
            if column in _QUANTITIES:
                return cell
            raise PercorsoError(f'"{cell}" is not a number; decimals have a point', field=(column,)) from None
    return cell
