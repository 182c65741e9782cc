"""The tables of usual vehicles: a row a part, each with when it is there and who says so."""

import csv
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from typing import Any


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """Rows of the table ``name`` (without ``.csv``), each a mapping of column name to text."""
    text = files(__package__).joinpath(f"{name}.csv").read_text(encoding="utf-8")
    return tuple(csv.DictReader(text.splitlines()))


def rows_for(name: str, answers: Mapping[str, str]) -> list[dict[str, str]]:
    """The rows that are there with these answers: ``starting=key|button; interlock=nothing``."""
    return [row for row in rows(name) if _is_there(row["if"], answers)]


def _is_there(condition: str, answers: Mapping[str, str]) -> bool:
    pairs = [each.strip().partition("=") for each in condition.split(";") if each.strip()]
    return all(answers[key] in choices.split("|") for key, _, choices in pairs)


def values(text: str) -> dict[str, Any]:
    """What a cell of values says: ``rating_a=30; family=strip``."""
    pairs = [each.strip().partition("=") for each in text.split(";") if each.strip()]
    return {key: _value(key, value) for key, _, value in pairs}


LISTED = ("closed_in", "runs_in", "rests_in")  # whose values are several words


def _value(key: str, text: str) -> Any:
    if key in LISTED:
        return text.split()
    try:
        return float(text)
    except ValueError:
        return text
