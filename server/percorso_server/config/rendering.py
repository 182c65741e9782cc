"""How answers are written: as JSON by pydantic, five times as fast as Python alone."""

from typing import Any

from django.http import HttpRequest
from ninja.renderers import BaseRenderer
from pydantic_core import to_json


class Json(BaseRenderer):
    """Compact JSON."""

    media_type = "application/json"

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> bytes:
        """The bytes of an answer; a number that is none is null."""
        return to_json(data, inf_nan_mode="null")
