"""The act of annotation: every change of a sentence is one act of the log, and each kind carries what it may change."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, datetime
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap, Span, check_span
from urdaten.errors import BadInput, BadSpan, Clash, StaleWrite
from urdaten.places.desk.acts.annotation import DRAFT, SIGNED, UNTOUCHED, Annotation, as_json
from urdaten.places.desk.acts.history import last_hand
from urdaten.places.desk.acts.sight import Sight, see
from urdaten.places.desk.acts.storing import Step, check_overlap, lock, log, store
from urdaten.places.desk.tables import ActRow, VerdictRow
from urdaten.places.types import acts as types

# Kinds of acts by what they carry: spans; spans and a signing; nothing; a question; an answer.
MARKING = ("mark", "change", "remove", "take", "turn down", "offer again")
SIGNING = ("sign", "sign as empty")
MOST_WORDS_OF_A_QUESTION = 2000


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """What an act says of one span of evidence."""

    span: Span
    source: str
    maker: str
    taken: bool


@dataclass(frozen=True, kw_only=True)
class Act:
    """What somebody does to a sentence, and the version of it that they saw."""

    kind: str
    version: int
    token: UUID | None = None

    def after(self, now: Annotation, account_id: int | None) -> Annotation:
        """What stands then."""
        raise NotImplementedError

    @property
    def spans(self) -> tuple[Span, ...]:
        return ()

    @property
    def turned_down(self) -> tuple[Span, ...]:
        return ()

    @property
    def verdicts(self) -> tuple[Verdict, ...]:
        return ()


@dataclass(frozen=True, kw_only=True)
class Marks(Act):
    """Spans, and evidence turned down. The sentence is begun then, also if it was signed: only signing signs."""

    wanted: tuple[Span, ...]
    down: tuple[Span, ...] = ()
    said: tuple[Verdict, ...] = ()

    @property
    def spans(self) -> tuple[Span, ...]:
        return tuple(sorted(self.wanted))

    @property
    def turned_down(self) -> tuple[Span, ...]:
        return tuple(sorted(self.down))

    @property
    def verdicts(self) -> tuple[Verdict, ...]:
        return self.said

    def after(self, now: Annotation, account_id: int | None) -> Annotation:  # noqa: ARG002 - the same for everybody
        wanted = replace(now, spans=self.spans, turned_down=self.turned_down)
        if now.spans == self.spans:
            # Evidence alone was judged: what was signed stands as it was signed.
            return replace(wanted, state=DRAFT) if now.state == UNTOUCHED else wanted
        return _begun(wanted, DRAFT)


@dataclass(frozen=True, kw_only=True)
class Signing(Marks):
    """The account has read the sentence, and these spans are all of it."""

    def after(self, now: Annotation, account_id: int | None) -> Annotation:
        return replace(
            now,
            state=SIGNED,
            spans=self.spans,
            turned_down=self.turned_down,
            signed_by=account_id,
            signed_at=datetime.now(UTC),
        )


@dataclass(frozen=True, kw_only=True)
class Withdrawal(Act):
    """The sentence is signed no more."""

    def after(self, now: Annotation, account_id: int | None) -> Annotation:  # noqa: ARG002 - the same for everybody
        return _begun(now, DRAFT if now.spans or now.turned_down else UNTOUCHED)


@dataclass(frozen=True, kw_only=True)
class Question(Act):
    """Words for the lead; with other words than before an answer to those is gone."""

    words: str

    def after(self, now: Annotation, account_id: int | None) -> Annotation:  # noqa: ARG002
        words = _checked(self.words, "question")
        return now if words == now.question else replace(now, question=words, answer="")


@dataclass(frozen=True, kw_only=True)
class Answer(Act):
    """What the lead says to the question that stands there."""

    words: str

    def after(self, now: Annotation, account_id: int | None) -> Annotation:  # noqa: ARG002
        if not now.question:
            raise BadInput("Nobody has asked anything here.", field="answer")
        return replace(now, answer=_checked(self.words, "answer"))


def _begun(annotation: Annotation, state: str) -> Annotation:
    return replace(annotation, state=state, signed_by=None, signed_at=None)


def _checked(words: str, field: str) -> str:
    words = words.strip()
    if len(words) > MOST_WORDS_OF_A_QUESTION or "\0" in words:
        raise BadInput(f"This {field} is too long, or holds NUL characters.", field=field)
    return words


def _check(db: Session, project_id: int, seen: Sight, act: Act, overlap: Overlap) -> Act:
    """The act under the scheme's present codes. Raises BadInput, BadSpan."""
    if not isinstance(act, Marks):
        return act
    if act.kind == "sign as empty" and act.spans:
        raise BadInput("A sentence with spans cannot be signed as empty; remove them first.", field="spans")
    if act.kind == "sign" and not act.spans:
        raise BadInput("A sentence without spans is signed as empty.", field="spans")
    every = [*act.spans, *act.turned_down, *(verdict.span for verdict in act.verdicts)]
    if not every:
        return act
    present, sentence = seen.codes, seen.sentence
    numbers = types.numbers_among(db, project_id, present, {span.type for span in every})

    def now(span: Span) -> Span:
        return replace(span, type=present[numbers[span.type]])

    act = replace(
        act,
        wanted=tuple(map(now, act.wanted)),
        down=tuple(map(now, act.down)),
        said=tuple(replace(verdict, span=now(verdict.span)) for verdict in act.said),
    )
    for span in every:
        if span.start < sentence.start or span.end > sentence.end:
            raise BadSpan(
                f"The span from {span.start} to {span.end} leaves its sentence, which runs from "
                f"{sentence.start} to {sentence.end}.",
                start=span.start,
                end=span.end,
            )
        check_span(span.start, span.end, seen.words, sentence.start)
    for spans in (act.spans, act.turned_down):
        if len(set(spans)) < len(spans):
            raise BadInput("One and the same span stands there twice.", field="spans")
    check_overlap(act.spans, overlap)
    return act


