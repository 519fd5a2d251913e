"""Acts at the Desk, as the API takes them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any


def act(kind: str, version: int, spans: Sequence[dict[str, Any]] = (), **more: Any) -> dict[str, Any]:
    """The wish for an act of this kind: one that carries no spans gets none."""
    carried: dict[str, Any] = {} if kind in {"unsign", "ask", "answer"} else {"spans": list(spans)}
    return {"kind": kind, "version": version} | carried | more
