"""What is found in the files of an import: kinds, columns, a sample, labels, what is there twice, and what is refused."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict
from typing import Any

from urdaten.core.text import Like
from urdaten.places.intake.acts.deciding import Arrival, Deciding
from urdaten.readers import Document, Found, Item, Refusal

SAMPLE = 10
# Of what is shown; all are counted.
_FILES, _REFUSALS, _ALIKE, _LABELS = 200, 200, 100, 500
_LONGEST_SHOWN = 4_000
_SEED = 20_260_706


class Look:
    """Takes what is read, one item after the other."""

    def __init__(self, deciding: Deciding) -> None:
        self._deciding = deciding
        self._chance = random.Random(_SEED)
        self._files: dict[int, dict[str, Any]] = {}
        self._sample: list[tuple[int, dict[str, Any]]] = []
        self._refusals: list[Refusal] = []
        self.texts = self.refused = self._signs = self._notes = 0
        # Those that would be kept.
        self.arrivals: list[Arrival] = []

    def take(self, number: int, item: Item) -> None:
        """An item of the file of this number."""
        if isinstance(item, Found):
            self._found(number, item)
        elif isinstance(item, Refusal):
            self._refuse(number, item)
        elif isinstance(item, Document):
            made = self._deciding.take(item)
            if isinstance(made, Refusal):
                self._refuse(number, made)
            else:
                self._keep(number, item, made)

    def also_refused(self, refusals: Iterable[Refusal]) -> None:
        """What was left out before there were any files of it."""
        for one in refusals:
            self.refused += 1
            self._refusals.append(one)

    def _of(self, number: int, name: str) -> dict[str, Any]:
        blank = {"name": name, "texts": 0, "refused": 0} | _told(Found(source=name, kind=""))
        return self._files.setdefault(number, blank)

    def _found(self, number: int, item: Found) -> None:
        told = self._of(number, item.source)
        # A packed file is as many kinds as lie in it; the first is shown.
        if not told["kind"]:
            told |= _told(item)
        elif not told["columns"]:
            told["columns"] = _told(item)["columns"]

    def _refuse(self, number: int, item: Refusal) -> None:
        self._of(number, item.source)["refused"] += 1
        self.refused += 1
        if len(self._refusals) < _REFUSALS:
            self._refusals.append(item)

    def _keep(self, number: int, document: Document, made: Arrival) -> None:
        self._of(number, document.source)["texts"] += 1
        self._notes += bool(document.note)
        self._signs += len(document.body)
        self.arrivals.append(made)
        # Ten of all, each as likely as the next (Vitter 1985, "Random sampling with a reservoir").
        place = self._chance.randrange(self.texts + 1)
        if len(self._sample) < SAMPLE:
            self._sample.append((self.texts, _shown(document, made)))
        elif place < SAMPLE:
            self._sample[place] = (self.texts, _shown(document, made))
        self.texts += 1

    def told(
        self, alike: Sequence[Like], titles: Sequence[str], carried: Mapping[str, Any] | None
    ) -> dict[str, Any]:
        """All that was found. alike: numbers of texts among those of the project, of which titles are given, and those found
        after them. carried: what would come over from versions that are here."""
        labels = self._deciding.labels.most_common()
        return {
            "texts": self.texts,
            "refused": self.refused,
            "same": self._deciding.same,
            "twice": self._deciding.twice,
            "signs": self._signs,
            "notes": self._notes,
            "near": len(alike),
            "carried": carried,
            "files": list(self._files.values())[:_FILES],
            "columns": self._columns(),
            "unknown": self._unknown(),
            "kinds": Counter(file["kind"] for file in self._files.values() if file["kind"]),
            "sample": [shown for _, shown in sorted(self._sample, key=lambda pair: pair[0])],
            "labels": [
                {"label": label, "spans": count, "code": self._deciding.code_of(label)}
                for label, count in labels[:_LABELS]
            ],
            "left_out": dict(self._deciding.left_out),
            "refusals": [asdict(one) for one in self._refusals[:_REFUSALS]],
            "alike": [self._alike(one, titles) for one in alike[:_ALIKE]],
        }

    def _columns(self) -> list[dict[str, Any]]:
        """Every column of any file once, as it is in the one with most texts."""
        told: dict[str, dict[str, Any]] = {}
        for file in sorted(self._files.values(), key=lambda file: -file["texts"]):
            for column in file["columns"]:
                told.setdefault(column["name"], column)
        return list(told.values())

    def _unknown(self) -> list[str]:
        """Columns that the plan names and no file has."""
        held = {column["name"] for file in self._files.values() for column in file["columns"]}
        return sorted(self._deciding.plan.how.roles.keys() - held) if held else []

    def _place(self, number: int) -> tuple[str, str]:
        text = self.arrivals[number].text
        return text.source, text.place

    def _alike(self, like: Like, titles: Sequence[str]) -> dict[str, Any]:
        here = len(titles)
        source, place = self._place(like.text - here)
        own = like.earlier < here
        other = (titles[like.earlier], "") if own else self._place(like.earlier - here)
        return {
            "source": source,
            "place": place,
            "other": other[0],
            "other_place": other[1],
            "in_project": own,
            "share": round(like.share, 3),
        }


def _told(found: Found) -> dict[str, Any]:
    return {
        "kind": found.kind,
        "encoding": found.encoding,
        "guessed": found.guessed,
        "readings": [{"encoding": name, "words": words} for name, words in found.readings],
        "delimiter": found.delimiter,
        "header": found.header,
        "columns": [asdict(column) for column in found.columns],
    }


def _shown(document: Document, made: Arrival) -> dict[str, Any]:
    draft = made.text.draft
    body = document.body[:_LONGEST_SHOWN]
    return {
        "title": draft.title,
        "group": draft.group,
        "dated": draft.dated.isoformat() if draft.dated else None,
        "split": draft.split,
        "body": body,
        "cut": len(document.body) > len(body),
        "meta": dict(document.meta),
        "source": document.source,
        "place": document.place,
        "aside": [{"start": start, "end": end} for start, end in document.aside if end <= len(body)],
        "spans": [
            {"start": span.start, "end": span.end, "type": span.type}
            for span in made.spans
            if span.end <= len(body)
        ],
        "note": document.note,
    }
