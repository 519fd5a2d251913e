"""Clients that take their time."""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import closing, suppress
from typing import Any

import pytest
import uvicorn

from urdaten.platform import patience

HEAD = b"GET / HTTP/1.1\r\nHost: here\r\n"


async def answer(_: dict[str, Any], receive: Any, send: Any) -> None:
    while (await receive()).get("more_body"):
        pass
    await send({"type": "http.response.start", "status": 200, "headers": [(b"content-length", b"2")]})
    await send({"type": "http.response.body", "body": b"ok"})


@pytest.fixture
def port(monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    monkeypatch.setattr(patience, "HEAD_SECONDS", 0.4)
    config = uvicorn.Config(answer, http=patience.PatientProtocol, lifespan="off", log_level="critical")
    server = uvicorn.Server(config)
    with socket.create_server(("127.0.0.1", 0)) as listening:
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
        thread.start()
        yield listening.getsockname()[1]
        server.should_exit = True
        thread.join(10)


def connected(port: int) -> closing[socket.socket]:
    return closing(socket.create_connection(("127.0.0.1", port), timeout=10))


def assert_served(client: socket.socket) -> None:
    said = b""
    while not said.endswith(b"\r\n\r\nok"):
        part = client.recv(1000)
        assert part, said
        said += part


def test_a_head_that_trickles_in_is_not_waited_for(port: int) -> None:
    begun = time.monotonic()
    # Either is how it ends, by whether the last letter came before the close.
    with suppress(ConnectionError), connected(port) as client:
        client.settimeout(0.05)
        said = None
        while said != b"" and time.monotonic() < begun + 8:
            client.sendall(b"G")
            with suppress(TimeoutError):
                said = client.recv(100)
    assert time.monotonic() < begun + 8


def test_a_connection_that_says_nothing_is_closed(port: int) -> None:
    with connected(port) as client:
        assert client.recv(100) == b""


def test_a_second_head_has_an_end_too(port: int) -> None:
    with connected(port) as client:
        client.sendall(HEAD + b"\r\n")
        assert_served(client)
        client.sendall(HEAD)
        begun = time.monotonic()
        assert client.recv(100) == b""
        assert time.monotonic() - begun < 4


def test_only_so_many_are_connected_at_a_time(port: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(patience, "HEAD_SECONDS", 30.0)
    monkeypatch.setattr(patience, "MOST_CONNECTIONS", 2)
    with connected(port) as first, connected(port) as second:
        for client in (first, second):
            client.sendall(HEAD + b"\r\n")
            assert_served(client)
        with connected(port) as third:
            said = b""
            while part := third.recv(1000):
                said += part
        head, _, body = said.partition(b"\r\n\r\n")
        assert head.startswith(b"HTTP/1.1 503 ")
        assert b"application/problem+json" in head
        assert b"Retry-After" in head
        assert json.loads(body)["status"] == 503
        first.sendall(HEAD + b"\r\n")
        assert_served(first)
    for _ in range(100):
        with connected(port) as client, suppress(ConnectionError):
            client.sendall(HEAD + b"\r\n")
            if client.recv(1000).startswith(b"HTTP/1.1 200 "):
                return
        time.sleep(0.05)
    pytest.fail("there was no room again when the first had gone")


def test_who_sends_in_time_is_served_and_a_slow_body_is_not_a_slow_head(port: int) -> None:
    with connected(port) as client:
        client.sendall(HEAD + b"\r\n")
        assert_served(client)
        client.sendall(b"POST / HTTP/1.1\r\nHost: here\r\nContent-Length: 4\r\n\r\n")
        for _ in range(4):
            time.sleep(0.25)
            client.sendall(b"x")
        assert_served(client)
