"""Figures of lists and rules: counted text by text, kept beside the evidence, summed up when they are asked for."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, fields
from enum import Enum
from itertools import dropwhile
from typing import Any

from sqlalchemy import ColumnElement, Table, delete, func, not_, or_, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from urdaten.core.pipeline import Record
from urdaten.core.spans import Span
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline.acts import store
from urdaten.places.pipeline.acts.lanes import held_of
from urdaten.places.pipeline.acts.makers import Makers, digest_of, read_makers
from urdaten.places.pipeline.tables import CountedRow, EntryFindsRow, EvidenceRow, FindsRow
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import among, attempt, copy_numbers, copy_rows, table_of
from urdaten.platform.revisions import revisions

# A request counts what is behind if that is little work: so many texts, and so many code points times what is held
# against them.
FEW_TEXTS = 500
FEW_SIGNS = 4_000_000
_EVIDENCE = table_of(EvidenceRow)
_FINDS = table_of(FindsRow)
_OF_ENTRIES = table_of(EntryFindsRow)
# The source under which gold spans are counted that no rule finds.
MISSED = "missed"
_NOT_SHARED: Mapping[Span, int] = {}


@dataclass(frozen=True)
class Finds:
    """How often a list or rule finds something, and how that stands against gold."""

    finds: int = 0
    right: int = 0
    # Finds in signed sentences: only these can be right or wrong.
    judged: int = 0


def behind(db: Session, project_id: int, makers: Makers) -> list[int]:
    """Texts whose finds have yet to be counted, or counted anew, in reading order."""
    index = texts.text_index(project_id)
    patterns = sorted({one.fingerprint for one in makers.rules})
    query = (
        select(index.c.id)
        .outerjoin(EvidenceRow, _EVIDENCE.c.text_id == index.c.id)
        .where(
            or_(
                _EVIDENCE.c.text_id.is_(None),
                EvidenceRow.made_with != makers.made_with,
                EvidenceRow.cut != index.c.cut,
                EvidenceRow.counted != makers.key,
                not_(EvidenceRow.patterns.contains(patterns)),
                store.touched(project_id, makers),
            )
        )
        .order_by(index.c.position, index.c.id)
    )
    return list(db.scalars(query))


def _since(db: Session, project_id: int, moment: int) -> set[int]:
    """Texts in which gold may have changed since a moment."""
    index = texts.sentence_index(project_id)
    sentences = desk.sentences_of_acts(db, project_id, moment)
    if not sentences:
        return set()
    return set(db.scalars(select(index.c.text_id).where(among(index.c.id, sentences)).distinct()))


@dataclass(frozen=True)
class ToCount:
    """Texts that have to be counted before the figures are those of now."""

    # Something of their finds is lacking, or their makers have changed; in reading order.
    behind: list[int]
    # Gold may have changed in them.
    judged: set[int]

    @property
    def numbers(self) -> list[int]:
        """All of them, each once."""
        return [*self.behind, *sorted(self.judged.difference(self.behind))]


def to_count(db: Session, project: Project, makers: Makers) -> ToCount:
    """What is to be counted since everything was counted last."""
    row = counted_row(db, project.id)
    if row is None or not row.stamp:
        return ToCount(behind(db, project.id, makers), set())
    left = [] if row.stamp == makers.stamp else behind(db, project.id, makers)
    return ToCount(left, _since(db, project.id, row.moment))


class Counted(Enum):
    """Are figures those of now?"""

    YES = "yes"
    BY_ANOTHER = "somebody else is counting, or has just counted"
    TOO_MUCH = "too much is behind for a request"


def count_if_little(db: Session, project: Project, *, patient: bool) -> Counted:
    """Bring the figures up to date if that is little work; whoever is patient waits for another who is about to do so."""
    makers = read_makers(db, project)
    row = counted_row(db, project.id)
    if row is not None and row.stamp == makers.stamp and not to_count(db, project, makers).numbers:
        return Counted.YES
    if not (store.get_hold_soon if patient else store.get_hold)(db, project.id):
        return Counted.BY_ANOTHER
    # Now that nobody else counts: what they have done meanwhile is not done again.
    now = desk.moment(db)
    makers = read_makers(db, project)
    numbers = to_count(db, project, makers).numbers
    if len(numbers) > FEW_TEXTS:
        return Counted.TOO_MUCH
    wanted = texts.read_texts(db, project.id, numbers)
    if sum(len(text.body) for text in wanted) * (1 + len(makers.rules)) > FEW_SIGNS:
        return Counted.TOO_MUCH

    def keep() -> None:
        count(db, project, makers, wanted)
        keep_counted(db, project.id, makers, now)

    return Counted.YES if attempt(db, keep) else Counted.BY_ANOTHER


def counted_row(db: Session, project_id: int) -> CountedRow | None:
    return db.get(CountedRow, project_id, populate_existing=True)


def keep_counted(db: Session, project_id: int, makers: Makers, moment: int) -> None:
    """Everything is counted as of this moment. Whoever says so has the store's hold."""
    row = counted_row(db, project_id)
    if row is None:
        row = CountedRow(project_id=project_id, version=0, summed="", sums=[])
        db.add(row)
    row.stamp, row.moment = makers.stamp, moment
    db.flush()


