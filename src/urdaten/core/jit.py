"""How kernels are compiled: once, cached on disk, without the interpreter's lock.

Kernels stand at module level (one closed over others is never found in the cache again) and may be
inlined into each other over files, so the cache is kept under a digest of all of them.
"""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar, cast

import numba

_HERE = Path(__file__).parent
_KERNELS = (
    "tagger/kernels/*.py",
    "rules/pattern/*.py",
    "rules/machine.py",
    "lists/kernels.py",
    "pipeline/kernels.py",
    "records/kernels.py",
)
_SOURCES = [Path(__file__), *(file for pattern in _KERNELS for file in _HERE.glob(pattern))]
_DIGEST = hashlib.sha256(b"".join(file.read_bytes() for file in sorted(_SOURCES))).hexdigest()[:16]
R = TypeVar("R")

# Sums may be reordered and products fused, so that loops use the whole width of the processor; values that
# are not finite keep their meaning.
_FASTMATH = {"reassoc", "contract", "nsz", "arcp"}


def _cache_folder() -> None:
    folder = _HERE / "__pycache__" / f"kernels-{_DIGEST}"
    try:
        # What other versions of the kernels left behind is of no use to anyone.
        for old in folder.parent.glob("kernels-*"):
            if old != folder:
                shutil.rmtree(old, ignore_errors=True)
        folder.mkdir(parents=True, exist_ok=True)
    except OSError:
        return  # a folder that cannot be written: the compiler chooses one of its own
    if os.access(folder, os.W_OK):
        numba.config.CACHE_DIR = str(folder)  # type: ignore[attr-defined] # set while it is loaded


_cache_folder()


def kernel(function: Callable[..., R]) -> Callable[..., R]:
    """Compile for the types it is first called with, and keep what was compiled.

    Arguments are the compiler's to check: kernels are handed runs of arrays, which types cannot follow.
    """
    return cast(
        "Callable[..., R]",
        numba.njit(cache=True, nogil=True, fastmath=_FASTMATH, error_model="numpy")(function),
    )
