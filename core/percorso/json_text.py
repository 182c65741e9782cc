"""Reads JSON that comes from outside: not too deep, each key once, whole characters, numbers that a float holds."""

import json
import re
from collections import Counter
from collections.abc import Iterator
from itertools import accumulate
from typing import Any

MAX_DEPTH = 12
MOST_DIGITS = 300  # of a whole number; one with more is beyond what a float can hold
LONGEST_SAID = 60  # characters of a name in a message
# A string to its end, or to the end of the text: what was read once is never read again.
_STRING_OR_BRACKET = re.compile(r'"(?:[^"\\]++|\\.)*+"?|[\[\]{}]', re.DOTALL)
_STEPS = {"[": 1, "{": 1, "]": -1, "}": -1}


class JsonTextError(ValueError):
    """A text is no JSON that is read; its message says why, and ``steps`` where, if it is one place."""

    def __init__(self, message: str, steps: tuple[str | int, ...] = ()) -> None:
        super().__init__(message)
        self.steps = steps


def read_json(text: str, *, any_number: bool = False) -> Any:
    """What a JSON text says. Raises JsonTextError.

    ``any_number``: what is no number that can be computed with becomes NaN or infinite, for whoever says of which field
    that was.
    """
    if _depth(text) > MAX_DEPTH:
        raise JsonTextError(f"it is nested more than {MAX_DEPTH} deep")
    try:
        document = json.loads(
            text,
            parse_constant=float if any_number else _no_constant,
            parse_int=_any_whole_number if any_number else _whole_number,
            object_pairs_hook=_once,
        )
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        raise JsonTextError(f"this is not complete JSON: {place}: {error.msg}") from error
    half = next(_half_characters(document), None) if "\\u" in text else None
    if half is not None:
        raise JsonTextError("there is half a character in this", half)
    return document


def short(name: str) -> str:
    """A name out of a file as a message repeats it."""
    return name if len(name) <= LONGEST_SAID else f"{name[:LONGEST_SAID]}…"


def _depth(text: str) -> int:
    """How deep brackets nest, strings left out; found in one pass and without recursion."""
    return max(accumulate(_STEPS.get(each[0], 0) for each in _STRING_OR_BRACKET.finditer(text)), default=0)


def _no_constant(name: str) -> Any:
    raise JsonTextError(f"{name} is not a number")


def _whole_number(digits: str) -> int:
    if len(digits) > MOST_DIGITS:
        raise JsonTextError(f"a number in it is too long: {len(digits)} digits")
    return int(digits)


def _any_whole_number(digits: str) -> int | float:
    return int(digits) if len(digits) <= MOST_DIGITS else float(digits)


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """An object whose keys each stand there once."""
    made = dict(pairs)
    if len(made) < len(pairs):
        twice, times = Counter(name for name, _ in pairs).most_common(1)[0]
        raise JsonTextError(f'"{short(twice)}" stands {"twice" if times == 2 else f"{times} times"} in one object')
    return made


def _half_characters(found: Any, steps: tuple[str | int, ...] = ()) -> Iterator[tuple[str | int, ...]]:
    """Where a text is that no file or database can hold."""
    if isinstance(found, str):
        if not found.isascii() and any("\ud800" <= letter <= "\udfff" for letter in found):
            yield steps
    elif isinstance(found, list):
        for place, each in enumerate(found):
            yield from _half_characters(each, (*steps, place))
    elif isinstance(found, dict):
        for name, each in found.items():
            yield from _half_characters(name, steps)
            yield from _half_characters(each, (*steps, name))
