"""Acts at the Desk, as the API takes them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from conftest import Api


def act(kind: str, version: int, spans: Sequence[dict[str, Any]] = (), **more: Any) -> dict[str, Any]:
    """The wish for an act of this kind: one that carries no spans gets none."""
    carried: dict[str, Any] = {} if kind in {"unsign", "ask", "answer"} else {"spans": list(spans)}
    return {"kind": kind, "version": version} | carried | more


def stave_pages(api: Api, path: str, **wish: Any) -> list[list[dict[str, Any]]]:
    """The staves of every page, from the first to the last."""
    told: list[list[dict[str, Any]]] = []
    after: dict[str, int] = {}
    while True:
        page = api.get(path, **wish, **after)
        told.append(page["staves"])
        if page["next"] is None:
            return told
        assert page["next"] == told[-1][-1]["sentence_id"]
        after = {"after": page["next"]}
