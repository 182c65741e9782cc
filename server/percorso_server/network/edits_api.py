"""HTTP API of edits: every change of a network comes in by this door, alone or with others, and can be taken back."""

from collections.abc import Callable, Iterable
from typing import Annotated
from uuid import UUID, uuid4

from ninja import Router
from pydantic import Field

from percorso.changes.edits import Edit, NewPart, SetDrive, SetScenario
from percorso.changes.labels import label
from percorso.errors import PercorsoError
from percorso.names import Name
from percorso.planning.apply import edited
from percorso.vehicle.model import Vehicle
from percorso_server.jobs.schemas import Body, Key, Saved, saved
from percorso_server.network.carrying_out import carry_out
from percorso_server.network.editing import Draft, Editing, editing, redo, undo
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["edits"])
MOST_EDITS = 500  # as many as a ledger file has lines
Edits = Annotated[list[Edit], Field(max_length=MOST_EDITS)]


def new_id() -> str:
    """An id for a part that an edit adds."""
    return str(uuid4())


class EditsIn(Body):
    """Edits to carry out together, and the versions of rows that were seen before, by id.

    ``label`` is what the list of changes says of them; what they do, if nothing else is said.
    """

    label: Name | None = None
    edits: Edits
    seen: Annotated[dict[str, int], Field(max_length=MOST_EDITS)] = {}


@router.post("/jobs/{job_id}/edits", response=Saved)
def carry_out_edits(request: SignedInRequest, job_id: UUID, values: EditsIn, key: Key) -> Saved:
    """Carry out edits as one change, all or nothing; those whose new parts are there already were carried out."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        for row_id, version in values.seen.items():
            held.expect(row_id, version)
        after = edited(held.vehicle, values.edits, request.user.shop.house_rules, new_id)
        return values.label or label(values.edits, held.vehicle, after), after

    return carry_out(request, job_id, key, change, _new_ids(values.edits))


def _new_ids(edits: Iterable[Edit]) -> list[str]:
    """The ids that were chosen for new parts. Raises PercorsoError for one that is none."""
    of_parts = [each.id for each in edits if isinstance(each, NewPart) and each.id]
    own = [each.scenario_id for each in edits if isinstance(each, SetScenario)]
    own += [each.drive_id for each in edits if isinstance(each, SetDrive)]
    for each in (*of_parts, *own):
        _check_id(each)
    return of_parts


def _check_id(text: str) -> None:
    try:
        is_id = str(UUID(text)) == text
    except ValueError:
        is_id = False
    if not is_id:
        raise PercorsoError("this is not an id for something new", field=("id",))


@router.post("/jobs/{job_id}/undo", response=Saved)
def undo_last(request: SignedInRequest, job_id: UUID, key: Key) -> Saved:
    """Take back this person's latest change of the job."""
    return _step(request, job_id, key, undo, "undone")


@router.post("/jobs/{job_id}/redo", response=Saved)
def redo_last(request: SignedInRequest, job_id: UUID, key: Key) -> Saved:
    """Do this person's last undone change again."""
    return _step(request, job_id, key, redo, "redone")


def _step(request: SignedInRequest, job_id: UUID, key: UUID, step: Callable[[Editing], str], word: str) -> Saved:
    with editing(job_id, request.user, key) as held:
        return saved(f"{word}: {step(held)}" if held else f"{word} before")
