"""HTTP API of route starters: which there are, what each asks, and laying one."""

from dataclasses import replace
from typing import Annotated, Any
from uuid import UUID

from ninja import Router, Schema
from ninja.errors import ValidationError
from pydantic import Field
from pydantic import ValidationError as AnswersError

from jobs.carrying_out import carry_out
from jobs.editing import Draft
from jobs.edits_api import new_id
from jobs.schemas import Body, Key, Saved
from percorso.components.conductors import Series
from percorso.errors import PercorsoError
from percorso.planning.templates import STARTERS, answered, lay_starter
from percorso.planning.templates.asking import Starter, questions
from percorso.targets import Family
from percorso.vehicle.model import Vehicle
from workshop.signed_in import SignedInRequest

router = Router(tags=["starters"])


class Question(Schema):
    """One question; ``quantity`` is the kind of a typed quantity, ``choices`` the answers where only some will do."""

    name: str
    label: str
    hint: str
    usual: str
    quantity: str | None
    choices: list[str] | None


class StarterOut(Schema):
    """A kind of route to begin with."""

    id: str
    title: str
    says: str
    family: Family
    questions: list[Question]


@router.get("/starters", response=list[StarterOut])
def list_starters(request: SignedInRequest) -> Any:
    """Every route starter with its questions."""
    return [
        {"id": key, "title": kind.TITLE, "says": kind.SAYS, "family": kind.FAMILY, "questions": questions(kind)}
        for key, kind in STARTERS.items()
    ]


class StarterAnswers(Body):
    """Answers to a starter's questions by name; what is left out is answered as usual."""

    answers: Annotated[dict[str, str], Field(max_length=10)] = {}
    series: Series = "metric"
    circuit_id: UUID


@router.post("/jobs/{job_id}/starters/{starter_id}", response=Saved)
def start_route(request: SignedInRequest, job_id: UUID, starter_id: str, values: StarterAnswers, key: Key) -> Saved:
    """Lay a starter's route, sized; the circuit to look at first gets the id that was sent."""
    starter = _answered(starter_id, values.answers)

    def change(held: Draft) -> tuple[str, Vehicle]:
        rules = request.user.shop.house_rules
        laid, first = lay_starter(held.vehicle, starter, rules, new_id, values.series)
        return f"lay {laid.circuits[first].name}", _with_id(laid, first, str(values.circuit_id))

    return carry_out(request, job_id, key, change, values.circuit_id)


def _answered(starter_id: str, answers: dict[str, str]) -> Starter:
    """The starter with its answers; what is wrong with one is said of its question."""
    if starter_id not in STARTERS:
        raise PercorsoError(f'there is no starter "{starter_id}"', field=("starter_id",))
    try:
        return answered(starter_id, answers)
    except AnswersError as error:
        wrong = [{**item, "loc": ("body", "answers", *item["loc"])} for item in error.errors()]
        raise ValidationError(wrong) from error


def _with_id(vehicle: Vehicle, circuit_id: str, wanted: str) -> Vehicle:
    """The vehicle with one circuit under another id."""
    circuits = (replace(each, id=wanted) if each.id == circuit_id else each for each in vehicle.circuits.values())
    return replace(vehicle, circuits={each.id: each for each in circuits})
