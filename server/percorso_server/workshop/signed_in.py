"""The gate of the API: a session of an active person, with CSRF protection, and the request that results."""

from collections.abc import Callable
from functools import wraps
from typing import Any
from urllib.parse import unquote

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja.security.apikey import APIKeyCookie

from percorso_server.workshop.models import Person

View = Callable[..., HttpResponse]
SPEAKS_FOR = "X-Percorso-Person"  # the sign-in name, percent-encoded


class SomebodyElseError(Exception):
    """A page speaks for somebody other than who is signed in."""


class SignedInRequest(HttpRequest):
    """A request that passed the gate."""

    user: Person


def for_who_is_signed_in(view: View) -> View:
    """A view that tells strangers nothing."""

    @wraps(view)
    def asked(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if not request.user.is_authenticated:
            refused = {"code": "signed-out", "message": "sign in first", "problems": []}
            return JsonResponse(refused, status=401)
        return view(request, *args, **kwargs)

    return asked


class SignedIn(APIKeyCookie):
    """Lets only signed-in people through."""

    param_name: str = settings.SESSION_COOKIE_NAME

    def authenticate(self, request: HttpRequest, key: Any) -> Person | None:
        """The signed-in person, None for a stranger. Raises SomebodyElseError where the page takes it for another.

        A page says for whom it speaks: another tab may have signed in somebody else since, and what waited in this one
        is not theirs.
        """
        if not isinstance(request.user, Person) or not request.user.is_active:
            return None
        speaks_for = request.headers.get(SPEAKS_FOR)
        if speaks_for is not None and unquote(speaks_for) != request.user.username:
            raise SomebodyElseError
        return request.user
