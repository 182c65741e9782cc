"""Signing in and out, and who is signed in."""

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.responses import Status
from ninja.utils import check_csrf

from workshop.demo import DEMO_PASSWORD, DEMO_USERNAME
from workshop.models import Person

router = Router(tags=["session"])


class Credentials(Schema):
    """What a person types to sign in."""

    username: str
    password: str


class Session(Schema):
    """Who is signed in; ``demo`` carries the demo sign-in, in demo mode only."""

    person: str | None
    shop: str | None
    demo: Credentials | None


class Refusal(Schema):
    """Why signing in did not work."""

    code: str
    message: str


def _session(request: HttpRequest) -> Session:
    get_token(request)  # makes Django send the CSRF cookie
    demo = Credentials(username=DEMO_USERNAME, password=DEMO_PASSWORD) if settings.DEMO else None
    if isinstance(request.user, Person):
        return Session(person=request.user.username, shop=request.user.shop.name, demo=demo)
    return Session(person=None, shop=None, demo=demo)


@router.get("/session", auth=None, response=Session)
def read_session(request: HttpRequest) -> Session:
    """Who is signed in, if anybody."""
    return _session(request)


@router.post("/session", auth=None, response={200: Session, 401: Refusal, 403: Refusal, 429: Refusal})
def sign_in(request: HttpRequest, credentials: Credentials) -> Status[Session] | Status[Refusal]:
    """Sign in with a name and a password; five wrong ones close the door for a quarter of an hour."""
    if check_csrf(request):
        return Status(403, Refusal(code="csrf", message="reload the page and try again"))
    person = authenticate(request, username=credentials.username, password=credentials.password)
    if getattr(request, "axes_locked_out", False):
        return Status(429, Refusal(code="locked", message="too many wrong tries; try again in a quarter of an hour"))
    if person is None:
        return Status(401, Refusal(code="wrong", message="that name and password do not belong together"))
    login(request, person)
    return Status(200, _session(request))


@router.delete("/session", response=Session)
def sign_out(request: HttpRequest) -> Session:
    """Sign out."""
    logout(request)
    return _session(request)
