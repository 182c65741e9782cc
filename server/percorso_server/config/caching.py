"""What browsers and proxies may keep of an answer."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse


class NothingKept:
    """Marks answers of the API as not to be kept: they are of one shop at one moment."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self._answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The answer, with its header where it is the API's."""
        response = self._answer(request)
        if request.path.startswith("/api/"):
            response.headers["Cache-Control"] = "no-store"
        return response
