"""Our errors as problem details."""

from __future__ import annotations

import pytest

from conftest import Api
from urdaten import errors
from urdaten.platform.problems import STATUS, status_of


def every_error() -> list[type[errors.UrdatenError]]:
    found = [errors.UrdatenError]
    for cls in found:
        found += cls.__subclasses__()
    return found


@pytest.mark.parametrize("cls", every_error())
def test_every_error_has_a_status_and_says_what_to_do(cls: type[errors.UrdatenError]) -> None:
    assert 400 <= status_of(cls) <= 599
    assert len(cls().message) > 20, "the docstring is the default message"
    assert cls.__name__ in (errors.__doc__ or ""), "the tree at the top of the module names it"


def test_the_nearest_ancestor_decides() -> None:
    assert status_of(errors.BadSpan) == STATUS[errors.BadInput] == 422
    assert status_of(errors.NotSignedIn) == 401
    assert status_of(errors.StaleWrite) == 409


def test_problems_are_problem_details(api: Api) -> None:
    answer = api.request("GET", "/api/projects/nowhere/types")
    assert answer.status_code == 404
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.json() == {
        "type": "urn:urdaten:not-found",
        "title": "Not found",
        "status": 404,
        "detail": "There is no project “nowhere” that you belong to.",
    }


def test_a_malformed_body_is_named_with_its_place(api: Api) -> None:
    answer = api.request(
        "POST", "/api/projects/tessmar/types", content=b"{", headers={"Content-Type": "application/json"}
    )
    assert answer.status_code == 422
    assert answer.json()["type"] == "urn:urdaten:malformed-request"
    wrong = api.post("/texts", {"title": "x", "body": 7, "colour": "red"}, expect=422)
    assert {fault["where"] for fault in wrong["faults"]} == {"body.body", "body.colour"}


def test_an_unknown_address_and_method_are_problems_too(api: Api) -> None:
    for method, path, status in (("GET", "/api/nothing", 404), ("DELETE", "/api/me", 405)):
        answer = api.request(method, path)
        assert answer.status_code == status
        assert answer.headers["content-type"] == "application/problem+json"
