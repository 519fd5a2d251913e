"""Urdaten: from running text to records that can be trusted."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from urdaten.core.bundle import Runner

__all__ = ["load"]


def load(path: str | Path) -> Runner:
    """A bundle, ready to run: `urdaten.load("port.bundle").run(texts)` gives of each text what is found in it.

    Raises BadFile that names the part of the file that cannot be read.
    """
    # The numerics are loaded by whoever needs them.
    from urdaten.core.bundle import Runner, read_file

    return Runner(read_file(Path(path)))
