"""Wire models of imports."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from urdaten.places.intake.plan import GROUPS, MOST_LABELS, NEAR, PER, SPANS
from urdaten.places.team.wire import Shown, Wire
from urdaten.places.texts.wire import AsideShown
from urdaten.platform.jobs import JobState
from urdaten.readers import READERS, ROLES

Words = Annotated[str, Field(max_length=200)]


class PlanWish(Wire):
    """How the sources of an import are read, and what becomes of what they hold."""

    kind: Words = Field(default="", description=f"{', '.join(READERS)}; found out from each file unless said")
    encoding: Words = Field(default="", description="found out from each file unless said")
    per: Words = Field(default="file", description=f"one text for each of {', '.join(PER)}")
    whole_page: bool = Field(
        default=False, description="of web pages all that is shown, not the main text alone"
    )
    without_quoted: bool = Field(
        default=False, description="mails without what they quote and their signature"
    )
    delimiter: Words = Field(default="", description="between the values of a table")
    header: bool | None = Field(default=None, description="does the first row name the columns?")
    roles: dict[Words, Words] = Field(
        default_factory=dict, max_length=MOST_LABELS, description=f"of columns and fields: {', '.join(ROLES)}"
    )
    day_first: bool = Field(default=True, description="3/4/2026 is the third of April")
    split: Words = Field(default="none", description="of texts of which their source says none")
    group: Words = Field(default="", description="likewise")
    group_by: Words = Field(default="", description=f"likewise by {', '.join(filter(None, GROUPS))}")
    near: Words = Field(default="keep", description=f"texts nearly the same as another: {', '.join(NEAR)}")
    labels: dict[Words, Words] = Field(
        default_factory=dict,
        max_length=MOST_LABELS,
        description="what an annotated corpus calls a type, and the type's code; empty for what is left out",
    )
    spans: Words = Field(default="begun", description=f"spans that come along stand {', '.join(SPANS)}")
    layer: Words = Field(default="", description="the name of a layer for them; gold unless said")
    annotate_quoted: bool = Field(
        default=False, description="what mails quote and their signatures are annotated like the rest"
    )


class SiteWish(Wire):
    """Which pages of a site are fetched; those of its host alone, as its robots.txt allows."""

    start: str = Field(max_length=2000, description="address of the first page")
    depth: int = Field(default=3, ge=0, le=20, description="links away from it")
    pages: int = Field(default=200, ge=1, le=5000, description="at most")
    seconds: float = Field(default=600, ge=1, le=3600, description="at most")
    per_second: float = Field(default=2, ge=0.1, le=20, description="pages in a second")


class PlanShown(PlanWish):
    """A plan as it stands."""


class ColumnShown(Shown):
    name: str
    role: str
    values: list[str] = Field(description="the first that are not empty")


class EncodingShown(Shown):
    encoding: str
    words: str


class FileShown(Shown):
    name: str
    kind: str = Field(description="empty where nothing could be read")
    texts: int
    refused: int
    encoding: str
    guessed: bool = Field(description="the encoding was guessed")
    readings: list[EncodingShown] = Field(
        description="how a part of the file reads in other encodings, where it was"
    )
    delimiter: str
    header: bool
    columns: list[ColumnShown]


class FoundSpanShown(Shown):
    start: int
    end: int
    type: str


class SampleShown(Shown):
    title: str
    group: str
    dated: str | None
    split: str
    body: str
    cut: bool = Field(description="there is more of it")
    meta: dict[str, str]
    source: str
    place: str
    aside: list[AsideShown] = Field(description="what is quoted, and signatures")
    spans: list[FoundSpanShown]
    note: str


class LabelShown(Shown):
    label: str
    spans: int
    code: str = Field(description="what it stands for; empty where it is left out")


class RefusalShown(Shown):
    source: str
    place: str
    why: str
    content: str


class AlikeShown(Shown):
    source: str
    place: str
    other: str
    other_place: str
    in_project: bool
    share: float


class CarriedShown(Shown):
    """What comes over from versions of these texts that are here."""

    texts: int = Field(description="new versions")
    signed: int = Field(description="sentences whose words are the same: signed as they were")
    begun: int = Field(description="sentences that were changed: begun, with the spans that were found again")
    spans: int
    left: int = Field(description="signed sentences that do not come over as they were")
    stayed: int = Field(description="texts of these sources with signed sentences, of which no version comes")


class RemainsShown(Shown):
    """A signed sentence that did not come over as it was; it stays where it is."""

    sentence: int
    now: int | None = Field(description="what it became, where it was changed")
    title: str
    words: str
    why: Literal["changed", "repeated", "gone"]
    lost: list[str] = Field(description="words of spans that were not found again")


class CarriedInShown(CarriedShown):
    remains: list[RemainsShown] = Field(description="the first ones")


class LookedShown(Shown):
    """What was found in the files."""

    texts: int
    refused: int
    same: int = Field(description="are in the project already")
    twice: int
    near: int
    carried: CarriedShown | None = None
    signs: int = Field(description="characters of all texts")
    notes: int = Field(description="texts with something amiss that was got over")
    kinds: dict[str, int]
    columns: list[ColumnShown] = Field(description="of all files")
    unknown: list[str] = Field(description="columns that the plan names and no file has")
    files: list[FileShown]
    sample: list[SampleShown]
    labels: list[LabelShown]
    left_out: dict[str, int] = Field(description="spans that cannot be kept, by why")
    refusals: list[RefusalShown] = Field(description="the first ones")
    alike: list[AlikeShown] = Field(description="the first ones")
    holds: bool = Field(description="neither the plan nor the files have been changed since")


class ReportShown(Shown):
    """What came of it."""

    texts: int
    sentences: int
    spans: int
    signed: int
    same: int
    twice: int
    refused: int
    left_out: dict[str, int]
    carried: CarriedInShown | None = None


class WorkShown(Shown):
    id: int
    kind: str
    state: JobState
    done: int
    total: int
    unit: str
    message: str


class IntakeHead(Shown):
    id: int
    state: str = Field(description="open, or kept")
    files: int
    size: int
    created_at: datetime
    report: ReportShown | None


class IntakeShown(IntakeHead):
    plan: PlanShown
    looked: LookedShown | None
    work: WorkShown | None = Field(description="the newest job on it")


class LabelsWish(Wire):
    labels: list[Words] = Field(min_length=1, max_length=MOST_LABELS)


class NamedPlanWish(Wire):
    name: Annotated[str, Field(min_length=1, max_length=80)]
    plan: PlanWish


class NamedPlanShown(Shown):
    id: int
    name: str
    plan: PlanShown
