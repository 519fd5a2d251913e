"""Running a bundle in several processes: the same answers in the same order, sooner."""

from __future__ import annotations

import multiprocessing
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from multiprocessing.pool import AsyncResult
from typing import Any, TypeVar

from urdaten.core.bundle import Extraction, Incoming, Runner, portions
from urdaten.core.records import Assembler

A = TypeVar("A")
# So many portions of each process are on their way.
_AHEAD = 3
# What the processes share with the one that began them; it is there before they are.
_shared: tuple[Runner, Assembler | None, Callable[[Sequence[Extraction]], Any]] | None = None


def run_many(
    runner: Runner,
    texts: Iterable[Incoming],
    tell: Callable[[Sequence[Extraction]], A],
    processes: int = 1,
    template: str = "",
) -> Iterator[A]:
    """What `tell` makes of what is found in each portion of texts, in their order. `tell` runs where the texts are read."""
    chosen = runner.bundle.assembler(template) if template else None
    if processes == 1:
        for portion in portions(texts):
            yield tell(runner.read(portion, chosen))
        return
    global _shared
    _shared = runner, chosen, tell
    # Forked, so that nobody reads the bundle again; no kernel of ours has threads of its own.
    with multiprocessing.get_context("fork").Pool(processes) as pool:
        waiting: deque[AsyncResult[A]] = deque()
        for portion in portions(texts):
            waiting.append(pool.apply_async(_read, (portion,)))
            if len(waiting) >= _AHEAD * processes:
                yield waiting.popleft().get()
        while waiting:
            yield waiting.popleft().get()


def _read(portion: list[Incoming]) -> Any:
    assert _shared is not None
    runner, assembler, tell = _shared
    return tell(runner.read(portion, assembler))
