"""Reading the demo files under data/demo/ (their formats are described in its README)."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property
from pathlib import Path
from typing import Any

import regex

from urdaten.core.formats import read_marked, read_names
from urdaten.core.lists import Entry, NameList
from urdaten.core.records import Field, Template
from urdaten.core.rules import CompiledRule, Rule
from urdaten.core.spans import Span
from urdaten.errors import BadFile
from urdaten.installed import words

FOLDER = Path(__file__).parents[3] / "data" / "demo"
_HEAD = regex.compile(r"=== (?P<title>[^|]+?) \| (?P<dated>\d{4}-\d\d-\d\d) \| (?P<voice>[^|]+?)\s*")


@dataclass(frozen=True, kw_only=True)
class Bulletin:
    """One text of the demo with its gold."""

    title: str
    group: str
    dated: date
    voice: str
    split: str
    # Unsigned bulletins give the Desk its work; their gold is for checks only.
    signed: bool
    body: str
    gold: tuple[Span, ...]


@dataclass(frozen=True, kw_only=True)
class DemoType:
    """One entity type as types.toml describes it."""

    code: str
    name: str
    key: str
    hue: int
    definition: str
    counts: tuple[str, ...]
    counts_not: tuple[str, ...]
    rulings: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class DemoRule:
    """A rule with its examples."""

    name: str
    type: str
    about: str
    pattern: str
    must_find: tuple[str, ...]
    must_not_find: tuple[str, ...]

    @property
    def rule(self) -> Rule:
        return Rule(name=self.name, type=self.type, text=self.pattern)


@dataclass(frozen=True, kw_only=True)
class DemoFragment:
    """A part of patterns that rules use by its name."""

    name: str
    about: str
    pattern: str


@dataclass(frozen=True, kw_only=True)
class DemoRound:
    """A portion of annotation work: whole weeks."""

    name: str
    weeks: tuple[str, ...]
    note: str = ""
    priority: int = 1
    suggestions: bool = True
    open: bool = True


@dataclass(frozen=True, kw_only=True)
class Demo:
    """All that the demo files hold."""

    name: str
    slug: str
    language: str
    types: tuple[DemoType, ...]
    bulletins: tuple[Bulletin, ...]
    lists: tuple[NameList, ...]
    rules: tuple[DemoRule, ...]
    fragments: tuple[DemoFragment, ...]
    templates: tuple[Template, ...]
    rounds: tuple[DemoRound, ...]
    # What each annotator marked in some of the bulletins, by the name of their file.
    annotators: Mapping[str, tuple[Bulletin, ...]]

    @cached_property
    def compiled_rules(self) -> tuple[CompiledRule, ...]:
        """The rules in their order, ready to be held against texts."""
        fragments = {one.name: one.pattern for one in self.fragments}
        return tuple(one.rule.compiled(fragments, words(self.language)) for one in self.rules)


def read_demo(folder: Path = FOLDER) -> Demo:
    """Read everything. Raises BadFile that names file and line."""
    project = tomllib.loads((folder / "project.toml").read_text())
    types = tomllib.loads((folder / "types.toml").read_text())["type"]
    written = tomllib.loads((folder / "rules.toml").read_text())
    return Demo(
        name=project["name"],
        slug=project["slug"],
        language=project["language"],
        types=tuple(_type(t) for t in types),
        bulletins=tuple(
            bulletin
            for path in sorted((folder / "bulletins").glob("*.txt"))
            for bulletin in read_bulletins(path, project["splits"], project["unsigned"])
        ),
        lists=tuple(_names(folder / "lists" / f"{x['name']}.csv", x) for x in project["list"]),
        rules=tuple(map(_rule, written["rule"])),
        fragments=tuple(DemoFragment(**one) for one in written["fragment"]),
        templates=tuple(
            _template(t) for t in tomllib.loads((folder / "records.toml").read_text())["template"]
        ),
        rounds=tuple(DemoRound(**r | {"weeks": tuple(r["weeks"])}) for r in project["round"]),
        annotators={
            path.stem: tuple(read_bulletins(path)) for path in sorted((folder / "annotators").glob("*.txt"))
        },
    )


def _type(values: dict[str, Any]) -> DemoType:
    return DemoType(**values | {name: tuple(values[name]) for name in ("counts", "counts_not", "rulings")})


def read_bulletins(
    path: Path, splits: Mapping[str, Sequence[str]] | None = None, unsigned: Sequence[str] = ()
) -> list[Bulletin]:
    """The bulletins of one file, in marked text. Raises BadFile that names file and line."""
    week = path.stem
    split = next((name for name, weeks in (splits or {}).items() if week in weeks), "none")
    found = []
    # Each bulletin begins with a line "=== title | date | voice".
    parts = regex.split(r"^(?==== )", path.read_text(), flags=regex.MULTILINE)
    line = 1
    for part in parts:
        if part.strip():
            head, _, rest = part.partition("\n")
            match = _HEAD.fullmatch(head)
            if not match:
                raise BadFile(f"{path.name}, line {line}: a bulletin begins with “=== title | date | voice”.")
            try:
                body, gold = read_marked(rest.strip("\n"))
            except BadFile as fault:
                at = line + fault.detail.get("line", 1)
                raise BadFile(f"{path.name}, line {at}: {fault.message}", line=at) from fault
            found.append(
                Bulletin(
                    title=match["title"],
                    group=week,
                    dated=date.fromisoformat(match["dated"]),
                    voice=match["voice"],
                    split=split,
                    signed=week not in unsigned,
                    body=body,
                    gold=tuple(gold),
                )
            )
        line += part.count("\n")
    return found


def _names(path: Path, head: dict[str, str]) -> NameList:
    with path.open(newline="", encoding="utf-8") as file:
        entries = [Entry(preferred=one.preferred, variants=one.variants) for one in read_names(file)]
    return NameList(name=head["name"], type=head["type"], entries=tuple(entries))


def _rule(values: dict[str, Any]) -> DemoRule:
    return DemoRule(**values | {name: tuple(values[name]) for name in ("must_find", "must_not_find")})


def _template(values: dict[str, Any]) -> Template:
    lists = ("types", "cues", "allowed")
    told_fields: list[dict[str, Any]] = [
        {name: tuple(value) if name in lists else value for name, value in f.items()} for f in values["field"]
    ]
    fields = tuple(Field(**f) for f in told_fields)
    told = {name: value for name, value in values.items() if name not in ("field", "opens")}
    return Template(**told, fields=fields, opens=tuple(tuple(group) for group in values.get("opens", ())))
