"""Lets whoever waits for a long computation see how far it is, and give it up: between its pieces the work asks."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import TypeVar

_Piece = TypeVar("_Piece")


class NobodyWaitsError(Exception):
    """Whoever asked has gone."""


@dataclass
class Waiting:
    """Somebody who waits: ``ask`` raises something to give the work up; of how many pieces how many are done."""

    ask: Callable[[], None]
    done: int = 0
    of: int = 0


_waiting: ContextVar[Waiting | None] = ContextVar("waiting", default=None)


def go_on() -> None:
    """Called between the pieces of long work. Raises whatever the one who waits says it with."""
    waiting = _waiting.get()
    if waiting is not None:
        waiting.ask()


def one_by_one(pieces: Sequence[_Piece]) -> Iterator[_Piece]:
    """The pieces of long work, told to who waits; of pieces that have pieces themselves only the outer ones are."""
    waiting = _waiting.get()
    if waiting is None or waiting.of:
        yield from pieces
        return
    waiting.of = len(pieces)
    try:
        for waiting.done, each in enumerate(pieces):
            yield each
    finally:
        waiting.done = waiting.of = 0


@contextmanager
def while_wanted(waiting: Waiting) -> Iterator[None]:
    """Long work meanwhile asks the one who waits between its pieces."""
    token = _waiting.set(waiting)
    try:
        yield
    finally:
        _waiting.reset(token)
