"""What is asked of a vehicle that came in, what can be answered, and what is usual where nobody knows."""

from collections.abc import Mapping
from dataclasses import dataclass

from percorso.errors import UnknownNameError
from percorso.usual_vehicles.rows import rows

AND = ", "  # between the choices of an answer that may have several


@dataclass(frozen=True)
class Question:
    """A question with its choices, one of them or ``several``; it may stay open, and then what is usual is laid.

    Of how the vehicle is wired, ``shares`` say how many vehicles have each choice, and a look tells it in ``look_min``.
    """

    key: str
    asks: str
    choices: tuple[str, ...]
    usual: str
    several: bool = False
    shares: tuple[float, ...] = ()
    look_min: float = 0.0

    def answered(self, answer: str) -> str:
        """An answer, several choices in the order of the table. Raises UnknownNameError for what is no choice."""
        said = answer.split(AND) if self.several and answer else [answer]
        wrong = [each for each in said if each not in self.choices and not (self.several and not answer)]
        if wrong:
            message = f'{self.key}: "{wrong[0]}" is no answer; there is {AND.join(self.choices)}'
            raise UnknownNameError(message, field=("answers", self.key))
        return AND.join(each for each in self.choices if each in said)


def _questions() -> tuple[Question, ...]:
    table = rows("questions")
    return tuple(
        Question(
            key,
            next(row["asks"] for row in table if row["key"] == key),
            tuple(row["choice"] for row in table if row["key"] == key),
            next(row["choice"] for row in table if row["key"] == key and row["usual"]),
            False,
            tuple(float(row["share"]) for row in table if row["key"] == key and row["share"]),
            next(float(row["look_min"] or 0) for row in table if row["key"] == key),
        )
        for key in dict.fromkeys(row["key"] for row in table)
    )


def _usual_consumers(kind: str) -> str:
    return AND.join(row["name"] for row in rows("consumers") if kind in row["usual_in"].split())


ONE_OF = _questions()
KIND = ONE_OF[0]
CONSUMERS = Question(
    "has",
    "What does it have?",
    tuple(row["name"] for row in rows("consumers")),
    _usual_consumers(KIND.usual),
    several=True,
)
QUESTIONS = (*ONE_OF, CONSUMERS)
OF_WIRING = tuple(each for each in ONE_OF if each.shares)


def complete(answers: Mapping[str, str]) -> dict[str, str]:
    """Answers to all questions, what is usual where there is none. Raises UnknownNameError naming the key."""
    by_key = {each.key: each for each in QUESTIONS}
    for key in answers.keys() - by_key.keys():
        raise UnknownNameError(f'"{key}" is not asked; there is {AND.join(by_key)}', field=("answers", key))
    said = {key: by_key[key].answered(answer) for key, answer in answers.items()}
    usual = {each.key: each.usual for each in QUESTIONS}
    usual[CONSUMERS.key] = _usual_consumers(said.get(KIND.key, KIND.usual))
    return usual | said
