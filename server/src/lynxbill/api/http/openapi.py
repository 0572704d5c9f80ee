"""How problems are described: every operation answers them as RFC 9457 says, and in no other form."""

from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi

from lynxbill.api.http.errors import MEDIA_TYPE
from lynxbill.api.wire.problems import ProblemOut

PROBLEMS: dict[int | str, dict[str, Any]] = {"default": {"model": ProblemOut, "description": "A problem, RFC 9457"}}
# What the framework would say of a body that can't be read; here that is a problem like every other.
_FRAMEWORKS = ("HTTPValidationError", "ValidationError")


def describe_problems(app: FastAPI) -> None:
    """Give problems their own media type in the description of the application."""

    def description() -> dict[str, Any]:
        if not app.openapi_schema:
            app.openapi_schema = _describe(app)
        return app.openapi_schema

    app.openapi = description  # type: ignore[method-assign]


def _describe(app: FastAPI) -> dict[str, Any]:
    described = get_openapi(
        title=app.title, version=app.version, openapi_version=app.openapi_version, routes=app.routes
    )
    for path in described["paths"].values():
        for operation in path.values():
            answers = operation["responses"]
            answers.pop("422", None)
            answers["default"]["content"] = {MEDIA_TYPE: answers["default"]["content"]["application/json"]}
    for name in _FRAMEWORKS:
        described["components"]["schemas"].pop(name, None)
    return described