def annotate(
    db: Session, project_id: int, account_id: int | None, sentence_id: int, act: Act, layer: int | None = None
) -> Annotation:
    """Do an act on a sentence, in gold unless another layer is named. The same token sent again changes nothing more.

    Raises BadInput or BadSpan for what cannot stand, Clash for a token that named another act, StaleWrite when somebody
    else wrote since the version that was seen; nothing is changed then.
    """
    overlap = lock(db, project_id, [sentence_id])
    # Under the lock, so that its text is neither split anew nor removed meanwhile.
    seen = see(db, project_id, sentence_id, layer=layer, token=act.token)
    layer, codes, now = seen.layer, seen.codes, seen.now
    if _is_same(seen.done, account_id, sentence_id):
        return now
    act = _check(db, project_id, seen, act, overlap)
    after = act.after(now, account_id)
    if act.version != now.version:
        raise StaleWrite(
            "Somebody else changed this sentence since you opened it; look at both versions and choose.",
            theirs=as_json(now) | {"version": now.version, "by": last_hand(db, sentence_id, layer)},
            yours=as_json(after) | {"version": act.version},
        )
    step = {sentence_id: Step(before=now, after=after)}
    stored = store(db, project_id, layer, account_id, step, codes)[sentence_id]
    (number,) = log(db, project_id, layer, account_id, act.kind, step, token=act.token, codes=codes)
    if act.verdicts:
        numbers = {code: number for number, code in codes.items()}
        db.add_all(
            VerdictRow(
                act_id=number,
                source=verdict.source,
                maker=verdict.maker,
                start=verdict.span.start,
                end=verdict.span.end,
                type_id=numbers[verdict.span.type],
                taken=verdict.taken,
            )
            for verdict in act.verdicts
        )
        db.flush()
    return stored


def is_done(db: Session, project_id: int, account_id: int | None, token: UUID) -> bool:
    """Has the act of this name been done? Raises Clash when it was somebody else's."""
    query = select(ActRow.account_id, ActRow.sentence_id)
    found = db.execute(query.where(ActRow.project_id == project_id, ActRow.token == token)).first()
    return _is_same(None if found is None else (found[0], found[1]), account_id)


def _is_same(
    done: tuple[int | None, int] | None, account_id: int | None, sentence_id: int | None = None
) -> bool:
    if done is None:
        return False
    by, where = done
    if by != account_id or sentence_id not in (None, where):
        raise Clash("Another act has this name already; send yours under a new one.", field="token")
    return True
