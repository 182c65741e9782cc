"""What the core says when it cannot do what was asked: one family of errors a tradesman can read.

    PercorsoError
        what was typed      QuantityError, UnknownSizeError, UnknownNameError, AnswersError
        what is described   PathError, StateError, LayingError (planning), JobFileError
        what was measured   MeasurementError, PreparationError, ReadingError
        what may be bad     FaultError, TraceError

Outside it: a network that finds no rest (NotSettledError), an answer that nobody waits for (NobodyWaitsError), JSON
that is none (JsonTextError), and what a meter speaks (ScpiError).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from percorso.plain import plain_message


class PercorsoError(ValueError):
    """Something asked of the core is wrong.

    ``str(error)`` is a sentence for the person at the bench. ``code`` is stable and for machines.
    ``field`` names the input at fault, as a path such as ``("supply", 2)``, empty when no single one is.
    """

    code = "invalid"

    def __init__(self, message: str, *, field: tuple[str | int, ...] = ()) -> None:
        super().__init__(message)
        self.field = field


class QuantityError(PercorsoError):
    """A typed quantity cannot be read, is ambiguous, or lies outside its range."""

    code = "quantity"


class UnknownSizeError(PercorsoError):
    """A conductor size is not one that is made, or its table does not list it."""

    code = "unknown-size"


class PathError(PercorsoError):
    """The segments of a circuit do not form one path out and one path back."""

    code = "path"


class ReadingError(PercorsoError):
    """A measurement cannot prove anything as it was taken."""

    code = "reading"


@dataclass(frozen=True)
class FileProblem:
    """One thing wrong with a job file; ``path`` is its JSON path, ``$`` for the file itself."""

    path: str
    message: str


class JobFileError(PercorsoError):
    """A job file does not describe a job; ``problems`` lists all that is wrong with it."""

    code = "job-file"

    def __init__(self, problems: Sequence[FileProblem]) -> None:
        super().__init__("; ".join(f"{each.path}: {each.message}" for each in problems))
        self.problems = tuple(problems)


class AnswersError(PercorsoError):
    """Answers to the questions of a route starter are wrong; ``items`` is what pydantic says of each."""

    code = "invalid"

    def __init__(self, items: Sequence[Any]) -> None:
        super().__init__("; ".join(plain_message(each) for each in items))
        self.items = tuple(items)


class PreparationError(PercorsoError):
    """A test cannot be prepared like that."""

    code = "preparation"


class UnknownNameError(PercorsoError):
    """No part or point is called that, or several are."""

    code = "unknown-name"


class MeasurementError(PercorsoError):
    """Nothing can be measured like that."""

    code = "measurement"


class TraceError(PercorsoError):
    """What is wrong cannot be traced as asked."""

    code = "trace"


class FaultError(PercorsoError):
    """No part can be bad like that."""

    code = "fault"


class StateError(PercorsoError):
    """An operating state, an input or its position does not exist."""

    code = "state"