def count(db: Session, project: Project, makers: Makers, wanted: Sequence[texts.Text]) -> None:
    """Find what is to be found in these texts, and count it against gold. Whoever asks has the store's hold."""
    if not wanted:
        return
    held = held_of(db, project, makers, wanted)
    sentences = texts.sentences_of(db, [text.id for text in wanted])
    states = desk.states_of(db, [s.id for own in sentences.values() for s in own])
    there = texts.hold(db, sentences)
    lists = {one.name: one.id for one in makers.lists.values()}
    rules = {one.name: one.id for one in makers.rules}
    takers = {one.name for one in makers.rules if not one.rule.marks}
    kinds = {kind for one in makers.rules if one.rule.marks for kind in one.rule.types}
    rows: list[tuple[Any, ...]] = []
    of_entries: list[tuple[int, ...]] = []
    for one in held:
        if one.text_id not in there:
            continue
        of_entries += _entries(one, makers, project.id, sentences[one.text_id], states)
        own_sentences = sentences[one.text_id]
        tallies: dict[tuple[str, int], _Tally] = {}
        by_rules = one.finds_of_rules(makers)
        for source, numbers, finds in (
            ("lists", lists, one.finds_of_lists(makers)),
            ("rules", rules, by_rules),
        ):
            shared = Counter(span for spans in finds.values() for span in set(spans))
            for name, spans in finds.items():
                takes = source == "rules" and name in takers
                tallies[source, numbers[name]] = tally(spans, own_sentences, states, shared, takes=takes)
        marked = {span for name, spans in by_rules.items() if name not in takers for span in spans}
        for code, missed in _missed(own_sentences, states, marked).items():
            if code in kinds:
                tallies[MISSED, makers.numbers[code]] = missed
        for number, said in one.troubles(makers):
            tallies.setdefault(("rules", number), _Tally()).trouble = said
        rows += (
            (one.text_id, project.id, source, number, *vars(tally).values())
            for (source, number), tally in tallies.items()
        )
    db.execute(delete(_FINDS).where(among(_FINDS.c.text_id, there)))
    db.execute(delete(_OF_ENTRIES).where(among(_OF_ENTRIES.c.text_id, there)))
    copy_numbers(db, _OF_ENTRIES.name, [column.name for column in _OF_ENTRIES.c], of_entries)
    columns = ("text_id", "project_id", "source", "maker", *(field.name for field in fields(_Tally)))
    copy_rows(db, _FINDS.name, columns, rows)
    db.execute(update(_EVIDENCE).where(among(_EVIDENCE.c.text_id, there)).values(counted=makers.key))
    added = insert(CountedRow).values(
        project_id=project.id, stamp="", moment=0, version=1, summed="", sums=[]
    )
    later = {"version": CountedRow.version + 1}
    db.execute(added.on_conflict_do_update(index_elements=["project_id"], set_=later))


