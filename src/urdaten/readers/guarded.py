"""Files read by another process, which is bounded in memory and in time and may fall over without harm."""

from __future__ import annotations

import json
import os
import selectors
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from urdaten.errors import Stopped
from urdaten.readers.document import How, HowNames, Item, Refusal
from urdaten.readers.limits import MEGABYTE
from urdaten.readers.wire import how_values, item_of

# How often whoever waits is asked whether to go on, in seconds.
_LOOK_S = 0.2


@dataclass(frozen=True, kw_only=True)
class Limits:
    """Of the process: its memory in bytes, and the time from one document to the next, in seconds."""

    memory: int = 2048 * MEGABYTE
    patience_s: float = 60.0


@dataclass(frozen=True)
class Ended:
    """A file has been read to its end."""

    number: int


def read_guarded(
    files: Sequence[tuple[str, Path]],
    how: How | HowNames,
    limits: Limits | None = None,
    stop: Callable[[], bool] = lambda: False,
) -> Iterator[tuple[int, Item | Ended]]:
    """What the files hold, each with the number of its file, and an Ended after the last of each.

    A file that takes too long, too much memory or the process down with it ends in a Refusal, and the next one is read.
    Raises Stopped when `stop` says so.
    """
    limits = limits or Limits()
    next_ = 0
    while next_ < len(files):
        begun = next_
        for number, item in _run(files, next_, how, limits, stop):
            if isinstance(item, Ended):
                next_ = number + 1
            yield number, item
        assert next_ > begun


def _run(
    files: Sequence[tuple[str, Path]],
    first: int,
    how: How | HowNames,
    limits: Limits,
    stop: Callable[[], bool],
) -> Iterator[tuple[int, Item | Ended]]:
    """One process, as far as it comes; the file that it falls over is refused."""
    request = {
        "how": how_values(how),
        "files": [[n, name, str(path)] for n, (name, path) in enumerate(files) if n >= first],
        "memory": limits.memory,
    }
    process = subprocess.Popen(
        [sys.executable, "-m", "urdaten.readers"],
        # The interpreter that runs here, also where whoever runs it may not go to its folder by themselves.
        executable="/proc/self/exe",
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        # It needs nothing of what this process knows of the database.
        env={name: value for name, value in os.environ.items() if not name.startswith(("URDATEN_", "PG"))}
        | {"OPENBLAS_NUM_THREADS": "1"},
        start_new_session=True,
    )
    assert process.stdin is not None
    at = first
    try:
        try:
            process.stdin.write(json.dumps(request).encode() + b"\n")
            process.stdin.close()
        except BrokenPipeError:
            pass
        why = "The process that read it fell over; it is damaged, or made to do harm."
        try:
            for line in _lines(process, limits.patience_s, stop):
                kind, value = json.loads(line)
                if kind == "begins":
                    at = value
                elif kind == "ends":
                    yield value, Ended(value)
                    at = value + 1
                else:
                    yield at, item_of(kind, value)
        except TimeoutError:
            why = f"Reading it was given up: nothing came of it for {limits.patience_s:g} seconds."
        if at < len(files):
            yield at, Refusal(source=files[at][0], why=why)
            yield at, Ended(at)
    finally:
        process.kill()
        process.wait()
        if process.stdout is not None:
            process.stdout.close()


def _lines(process: subprocess.Popen[bytes], patience_s: float, stop: Callable[[], bool]) -> Iterator[bytes]:
    """Whole lines as they come. Raises TimeoutError after so long without one, and Stopped."""
    assert process.stdout is not None
    out = process.stdout.fileno()
    os.set_blocking(out, False)
    held = bytearray()
    with selectors.DefaultSelector() as selector:
        selector.register(out, selectors.EVENT_READ)
        last = time.monotonic()
        while True:
            if stop():
                raise Stopped("Stopped while files were read; nothing was kept.")
            if not selector.select(timeout=min(_LOOK_S, patience_s)):
                if time.monotonic() - last > patience_s:
                    raise TimeoutError
                continue
            part = os.read(out, 1 << 20)
            if not part:
                return
            last = time.monotonic()
            held += part
            whole, end, rest = bytes(held).rpartition(b"\n")
            if end:
                held = bytearray(rest)
                yield from whole.split(b"\n")
                # Time that whoever reads the lines took is not the process's.
                last = time.monotonic()
