"""Connections that say nothing, or very slowly, are closed."""

from __future__ import annotations

import asyncio
import json

from uvicorn.protocols.http.h11_impl import H11Protocol

# How long a connection may take until the head of its request is there.
HEAD_SECONDS = 15.0
# So many connections are open at a time; whoever comes then is told to come again. A page has one or two of them.
MOST_CONNECTIONS = 500
_FULL = (
    b"HTTP/1.1 503 Service Unavailable\r\nContent-Type: application/problem+json\r\nRetry-After: 5\r\n"
    b"Connection: close\r\nContent-Length: %d\r\n\r\n%s"
)
_PROBLEM = json.dumps(
    {
        "type": "urn:urdaten:busy",
        "title": "Busy",
        "status": 503,
        "detail": "Too many are connected at once; nothing was changed. Try again in a moment.",
    }
).encode()


class PatientProtocol(H11Protocol):
    """HTTP/1.1 with an end to the wait for a request's head; its body is bounded in time by who reads it."""

    _end: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override] # as in the base
        super().connection_made(transport)
        if len(self.connections) > MOST_CONNECTIONS:
            transport.write(_FULL % (len(_PROBLEM), _PROBLEM))
            transport.close()
            return
        self._wait()

    def data_received(self, data: bytes) -> None:
        before = self.cycle
        super().data_received(data)
        if self.cycle is not before:
            self._stop_waiting()
        elif self._end is None and (before is None or before.response_complete):
            self._wait()

    def connection_lost(self, exc: Exception | None) -> None:
        self._stop_waiting()
        super().connection_lost(exc)

    def _wait(self) -> None:
        self._end = self.loop.call_later(HEAD_SECONDS, self.transport.close)

    def _stop_waiting(self) -> None:
        if self._end is not None:
            self._end.cancel()
            self._end = None
