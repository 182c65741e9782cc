"""What is seen of the server from outside: one line of JSON for each request, and counts in Prometheus' text.

The counts of all server processes are one (a directory they share), and are told on the loopback address alone.
"""

import json
import logging
import os
import time
import uuid
from collections.abc import Callable

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe
from prometheus_client import (
    CONTENT_TYPE_LATEST,
    REGISTRY,
    CollectorRegistry,
    Histogram,
    generate_latest,
    multiprocess,
)

REQUESTS = Histogram(
    "percorso_request_seconds",
    "Time to answer, by method, route and status",
    ("method", "route", "status"),
    buckets=(0.01, 0.025, 0.05, 0.1, 0.15, 0.3, 1.0, 3.0),
)
METHODS = ("GET", "HEAD", "OPTIONS", "POST", "PUT", "PATCH", "DELETE")  # what else is sent is counted together
log = logging.getLogger("percorso.access")


class Observed:
    """Middleware around everything; an answer carries the id that its line in the log has."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, count and write down; never what was sent, nor what somebody looked for."""
        began, named = time.perf_counter(), uuid.uuid4().hex
        response = self._get_response(request)
        taken = time.perf_counter() - began
        match, user = request.resolver_match, getattr(request, "_cached_user", None)  # nobody is looked up for this
        route = match.route if match else "none"
        method = request.method if request.method in METHODS else "other"
        REQUESTS.labels(method, route, response.status_code).observe(taken)
        told = {
            "request": named,
            "person": getattr(user, "pk", None),
            "method": request.method,
            "path": request.path,
            "status": response.status_code,
            "ms": round(1000 * taken, 1),
        }
        log.info(json.dumps(told, ensure_ascii=False))
        response["X-Request-ID"] = named
        return response


@require_safe
@never_cache
def metrics(request: HttpRequest) -> HttpResponse:
    """The counts, for who asks on the machine itself; through a proxy there is no such page."""
    if request.META.get("REMOTE_ADDR") != "127.0.0.1" or "HTTP_X_FORWARDED_FOR" in request.META:
        raise Http404
    registry = REGISTRY
    if "PROMETHEUS_MULTIPROC_DIR" in os.environ:
        registry = CollectorRegistry()
        multiprocess.MultiProcessCollector(registry)  # type: ignore[no-untyped-call]  # the library has no types there
    return HttpResponse(generate_latest(registry), content_type=CONTENT_TYPE_LATEST)
