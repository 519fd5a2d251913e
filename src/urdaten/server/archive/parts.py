"""What an archive holds: its parts in the order in which they refer to each other, each a table as JSON Lines.

An archive has numbers of its own: the first text is text 1, wherever it lies in a database. So a project that was brought
back and is taken out again gives the same files.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, fields
from typing import Any

from sqlalchemy import ColumnElement, Table, select

from urdaten.core.lists import CASES, ListOptions, spelling_key
from urdaten.core.rules import carried_over
from urdaten.errors import BadFile
from urdaten.server.tables import METADATA

# (value, kind → number there by number here) → value
Converter = Callable[[Any, Mapping[str, Mapping[int, int]]], Any]


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


def number(kind: str, value: object, numbers: Mapping[str, Mapping[int, int]]) -> int | None:
    """The other number of the same thing. Raises BadFile for one that leads nowhere."""
    if value is None:
        return None
    if not isinstance(value, int) or isinstance(value, bool) or value not in numbers[kind]:
        raise BadFile(f"there is no {kind} {value!r}")
    return numbers[kind][value]


def _spans(listed: object, numbers: Mapping[str, Mapping[int, int]]) -> list[list[int | None]]:
    if not isinstance(listed, list):
        raise BadFile("spans are no list")
    made = []
    for one in listed:
        if not (isinstance(one, list) and len(one) == 3 and all(isinstance(x, int) for x in one)):
            raise BadFile("a span is [start, end, type]")
        # Types of acts older than every version of the scheme are not known: 0.
        made.append([one[0], one[1], numbers["types"].get(one[2], 0)])
    return made


def _state(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """What stood in a sentence, as the log has it."""
    if not isinstance(value, dict) or value.get("state") not in {"untouched", "draft", "signed"}:
        raise BadFile("a state of the log is not as it should be")
    made = dict(value)
    for name in ("spans", "turned_down"):
        if name in made:
            made[name] = _spans(made[name], numbers)
    if made.get("signed_by") is not None:
        made["signed_by"] = number("people", made["signed_by"], numbers)
    return made


def _scheme_types(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    if not isinstance(value, list) or not all(isinstance(one, dict) for one in value):
        raise BadFile("a version of the scheme is a list of types")
    return [
        one
        | {
            "id": number("types", one.get("id"), numbers),
            "parent": number("types", one.get("parent"), numbers),
        }
        for one in value
    ]


def _steps(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    if not isinstance(value, list) or not all(isinstance(one, dict) for one in value):
        raise BadFile("a step is a list of what became of types")
    return [
        one | {name: number("types", one.get(name), numbers) for name in ("type", "into")} for one in value
    ]


def _fields(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    if not isinstance(value, list) or not all(
        isinstance(one, dict) and isinstance(one.get("types"), list) for one in value
    ):
        raise BadFile("fields of a template are a list, each with its types")
    return [one | {"types": [number("types", n, numbers) for n in one["types"]]} for one in value]


def _named(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """What a pattern names, by number; a list that is not in the archive is none that there is."""
    if value is None:
        return {}
    if not isinstance(value, dict) or not set(value) <= {"types", "lists"}:
        raise BadFile("what a pattern names are types and lists")
    made: dict[str, dict[str, int]] = {}
    for kind, by_name in value.items():
        if not isinstance(by_name, dict) or not all(type(one) is int for one in by_name.values()):
            raise BadFile("what a pattern names has a number by its name")
        made[kind] = {name: numbers[kind].get(one, 0) for name, one in by_name.items()}
    return made


def _rule_text(row: Mapping[str, Any]) -> str:
    """As it is written now, or was before there was a language for rules."""
    text = str(row["pattern"])
    return carried_over(text) if row["refers"] is None else text


def _meta(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    if not isinstance(value, dict) or not all(isinstance(one, str) for one in value.values()):
        raise BadFile("metadata of a text are words by name")
    return value


def _bounds(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    if not isinstance(value, list):
        raise BadFile("what is set aside is a list")
    last = 0
    for one in value:
        if not (isinstance(one, list) and len(one) == 2 and all(type(x) is int for x in one)):
            raise BadFile("what is set aside has a start and an end")
        if not last <= one[0] < one[1]:
            raise BadFile("what is set aside stands in order")
        last = one[1]
    return value


def _latest_act(value: object, numbers: Mapping[str, Mapping[int, int]]) -> int:
    """The newest act up to this one; acts come in their order."""
    return max(
        (there for here, there in numbers["log"].items() if isinstance(value, int) and here <= value),
        default=0,
    )


def _made_from(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """Versions that something was made from."""
    if not isinstance(value, dict):
        raise BadFile("what it was made from has no members")
    made = dict(value)
    if "act" in made:
        made["act"] = _latest_act(made["act"], numbers)
    if isinstance(made.get("type_numbers"), dict):
        made["type_numbers"] = {code: numbers["types"].get(n, 0) for code, n in made["type_numbers"].items()}
    if isinstance(made.get("makers"), dict):
        made["makers"] = {
            source: {name: numbers[source].get(n, 0) for name, n in made["makers"].get(source, {}).items()}
            for source in ("lists", "rules")
        }
    if isinstance(made.get("evidence"), list) and made["evidence"]:
        *places, tagger = made["evidence"]
        made["evidence"] = [*places, numbers["trainings"].get(tagger, 0)]
    return made


def _ended(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """What has not ended goes on where it is, not where it is brought to."""
    return "interrupted" if value in {"waiting", "running"} else value


def _nothing(_value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    return {}


def _unchanged(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    return value


def _table(name: str) -> Table:
    return METADATA.tables[name]


def _digest(row: Mapping[str, Any]) -> str:
    return hashlib.sha256(str(row["body"]).encode()).hexdigest()


def _options(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """How names of a list are looked for, as lists keep it."""
    known = {field.name: getattr(ListOptions(), field.name) for field in fields(ListOptions)}
    if not isinstance(value, dict) or not value.keys() <= known.keys():
        raise BadFile("options of a list are not as they should be")
    for name, one in value.items():
        kind = list if isinstance(known[name], tuple) else type(known[name])
        if type(one) is not kind or (kind is list and not all(isinstance(word, str) for word in one)):
            raise BadFile(f"{name!r} of a list is not as it should be")
    if value.get("case", "any") not in CASES:
        raise BadFile("the case of a list is not as it should be")
    return value


def _ways(row: Mapping[str, Any]) -> list[str]:
    variants = row["variants"]
    if not isinstance(variants, list):
        raise BadFile("variants are a list")
    return [str(row["preferred"]), *map(str, variants)]


def _written(row: Mapping[str, Any]) -> str:
    return "\n".join(_ways(row))


def _keys(row: Mapping[str, Any]) -> list[int]:
    return sorted(set(map(spelling_key, _ways(row))))


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
        converts={"types": _scheme_types, "step": _steps},
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
        converts={"meta": _meta, "aside": _bounds},
        # How many sentences it has is counted when those have come too.
        computes={"body_digest": _digest, "sentences": lambda _: 0},
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
        converts={"before": _state, "after": _state},
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
        converts={"options": _options},
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
        computes={"written": _written, "keys": _keys},
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
            "position",
            "version",
            "created_at",
        ),
        refers={"type_id": "types"},
        converts={"refers": _named},
        computes={"pattern": _rule_text},
        added={"refers": None},
    ),
    Part(
        name="fragments",
        table=_table("fragment"),
        columns=("name", "about", "pattern", "refers", "version", "created_at"),
        converts={"refers": _named},
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
        converts={"params": _nothing, "state": _ended},
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
        converts={"settings": _unchanged, "epochs": _unchanged, "made_from": _made_from},
    ),
    Part(
        name="scorecards",
        table=_table("scorecard"),
        columns=("job_id", "source", "title", "figures", "made_from", "created_at"),
        refers={"job_id": "jobs"},
        converts={"figures": _unchanged, "made_from": _made_from},
    ),
    Part(
        name="scored_sentences",
        table=_table("scored_sentence"),
        columns=("scorecard_id", "sentence_id", "gold", "found", "outcomes"),
        refers={"scorecard_id": "scorecards", "sentence_id": "sentences"},
        converts={"gold": _unchanged, "found": _unchanged, "outcomes": _unchanged},
        through=("scorecard_id", "scorecards"),
        order=("scorecard_id", "sentence_id"),
    ),
    Part(
        name="templates",
        table=_table("record_template"),
        columns=("name", "anchor", "fields", "version", "created_at"),
        converts={"fields": _fields},
    ),
    Part(
        name="records",
        table=_table("record"),
        columns=("template_id", "text_id", "position", "parts", "rivals", "missing", "created_at"),
        refers={"template_id": "templates", "text_id": "texts"},
        converts={"parts": _unchanged, "rivals": _unchanged, "missing": _unchanged},
        through=("template_id", "templates"),
    ),
    Part(
        name="assembly",
        table=_table("assembly"),
        columns=("made_from", "created_at"),
        converts={"made_from": _made_from},
        order=("project_id",),
    ),
    Part(
        name="revisions",
        table=_table("revision"),
        columns=("place", "number"),
    ),
)
PARTS: dict[str, Part] = {part.name: part for part in _LIST}
