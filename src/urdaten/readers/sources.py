"""Files that a source on this machine stands for: one file, or all of a folder."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

from urdaten.errors import BadFile

MOST_FILES = 100_000


def files_of(source: Path) -> list[tuple[str, Path]]:
    """Each file with the name that it goes by; those of a folder by their way from it, in the order of their names.

    What begins with a dot is left out, and no link is followed out of the folder. Raises BadFile for what is not there.
    """
    if source.is_file():
        return [(_named(source.name), source)]
    if not source.is_dir():
        raise BadFile(f"There is no file or folder {source}.")
    files = list(_walk(source))
    if len(files) > MOST_FILES:
        raise BadFile(f"The folder {source} holds more than {MOST_FILES} files; name a part of it.")
    return files


def _walk(folder: Path) -> Iterator[tuple[str, Path]]:
    count = 0
    for where, folders, names in os.walk(folder):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        for name in sorted(names):
            path = Path(where, name)
            if not name.startswith(".") and path.is_file() and not path.is_symlink():
                count += 1
                yield _named(str(path.relative_to(folder))), path
                if count > MOST_FILES:
                    return


def _named(name: str) -> str:
    """A name that can be written, whatever bytes the system has for it."""
    return name.encode(errors="surrogateescape").decode(errors="replace")
