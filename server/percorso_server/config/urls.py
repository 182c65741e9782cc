"""Addresses: the API, the health check, and the one page of the front end for everything else."""

from contextlib import closing

import MySQLdb
from django.db import connection
from django.http import FileResponse, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import path, re_path
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe

from percorso_server.config.api import api
from percorso_server.config.observing import metrics
from percorso_server.config.settings import WEB_DIST

PATIENCE_S = 1  # with a database that may hang


@require_safe
@never_cache
def health(request: HttpRequest) -> JsonResponse:
    """Whether the server and its database answer; 503 when the database is away, or does not answer in time."""
    parameters = connection.get_connection_params() | {"connect_timeout": PATIENCE_S, "read_timeout": PATIENCE_S}
    try:
        with closing(MySQLdb.connect(**parameters)) as asked, asked.cursor() as cursor:
            cursor.execute("SELECT 1")
    except MySQLdb.Error:
        return JsonResponse({"status": "degraded", "database": "away"}, status=503)
    return JsonResponse({"status": "ok", "database": "ok"})


@require_safe
@never_cache
def page(request: HttpRequest) -> HttpResponse:
    """The front end; it reads the address itself. Never asks the database, so it also opens when that is away."""
    return render(request, "index.html")


@require_safe
@never_cache
def service_worker(request: HttpRequest) -> FileResponse:
    """What keeps the front end at hand without a network; it must stand at the root to serve every address."""
    return FileResponse((WEB_DIST / "sw.js").open("rb"), content_type="text/javascript")


urlpatterns = [
    path("healthz", health),
    path("metrics", metrics),
    path("sw.js", service_worker),
    path("api/", api.urls),
    re_path(r"^(?!api/|static/|healthz|metrics).*$", page),
]
