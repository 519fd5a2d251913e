"""The file around an archive: whoever hands it in may mean ill, so it is checked whole before anything is read from it."""

from __future__ import annotations

import hashlib
import json
import re
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from typing import IO, Any, cast, get_args

from urdaten.core.spans import Overlap
from urdaten.core.text import LANGUAGES
from urdaten.errors import BadFile
from urdaten.server.archive.parts import PARTS
from urdaten.server.archive.writing import FORMAT, VERSION

MOST_FILES = 2000
MOST_BYTES = 4_000_000_000
MOST_BYTES_OF_MANIFEST = 2_000_000
MOST_BYTES_OF_LINE = 64_000_000
# A text that is packed closer than this is no text.
MOST_PACKED = 200
_NAME = re.compile(r"[a-z_]{1,40}\.jsonl|taggers/[1-9][0-9]{0,8}\.tagger")
_BLOCK = 1 << 20
LINES = frozenset({"people.jsonl", "type_links.jsonl", *(f"{name}.jsonl" for name in PARTS)})
# Those that every archive has.
NEEDED = LINES - {f"{name}.jsonl" for name, part in PARTS.items() if part.later}


@dataclass(frozen=True, kw_only=True)
class Head:
    """What the manifest says of the project itself."""

    name: str
    slug: str
    language: str
    overlap: Overlap
    abbreviations: frozenset[str]
    retrain_after: int


class Container:
    """An archive whose container is as it should be: known files, bearable sizes, the right hashes."""

    def __init__(self, file: IO[bytes]) -> None:
        """Raises BadFile that says what is wrong."""
        try:
            self._zip = zipfile.ZipFile(file)
        except (zipfile.BadZipFile, OSError, ValueError, EOFError) as fault:
            raise BadFile("This is no archive of a project, or it is cut off.") from fault
        self._check_names()
        manifest = self._manifest()
        self.head = _head(manifest.get("project"))
        self._check_files(manifest.get("files"))
        # How far `lines` has come, and how far it goes when every file is read once.
        self.bytes_read = 0
        self.bytes_of_lines = sum(self._zip.getinfo(name).file_size for name in LINES if self.has(name))

    def _check_names(self) -> None:
        entries = self._zip.infolist()
        if len(entries) > MOST_FILES:
            raise BadFile(f"The archive holds {len(entries)} files; it may have {MOST_FILES}.")
        names = [entry.filename for entry in entries]
        if len(set(names)) < len(names):
            raise BadFile("The archive holds a file twice.")
        total = 0
        for entry in entries:
            known = _NAME.fullmatch(entry.filename) and (
                entry.filename in LINES or entry.filename.startswith("taggers/")
            )
            if entry.filename != "manifest.json" and not known:
                raise BadFile(f"“{entry.filename[:80]}” has no place in an archive.")
            if entry.compress_type not in {zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED} or entry.flag_bits & 1:
                raise BadFile(f"“{entry.filename}” is packed in a way that is not read here.")
            if entry.file_size > MOST_PACKED * max(entry.compress_size, 1000):
                raise BadFile(f"“{entry.filename}” is packed closer than any text can be.")
            total += entry.file_size
        if total > MOST_BYTES:
            raise BadFile(f"The archive unpacks to {total} bytes; it may have {MOST_BYTES}.")
        if missing := sorted((NEEDED | {"manifest.json"}) - set(names)):
            raise BadFile(f"“{missing[0]}” is missing from the archive.")

    def _manifest(self) -> dict[str, Any]:
        if self._zip.getinfo("manifest.json").file_size > MOST_BYTES_OF_MANIFEST:
            raise BadFile("The manifest is too large.")
        try:
            manifest = json.loads(b"".join(self._blocks("manifest.json")))
        except (ValueError, RecursionError) as fault:
            raise BadFile("The manifest is no JSON.") from fault
        if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
            raise BadFile("This is no archive of a project.")
        if manifest.get("version") != VERSION:
            raise BadFile(
                f"The archive has version {str(manifest.get('version'))[:20]}, and {VERSION} is read here; "
                "a newer Urdaten may be needed."
            )
        return manifest

    def _check_files(self, told: object) -> None:
        names = {name for name in self._zip.namelist() if name != "manifest.json"}
        if not isinstance(told, dict) or set(told) != names:
            raise BadFile("The manifest names other files than the archive holds.")
        for name, facts in told.items():
            digest, size = hashlib.sha256(), 0
            for block in self._blocks(name):
                digest.update(block)
                size += len(block)
            if not isinstance(facts, dict) or (facts.get("sha256"), facts.get("bytes")) != (
                digest.hexdigest(),
                size,
            ):
                raise BadFile(f"“{name}” is not what the manifest says: its hash differs.")

    def _blocks(self, name: str) -> Iterator[bytes]:
        """A file's content, no more of it than its entry says."""
        left = self._zip.getinfo(name).file_size
        try:
            with self._zip.open(name) as file:
                while block := file.read(_BLOCK):
                    left -= len(block)
                    if left < 0:
                        raise BadFile(f"“{name}” is longer than it says.")
                    yield block
        except (zipfile.BadZipFile, OSError, EOFError, NotImplementedError, RuntimeError) as fault:
            raise BadFile(f"“{name}” cannot be unpacked; the archive is damaged.") from fault
        except Exception as fault:
            if type(fault).__module__ == "zlib":
                raise BadFile(f"“{name}” cannot be unpacked; the archive is damaged.") from fault
            raise

    def lines(self, name: str) -> Iterator[bytes]:
        """The lines of a file, from the first."""
        with self._zip.open(name) as file:
            while line := file.readline(MOST_BYTES_OF_LINE + 1):
                self.bytes_read += len(line)
                if len(line) > MOST_BYTES_OF_LINE:
                    raise BadFile("the line is too long")
                yield line

    def has(self, name: str) -> bool:
        """Is there such a file?"""
        return name in self._zip.namelist()

    def content(self, name: str) -> bytes:
        """A whole file. Raises BadFile for one that is not there."""
        if name not in self._zip.namelist():
            raise BadFile(f"“{name}” is not in the archive")
        return b"".join(self._blocks(name))


def _head(told: object) -> Head:
    if not isinstance(told, dict):
        raise BadFile("The manifest says nothing of the project.")
    name, slug, language = told.get("name"), told.get("slug"), told.get("language")
    words = told.get("abbreviations")
    if not isinstance(name, str) or not isinstance(slug, str) or not name.strip():
        raise BadFile("The manifest gives the project no name.")
    if language not in LANGUAGES:
        raise BadFile(f"The project's language, {str(language)[:20]!r}, is not known here.")
    if told.get("overlap") not in get_args(Overlap):
        raise BadFile("The manifest does not say how spans may stand to each other.")
    if not isinstance(words, list) or not all(isinstance(w, str) and len(w) < 100 for w in words):
        raise BadFile("The project's abbreviations are no list of words.")
    after = told.get("retrain_after")
    if not isinstance(after, int) or not 0 <= after <= 10_000:
        raise BadFile("“retrain_after” is no number of signings.")
    return Head(
        name=name,
        slug=slug,
        language=language,
        overlap=cast("Overlap", told["overlap"]),
        abbreviations=frozenset(words),
        retrain_after=after,
    )
