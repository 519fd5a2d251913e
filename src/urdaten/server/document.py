"""The OpenAPI document, with what FastAPI does not say by itself: problems as problems, and who has to be signed in."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from fastapi import FastAPI
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute

from urdaten.platform.problems import MEDIA_TYPE
from urdaten.platform.settings import Settings
from urdaten.platform.web import anybody

_PROBLEM = {"$ref": "#/components/schemas/Problem"}


def dependencies_of(dependant: Dependant) -> Iterator[Any]:
    """Every function that a route leans on, directly or through others."""
    for part in dependant.dependencies:
        yield part.call
        yield from dependencies_of(part)


def document_of(app: FastAPI, settings: Settings) -> dict[str, Any]:
    """The document of an application."""
    document = app.openapi()
    document["components"]["securitySchemes"] = {
        "session": {"type": "apiKey", "in": "cookie", "name": settings.cookie}
    }
    is_open = {
        (route.path, method.lower())
        for route in app.routes
        if isinstance(route, APIRoute) and anybody in set(dependencies_of(route.dependant))
        for method in route.methods or ()
    }
    for path, operations in document["paths"].items():
        for method, operation in operations.items():
            responses = operation["responses"]
            # Whatever goes wrong is answered in one form, and 422 is no exception.
            responses.pop("422", None)
            responses["default"] = {
                "description": "a problem, RFC 9457",
                "content": {MEDIA_TYPE: {"schema": _PROBLEM}},
            }
            operation["security"] = [] if (path, method) in is_open else [{"session": []}]
    for unused in ("HTTPValidationError", "ValidationError"):
        document["components"]["schemas"].pop(unused, None)
    return document
