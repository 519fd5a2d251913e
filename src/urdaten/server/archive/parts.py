"""What an archive holds: its parts in the order in which they refer to each other, each a table as JSON Lines.

An archive has numbers of its own: the first text is text 1, wherever it lies in a database. So a project that was brought
back and is taken out again gives the same files.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import ColumnElement, Table, select

from urdaten.server.archive import converting
from urdaten.server.archive.converting import Converter
from urdaten.server.tables import METADATA


@dataclass(frozen=True, kw_only=True)
class Part:
    """One table of a project."""

    # Of the file, without its ending, and of the numbers that other parts refer to.
    name: str
    table: Table
    columns: tuple[str, ...]
    # Columns that hold a number of another part.
    refers: Mapping[str, str] = field(default_factory=dict)
    # Columns with numbers inside.
    converts: Mapping[str, Converter] = field(default_factory=dict)
    # The column that leads to the project, and the part that it leads to, if that is not the project itself.
    through: tuple[str, str | None] = ("project_id", None)
    # Rows without a number of their own are ordered by these.
    order: tuple[str, ...] = ("id",)
    # Made anew from the row when it is brought in.
    computes: Mapping[str, Callable[[Mapping[str, Any]], Any]] = field(default_factory=dict)
    # What older archives do not have of a row, as it was then.
    added: Mapping[str, Any] = field(default_factory=dict)
    # A number that leads nowhere any more is no fault: it becomes this.
    lost: Mapping[str, int] = field(default_factory=dict)
    # Older archives have no such file.
    later: bool = False

    def rows_of(self, project_id: int) -> ColumnElement[bool]:
        """For queries: those of a project."""
        column, part = self.through
        if part is None:
            return self.table.c[column] == project_id
        above = PARTS[part]
        return self.table.c[column].in_(select(above.table.c["id"]).where(above.rows_of(project_id)))


def _table(name: str) -> Table:
    return METADATA.tables[name]


_LIST = (
    Part(
        name="types",
        table=_table("entity_type"),
        columns=(
            "code",
            "name",
            "key",
            "hue",
            "definition",
            "counts",
            "counts_not",
            "rulings",
            "position",
            "value_kind",
            "version",
            "retired_at",
            "created_at",
        ),
    ),
    Part(
        name="schemes",
        table=_table("scheme"),
        columns=("number", "digest", "overlap", "types", "account_id", "step", "created_at"),
        refers={"account_id": "people"},
        converts={"types": converting.scheme_types, "step": converting.steps},
    ),
    Part(
        name="texts",
        table=_table("text"),
        columns=(
            "title",
            "body",
            "group",
            "dated",
            "split",
            "position",
            "version",
            "created_at",
            "meta",
            "source",
            "place",
            "aside",
        ),
        added={"meta": {}, "source": "", "place": "", "aside": []},
        converts={"meta": converting.meta, "aside": converting.bounds},
        # How many sentences it has is counted when those have come too.
        computes={"body_digest": converting.digest, "sentences": lambda _: 0},
    ),
    Part(
        name="sentences",
        table=_table("sentence"),
        columns=("text_id", "number", "start", "end"),
        refers={"text_id": "texts"},
        through=("text_id", "texts"),
    ),
    Part(
        name="rounds",
        table=_table("round"),
        columns=("name", "note", "priority", "suggestions", "open", "version", "created_at"),
    ),
    Part(
        name="round_texts",
        table=_table("round_text"),
        columns=("round_id", "text_id"),
        refers={"round_id": "rounds", "text_id": "texts"},
        through=("round_id", "rounds"),
        order=("round_id", "text_id"),
    ),
    Part(
        name="round_people",
        table=_table("round_person"),
        columns=("round_id", "account_id"),
        refers={"round_id": "rounds", "account_id": "people"},
        through=("round_id", "rounds"),
        order=("round_id", "account_id"),
    ),
    Part(
        name="layers",
        table=_table("layer"),
        columns=("kind", "account_id", "round_id", "name", "created_at"),
        refers={"account_id": "people", "round_id": "rounds"},
    ),
    Part(
        name="annotation",
        table=_table("annotation"),
        columns=("sentence_id", "layer_id", "state", "version", "signed_by", "signed_at", "scheme"),
        refers={"sentence_id": "sentences", "layer_id": "layers", "signed_by": "people"},
        through=("layer_id", "layers"),
    ),
    *(
        Part(
            name=name,
            table=_table(table),
            columns=("annotation_id", "start", "end", "type_id"),
            refers={"annotation_id": "annotation", "type_id": "types"},
            through=("annotation_id", "annotation"),
        )
        for name, table in (("spans", "span"), ("turned_down", "turned_down"))
    ),
    Part(
        name="questions",
        table=_table("question"),
        columns=("annotation_id", "words", "asked_by", "asked_at", "answer", "answered_by", "answered_at"),
        refers={"annotation_id": "annotation", "asked_by": "people", "answered_by": "people"},
        through=("annotation_id", "annotation"),
        order=("annotation_id",),
    ),
    Part(
        name="log",
        table=_table("act"),
        columns=(
            "layer_id",
            "sentence_id",
            "account_id",
            "kind",
            "before",
            "after",
            "standing",
            "token",
            "batch",
            "created_at",
        ),
        refers={"layer_id": "layers", "sentence_id": "sentences", "account_id": "people"},
        converts={"before": converting.state, "after": converting.state},
        # The log outlives the texts that it tells of.
        lost={"sentence_id": 0},
    ),
    Part(
        name="verdicts",
        table=_table("verdict"),
        columns=("act_id", "source", "maker", "start", "end", "type_id", "taken"),
        refers={"act_id": "log", "type_id": "types"},
        through=("act_id", "log"),
    ),
    Part(
        name="lists",
        table=_table("list"),
        columns=("name", "type_id", "on", "options", "version", "removed_at", "created_at"),
        refers={"type_id": "types"},
        converts={"options": converting.options},
        # How many entries it has is counted when those have come too.
        computes={"size": lambda _: 0},
        added={"options": {}, "removed_at": None},
    ),
    Part(
        name="list_entries",
        table=_table("list_entry"),
        columns=(
            *(
                "list_id",
                "preferred",
                "variants",
                "note",
                "identifier",
                "on",
                "source",
                "version",
                "created_at",
            ),
        ),
        refers={"list_id": "lists"},
        through=("list_id", "lists"),
        computes={"written": converting.written, "keys": converting.keys},
        added={"identifier": "", "on": True, "source": ""},
    ),
    Part(
        name="rules",
        table=_table("rule"),
        columns=(
            "name",
            "type_id",
            "about",
            "pattern",
            "refers",
            "must_find",
            "must_not_find",
            "on",
            "priority",
            "position",
            "version",
            "created_at",
        ),
        refers={"type_id": "types"},
        converts={"refers": converting.named, "priority": converting.priority},
        computes={"pattern": converting.rule_text},
        added={"refers": None, "priority": "usual"},
    ),
    Part(
        name="fragments",
        table=_table("fragment"),
        columns=("name", "about", "pattern", "refers", "version", "created_at"),
        converts={"refers": converting.named},
        later=True,
    ),
    Part(
        name="jobs",
        table=_table("job"),
        columns=(
            "account_id",
            "kind",
            "title",
            "params",
            "state",
            "done",
            "total",
            "unit",
            "message",
            "stop_requested",
            "started_at",
            "finished_at",
            "created_at",
        ),
        refers={"account_id": "people"},
        converts={"params": converting.nothing, "state": converting.ended},
    ),
    Part(
        name="trainings",
        table=_table("training"),
        columns=(
            "name",
            "settings",
            "job_id",
            "epochs",
            "made_from",
            "in_use",
            "automatic",
            "model",
            "created_at",
        ),
        refers={"job_id": "jobs"},
        converts={
            "settings": converting.unchanged,
            "epochs": converting.unchanged,
            "made_from": converting.made_from,
        },
    ),
    Part(
        name="weights",
        table=_table("weights"),
        columns=("job_id", "plan", "weigher", "refers", "figures", "created_at"),
        refers={"job_id": "jobs"},
        converts={
            "plan": converting.pipeline_plan,
            "weigher": converting.weigher,
            "refers": converting.named_numbers,
            "figures": converting.weighing_figures,
        },
        later=True,
    ),
    Part(
        name="pipelines",
        table=_table("pipeline_version"),
        # Files of versions that were published stay where they are.
        columns=("number", "plan", "refers", "said", "account_id", "name", "created_at"),
        refers={"account_id": "people"},
        converts={"plan": converting.pipeline_plan, "refers": converting.named_numbers},
        order=("number",),
        later=True,
    ),
    Part(
        name="scorecards",
        table=_table("scorecard"),
        columns=("job_id", "source", "title", "figures", "made_from", "created_at"),
        refers={"job_id": "jobs"},
        converts={"figures": converting.unchanged, "made_from": converting.made_from},
    ),
    Part(
        name="scored_sentences",
        table=_table("scored_sentence"),
        columns=("scorecard_id", "sentence_id", "gold", "found", "outcomes"),
        refers={"scorecard_id": "scorecards", "sentence_id": "sentences"},
        converts={
            "gold": converting.unchanged,
            "found": converting.unchanged,
            "outcomes": converting.unchanged,
        },
        through=("scorecard_id", "scorecards"),
        order=("scorecard_id", "sentence_id"),
    ),
    Part(
        name="templates",
        table=_table("record_template"),
        columns=(
            "name",
            "anchor",
            "fields",
            "description",
            "scope",
            "each",
            "opens",
            "version",
            "created_at",
        ),
        converts={"fields": converting.template_fields, "opens": converting.unchanged},
        # What was learnt is learnt again from the signed records.
        added={"description": "", "scope": "text", "each": "entity", "opens": []},
    ),
    Part(
        name="records",
        table=_table("record"),
        columns=(
            "template_id",
            "text_id",
            "position",
            "entity",
            "values",
            "parts",
            "rivals",
            "missing",
            "looks",
            "probability",
            "state",
            "signed_by",
            "signed_at",
            "differs",
            "created_at",
        ),
        refers={"template_id": "templates", "text_id": "texts", "signed_by": "people"},
        converts={
            "values": converting.unchanged,
            "parts": converting.unchanged,
            "rivals": converting.unchanged,
            "missing": converting.unchanged,
            "looks": converting.unchanged,
            "differs": converting.unchanged,
        },
        through=("template_id", "templates"),
        added={
            "entity": "",
            "values": {},
            "looks": [],
            "probability": None,
            "state": "found",
            "signed_by": None,
            "signed_at": None,
            "differs": {},
        },
    ),
    Part(
        name="signed_records",
        table=_table("record_signed_text"),
        columns=("template_id", "text_id", "signed_by", "signed_at"),
        refers={"template_id": "templates", "text_id": "texts", "signed_by": "people"},
        through=("template_id", "templates"),
        order=("template_id", "text_id"),
        later=True,
    ),
    Part(
        name="assembly",
        table=_table("assembly"),
        columns=("made_from", "created_at"),
        converts={"made_from": converting.made_from},
        order=("project_id",),
    ),
    Part(
        name="revisions",
        table=_table("revision"),
        columns=("place", "number"),
    ),
)
PARTS: dict[str, Part] = {part.name: part for part in _LIST}
