"""Acts on many sentences at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from uuid import uuid4

from sqlalchemy.orm import Session

from urdaten.core.spans import Span, check_span
from urdaten.errors import BadInput, Clash
from urdaten.places.desk.acts.annotation import DRAFT, SIGNED, UNTOUCHED, Annotation, states_of
from urdaten.places.desk.acts.storing import Step, check_overlap, lock, log, store
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types

ALIKE, CORRECT = "mark alike", "correct"
MOST_AT_ONCE = 2000


def change_many(
    db: Session,
    project_id: int,
    account_id: int | None,
    kind: str,
    wanted: Mapping[int, tuple[int, Sequence[Span]]],
) -> int:
    """Give sentences other spans, at once, to be undone at once; how many were changed.

    wanted: by sentence the version that was seen and the spans it shall have. Signed sentences stay signed. All or none
    are changed: raises BadInput for none or too many, BadSpan for spans that cannot stand, Clash when any of the
    sentences has been changed since.
    """
    if not 0 < len(wanted) <= MOST_AT_ONCE:
        raise BadInput(f"Between 1 and {MOST_AT_ONCE} sentences are changed at once.", field="places")
    overlap = lock(db, project_id, list(wanted))
    now = states_of(db, wanted)
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
    types.type_numbers(db, project_id, {span.type for _, spans in wanted.values() for span in spans})
    steps: dict[int, Step] = {}
    for text, sentence in held:
        before, spans = now.get(sentence.id, blank), tuple(sorted(wanted[sentence.id][1]))
        for span in spans:
            check_span(span.start, span.end, text.body)
            if not sentence.start <= span.start < span.end <= sentence.end:
                raise BadInput("A span leaves its sentence.", field="places")
        check_overlap(spans, overlap)
        state = DRAFT if before.state == UNTOUCHED else before.state
        after = Annotation(
            state=state,
            spans=spans,
            turned_down=before.turned_down,
            question=before.question,
            answer=before.answer,
        )
        steps[sentence.id] = Step(before=before, after=after)
    store(db, project_id, account_id, steps)
    log(db, project_id, account_id, kind, steps, batch=uuid4())
    return len(steps)


def sign_many(
    db: Session, project_id: int, account_id: int | None, signings: Mapping[int, Sequence[Span]]
) -> None:
    """Sign untouched sentences with the given spans, for loading gold that was settled elsewhere.

    The acts are logged but cannot be undone one by one. Spans are taken as checked.
    """
    blank = Annotation()
    by_kind: dict[str, dict[int, Step]] = {"sign": {}, "sign as empty": {}}
    for number, spans in signings.items():
        after = Annotation(state=SIGNED, spans=tuple(sorted(spans)))
        by_kind["sign" if spans else "sign as empty"][number] = Step(before=blank, after=after)
    for kind, steps in by_kind.items():
        if steps:
            store(db, project_id, account_id, steps)
            log(db, project_id, account_id, kind, steps, standing="passed")
