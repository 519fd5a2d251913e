"""The plan of an import: how its sources are read, and what becomes of what they hold."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields
from pathlib import Path
from typing import Any

from urdaten.errors import BadFile, BadInput
from urdaten.places.texts.acts import SPLITS
from urdaten.readers import READERS, ROLES, How

PER = ("file", "paragraph", "line", "page")
GROUPS = ("", "file", "folder")
NEAR = ("keep", "leave out")
SPANS = ("signed", "begun", "left out")
MOST_LABELS = 2_000
_LONGEST = 200


@dataclass(frozen=True, kw_only=True)
class Plan:
    """Everything that can be said of an import besides its files."""

    how: How = field(default_factory=How)
    # Of texts of which their source does not say it.
    split: str = "none"
    group: str = ""
    # Texts of one file or folder belong together, where their source does not say with what.
    group_by: str = ""
    # Texts that are nearly the same as an earlier one.
    near: str = "keep"
    # What an annotated corpus calls a type, and the type's code here; "" for spans that are left out.
    labels: Mapping[str, str] = field(default_factory=dict)
    # Spans stand signed by whoever imports them, begun, or not at all.
    spans: str = "begun"
    # In gold, or in a layer of this name.
    layer: str = ""
    # What mails quote and their signatures are annotated like the rest.
    annotate_quoted: bool = False


def plan_from(values: Mapping[str, Any]) -> Plan:
    """A plan from its members, of which each may be missing. Raises BadInput with the field."""
    own = {one.name for one in fields(Plan)} - {"how"}
    of_how = {one.name for one in fields(How)}
    if unknown := values.keys() - own - of_how:
        raise BadInput(
            f"A plan has no “{min(unknown)}”; there are {', '.join(sorted(own | of_how))}.",
            field=min(unknown),
        )
    plan = Plan(
        how=How(**{name: values[name] for name in of_how & values.keys()}),
        **{name: values[name] for name in own & values.keys()},
    )
    _check(plan)
    return plan


def plan_values(plan: Plan) -> dict[str, Any]:
    """A plan's members, as `plan_from` takes them."""
    values = asdict(plan)
    how: dict[str, Any] = values.pop("how")
    return how | values


def read_plan(path: Path) -> Plan:
    """A plan from a TOML file. Raises BadFile."""
    try:
        return plan_from(tomllib.loads(path.read_text(encoding="utf-8")))
    except FileNotFoundError:
        raise BadFile(f"There is no file {path}.") from None
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as fault:
        raise BadFile(f"{path.name}: {fault}.") from None
    except BadInput as fault:
        raise BadFile(f"{path.name}: {fault.message}") from fault


def _check(plan: Plan) -> None:
    how = plan.how
    _one_of("kind", how.kind, ("", *READERS))
    _one_of("per", how.per, PER)
    _one_of("split", plan.split, SPLITS)
    _one_of("group_by", plan.group_by, GROUPS)
    _one_of("near", plan.near, NEAR)
    _one_of("spans", plan.spans, SPANS)
    for name in ("encoding", "delimiter"):
        _words(name, getattr(how, name))
    for name in ("group", "layer"):
        _words(name, getattr(plan, name))
    switches = {name: getattr(how, name) for name in ("whole_page", "without_quoted", "day_first")}
    for name, on in (switches | {"annotate_quoted": plan.annotate_quoted}).items():
        if not isinstance(on, bool):
            raise BadInput(f"“{name}” is true or false.", field=name)
    if how.header not in (None, True, False):
        raise BadInput("“header” is true, false or left out.", field="header")
    _named("roles", how.roles)
    _named("labels", plan.labels)
    for role in how.roles.values():
        _one_of("roles", role, ROLES)


def _one_of(name: str, value: object, choices: tuple[str, ...]) -> None:
    if value not in choices:
        told = ", ".join(choice or "nothing" for choice in choices)
        raise BadInput(f"“{name}” is one of {told}; not {str(value)[:40]!r}.", field=name)


def _words(name: str, value: object) -> None:
    if not isinstance(value, str) or len(value) > _LONGEST or "\0" in value:
        raise BadInput(f"“{name}” is words, at most {_LONGEST} characters.", field=name)


def _named(name: str, values: object) -> None:
    if not isinstance(values, Mapping) or len(values) > MOST_LABELS:
        raise BadInput(f"“{name}” are at most {MOST_LABELS} words by name.", field=name)
    for key, value in values.items():
        _words(name, key)
        _words(name, value)
