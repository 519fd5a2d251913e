"""Record scores: which records were opened, which fields are right, and what is lost on the way."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from urdaten.core.records.record import Record
from urdaten.core.records.teaching import Signed, read_open, same_field_value
from urdaten.core.records.template import Field, Template
from urdaten.core.scoring import INTERVAL, Figures, f1_of, resampled
from urdaten.core.text import fold
from urdaten.core.values import ENGLISH, Value, ValueWords

# Right, or not in the record, another value, in a record that should not be, a value where none should be.
Outcome = Literal["right", "missing", "wrong value", "no such record", "surplus"]


@dataclass(frozen=True)
class Entry:
    """One field of one record, found or wanted, and how it went. `wanted` and `found` are "" where there is none."""

    text: int
    record: str
    field: str
    outcome: Outcome
    wanted: str
    found: str


@dataclass(frozen=True)
class RecordScores:
    """Figures of a template's records. Fields count once for each value; a value that is wrong is missed and surplus."""

    opened: Figures
    whole: Figures
    fields: Figures
    by_field: Mapping[str, Figures]
    # 95 % interval of the F1 of fields, by the bootstrap over groups of texts.
    low: float | None
    high: float | None
    ledger: list[Entry] = field(default_factory=list)


def score_records(
    template: Template,
    pairs: Sequence[tuple[Sequence[Signed], Sequence[Record]]],
    groups: Sequence[Hashable] | None = None,
    words: ValueWords = ENGLISH,
    *,
    seed: int = 7,
    rounds: int = 2000,
) -> RecordScores:
    """Score the records found in each text against those that were signed: (signed, found) by text.

    Records are paired by their anchor, of several with one anchor those that share the most values; the anchor counts as a
    field. Values are compared in their open form: names in any letters, quantities in any unit, moments as exact as they are
    told. Records that lack an anchor are shown to people and do not count.
    """
    ledger: list[Entry] = []
    opened = np.zeros((len(pairs), 3), dtype=np.int64)
    whole = np.zeros((len(pairs), 3), dtype=np.int64)
    fields = np.zeros((len(pairs), 3), dtype=np.int64)
    by_field = {f.name: np.zeros(3, dtype=np.int64) for f in template.fields}
    for text, (wanted, found) in enumerate(pairs):
        counted = [record for record in found if not record.anchorless]
        matched = _pairs(template, wanted, counted, words)
        for signed, record in matched:
            entries = _entries(template, text, signed, record, words)
            ledger += entries
            right = signed is not None and record is not None
            opened[text, 0 if right else 1 if record is None else 2] += 1
            good = right and all(entry.outcome == "right" for entry in entries)
            if good:
                whole[text, 0] += 1
            else:
                whole[text, 1] += signed is not None
                whole[text, 2] += record is not None
            for entry in entries:
                counts = _counts(entry)
                fields[text] += counts
                by_field[entry.field] += counts
    low = high = None
    if len(pairs) > 1 and fields.sum():
        own = range(len(pairs)) if groups is None else groups
        f1 = f1_of(resampled(fields, own, seed, rounds))
        low, high = (float(x) for x in np.percentile(f1, INTERVAL))
    return RecordScores(
        _figures(opened.sum(axis=0)),
        _figures(whole.sum(axis=0)),
        _figures(fields.sum(axis=0)),
        {name: _figures(counts) for name, counts in by_field.items()},
        low,
        high,
        ledger,
    )


def _counts(entry: Entry) -> tuple[int, int, int]:
    """Right, missed, surplus."""
    if entry.outcome == "right":
        return 1, 0, 0
    return 0, int(bool(entry.wanted)), int(bool(entry.found))


def _figures(counts: object) -> Figures:
    right, missed, surplus = np.asarray(counts).tolist()
    return Figures(right, right + missed, right + surplus)


def _pairs(
    template: Template, wanted: Sequence[Signed], found: Sequence[Record], words: ValueWords
) -> list[tuple[Signed | None, Record | None]]:
    """Each signed record with the one that was found for it; those that have none with None."""
    keys_wanted = [_key(template, one) for one in wanted]
    keys_found = [fold(record.value(template.anchor)) if template.anchor else "" for record in found]
    shared = [
        (-_shared(template, signed, record, words), i, j)
        for i, signed in enumerate(wanted)
        for j, record in enumerate(found)
        if keys_wanted[i] == keys_found[j]
    ]
    used_i: set[int] = set()
    used_j: set[int] = set()
    made: list[tuple[Signed | None, Record | None]] = []
    for _, i, j in sorted(shared):
        if i not in used_i and j not in used_j:
            used_i.add(i)
            used_j.add(j)
            made.append((wanted[i], found[j]))
    made += [(signed, None) for i, signed in enumerate(wanted) if i not in used_i]
    made += [(None, record) for j, record in enumerate(found) if j not in used_j]
    return made


def _key(template: Template, signed: Signed) -> str:
    return fold(" ".join(signed.get(template.anchor, ("",)))) if template.anchor else ""


def _shared(template: Template, signed: Signed, record: Record, words: ValueWords) -> int:
    return sum(
        1
        for f in template.fields
        for one in signed.get(f.name, ())
        if any(_same(value, one, f, words) for value in record.values.get(f.name, ()))
    )


def _same(found: Value, wanted: str, f: Field, words: ValueWords) -> bool:
    return same_field_value(found, read_open(wanted, f, words), f)


def _entries(
    template: Template, text: int, signed: Signed | None, record: Record | None, words: ValueWords
) -> list[Entry]:
    name = ""
    if record is not None:
        name = record.value(template.anchor) if template.anchor else ""
    elif signed is not None:
        name = " ".join(signed.get(template.anchor, ("",)))
    made: list[Entry] = []
    for f in template.fields:
        wanted = list(signed.get(f.name, ())) if signed is not None else []
        found = list(record.values.get(f.name, ())) if record is not None else []
        for one in list(wanted):
            same = next((value for value in found if _same(value, one, f, words)), None)
            if same is not None:
                made.append(Entry(text, name, f.name, "right", one, same.text))
                wanted.remove(one)
                found.remove(same)
        for k in range(max(len(wanted), len(found))):
            one = wanted[k] if k < len(wanted) else ""
            other = found[k].text if k < len(found) else ""
            outcome: Outcome = "wrong value" if one and other else "missing" if one else "surplus"
            if signed is None or record is None:
                outcome = "no such record" if signed is None else "missing"
            made.append(Entry(text, name, f.name, outcome, one, other))
    return made
