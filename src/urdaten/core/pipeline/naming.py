"""What a plan names: lists, rules, taggers and types, which may get other names."""

from __future__ import annotations

from collections.abc import Mapping, Set
from dataclasses import dataclass, field, replace

from urdaten.core.pipeline.plan import (
    GivenSettings,
    ListsSettings,
    Plan,
    RepeatsSettings,
    RulesSettings,
    Settings,
    TaggerSettings,
    TypesSettings,
    WhereSettings,
)
from urdaten.core.rules import mentions, renamed
from urdaten.errors import BadPattern

Names = Mapping[str, str]


@dataclass(frozen=True)
class Named:
    """Names by what they are of; of a change, old name → new one."""

    lists: Names = field(default_factory=dict)
    rules: Names = field(default_factory=dict)
    taggers: Names = field(default_factory=dict)
    types: Names = field(default_factory=dict)


def named_in(plan: Plan) -> Named:
    """Everything that a plan names, each name → itself."""
    found: dict[str, dict[str, str]] = {"lists": {}, "rules": {}, "taggers": {}, "types": {}}

    def put(of: str, names: tuple[str, ...] | Set[str] | Names) -> None:
        found[of].update({name: name for name in names if name})

    for stage in plan.stages:
        match stage.settings:
            case ListsSettings(lists=names):
                put("lists", names)
            case RulesSettings(rules=names):
                put("rules", names)
            case TaggerSettings(tagger=tagger, types=types, least_of=least):
                put("taggers", (tagger,))
                put("types", (*types.values(), *least))
            case WhereSettings(pattern=pattern, types=types):
                put("types", types)
                for kind, name in _mentioned(pattern):
                    put("types" if kind == "type" else "lists", (name,))
            case TypesSettings(keep=keep, drop=drop, rename=rename):
                put("types", (*keep, *drop, *rename, *rename.values()))
            case RepeatsSettings(types=types):
                put("types", types)
            case GivenSettings(types=types):
                put("types", tuple(types.values()))
    put("types", tuple(plan.policy.by_type))
    return Named(**found)


def renamed_plan(plan: Plan, new: Named) -> Plan:
    """A plan with other names for what it names."""
    stages = tuple(replace(stage, settings=_renamed(stage.settings, new)) for stage in plan.stages)
    by_type = {_new(new.types, code): order for code, order in plan.policy.by_type.items()}
    return replace(plan, stages=stages, policy=replace(plan.policy, by_type=by_type))


def _renamed(settings: Settings, new: Named) -> Settings:
    match settings:
        case ListsSettings(lists=names):
            return replace(settings, lists=_all(new.lists, names))
        case RulesSettings(rules=names):
            return replace(settings, rules=_all(new.rules, names))
        case TaggerSettings():
            return replace(
                settings,
                tagger=_new(new.taggers, settings.tagger),
                # What it learnt keeps the name under which it was learnt.
                types={learnt: _new(new.types, code) for learnt, code in settings.types.items()},
                least_of={_new(new.types, code): least for code, least in settings.least_of.items()},
            )
        case WhereSettings():
            said = {
                (kind, name): (new.types if kind == "type" else new.lists).get(name, name)
                for kind, name in _mentioned(settings.pattern)
            }
            changed = {key: name for key, name in said.items() if key[1] != name}
            pattern = renamed(settings.pattern, changed) if changed else settings.pattern  # type: ignore[arg-type] # kinds of mentions
            return replace(settings, pattern=pattern, types=_all(new.types, settings.types))
        case TypesSettings():
            return replace(
                settings,
                keep=_all(new.types, settings.keep),
                drop=_all(new.types, settings.drop),
                rename={_new(new.types, a): _new(new.types, b) for a, b in settings.rename.items()},
            )
        case RepeatsSettings():
            return replace(settings, types=_all(new.types, settings.types))
        case GivenSettings():
            return replace(settings, types={a: _new(new.types, b) for a, b in settings.types.items()})


def _mentioned(pattern: str) -> set[tuple[str, str]]:
    try:
        return {(one.kind, one.name) for one in mentions(pattern) if one.kind != "fragment"}
    except BadPattern:
        return set()


def _new(names: Names, name: str) -> str:
    return names.get(name, name)


def _all(names: Names, held: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(_new(names, name) for name in held))
