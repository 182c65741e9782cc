"""HTTP API of route starters: which there are, and what each asks."""

from typing import Any

from ninja import Router, Schema

from percorso.planning.templates import STARTERS
from percorso.planning.templates.asking import questions
from percorso.targets import Family
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
