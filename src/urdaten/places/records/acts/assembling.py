"""Assembling: the records of a project anew, from what is signed and what is found."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import delete, insert, select
from sqlalchemy.orm import Session

from urdaten.core.records import MOST_NAMES, About, Names, Record
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Batch
from urdaten.core.values import ValueWords, value_words
from urdaten.errors import Clash
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.records.acts.keeping import record_kept, told_values
from urdaten.places.records.acts.templates import FOUND, PLACE, SIGNED, read_templates
from urdaten.places.records.tables import AssemblyRow, RecordRow, SignedTextRow, TemplateRow
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.jobs import JobView, add_job
from urdaten.platform.revisions import bump, revisions

JOB = "assembly"
LEARNING_JOB = "records learning"
_AT_ONCE = 500


def start_assembly(db: Session, project_id: int, account_id: int) -> JobView:
    """Assemble the records of all templates anew, in the background."""
    return _start(
        db, project_id, account_id, JOB, "Assembling records", "Records are being assembled already."
    )


def start_learning(db: Session, project_id: int, account_id: int) -> JobView:
    """Learn from the records that are signed, and assemble anew with what was learnt, in the background."""
    return _start(
        db,
        project_id,
        account_id,
        LEARNING_JOB,
        "Learning from signed records",
        "Records are being learnt from already.",
    )


def _start(db: Session, project_id: int, account_id: int, kind: str, title: str, alone: str) -> JobView:
    if not read_templates(db, project_id):
        raise Clash("There is no record template yet; add one first.")
    return add_job(
        db, project_id=project_id, account_id=account_id, kind=kind, title=title, params={}, alone=alone
    )


def made_from_now(db: Session, project_id: int) -> dict[str, Any]:
    """The versions that an assembly begun now is made from."""
    numbers = revisions(db, project_id)
    version = pipeline.number_of(db, project_id)
    return {
        # As long as nobody has changed it, there is nothing to be said of it.
        **({"pipeline": version} if version else {}),
        "act": desk.latest_act(db, project_id),
        "evidence": list(pipeline.stamp(db, project_id)),
        "texts": numbers.get(texts.PLACE, 0),
        "records": numbers.get(PLACE, 0),
    }


def out_of_date(db: Session, project_id: int) -> bool:
    """Has anything changed that the records were assembled from?"""
    row = db.get(AssemblyRow, project_id)
    return row is not None and row.made_from != made_from_now(db, project_id)


@dataclass(frozen=True, kw_only=True)
class Ground:
    """What records are assembled from: texts with their spans, and what names stand for."""

    texts: Sequence[texts.Text]
    batch: Batch
    spans: SpanTable
    names: Names
    about: About
    words: ValueWords


def ground_of(db: Session, project: Project, chosen: Sequence[texts.Text]) -> Ground:
    """Gold where a sentence is signed, and the resolved evidence elsewhere."""
    signed = pipeline.gold_by_sentence(db, chosen)
    sentences = texts.sentences_of(db, [text.id for text in chosen])
    # What nobody has signed is read as the pipeline has it.
    rest = [text for text in chosen if len(signed[text.id]) < len(sentences[text.id])]
    found = dict(zip((text.id for text in rest), pipeline.evidence(db, project, rest), strict=True))
    spans: list[list[Span]] = []
    for text in chosen:
        own = [span for _, annotation in signed[text.id] for span in annotation.spans]
        ranges = [(sentence.start, sentence.end) for sentence, _ in signed[text.id]]
        if text.id in found:
            resolved = found[text.id].resolved
            own += [s for s in resolved if not any(a <= s.start and s.end <= b for a, b in ranges)]
        spans.append(sorted(own))
    gazetteer = lists.gazetteer(db, project)
    return Ground(
        texts=chosen,
        batch=texts.batch_of(db, chosen, project.language),
        spans=SpanTable.of_spans(spans),
        names=Names(gazetteer.preferred, gazetteer.preferred_names(MOST_NAMES)),
        about=About(
            days=[text.dated for text in chosen],
            metadata=lambda text, key: str(chosen[text].meta.get(key) or ""),
        ),
        words=value_words(project.language),
    )


def replace_records(
    db: Session,
    project_id: int,
    made: Iterable[tuple[int, int, Sequence[Record]]],
    made_from: dict[str, Any],
) -> int:
    """Put (template, text, records) in the place of all records that nobody has looked at; how many records there are.

    What is signed stays as it is, and tells where it would be found otherwise now; what was turned down does not come back.
    """
    templates = select(TemplateRow.id).where(TemplateRow.project_id == project_id)
    db.execute(delete(RecordRow).where(RecordRow.template_id.in_(templates), RecordRow.state == FOUND))
    kept = _Kept(list(db.scalars(select(RecordRow).where(RecordRow.template_id.in_(templates)))))
    count = kept.signed
    done = {
        (one.template_id, one.text_id)
        for one in db.scalars(select(SignedTextRow).where(SignedTextRow.template_id.in_(templates)))
    }
    rows: list[dict[str, Any]] = []
    for row in _rows(made, kept):
        count += 1
        if (row["template_id"], row["text_id"]) in done:
            row["looks"] = [*row["looks"], "new"]
        rows.append(row)
        if len(rows) == _AT_ONCE:
            db.execute(insert(RecordRow), rows)
            rows = []
    if rows:
        db.execute(insert(RecordRow), rows)
    kept.tell()
    bump(db, project_id, PLACE)
    # The bump above is our own doing: records are as new as what they were made from.
    stamp = made_from | {"records": revisions(db, project_id)[PLACE]}
    db.merge(AssemblyRow(project_id=project_id, made_from=stamp))
    db.flush()
    return count


def _rows(made: Iterable[tuple[int, int, Sequence[Record]]], kept: _Kept) -> Iterator[dict[str, Any]]:
    for template_id, text_id, records in made:
        for record in records:
            columns = record_kept(record)
            if not kept.has(template_id, text_id, columns):
                yield {"template_id": template_id, "text_id": text_id, "state": FOUND, **columns}


class _Kept:
    """Records that somebody has signed or turned down: what is found of the same entity in the same text is theirs."""

    def __init__(self, rows: list[RecordRow]) -> None:
        self._by_key: dict[tuple[int, int, str], list[RecordRow]] = {}
        for row in rows:
            self._by_key.setdefault((row.template_id, row.text_id, row.entity), []).append(row)
        self._met: dict[int, dict[str, list[str]]] = {}
        self._signed = [row for row in rows if row.state == SIGNED]

    @property
    def signed(self) -> int:
        return len(self._signed)

    def has(self, template_id: int, text_id: int, columns: dict[str, Any]) -> bool:
        """Is a record that is found one of these? Of several the one that says most alike."""
        own = self._by_key.get((template_id, text_id, columns["entity"]), [])
        free = [row for row in own if row.id not in self._met]
        if not free:
            return False
        found = told_values(columns["values"])
        best = min(free, key=lambda row: len(_differences(told_values(row.values), found)))
        self._met[best.id] = _differences(told_values(best.values), found)
        return True

    def tell(self) -> None:
        """Write to signed records where they would be found otherwise now."""
        for row in self._signed:
            gone = {name: [value, ""] for name, value in told_values(row.values).items()}
            differs = self._met.get(row.id, gone)
            looks = [look for look in row.looks if look != "differs"] + (["differs"] if differs else [])
            if row.differs != differs or row.looks != looks:
                row.differs, row.looks = differs, looks


def _differences(signed: dict[str, str], found: dict[str, str]) -> dict[str, list[str]]:
    return {
        name: [signed.get(name, ""), found.get(name, "")]
        for name in (*signed, *(name for name in found if name not in signed))
        if signed.get(name, "") != found.get(name, "")
    }
