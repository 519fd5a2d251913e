"""A large body may come in parts, but not for ever."""

from __future__ import annotations

import asyncio
from typing import Any

import pytest
from starlette.types import Receive, Scope, Send

from urdaten.platform import guards


async def taking(_scope: Scope, receive: Receive, send: Send) -> None:
    """Takes the body, waits for whatever comes after it, and says how large it was."""
    size, more = 0, True
    while more:
        message = await receive()
        size += len(message.get("body", b""))
        more = message.get("more_body", False)
    assert (await receive())["type"] == "http.disconnect"
    await send({"type": "http.response.start", "status": 200, "headers": []})
    await send({"type": "http.response.body", "body": str(size).encode()})


def answered(parts: list[tuple[float, bytes]], silent_s: float) -> tuple[int, bytes]:
    """Status and body of the answer to a body whose parts come after these seconds; then nothing for some time."""
    app = guards.Guards(taking, ("here",), {"/import": 50_000_000})
    scope = {
        "type": "http",
        "method": "POST",
        "path": "/import",
        "headers": [(b"host", b"here"), (b"origin", b"http://here")],
    }
    said: list[Any] = []
    left = iter(parts)

    async def receive() -> Any:
        for after, part in left:
            await asyncio.sleep(after)
            return {"type": "http.request", "body": part, "more_body": bool(part)}
        await asyncio.sleep(silent_s)
        return {"type": "http.disconnect"}

    async def send(message: Any) -> None:
        said.append(message)

    asyncio.run(app(scope, receive, send))
    return said[0]["status"], said[1]["body"]


@pytest.fixture(autouse=True)
def quicker(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(guards, "BODY_S", 0.3)
    monkeypatch.setattr(guards, "BYTES_A_SECOND", 100)


def test_one_that_trickles_is_not_waited_for() -> None:
    status, said = answered([(0.1, b"x")] * 60, 0)
    assert status == 408
    assert b"too long" in said


def test_one_that_comes_at_a_fair_pace_may_take_longer() -> None:
    parts = [(0.1, b"x" * 20)] * 8
    assert answered([*parts, (0, b"")], 0) == (200, b"160")


def test_what_comes_after_it_is_waited_for_as_long_as_it_takes() -> None:
    assert answered([(0, b"xy"), (0, b"")], 1.0) == (200, b"2")
