"""What has to hold between the lines of an archive, beyond what the tables themselves insist on."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from urdaten.errors import BadFile
from urdaten.places.texts.acts import MOST_CODE_POINTS, SPLITS
from urdaten.places.types.acts import VALUE_KINDS

STATES = {"untouched", "draft", "signed"}
STANDINGS = {"done", "undone", "kept", "dropped", "passed"}
LAYERS = {"gold", "annotator", "imported", "proposed"}
JOBS = {"done", "stopped", "failed", "interrupted"}


class Checks:
    """Remembers of the lines read so far what later ones have to fit to."""

    def __init__(self) -> None:
        self._lengths: dict[int, int] = {}
        self._sentences: dict[int, tuple[int, int]] = {}
        self._annotation: dict[int, int] = {}
        self._ends: dict[int, int] = {}
        self._gold = 0
        self._checks: dict[str, Callable[[int, Mapping[str, Any]], None]] = {
            "types": self._type,
            "texts": self._text,
            "sentences": self._sentence,
            "layers": self._layer,
            "annotation": self._standing,
            "spans": self._span,
            "turned_down": self._span,
            "log": self._act,
            "jobs": self._job,
        }

    def row(self, part: str, at: int, row: Mapping[str, Any]) -> None:
        """Raises BadFile for a line that cannot stand beside those before it. Its types have been checked."""
        check = self._checks.get(part)
        if check is not None:
            check(at, row)

    def at_the_end(self) -> None:
        """Raises BadFile for what no line alone shows."""
        if self._gold != 1:
            raise BadFile(
                f"layers.jsonl: a project has one layer of gold, not {self._gold}.", file="layers.jsonl"
            )

    def _type(self, _at: int, row: Mapping[str, Any]) -> None:
        code, key = row["code"], row["key"]
        if row["retired_at"] is None and not (2 <= len(code) <= 4 and code.isascii() and code.isupper()):
            raise BadFile(f"a code is 2 to 4 capital letters, not {code[:20]!r}")
        if row["retired_at"] is None and len(key) != 1:
            raise BadFile("a key is one letter or figure")
        if row["value_kind"] not in VALUE_KINDS or not 0 <= row["hue"] < 24:
            raise BadFile("the hue or the kind of value is not known")

    def _text(self, at: int, row: Mapping[str, Any]) -> None:
        if row["split"] not in SPLITS:
            raise BadFile(f"a split is one of {', '.join(SPLITS)}")
        if not 0 < len(row["body"]) <= MOST_CODE_POINTS:
            raise BadFile("the body is empty or too long")
        self._lengths[at] = len(row["body"])

    def _sentence(self, at: int, row: Mapping[str, Any]) -> None:
        text = row["text_id"]
        if not self._ends.get(text, 0) <= row["start"] < row["end"] <= self._lengths[text]:
            raise BadFile("the sentence does not lie in its text, after the one before")
        self._ends[text] = row["end"]
        self._sentences[at] = row["start"], row["end"]

    def _layer(self, _at: int, row: Mapping[str, Any]) -> None:
        if row["kind"] not in LAYERS:
            raise BadFile(f"a layer is one of {', '.join(sorted(LAYERS))}")
        self._gold += row["kind"] == "gold"

    def _standing(self, at: int, row: Mapping[str, Any]) -> None:
        if row["state"] not in STATES:
            raise BadFile(f"a state is one of {', '.join(sorted(STATES))}")
        self._annotation[at] = row["sentence_id"]

    def _span(self, _at: int, row: Mapping[str, Any]) -> None:
        start, end = self._sentences[self._annotation[row["annotation_id"]]]
        if not start <= row["start"] < row["end"] <= end:
            raise BadFile("the span does not lie in its sentence")

    def _act(self, _at: int, row: Mapping[str, Any]) -> None:
        if row["standing"] not in STANDINGS:
            raise BadFile(f"an act's standing is one of {', '.join(sorted(STANDINGS))}")

    def _job(self, _at: int, row: Mapping[str, Any]) -> None:
        if row["state"] not in JOBS:
            raise BadFile(f"a job has ended as {', '.join(sorted(JOBS))}")
