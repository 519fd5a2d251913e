"""What an entry of a list is: as a lead says it, as others see it, and as acts keep it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any

from urdaten.core.lists import spelling_key
from urdaten.errors import BadInput
from urdaten.places.lists.tables import EntryRow

MOST_CHARACTERS = 300
MOST_VARIANTS = 200
MOST_NOTE = 2000
MOST_IDENTIFIER = 300


@dataclass(frozen=True, kw_only=True)
class EntryDraft:
    """What a lead says of an entry."""

    preferred: str
    variants: tuple[str, ...] = ()
    note: str = ""
    identifier: str = ""
    on: bool = True
    # Where it came from, in words; "" where somebody typed it.
    source: str = ""


@dataclass(frozen=True, kw_only=True)
class ListEntry(EntryDraft):
    """An entry as other places see it."""

    id: int
    version: int


# What an entry was, by field; None for not there.
State = dict[str, Any] | None
FIELDS = tuple(field.name for field in fields(EntryDraft))


def entry_of(row: EntryRow) -> ListEntry:
    """As other places see it."""
    values = {name: getattr(row, name) for name in FIELDS}
    return ListEntry(id=row.id, version=row.version, **(values | {"variants": tuple(row.variants)}))


def state_of(row: EntryRow) -> dict[str, Any]:
    return {name: getattr(row, name) for name in FIELDS}


def draft_of(state: Mapping[str, Any]) -> EntryDraft:
    """As `draft_state` has told."""
    return EntryDraft(**{**state, "variants": tuple(state["variants"])})


def draft_state(draft: EntryDraft) -> dict[str, Any]:
    return {**vars(draft), "variants": list(draft.variants)}


def clean(draft: EntryDraft) -> EntryDraft:
    """Without needless white space, each variant once. Raises BadInput, naming the field."""
    preferred = " ".join(draft.preferred.split())
    if not preferred:
        raise BadInput("An entry needs a name.", field="preferred")
    variants = dict.fromkeys(" ".join(variant.split()) for variant in draft.variants)
    variants.pop("", None)
    variants.pop(preferred, None)
    for name, field in ((preferred, "preferred"), *((variant, "variants") for variant in variants)):
        if len(name) > MOST_CHARACTERS:
            raise BadInput(f"A name has at most {MOST_CHARACTERS} characters: “{name[:40]}…”.", field=field)
    if len(variants) > MOST_VARIANTS:
        raise BadInput(f"An entry has at most {MOST_VARIANTS} variants.", field="variants")
    identifier, note = draft.identifier.strip(), draft.note.strip()
    if len(identifier) > MOST_IDENTIFIER:
        raise BadInput(f"An identifier has at most {MOST_IDENTIFIER} characters.", field="identifier")
    if len(note) > MOST_NOTE:
        raise BadInput(f"A note has at most {MOST_NOTE} characters.", field="note")
    return EntryDraft(
        preferred=preferred,
        variants=tuple(variants),
        note=note,
        identifier=identifier,
        on=draft.on,
        source=draft.source.strip(),
    )


def keys_of(draft: EntryDraft) -> set[int]:
    """Of every way it is written what it shares with names that look alike."""
    return {spelling_key(one) for one in (draft.preferred, *draft.variants)}
