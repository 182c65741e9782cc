"""What the API promises besides each endpoint's own answer: the same shape for every refusal, and when which comes."""

from typing import Any

from django.http import HttpRequest
from ninja import NinjaAPI, Schema
from ninja.errors import ValidationError, ValidationErrorContext
from ninja.openapi.schema import OpenAPISchema
from ninja.operation import Operation
from ninja.parser import Parser

from percorso.json_text import read_json
from percorso_server.config.problems import field_of

REFUSALS = {
    400: "what was sent cannot be read at all",
    401: "nobody is signed in",
    403: "the request does not prove that it comes from Percorso's own page",
    404: "there is no such thing in this shop",
    409: "somebody else was faster; `row` says of what, `current` is what is there now",
    422: "something in it is wrong: `problems` says where and what",
    503: "the database does not answer; nothing was written",
}


class JsonBody(Parser):
    """Bodies of requests are read as strictly as files."""

    def parse_body(self, request: HttpRequest) -> dict[str, Any]:
        """What was sent. Raises ValueError, which Ninja answers with 400."""
        sent: dict[str, Any] = read_json(request.body.decode(), any_number=True)
        return sent


class Problem(Schema):
    """What is wrong, and with which field, as the path to it."""

    field: list[str | int]
    message: str


class Problems(Schema):
    """Why something was not done; nothing was written."""

    code: str
    message: str
    problems: list[Problem]
    row: str | None = None
    current: Any = None


class Api(NinjaAPI):
    """The API with its refusals in its contract, and each operation called as its function."""

    def get_openapi_operation_id(self, operation: Operation) -> str:
        """The name that scripts and the browser know it by, wherever the function stands."""
        return operation.view_func.__name__

    def validation_error_from_error_contexts(
        self, error_contexts: list[ValidationErrorContext[Any]]
    ) -> ValidationError:
        """What pydantic says of a request, with the field that the core blames where pydantic knows only the whole."""
        blamed = [
            field_of(each)
            for context in error_contexts
            for each in context.pydantic_validation_error.errors(include_url=False)
        ]
        told = super().validation_error_from_error_contexts(error_contexts)
        for error, field in zip(told.errors, blamed, strict=True):
            error["loc"] = (*error["loc"], *field)
        return told

    def get_openapi_schema(self, **kwargs: Any) -> OpenAPISchema:
        """The contract: every operation may also be refused."""
        schema = super().get_openapi_schema(**kwargs)
        definition = Problems.model_json_schema(ref_template="#/components/schemas/{model}")
        schema["components"]["schemas"] |= {**definition.pop("$defs"), "Problems": definition}
        refused = {"application/json": {"schema": {"$ref": "#/components/schemas/Problems"}}}
        for operations in schema["paths"].values():
            for operation in operations.values():
                for status, when in REFUSALS.items():
                    operation["responses"].setdefault(status, {"description": when, "content": refused})
        return schema
