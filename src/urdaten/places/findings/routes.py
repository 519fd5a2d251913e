"""Routes of findings and of the table of texts."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from urdaten.core.findings import Found, value_counts
from urdaten.core.formats import write_csv, write_workbook
from urdaten.errors import BadInput
from urdaten.places.desk import acts as desk
from urdaten.places.desk.lanes import GOLD
from urdaten.places.desk.wire import StavePage
from urdaten.places.findings import acts, gathering
from urdaten.places.findings.gathering import gather
from urdaten.places.findings.wire import (
    CellShown,
    CompareShown,
    CompareWish,
    ContextShown,
    ContextWish,
    ContrastShown,
    FindingsWish,
    PlaceShown,
    RowShown,
    SentencesWish,
    StretchShown,
    SummaryShown,
    TableFileWish,
    TablePage,
    TableWish,
    TimeShown,
    TimeWish,
    TogetherShown,
    TogetherWish,
    TypeSummaryShown,
    ValueCountShown,
    ValuesShown,
    ValuesWish,
)
from urdaten.places.pipeline.wire import STAVES, make_stave, page_of
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import OfProject
from urdaten.places.texts import acts as texts
from urdaten.places.texts.wire import FilterWish
from urdaten.places.types import acts as types
from urdaten.platform.database import transaction
from urdaten.platform.web import Config, Db

router = APIRouter(prefix="/api/projects/{project}/findings", tags=["findings"])
EXAMPLES, MOST_PLACES_SHOWN = 3, 1000
WORKBOOK = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def _gathered(
    db: Db,
    project: Project,
    wish: FindingsWish,
    which: texts.Which | None = None,
    more: str = "",
    *,
    whole: bool = False,
) -> Found:
    """The spans that are asked about; `more` names a narrower choice of texts, `whole` that all of them are read, also of a source."""
    chosen = _which(db, project, wish) if which is None else which
    key = FilterWish(**{name: getattr(wish, name) for name in FilterWish.model_fields}).model_dump_json()
    return gather(db, project, wish.lane, chosen, key + more, whole=whole)


def _which(db: Db, project: Project, wish: FilterWish) -> texts.Which:
    named = {name: getattr(wish, name) for name in FilterWish.model_fields}
    return desk.which_of(db, project.id, desk.Filter(**named))


def _checked(db: Db, project: Project, *codes: str) -> None:
    known = types.type_codes(db, project.id).values()
    for code in codes:
        if code and code not in known:
            raise BadInput(f"The scheme has no type {code!r}.", field="of")


@router.get("", operation_id="readFindings")
def read_summary(project: OfProject, db: Db, wish: Annotated[FindingsWish, Query()]) -> SummaryShown:
    """Every type: how many spans and values it has, and which are most frequent."""
    gathered = _gathered(db, project, wish)
    told = acts.summarise(gathered, types.type_codes(db, project.id).values(), EXAMPLES)
    count = texts.count_which(db, project.id, _which(db, project, wish))
    total = texts.count_texts(db, project.id)
    return SummaryShown(
        found=count,
        total=total,
        looked=count if wish.lane == GOLD else min(count, gathering.MOST_READ),
        types=[TypeSummaryShown.model_validate(one) for one in told],
    )


@router.get("/values", operation_id="readValues")
def read_values(project: OfProject, db: Db, wish: Annotated[ValuesWish, Query()]) -> ValuesShown:
    """The values of a type, those in most spans first."""
    _checked(db, project, wish.of)
    counted = value_counts(_gathered(db, project, wish).of(wish.of))
    shown = [ValueCountShown.model_validate(one) for one in counted[: wish.limit]]
    return ValuesShown(values=shown, total=len(counted), spans=sum(one.spans for one in counted))


@router.get("/time", operation_id="readOverTime")
def read_time(project: OfProject, db: Db, wish: Annotated[TimeWish, Query()]) -> TimeShown:
    """How many spans are in the texts of each stretch of time."""
    _checked(db, project, wish.of)
    heads = texts.heads(db, project.id, _which(db, project, wish))
    asked = acts.Asked(type=wish.of, value=wish.named)
    bins = acts.over_time(_gathered(db, project, wish), heads, asked, wish.step)
    undated = sum(head.dated is None for head in heads)
    return TimeShown(bins=[StretchShown.model_validate(one) for one in bins], undated=undated)


@router.get("/together", operation_id="readTogether")
def read_together(project: OfProject, db: Db, wish: Annotated[TogetherWish, Query()]) -> TogetherShown:
    """Which values of two types stand together."""
    _checked(db, project, wish.of, wish.beside)
    gathered = _gathered(db, project, wish)
    return TogetherShown.model_validate(acts.together(gathered, wish.of, wish.beside, wish.scope, wish.limit))


@router.get("/comparison", operation_id="readComparison")
def read_comparison(project: OfProject, db: Db, wish: Annotated[CompareWish, Query()]) -> CompareShown:
    """What is typical of one slice of the texts against another: values of a type, or words."""
    _checked(db, project, wish.of)
    one, other = _slices(_which(db, project, wish), wish)
    if wish.of:
        gathered = [
            _gathered(db, project, wish, which, f"{name} {wish.by} {wish.one} {wish.other}")
            for name, which in (("one", one), ("other", other))
        ]
        told = acts.compare_values(gathered[0], gathered[1], _gathered(db, project, wish), wish.of)
    else:
        told = acts.compare_words(db, project, one, other)
    shown = [ContrastShown.model_validate(each) for each in told]
    return CompareShown(
        one=[each for each in shown if each.z > 0][: wish.limit],
        other=[each for each in reversed(shown) if each.z < 0][: wish.limit],
        one_texts=texts.count_which(db, project.id, one),
        other_texts=texts.count_which(db, project.id, other),
        most_read=gathering.MOST_READ if not wish.of or wish.lane != GOLD else None,
    )


def _slices(which: texts.Which, wish: CompareWish) -> tuple[texts.Which, texts.Which]:
    first = texts.with_facet(which, wish.by, wish.one)
    second = (
        texts.with_facet(which, wish.by, wish.other)
        if wish.other
        else replace(which, but=[*which.but, (wish.by, wish.one)])
    )
    return first, second


@router.get("/context", operation_id="readContext")
def read_context(project: OfProject, db: Db, wish: Annotated[ContextWish, Query()]) -> ContextShown:
    """Words or spans in a line each, with what stands before and after them."""
    _checked(db, project, wish.of)
    which = _which(db, project, wish)
    if wish.words.strip():
        found = acts.context_of_words(
            db, project, wish.words, replace(which, words=which.words or wish.words.split()[0])
        )
    elif wish.of or wish.rule:
        lane = "rules" if wish.rule else wish.lane
        gathered = _gathered(db, project, wish.model_copy(update={"lane": lane}))
        asked = acts.Asked(type=wish.of, value=wish.named)
        found = acts.context_of_spans(db, project, gathered, asked, wish.rule)
    else:
        raise BadInput("Say which words, type or rule to look for.", field="words")
    more = len(found) > MOST_PLACES_SHOWN
    places = acts.in_context(db, found[: acts.MOST_PLACES], wish.sort)[:MOST_PLACES_SHOWN]
    return ContextShown(places=[PlaceShown.model_validate(place) for place in places], more=more)


@router.get("/sentences", operation_id="readFindingSentences")
def read_sentences(project: OfProject, db: Db, wish: Annotated[SentencesWish, Query()]) -> StavePage:
    """The sentences behind a figure, in reading order."""
    _checked(db, project, wish.of, wish.beside)
    heads = texts.heads(db, project.id, _which(db, project, wish)) if wish.first or wish.last else []
    asked = acts.Asked(
        type=wish.of,
        value=wish.named,
        since=wish.first,
        until=wish.last,
        with_type=wish.beside,
        with_value=wish.beside_named,
        scope=wish.scope,
        text=wish.text,
    )
    gathered = _gathered(db, project, wish)
    numbers = texts.in_reading_order(db, project.id, acts.sentences_behind(gathered, heads, asked))
    begin = numbers.index(wish.after) + 1 if wish.after in numbers else 0
    wanted = numbers[begin : begin + STAVES + 1]
    states, blank = desk.states_of(db, wanted), desk.Annotation()
    lanes = acts.spans_of_sentences(gathered, wanted)
    staves = []
    for text, sentences in texts.sentences_by_text(db, wanted, project.id):
        for sentence in sentences:
            stands = states.get(sentence.id, blank)
            shown = {GOLD: stands.spans} | (
                {} if wish.lane == GOLD else {wish.lane: lanes.get(sentence.id, [])}
            )
            staves.append(make_stave(project, text, sentence, stands.state == desk.SIGNED, shown))
    return page_of(len(numbers), staves)


@router.get("/table", operation_id="readTable")
def read_table(project: OfProject, db: Db, wish: Annotated[TableWish, Query()]) -> TablePage:
    """A row for each text, with the values of each type."""
    which = _which(db, project, wish)
    heads = texts.page_of_heads(db, project.id, which, after=wish.after, limit=wish.limit + 1)
    more, heads = len(heads) > wish.limit, heads[: wish.limit]
    gathered = _gathered(db, project, wish)
    shown = gathered
    if wish.lane != GOLD:
        # Which columns there are is told by the sample; what stands in these texts by themselves.
        here = texts.Which(only=[head.id for head in heads])
        shown = _gathered(db, project, wish, here, f" rows after {wish.after}, {wish.limit}", whole=True)
    values = acts.values_by_text(shown)
    rows = [_row(head, values.get(head.id, {})) for head in heads]
    return TablePage(
        types=_with_values(db, project, gathered, shown),
        meta=texts.meta_names(db, project.id, 50),
        rows=rows,
        next=heads[-1].id if more else None,
    )


def _with_values(db: Db, project: Project, *found: Found) -> list[str]:
    there = {code for one in found for code in one.types}
    return [code for code in types.type_codes(db, project.id).values() if code in there]


def _row(head: texts.Head, values: Mapping[str, Sequence[str]]) -> RowShown:
    return RowShown(
        id=head.id,
        title=head.title,
        group=head.group,
        dated=head.dated,
        split=head.split,
        meta=dict(head.meta),
        cells=[CellShown(type=code, values=list(held)) for code, held in values.items()],
    )


@router.get("/table/file", operation_id="downloadTable", response_class=FileResponse)
def download_table(
    project: OfProject, settings: Config, wish: Annotated[TableFileWish, Query()]
) -> FileResponse:
    """The table as CSV or as a workbook: what texts have of their source, and the values of each type."""
    file = tempfile.NamedTemporaryFile(prefix="urdaten-", suffix=f".{wish.format}")  # noqa: SIM115
    with transaction(settings.database_url, snapshot=True) as db:
        which = _which(db, project, wish)
        gathered = _gathered(db, project, wish, whole=True)
        codes, names = _with_values(db, project, gathered), texts.meta_names(db, project.id, 200)
        header = ["title", "group", "date", "split", *names, *codes]
        values = acts.values_by_text(gathered)
        heads = texts.page_of_heads(db, project.id, which, after=None, limit=None)
        rows = _cells(heads, values, codes, names)
        if wish.format == "csv":
            for line in write_csv(header, rows):
                file.write(line.encode())
        else:
            write_workbook(file, header, rows, "texts")
    file.flush()
    return FileResponse(
        file.name,
        media_type="text/csv" if wish.format == "csv" else WORKBOOK,
        filename=f"{project.slug}-table.{wish.format}",
        background=BackgroundTask(file.close),
    )


def _cells(
    heads: Sequence[texts.Head],
    values: Mapping[int, Mapping[str, Sequence[str]]],
    codes: Sequence[str],
    names: Sequence[str],
) -> Iterator[list[str]]:
    for head in heads:
        held = values.get(head.id, {})
        yield [
            head.title,
            head.group,
            _day(head.dated),
            head.split,
            *(head.meta.get(name, "") for name in names),
            *("; ".join(held.get(code, ())) for code in codes),
        ]


def _day(day: date | None) -> str:
    return "" if day is None else day.isoformat()
