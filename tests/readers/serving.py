"""Applications served on loopback for tests."""

from __future__ import annotations

import socket
import threading
import time

import uvicorn
from starlette.applications import Starlette


class Served:
    """An application on loopback, in a thread."""

    def __init__(self, app: Starlette) -> None:
        self._socket = socket.socket()
        self._socket.bind(("127.0.0.1", 0))
        self.address = f"http://127.0.0.1:{self._socket.getsockname()[1]}"
        self._server = uvicorn.Server(uvicorn.Config(app, log_level="warning"))
        self._thread = threading.Thread(target=lambda: self._server.run(sockets=[self._socket]), daemon=True)
        self._thread.start()
        while not self._server.started:
            time.sleep(0.01)

    def stop(self) -> None:
        self._server.should_exit = True
        self._thread.join(10)
        self._socket.close()
