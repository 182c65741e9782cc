"""Signing in and out, and who is signed in."""

from typing import Annotated
from urllib.parse import quote

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.responses import Status
from ninja.utils import check_csrf
from pydantic import AfterValidator, Field

from percorso.names import writable
from percorso_server.workshop.demo import DEMO_PASSWORD, DEMO_USERNAME
from percorso_server.workshop.models import Person
from percorso_server.workshop.throttle import canonical, count_wrong_try, seconds_to_wait, welcome

router = Router(tags=["session"])
SIGNED_IN = "percorso_person"  # a cookie; what a page kept of somebody it opens for them alone


class Credentials(Schema):
    """What a person types to sign in."""

    username: Annotated[str, Field(max_length=150), AfterValidator(writable), AfterValidator(canonical)]
    password: Annotated[str, Field(max_length=1000), AfterValidator(writable)]


class Demo(Schema):
    """The demo sign-in."""

    username: str
    password: str


class Session(Schema):
    """Who is signed in; ``demo`` carries the demo sign-in, in demo mode only."""

    person: str | None
    shop: str | None
    demo: Demo | None


class Refusal(Schema):
    """Why signing in did not work."""

    code: str
    message: str


def _session(request: HttpRequest, response: HttpResponse) -> Session:
    """Who is signed in; a cookie that the page can read says the same, and lives as long as the session does."""
    get_token(request)  # makes Django send the CSRF cookie
    name = quote(request.user.username, safe="") if isinstance(request.user, Person) else ""
    if name and request.COOKIES.get(SIGNED_IN) != name:
        secure = settings.SESSION_COOKIE_SECURE
        response.set_cookie(SIGNED_IN, name, max_age=settings.SESSION_COOKIE_AGE, secure=secure, samesite="Lax")
    elif not name and SIGNED_IN in request.COOKIES:
        response.delete_cookie(SIGNED_IN, samesite="Lax")
    demo = Demo(username=DEMO_USERNAME, password=DEMO_PASSWORD) if settings.DEMO else None
    if isinstance(request.user, Person):
        return Session(person=request.user.username, shop=request.user.shop.name, demo=demo)
    return Session(person=None, shop=None, demo=demo)


@router.get("/session", auth=None, response=Session)
def read_session(request: HttpRequest, response: HttpResponse) -> Session:
    """Who is signed in, if anybody."""
    return _session(request, response)


@router.post("/session", auth=None, response={200: Session, 401: Refusal, 403: Refusal, 429: Refusal})
def sign_in(
    request: HttpRequest, response: HttpResponse, credentials: Credentials
) -> Status[Session] | Status[Refusal]:
    """Sign in with a name and a password; after some wrong tries each further one makes the next wait longer."""
    if check_csrf(request):
        return Status(403, Refusal(code="csrf", message="reload the page and try again"))
    wait_s = seconds_to_wait(request, credentials.username)
    if wait_s > 0:
        wait = f"{wait_s} second{'s' if wait_s > 1 else ''}"
        return Status(429, Refusal(code="locked", message=f"too many wrong tries; wait {wait} and try again"))
    person = authenticate(request, username=credentials.username, password=credentials.password)
    if person is None:
        count_wrong_try(request, credentials.username)
        return Status(401, Refusal(code="wrong", message="Name or password is wrong"))
    welcome(request, credentials.username)
    login(request, person)
    return Status(200, _session(request, response))


@router.delete("/session", response=Session)
def sign_out(request: HttpRequest, response: HttpResponse) -> Session:
    """Sign out."""
    logout(request)
    return _session(request, response)
