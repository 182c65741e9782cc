"""HTTP API of how far what takes long is that somebody waits for."""

from uuid import UUID

from ninja import Router
from pydantic import BaseModel

from percorso_server.workshop.signed_in import SignedInRequest
from percorso_server.workshop.turns import TURNS, whose_turn

router = Router(tags=["jobs"])


class UnderWay(BaseModel):
    """A room of a job that is computed: how many pieces of how many are done; none where that cannot be told."""

    room: str
    waits: bool
    done: int
    of: int


@router.get("/jobs/{job_id}/under-way", response=list[UnderWay])
def list_under_way(request: SignedInRequest, job_id: UUID) -> list[UnderWay]:
    """What is computed of a job for who asks, where it takes long."""
    working, waiting = TURNS.of(whose_turn(request))
    begin = f"/api/jobs/{job_id}/"
    return [
        UnderWay(room=each.path.removeprefix(begin), waits=waits, done=each.waiting.done, of=each.waiting.of)
        for each, waits in [*((each, False) for each in working), *((each, True) for each in waiting)]
        if each.path.startswith(begin)
    ]
