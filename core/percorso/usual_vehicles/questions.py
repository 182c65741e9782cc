"""What is asked of a vehicle that came in, what can be answered, and what is usual where nobody knows."""

from collections.abc import Mapping
from dataclasses import dataclass

from percorso.errors import UnknownNameError
from percorso.usual_vehicles.rows import rows


@dataclass(frozen=True)
class Question:
    """A question with its choices; any may stay open, and then what is usual is laid."""

    key: str
    asks: str
    choices: tuple[str, ...]
    usual: str


def _questions() -> tuple[Question, ...]:
    table = rows("questions")
    return tuple(
        Question(
            key,
            next(row["asks"] for row in table if row["key"] == key),
            tuple(row["choice"] for row in table if row["key"] == key),
            next(row["choice"] for row in table if row["key"] == key and row["usual"]),
        )
        for key in dict.fromkeys(row["key"] for row in table)
    )


QUESTIONS = _questions()


def complete(answers: Mapping[str, str]) -> dict[str, str]:
    """Answers to all questions, what is usual where there is none. Raises UnknownNameError naming the key."""
    by_key = {each.key: each for each in QUESTIONS}
    for key, choice in answers.items():
        if key not in by_key:
            raise UnknownNameError(f'"{key}" is not asked; there is {", ".join(by_key)}', field=("answers", key))
        if choice not in by_key[key].choices:
            choices = ", ".join(by_key[key].choices)
            raise UnknownNameError(f'{key}: "{choice}" is no answer; there is {choices}', field=("answers", key))
    return {each.key: answers.get(each.key, each.usual) for each in QUESTIONS}
