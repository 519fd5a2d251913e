"""The OpenAPI document: everything that can be sent has an upper bound, and nothing that is sent breaks the server."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from schemathesis.core.result import Ok

from conftest import ORIGIN, Api, settings_for
from urdaten.platform.postgres import Cluster
from urdaten.platform.settings import Settings
from urdaten.server.application import build
from urdaten.server.document import document_of

_SETTINGS = Settings(web_dir=Settings().web_dir.parent / "nowhere")
DOCUMENT: dict[str, Any] = document_of(build(_SETTINGS), _SETTINGS)
SCHEMAS: dict[str, Any] = DOCUMENT["components"]["schemas"]


def resolved(schema: dict[str, Any]) -> dict[str, Any]:
    while "$ref" in schema:
        schema = SCHEMAS[schema["$ref"].rsplit("/", 1)[1]]
    return schema


def parts(
    schema: dict[str, Any], where: str, seen: frozenset[int] = frozenset()
) -> Iterator[tuple[str, dict[str, Any]]]:
    schema = resolved(schema)
    if id(schema) in seen:
        return
    seen |= {id(schema)}
    yield where, schema
    for name, member in schema.get("properties", {}).items():
        yield from parts(member, f"{where}.{name}", seen)
    for word in ("anyOf", "oneOf", "allOf"):
        for one in schema.get(word, ()):
            yield from parts(one, where, seen)
    if "items" in schema:
        yield from parts(schema["items"], f"{where}[]", seen)


def everything_sent() -> Iterator[tuple[str, dict[str, Any]]]:
    for path, operations in DOCUMENT["paths"].items():
        for method, operation in operations.items():
            where = f"{method.upper()} {path}"
            for parameter in operation.get("parameters", ()):
                yield from parts(parameter["schema"], f"{where} ?{parameter['name']}")
            for content in operation.get("requestBody", {}).get("content", {}).values():
                yield from parts(content["schema"], where)


def test_every_string_list_and_number_that_is_sent_is_bounded() -> None:
    found = list(everything_sent())
    assert len(found) > 300
    unbounded = []
    for where, schema in found:
        kind = schema.get("type")
        fixed = "enum" in schema or "const" in schema or "format" in schema
        if kind == "string" and not fixed and "maxLength" not in schema:
            unbounded.append(where)
        if kind == "array" and "maxItems" not in schema:
            unbounded.append(where)
        if kind == "integer" and not fixed and not {"maximum", "exclusiveMaximum"} & schema.keys():
            unbounded.append(where)
    assert unbounded == []


def test_what_is_sent_names_no_member_that_is_not_known() -> None:
    bodies = [
        resolved(content["schema"])
        for operations in DOCUMENT["paths"].values()
        for operation in operations.values()
        for content in operation.get("requestBody", {}).get("content", {}).values()
    ]
    assert len(bodies) > 30
    for body in bodies:
        for one in body.get("oneOf", [body]):
            for alternative in resolved(one).get("anyOf", [one]):
                shape = resolved(alternative)
                if shape.get("type") == "object":
                    assert shape.get("additionalProperties") is False, shape.get("title")


# What ends the session that the tests use, or begins long work.
LEFT_OUT = {
    "signOut",
    "endOtherSessions",
    "endSession",
    "changePassword",
    "importArchive",
    "downloadArchive",
    "binProject",
    "deleteProject",
    "leaveProject",
}


def operations() -> Iterator[Any]:
    for result in schemathesis.openapi.from_dict(DOCUMENT).get_all_operations():
        assert isinstance(result, Ok)
        operation = result.ok()
        if operation.definition.raw["operationId"] not in LEFT_OUT:
            yield operation


OPERATIONS = list(operations())


@pytest.fixture(scope="module")
def signed_in(cluster: Cluster, demo_template: str) -> Iterator[Api]:
    """One database for all: what one request changes the next one finds."""
    name = "test_document"
    cluster.create_database(name, demo_template)
    settings = settings_for(cluster, name)
    yield Api(build(settings), settings).sign_in("ines")
    from urdaten.platform.database import engine_for

    engine_for(settings.database_url).dispose()
    cluster.drop_database(name)


@pytest.mark.parametrize("operation", OPERATIONS, ids=lambda o: o.definition.raw["operationId"])
def test_nothing_that_fits_the_document_breaks_the_server(signed_in: Api, operation: Any) -> None:
    document = operation.definition.raw

    @hypothesis_settings(
        max_examples=12,
        deadline=None,
        database=None,
        derandomize=True,
        suppress_health_check=list(HealthCheck),
    )
    @given(case=operation.as_strategy())
    def hold(case: Any) -> None:
        if "project" in (case.path_parameters or {}):
            case.path_parameters["project"] = "tessmar"
        sent = case.as_transport_kwargs(base_url=ORIGIN)
        answer = signed_in.request(
            case.method,
            sent["url"].removeprefix(ORIGIN),
            **{name: sent[name] for name in ("params", "json", "content") if sent.get(name) is not None},
        )
        assert answer.status_code < 500, (case.method, case.formatted_path, answer.text)
        if answer.status_code >= 400:
            assert answer.headers["content-type"] == "application/problem+json"
        else:
            assert str(answer.status_code) in document["responses"]

    hold()
