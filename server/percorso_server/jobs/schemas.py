"""Shapes and headers the job endpoints share."""

import re
from collections.abc import Mapping
from datetime import datetime
from typing import Annotated
from uuid import UUID, uuid4

from django.http import HttpResponse
from django.utils import timezone
from ninja import Header, Schema
from pydantic import BaseModel, ConfigDict

Key = Annotated[UUID, Header(default_factory=uuid4, alias="Idempotency-Key")]

AS_CSV = {"responses": {200: {"description": "OK", "content": {"text/csv": {"schema": {"type": "string"}}}}}}


class Body(BaseModel):
    """A request body: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Saved(Schema):
    """A change that is safely written, and the new version of each row it touched, by id."""

    label: str
    saved_at: datetime
    versions: dict[str, int]


def as_json(view: BaseModel) -> HttpResponse:
    """A view that is its own proof: written straight to JSON, without Ninja validating it a second time."""
    return HttpResponse(view.model_dump_json(), content_type="application/json")


def csv_answer(text: str, *named: str) -> HttpResponse:
    """A file for a spreadsheet, called after what it is of."""
    called = re.sub(r"[^A-Za-z0-9]+", "-", " ".join(named)).strip("-").lower()
    disposition = {"Content-Disposition": f'attachment; filename="{called}.csv"'}
    return HttpResponse(text, content_type="text/csv; charset=utf-8", headers=disposition)


def saved(label: str, versions: Mapping[str, int] | None = None) -> Saved:
    """The answer to a change that is written."""
    return Saved(label=label, saved_at=timezone.now(), versions=dict(versions or {}))
