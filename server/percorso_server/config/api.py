"""The root of the HTTP API: who may call it, and how every error reaches the browser."""

from collections.abc import Iterable, Sequence
from errno import EDQUOT, ENOSPC
from typing import Any

from django.db import IntegrityError, InterfaceError, OperationalError, connection
from django.http import Http404, HttpRequest, HttpResponse
from ninja.errors import AuthenticationError, HttpError, ValidationError
from pydantic import ValidationError as SpecError

from percorso.errors import AnswersError, JobFileError, PercorsoError
from percorso.json_text import JsonTextError
from percorso.patience import NobodyWaitsError
from percorso.plain import plain_message
from percorso_server.budget.api import router as budget_router
from percorso_server.config.again import note_failure
from percorso_server.config.contract import Api, JsonBody
from percorso_server.config.problems import field_of
from percorso_server.config.rendering import Json
from percorso_server.job_files.api import router as job_files_router
from percorso_server.job_files.came_in_api import router as came_in_router
from percorso_server.job_files.measurements_api import router as measurements_router
from percorso_server.jobs.api import router as jobs_router
from percorso_server.network.board_api import router as board_router
from percorso_server.network.circuits_api import router as circuits_router
from percorso_server.network.edits_api import router as edits_router
from percorso_server.network.forms_api import router as forms_router
from percorso_server.network.map_api import router as map_router
from percorso_server.network.quantity_api import router as quantity_router
from percorso_server.network.starters_api import router as starters_router
from percorso_server.sheets.api import router as sheets_router
from percorso_server.states.api import router as states_router
from percorso_server.verification.checks.api import router as checks_router
from percorso_server.verification.meters.api import router as instruments_router
from percorso_server.verification.photos.api import router as photos_router
from percorso_server.verification.readings.api import router as readings_router
from percorso_server.verification.tracing.api import router as trace_router
from percorso_server.verification.tracing.cases_api import router as cases_router
from percorso_server.workshop.api import router as session_router
from percorso_server.workshop.rules_api import router as rules_router
from percorso_server.workshop.signed_in import SignedIn, SomebodyElseError, for_who_is_signed_in
from percorso_server.workshop.stale import StaleError
from percorso_server.workshop.turns import TakesLongError, hand_on
from percorso_server.workshop.under_way_api import router as under_way_router

api = Api(
    title="Percorso",
    version="1",
    auth=SignedIn(),
    docs_url=None,
    docs_decorator=for_who_is_signed_in,
    renderer=Json(),
    parser=JsonBody(),
)
api.add_router("", session_router)
api.add_router("", rules_router)
api.add_router("", jobs_router)
api.add_router("", under_way_router)
api.add_router("", board_router)
api.add_router("", circuits_router)
api.add_router("", map_router)
api.add_router("", edits_router)
api.add_router("", forms_router)
api.add_router("", budget_router)
api.add_router("", quantity_router)
api.add_router("", sheets_router)
api.add_router("", states_router)
api.add_router("", starters_router)
api.add_router("", readings_router)
api.add_router("", checks_router)
api.add_router("", trace_router)
api.add_router("", cases_router)
api.add_router("", photos_router)
api.add_router("", instruments_router)
api.add_router("", job_files_router)
api.add_router("", measurements_router)
api.add_router("", came_in_router)


def _answer(request: HttpRequest, status: int, code: str, message: str, **more: Any) -> HttpResponse:
    return api.create_response(request, {"code": code, "message": message, "problems": [], **more}, status=status)


def _invalid(request: HttpRequest, code: str, problems: Iterable[tuple[Sequence[str | int], str]]) -> HttpResponse:
    listed = list(problems)
    message = listed[0][1] if listed else "invalid"
    answer = [{"field": field, "message": text} for field, text in listed]
    return _answer(request, 422, code, message, problems=answer)


