"""The gate of the API: a session of an active person, with CSRF protection, and the request that results."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest
from ninja.security.apikey import APIKeyCookie

from workshop.models import Person


class SignedInRequest(HttpRequest):
    """A request that passed the gate."""

    user: Person


class SignedIn(APIKeyCookie):
    """Lets only signed-in people through."""

    param_name: str = settings.SESSION_COOKIE_NAME

    def authenticate(self, request: HttpRequest, key: Any) -> Person | None:
        """The signed-in person, None for a stranger."""
        return request.user if isinstance(request.user, Person) and request.user.is_active else None
