"""Reads a CSV file that comes from outside line by line: every wrong line is named, before anything is made of it."""

import csv
import io
from dataclasses import dataclass
from typing import Any

from percorso.errors import FileProblem, JobFileError, PercorsoError
from percorso.plain import plain_message
from percorso.spreadsheet import as_it_was


@dataclass(frozen=True)
class Format:
    """What a file of some kind may hold; ``kind`` and ``things`` say what it is called and what its lines are of."""

    kind: str
    things: str
    columns: tuple[str, ...]
    needed: tuple[str, ...]
    most_lines: int
    most_bytes: int = 1_000_000


def read_lines(text: str | bytes, form: Format) -> list[tuple[int, dict[str, str]]]:
    """Line number and cells by column of every line that is not empty. Raises JobFileError."""
    reader = csv.reader(io.StringIO(_decoded(text, form), newline=""), strict=True)
    rows: list[tuple[int, dict[str, str]]] = []
    problems: list[FileProblem] = []
    try:
        header = [each.strip() for each in next(reader, [])]
        _check_header(header, form)
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if len(rows) == form.most_lines:
                raise whole(f"the file has more than {form.most_lines} lines; a vehicle has fewer {form.things}")
            if len(cells) != len(header):
                problems.append(FileProblem(line_place(reader.line_num), _wrong_count(len(cells), len(header))))
                continue
            rows.append((reader.line_num, dict(zip(header, (as_it_was(each.strip()) for each in cells), strict=True))))
    except csv.Error as error:
        wrong = FileProblem(line_place(reader.line_num), f"this is no CSV: {error}")
        raise JobFileError([*problems, wrong]) from error
    if problems:
        raise JobFileError(problems)
    if not rows:
        raise whole(f"the file has no {form.things} below its header")
    return rows


def whole(message: str) -> JobFileError:
    """What is wrong with the file as a whole."""
    return JobFileError([FileProblem("line 1", message)])


def line_place(number: int, field: tuple[str | int, ...] = ()) -> str:
    """Where something is wrong: ``line 7, value``."""
    return f"line {number}" + (f", {field[0]}" if field else "")


def of_pydantic(number: int, item: Any, form: Format) -> FileProblem:
    """What pydantic says of a line, with the column it is about."""
    error = item.get("ctx", {}).get("error")
    said = error.field if isinstance(error, PercorsoError) and error.field else item["loc"]
    column = next((step for step in said if step in form.columns), form.needed[0])
    return FileProblem(line_place(number, (column,)), plain_message(item))


def _decoded(text: str | bytes, form: Format) -> str:
    if len(text) > form.most_bytes:
        limit = form.most_bytes // 1_000_000
        raise whole(f"the file is larger than {limit} MB; a {form.kind} of {form.most_lines} {form.things} is not")
    decoded = text.decode("utf-8-sig", errors="replace") if isinstance(text, bytes) else text
    if "\ufffd" in decoded:
        raise whole("the file is not UTF-8 text; save it as CSV UTF-8")
    return decoded.removeprefix("\ufeff")


def _wrong_count(cells: int, columns: int) -> str:
    hint = "; write decimals with a point, and text with a comma in quotes" if cells > columns else ""
    return f"{cells} cells under {columns} columns{hint}"


def _check_header(header: list[str], form: Format) -> None:
    if not header:
        raise whole("the file is empty")
    if len(header) == 1 and any(mark in header[0] for mark in ";\t|"):
        raise whole("the columns are not separated by commas; save it as CSV with commas and decimal points")
    problems = [f'"{each}" is not a column of the {form.kind}' for each in header if each not in form.columns]
    problems += [f'the column "{each}" stands twice' for each in dict.fromkeys(header) if header.count(each) > 1]
    problems += [f'there is no column "{each}"' for each in form.needed if each not in header]
    if problems:
        known = f"columns are {', '.join(form.columns)}"
        raise JobFileError([FileProblem("line 1", each) for each in [*problems, known]])