@api.exception_handler(ValidationError)
def _body_is_wrong(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """The request does not fit the contract; the field path leaves out where Ninja found it, and in which edit."""
    problems = ((_in_edit(item["loc"][2:]), plain_message(item)) for item in error.errors)
    return _invalid(request, "invalid", problems)


def _in_edit(place: Sequence[str | int]) -> list[str | int]:
    """A field's path within its edit: a form sends one, and knows its fields by their own names."""
    if place[:1] == ("edits",) and len(place) > 3:
        return list(place[3:])  # without its number and what it does
    return list(place)


@api.exception_handler(PercorsoError)
def _core_refuses(request: HttpRequest, error: PercorsoError) -> HttpResponse:
    return _invalid(request, error.code, [(list(error.field), str(error))])


@api.exception_handler(TakesLongError)
def _takes_long(request: HttpRequest, error: TakesLongError) -> HttpResponse:
    return hand_on(HttpResponse(status=202))


@api.exception_handler(NobodyWaitsError)
def _nobody_hears(request: HttpRequest, error: NobodyWaitsError) -> HttpResponse:
    return _answer(request, 400, "gone", "nobody waited for this")


@api.exception_handler(AnswersError)
def _answers_are_wrong(request: HttpRequest, error: AnswersError) -> HttpResponse:
    return _invalid(
        request, error.code, [([*item["loc"], *field_of(item)], plain_message(item)) for item in error.items]
    )


@api.exception_handler(JobFileError)
def _job_file_is_wrong(request: HttpRequest, error: JobFileError) -> HttpResponse:
    return _invalid(request, error.code, [([each.path], each.message) for each in error.problems])


@api.exception_handler(StaleError)
def _someone_was_faster(request: HttpRequest, error: StaleError) -> HttpResponse:
    return _answer(request, 409, "stale", str(error), row=error.row, current=error.current)


@api.exception_handler(SpecError)
def _spec_is_wrong(request: HttpRequest, error: SpecError) -> HttpResponse:
    """A segment's values do not fit its kind; a location starts with the kind, which the field path leaves out."""
    problems = [(["spec", *item["loc"][1:], *field_of(item)], plain_message(item)) for item in error.errors()]
    return _invalid(request, "invalid", problems)


@api.exception_handler(IntegrityError)
def _database_refuses(request: HttpRequest, error: IntegrityError) -> HttpResponse:
    """Names and designations are unique within a job, ids altogether; nothing else gets past the core."""
    if "PRIMARY" in str(error):
        return _invalid(request, "id", [(["id"], "nothing new can have this id; send another")])
    field = "designation" if "designation_in_job" in str(error) else "name"
    return _invalid(request, "taken", [([field], f"that {field} is already used in this job")])


@api.exception_handler(OperationalError)
@api.exception_handler(InterfaceError)
def _database_is_away(request: HttpRequest, error: Exception) -> HttpResponse:
    connection.close()
    note_failure(request, error)
    return _answer(request, 503, "database-away", "the database does not answer; nothing was written")


@api.exception_handler(OSError)
def _disk_is_full(request: HttpRequest, error: OSError) -> HttpResponse:
    if error.errno not in (ENOSPC, EDQUOT):
        raise error
    return _answer(request, 503, "disk-full", "the server's disk is full; nothing was written")


@api.exception_handler(AuthenticationError)
def _not_signed_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return _answer(request, 401, "signed-out", "sign in first")


@api.exception_handler(SomebodyElseError)
def _not_who_it_says(request: HttpRequest, error: SomebodyElseError) -> HttpResponse:
    return _answer(request, 401, "somebody-else", "somebody else is signed in in this browser now")


@api.exception_handler(HttpError)
def _not_even_read(request: HttpRequest, error: HttpError) -> HttpResponse:
    """What is no JSON; where one value of it is none that can be kept, its field is named."""
    cause = error.__cause__
    if isinstance(cause, JsonTextError) and cause.steps:
        return _invalid(request, "invalid", [(_in_edit(cause.steps), str(cause))])
    return _answer(request, error.status_code, "refused", str(error))


@api.exception_handler(Http404)
def _not_found(request: HttpRequest, error: Http404) -> HttpResponse:
    return _answer(request, 404, "not-found", "there is no such thing in this shop")
