"""HTTP API of route starters: which there are, and what each asks."""

from typing import Any

from ninja import Router, Schema

from percorso.planning.templates import STARTERS
from percorso.targets import Family
from percorso.vehicle.form_fields import FormField, form_fields
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["starters"])


class StarterOut(Schema):
    """A kind of route to begin with."""

    id: str
    title: str
    says: str
    family: Family
    questions: list[FormField]


@router.get("/starters", response=list[StarterOut])
def list_starters(request: SignedInRequest) -> Any:
    """Every route starter with its questions."""
    return [
        {"id": key, "title": kind.TITLE, "says": kind.SAYS, "family": kind.FAMILY, "questions": form_fields(kind)}
        for key, kind in STARTERS.items()
    ]
