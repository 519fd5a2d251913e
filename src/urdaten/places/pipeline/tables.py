"""The evidence store: what lists, rules and the tagger find in each text, and how that stands against gold."""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON as PLAIN_JSON
from sqlalchemy import BigInteger, ForeignKey, Index, Integer, LargeBinary, String
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped
from urdaten.platform.packing import DERIVED


class EvidenceRow(Base):
    """What was found in one text, and what it was found with. Types, lists and rules go by their numbers."""

    __tablename__ = "evidence"
    __table_args__ = {"info": DERIVED}  # noqa: RUF012 - SQLAlchemy reads this class attribute

    text_id: Mapped[int] = mapped_column(
        ForeignKey("text.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    # When everything in this row was last known to hold, as the stamp of its makers tells it.
    stamp: Mapped[str]
    # The code that made it, and the language in which it was read.
    made_with: Mapped[str]
    # As the text's, when its sentences were read.
    cut: Mapped[int]
    # Marks of the words that it holds, so that a changed name leaves most texts alone.
    words: Mapped[list[int]] = mapped_column(ARRAY(Integer))
    # The last change of lists that was seen.
    lists_at: Mapped[int]
    # acts.store.ListFind of each find.
    lists: Mapped[list[Any]] = mapped_column(PLAIN_JSON)
    # [entry, how often] of entries whose names stand in small letters though their lists write them with a capital.
    small: Mapped[list[Any]] = mapped_column(PLAIN_JSON)
    # The rules that were held against it, by their fingerprints, and of each [start, end, number of a type of the rule] of every
    # match, or what was said when it took too long.
    patterns: Mapped[list[str]] = mapped_column(ARRAY(String))
    matches: Mapped[dict[str, Any]] = mapped_column(PLAIN_JSON)
    # What the tagger was and what it saw; "" where none has spoken.
    tagger_key: Mapped[str]
    # [start, end, type, probability] of each span.
    tagger: Mapped[list[Any]] = mapped_column(PLAIN_JSON)
    # What the finds were counted with; "" where they have yet to be counted.
    counted: Mapped[str]


class FindsRow(Base):
    """How often one list or rule finds something in a text, and how that stands against gold. With the source "missed" the gold
    spans of a type, by its number, that no rule finds."""

    __tablename__ = "finds"
    __table_args__ = (
        Index("ix_finds_project_id_source_maker", "project_id", "source", "maker"),
        {"info": DERIVED},
    )

    text_id: Mapped[int] = mapped_column(
        ForeignKey("text.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    source: Mapped[str] = mapped_column(primary_key=True)
    # The number of the list or rule, or of the type.
    maker: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    finds: Mapped[int]
    # Finds in signed sentences, and those of them that are gold.
    judged: Mapped[int]
    right: Mapped[int]
    # Sentences with any find, with a right one, with a wrong one, and unsigned ones.
    sentences: Mapped[int]
    with_right: Mapped[int]
    with_wrong: Mapped[int]
    unsigned: Mapped[int]
    # Right finds that no other list, or no other rule, has.
    alone: Mapped[int]
    # Sentences with one of those.
    with_alone: Mapped[int]
    # What was said when a rule took too long.
    trouble: Mapped[str]


class EntryFindsRow(Base):
    """As FindsRow, of one entry of a list; it may be deleted by now."""

    __tablename__ = "entry_finds"
    __table_args__ = (
        Index("ix_entry_finds_project_id_entry_id", "project_id", "entry_id"),
        {"info": DERIVED},
    )

    text_id: Mapped[int] = mapped_column(
        ForeignKey("text.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    entry_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    finds: Mapped[int]
    judged: Mapped[int]
    right: Mapped[int]
    sentences: Mapped[int]
    with_right: Mapped[int]
    with_wrong: Mapped[int]
    unsigned: Mapped[int]
    # Places where its name stands in small letters, though the list writes it with a capital.
    small: Mapped[int]


class EntryWorthRow(Base):
    """Sums of EntryFindsRow over texts that are not quiet, for entries that are there, and what they come to."""

    __tablename__ = "entry_worth"
    __table_args__ = (
        Index("ix_entry_worth_harm", "list_id", "harm", "entry_id"),
        Index("ix_entry_worth_finds", "list_id", "finds", "entry_id"),
        {"info": DERIVED},
    )

    entry_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    list_id: Mapped[int]
    finds: Mapped[int]
    judged: Mapped[int]
    right: Mapped[int]
    small: Mapped[int]
    # By how many points the F1 of its list in signed sentences would rise if it found nothing, and nothing else changed.
    harm: Mapped[float]


class CountedRow(Base):
    """How far a project's finds are counted, and their sums."""

    __tablename__ = "counted"

    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    # When they were last known to be counted as they are: as the stamp of its makers and desk.moment tell it; "" and 0
    # before that.
    stamp: Mapped[str]
    moment: Mapped[int] = mapped_column(BigInteger)
    # Rises whenever finds of some texts are counted.
    version: Mapped[int]
    # What the sums were made of; "" before the first.
    summed: Mapped[str]
    # [source, maker, finds, right, judged, alone, trouble] of each list and rule that finds something, and of missed types.
    sums: Mapped[list[Any]] = mapped_column(PLAIN_JSON)
    # As `summed`, of EntryWorthRow.
    weighed: Mapped[str] = mapped_column(default="")


class PipelineVersionRow(Base, Stamped):
    """What a project's pipeline was from one moment on; the one with the highest number is that of now."""

    __tablename__ = "pipeline_version"
    __table_args__ = (
        Index("uq_pipeline_version_published", "project_id", unique=True, postgresql_where="published"),
    )

    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    # As core.pipeline.plan_values; what it names may have other names by now.
    plan: Mapped[dict[str, Any]] = mapped_column(JSON)
    # {"lists": {name: number}, "rules": …, "types": …} of what it names; taggers go by the number of their training.
    refers: Mapped[dict[str, Any]] = mapped_column(JSON)
    # In words, what was changed.
    said: Mapped[str]
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    # What somebody calls it; "" for its number alone.
    name: Mapped[str] = mapped_column(default="", server_default="")
    # The one that others are given; at most one of a project.
    published: Mapped[bool] = mapped_column(default=False, server_default="false")
    # All that it needs, as it was when it was published.
    bundle: Mapped[str | None] = mapped_column(ForeignKey("artefact.digest"), index=True)


class ArtefactRow(Base, Stamped):
    """Something that was made and never changes, by the SHA-256 of what is in it."""

    __tablename__ = "artefact"

    digest: Mapped[str] = mapped_column(primary_key=True)
    kind: Mapped[str]
    data: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)


class WeightsRow(Base, Stamped):
    """Weights of a policy, as they were learnt."""

    __tablename__ = "weights"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="SET NULL"))
    # Whose stages they weigh, as core.pipeline.plan_values.
    plan: Mapped[dict[str, Any]] = mapped_column(JSON)
    # As core.pipeline.Weigher.as_dict.
    weigher: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True)
    # {"lists": {name: number}, "rules": …, "types": …}: what was called how when they were learnt.
    refers: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True)
    # How they did on dev by folds, and from how much they were learnt.
    figures: Mapped[dict[str, Any]] = mapped_column(JSON)
