"""The job that a request asks about: one of the person's own shop."""

from uuid import UUID

from django.shortcuts import get_object_or_404

from percorso_server.jobs.models import Job
from percorso_server.workshop.signed_in import SignedInRequest


def asked_job(request: SignedInRequest, job_id: UUID, *, to_change: bool = False) -> Job:
    """A job of the person's shop; ``to_change``: nobody else changes it meanwhile. Raises Http404."""
    jobs = Job.objects.select_for_update() if to_change else Job.objects.all()
    return get_object_or_404(jobs, shop=request.user.shop, pk=job_id)
