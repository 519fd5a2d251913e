"""Which texts somebody means by what is said of them and what is marked in them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from urdaten.errors import BadInput
from urdaten.places.desk.acts.having import texts_of_state, texts_with
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types

STATE, TYPE, VALUE = "state", "type", "value"


@dataclass(frozen=True, kw_only=True)
class Filter:
    """Everything that is said has to hold, and what is empty says nothing."""

    search: str = ""
    split: str = ""
    group: str = ""
    # The file or address that it came from.
    source: str = ""
    since: date | None = None
    until: date | None = None
    # How far it is signed; see acts.having.
    state: str = ""
    # Code of a type that has a gold span in it, and the very words of that span.
    type: str = ""
    value: str = ""
    # NAME=VALUE each, of what its source says of it; in a name %3D stands for “=” and %25 for “%”.
    meta: Sequence[str] = ()
    # Of group, dated and source, those that it does not have.
    lacks: Sequence[str] = ()


def which_of(db: Session, project_id: int, wanted: Filter, *, but: str = "") -> texts.Which:
    """Which texts are meant, whatever the filter says of the facet `but`. Raises BadInput, naming the field."""
    if wanted.since and wanted.until and wanted.since > wanted.until:
        raise BadInput("The first day lies after the last.", field="since")
    meta = {}
    for pair in wanted.meta:
        name, equals, value = pair.partition("=")
        if not equals:
            raise BadInput(f"Say what of metadata as NAME=VALUE, not {pair!r}.", field="meta")
        name = name.replace("%3D", "=").replace("%25", "%")
        if f"{texts.META}{name}" != but:
            meta[name] = value
    also = []
    if wanted.state and but != STATE:
        also.append(texts_of_state(project_id, wanted.state))
    named = wanted.value if wanted.type and but not in (TYPE, VALUE) else ""
    if wanted.type and but != TYPE:
        also.append(texts_with(project_id, number_of_type(db, project_id, wanted.type), named))
    lacked = "dated" if but == "month" else but
    return texts.Which(
        splits=[wanted.split] if wanted.split and but != "split" else texts.SPLITS,
        search=wanted.search,
        any_long=not wanted.search or texts.has_long(db, project_id),
        group="" if but == "group" else wanted.group,
        source="" if but == "source" else wanted.source,
        since=None if but == "month" else wanted.since,
        until=None if but == "month" else wanted.until,
        # What does not stand in the body need not be looked for among spans.
        words=named,
        meta=meta,
        lacks=[name for name in wanted.lacks if name != lacked],
        also=also,
    )


def number_of_type(db: Session, project_id: int, code: str) -> int:
    """Raises BadInput for a code that the scheme does not have."""
    for number, known in types.type_codes(db, project_id).items():
        if known == code:
            return number
    raise BadInput(f"The scheme has no type {code!r}.", field="type")