def _entries(
    held: store.Held,
    makers: Makers,
    project_id: int,
    sentences: Sequence[texts.Sentence],
    states: dict[int, desk.Annotation],
) -> list[tuple[int, ...]]:
    """Rows of EntryFindsRow for one text."""
    by_entry: dict[int, list[Span]] = {}
    for entry, span in held.by_entries(makers):
        by_entry.setdefault(entry, []).append(span)
    small = {entry: count for entry, count in held.small}
    rows = []
    for entry in dict.fromkeys([*by_entry, *small]):
        counted = tally(by_entry.get(entry, []), sentences, states)
        counts = [value for name, value in vars(counted).items() if name in _OF_ENTRIES.c]
        rows.append((held.text_id, entry, project_id, *counts, small.get(entry, 0)))
    return rows


@dataclass
class _Tally:
    """The columns of FindsRow."""

    finds: int = 0
    judged: int = 0
    right: int = 0
    sentences: int = 0
    with_right: int = 0
    with_wrong: int = 0
    unsigned: int = 0
    alone: int = 0
    with_alone: int = 0
    trouble: str = ""


def tally(
    spans: Sequence[Span],
    sentences: Sequence[texts.Sentence],
    states: Mapping[int, desk.Annotation],
    shared: Mapping[Span, int] = _NOT_SHARED,
    *,
    takes: bool = False,
) -> _Tally:
    """How the finds of a text stand against gold. `shared` says how many find each span, `takes` that these were taken away,
    which is right of what is not gold."""
    made = _Tally(finds=len(spans))
    for number, own in texts.by_sentence(spans, sentences).items():
        if not own:
            continue
        made.sentences += 1
        annotation = states.get(number)
        if annotation is None or annotation.state != desk.SIGNED:
            made.unsigned += 1
            continue
        good = [span for span in own if (span in annotation.spans) != takes]
        right = len(good)
        made.judged += len(own)
        made.right += right
        alone = sum(shared.get(span, 1) == 1 for span in good)
        made.alone += alone
        made.with_alone += alone > 0
        made.with_right += right > 0
        made.with_wrong += right < len(own)
    return made


def _missed(
    sentences: Sequence[texts.Sentence], states: Mapping[int, desk.Annotation], marked: Collection[Span]
) -> dict[str, _Tally]:
    """Gold spans that no rule finds, by type."""
    made: dict[str, _Tally] = {}
    for sentence in sentences:
        annotation = states.get(sentence.id)
        if annotation is None or annotation.state != desk.SIGNED:
            continue
        missed = Counter(span.type for span in annotation.spans if span not in marked)
        for code, count in missed.items():
            one = made.setdefault(code, _Tally())
            one.finds += count
            one.sentences += 1
    return made


@dataclass(frozen=True)
class Figures:
    """What one list or rule finds, how many right ones no other of its kind does, and what was said where it took too long. Of
    a missed type its finds are gold spans that no rule has."""

    finds: Finds = Finds()
    alone: int = 0
    trouble: str | None = None


def figures(db: Session, project: Project, source: str) -> dict[int, Figures]:
    """Of each list or rule that finds something, by number. Finds in quiet texts do not count; a rule that takes too long
    on one is told of all the same."""
    return {
        maker: Figures(Finds(*counts), alone, trouble)
        for of, maker, *counts, alone, trouble in _sums(db, project)
        if of == source
    }


def missed(db: Session, project: Project) -> dict[str, int]:
    """How many gold spans of each type no rule finds; of types that rules mark."""
    codes = types.type_codes(db, project.id)
    return {codes[number]: one.finds.finds for number, one in figures(db, project, MISSED).items()}


