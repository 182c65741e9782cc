"""HTTP API of forms: what the core asks of each kind of segment and device and of a circuit, and what words mean."""

from ninja import Router

from percorso.vehicle.forms import Forms, forms
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["forms"])


@router.get("/forms", response=Forms)
def read_forms(request: SignedInRequest) -> Forms:
    """Every form and word; they do not change while the server runs."""
    return forms()
