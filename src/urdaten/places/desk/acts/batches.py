"""Acts on many sentences at once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from uuid import UUID, uuid4

from sqlalchemy.orm import Session

from urdaten.core.spans import Span, check_span
from urdaten.errors import BadInput, Clash
from urdaten.places.desk.acts.annotation import DRAFT, SIGNED, Annotation, states_of
from urdaten.places.desk.acts.changing import is_done
from urdaten.places.desk.acts.layers import gold_layer
from urdaten.places.desk.acts.storing import Step, check_overlap, lock, log, store
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import MANY, count_anew

ALIKE, CORRECT, CARRY = "mark alike", "correct", "carry over"
LOOKED_THROUGH = ", looked through"
MOST_AT_ONCE = 2000


def change_many(
    db: Session,
    project_id: int,
    account_id: int | None,
    kind: str,
    wanted: Mapping[int, tuple[int, Sequence[Span]]],
    *,
    looked_through: bool = False,
    token: UUID | None = None,
) -> int:
    """Give sentences other spans in gold, at once, to be undone at once; how many were changed.

    wanted: by sentence the version that was seen and the spans it is to have. Sentences that were signed are begun then,
    unless the account says that it has looked through each of them: then they are signed by it, and the log says so. All
    or none are changed: raises BadInput for none or too many, BadSpan for spans that cannot stand, Clash when any of the
    sentences has been changed since.
    """
    if not 0 < len(wanted) <= MOST_AT_ONCE:
        raise BadInput(f"Between 1 and {MOST_AT_ONCE} sentences are changed at once.", field="places")
    overlap = lock(db, project_id, list(wanted))
    if token is not None and is_done(db, project_id, account_id, token):
        return len(wanted)
    layer = gold_layer(db, project_id)
    now = states_of(db, wanted, layer)
    blank = Annotation()
    held = [
        (text, sentence)
        for text, sentences in texts.sentences_by_text(db, wanted, project_id)
        for sentence in sentences
    ]
    stale = [i for i, (version, _) in wanted.items() if now.get(i, blank).version != version]
    gone = len(wanted) - len(held)
    if stale or gone:
        raise Clash(
            f"{len(stale) + gone} of these sentences have been changed since they were shown; nothing was changed. "
            "Look through them anew.",
        )
    numbers = types.type_numbers(db, project_id, {s.type for _, spans in wanted.values() for s in spans})
    present = types.type_codes(db, project_id)
    moment = datetime.now(UTC)
    steps: dict[int, Step] = {}
    for text, sentence in held:
        before = now.get(sentence.id, blank)
        spans = tuple(sorted(replace(s, type=present[numbers[s.type]]) for s in wanted[sentence.id][1]))
        for span in spans:
            check_span(span.start, span.end, text.body)
            if not sentence.start <= span.start < span.end <= sentence.end:
                raise BadInput("A span leaves its sentence.", field="places")
        check_overlap(spans, overlap)
        after = replace(before, state=DRAFT, spans=spans, signed_by=None, signed_at=None)
        if looked_through and before.state == SIGNED:
            after = replace(after, state=SIGNED, signed_by=account_id, signed_at=moment)
        steps[sentence.id] = Step(before=before, after=after)
    store(db, project_id, layer, account_id, steps)
    kind += LOOKED_THROUGH if looked_through else ""
    log(db, project_id, layer, account_id, kind, steps, token=token, batch=uuid4())
    return len(steps)


@dataclass(frozen=True)
class Signature:
    """Whose signing it is, and of when; None for somebody or a time that is not known any more."""

    account: int | None
    at: datetime | None


@dataclass(frozen=True)
class Loaded:
    """What a sentence was found to hold elsewhere, and whether somebody stands for it."""

    spans: Sequence[Span]
    signed: bool = True
    # Of the same words elsewhere, from where it was carried over; None for what the account itself loads.
    signature: Signature | None = None


def load_many(
    db: Session,
    project_id: int,
    account_id: int | None,
    loaded: Mapping[int, Loaded],
    layer: int | None = None,
) -> None:
    """Write into untouched sentences what was marked elsewhere; what is signed is signed by the account, or by whoever signed the same words
    elsewhere.

    The acts are logged but cannot be undone one by one. Spans are taken as checked.
    """
    layer = gold_layer(db, project_id) if layer is None else layer
    blank, moment = Annotation(), datetime.now(UTC)
    by_kind: dict[str, dict[int, Step]] = defaultdict(dict)
    for number, one in loaded.items():
        after = Annotation(state=DRAFT, spans=tuple(sorted(one.spans)))
        kind = "mark"
        if one.signed:
            own = one.signature or Signature(account_id, moment)
            after = replace(after, state=SIGNED, signed_by=own.account, signed_at=own.at)
            kind = "sign" if one.spans else "sign as empty"
        if one.signature:
            kind = CARRY
        by_kind[kind][number] = Step(before=blank, after=after)
    for kind, steps in by_kind.items():
        store(db, project_id, layer, account_id, steps)
        log(db, project_id, layer, account_id, kind, steps, standing="passed")
    if len(loaded) >= MANY:
        count_anew(db, "annotation", "span", "act", "tally")


def sign_many(
    db: Session,
    project_id: int,
    account_id: int | None,
    signings: Mapping[int, Sequence[Span]],
    layer: int | None = None,
) -> None:
    """As `load_many`, of what is all signed."""
    load_many(db, project_id, account_id, {n: Loaded(spans) for n, spans in signings.items()}, layer)