def track_records(db: Session, project: Project, makers: Makers) -> dict[tuple[str, str], Record]:
    """How often each list and rule that is on was right in signed sentences, by source and name; as far as it is counted."""
    names = {("lists", number): one.name for number, one in makers.lists.items()}
    names |= {("rules", one.id): one.name for one in makers.rules}
    records: dict[tuple[str, str], Record] = {}
    for source, maker, _, right, judged, *_ in _sums(db, project):
        if name := names.get((source, maker)):
            before = records.get((source, name), Record(0, 0))
            records[source, name] = Record(before.right + right, before.judged + judged)
    return records


def _sums(db: Session, project: Project) -> list[Any]:
    """As CountedRow has them; made anew when anything has been counted since, or other texts are quiet."""
    row = counted_row(db, project.id)
    if row is None:
        return []
    of = summed_of(db, project, row)
    if row.summed == of:
        return row.sums
    sums = _summed(db, project)
    if store.get_hold(db, project.id):
        mine = update(CountedRow).where(CountedRow.project_id == project.id)
        attempt(db, lambda: db.execute(mine.values(summed=of, sums=sums)))
    return sums


def summed_of(db: Session, project: Project, row: CountedRow) -> str:
    """Of all that sums of what is counted hang on."""
    numbers = revisions(db, project.id)
    return digest_of(row.version, *(numbers.get(place, 0) for place in (texts.PLACE, desk.ROUNDS)))


def _summed(db: Session, project: Project) -> list[Any]:
    index = texts.text_index(project.id)
    loud = desk.is_loud(db, project, index)
    sums = [func.coalesce(func.sum(_FINDS.c[name]).filter(loud), 0) for name in _SUMMED]
    query = (
        select(_FINDS.c.source, _FINDS.c.maker, *sums, func.nullif(func.max(_FINDS.c.trouble), ""))
        .join(index, index.c.id == _FINDS.c.text_id)
        .where(_FINDS.c.project_id == project.id)
        .group_by(_FINDS.c.source, _FINDS.c.maker)
    )
    return [list(row) for row in db.execute(query)]


_SUMMED = ("finds", "right", "judged", "alone")

# Of each outcome the column that counts its sentences.
_SENTENCES = {
    "": "sentences",
    "right": "with_right",
    "wrong": "with_wrong",
    "open": "unsigned",
    "alone": "with_alone",
}
OUTCOMES = tuple(_SENTENCES)


def texts_with(
    db: Session,
    project: Project,
    source: str,
    maker: int,
    outcome: str,
    most: int,
    *,
    begin: int | None = None,
) -> tuple[int, list[int]]:
    """In how many sentences a list or rule has such finds, and the first texts, in reading order, that hold more than `most`;
    from the text `begin` on, which itself does not count for that."""
    mine = (_FINDS.c.source == source) & (_FINDS.c.maker == maker)
    return _texts_with(db, project, _FINDS, mine, outcome, most, begin)


def texts_with_entry(
    db: Session, project: Project, entry: int, outcome: str, most: int, *, begin: int | None = None
) -> tuple[int, list[int]]:
    """As `texts_with`, of one entry of a list."""
    return _texts_with(db, project, _OF_ENTRIES, _OF_ENTRIES.c.entry_id == entry, outcome, most, begin)


def _texts_with(
    db: Session,
    project: Project,
    counted: Table,
    mine: ColumnElement[bool],
    outcome: str,
    most: int,
    begin: int | None,
) -> tuple[int, list[int]]:
    index = texts.text_index(project.id)
    column = counted.c[_SENTENCES[outcome]]
    query = (
        select(index.c.id, column)
        .join(counted, counted.c.text_id == index.c.id)
        .where(counted.c.project_id == project.id, mine)
        .where(column > 0, desk.is_loud(db, project, index))
        .order_by(index.c.position, index.c.id)
    )
    sums = db.execute(query).all()
    total = sum(sentences for _, sentences in sums)
    first: list[int] = []
    held = 0
    for number, sentences in dropwhile(lambda row: begin is not None and row[0] != begin, sums):
        first.append(number)
        held += sentences if number != begin else 0
        if held > most:
            break
    return total, first
