"""How values of an archive become values of a database: numbers of its own become those of rows, and what is not as it should be
is refused."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from dataclasses import fields, replace
from typing import Any

from urdaten.core.lists import CASES, ListOptions, spelling_key
from urdaten.core.pipeline import PRIORITIES, TaggerSettings, Weigher, plan_values, read_plan
from urdaten.core.rules import carried_over
from urdaten.errors import BadFile, BadInput

# (value, kind → number there by number here) → value
Converter = Callable[[Any, Mapping[str, Mapping[int, int]]], Any]


def number(kind: str, value: object, numbers: Mapping[str, Mapping[int, int]]) -> int | None:
    """The other number of the same thing. Raises BadFile for one that leads nowhere."""
    if value is None:
        return None
    if not isinstance(value, int) or isinstance(value, bool) or value not in numbers[kind]:
        raise BadFile(f"there is no {kind} {value!r}")
    return numbers[kind][value]


def spans(listed: object, numbers: Mapping[str, Mapping[int, int]]) -> list[list[int | None]]:
    if not isinstance(listed, list):
        raise BadFile("spans are no list")
    made = []
    for one in listed:
        if not (isinstance(one, list) and len(one) == 3 and all(isinstance(x, int) for x in one)):
            raise BadFile("a span is [start, end, type]")
        # Types of acts older than every version of the scheme are not known: 0.
        made.append([one[0], one[1], numbers["types"].get(one[2], 0)])
    return made


def state(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """What stood in a sentence, as the log has it."""
    if not isinstance(value, dict) or value.get("state") not in {"untouched", "draft", "signed"}:
        raise BadFile("a state of the log is not as it should be")
    made = dict(value)
    for name in ("spans", "turned_down"):
        if name in made:
            made[name] = spans(made[name], numbers)
    if made.get("signed_by") is not None:
        made["signed_by"] = number("people", made["signed_by"], numbers)
    return made


def scheme_types(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
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


def steps(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    if not isinstance(value, list) or not all(isinstance(one, dict) for one in value):
        raise BadFile("a step is a list of what became of types")
    return [
        one | {name: number("types", one.get(name), numbers) for name in ("type", "into")} for one in value
    ]


def template_fields(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    if not isinstance(value, list) or not all(
        isinstance(one, dict) and isinstance(one.get("types"), list) for one in value
    ):
        raise BadFile("fields of a template are a list, each with its types")
    return [one | {"types": [number("types", n, numbers) for n in one["types"]]} for one in value]


def named(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
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


def rule_text(row: Mapping[str, Any]) -> str:
    """As it is written now, or was before there was a language for rules."""
    text = str(row["pattern"])
    return carried_over(text) if row["refers"] is None else text


def meta(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    if not isinstance(value, dict) or not all(isinstance(one, str) for one in value.values()):
        raise BadFile("metadata of a text are words by name")
    return value


def bounds(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
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


def latest_act(value: object, numbers: Mapping[str, Mapping[int, int]]) -> int:
    """The newest act up to this one; acts come in their order."""
    return max(
        (there for here, there in numbers["log"].items() if isinstance(value, int) and here <= value),
        default=0,
    )


def made_from(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """Versions that something was made from."""
    if not isinstance(value, dict):
        raise BadFile("what it was made from has no members")
    made = dict(value)
    if "act" in made:
        made["act"] = latest_act(made["act"], numbers)
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


def ended(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """What has not ended goes on where it is, not where it is brought to."""
    return "interrupted" if value in {"waiting", "running"} else value


def nothing(_value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    return {}


def unchanged(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    return value


def digest(row: Mapping[str, Any]) -> str:
    return hashlib.sha256(str(row["body"]).encode()).hexdigest()


def options(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
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


def ways(row: Mapping[str, Any]) -> list[str]:
    variants = row["variants"]
    if not isinstance(variants, list):
        raise BadFile("variants are a list")
    return [str(row["preferred"]), *map(str, variants)]


def written(row: Mapping[str, Any]) -> str:
    return "\n".join(ways(row))


def keys(row: Mapping[str, Any]) -> list[int]:
    return sorted(set(map(spelling_key, ways(row))))


def priority(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """Of a rule where its finds meet those of others."""
    if value not in PRIORITIES:
        raise BadFile("the priority of a rule is high, usual or low")
    return value


def pipeline_plan(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """A plan, whose taggers and weights go by their numbers; what is gone by now is named as nothing that there is."""

    def there(kind: str, name: str, lost: str) -> str:
        number = numbers.get(kind, {}).get(int(name)) if name.isdecimal() and len(name) < 10 else None
        return str(number) if number is not None else (lost if name else "")

    try:
        plan = read_plan(value)
    except BadInput as fault:
        raise BadFile(fault.message) from fault
    stages = tuple(
        replace(
            stage, settings=replace(stage.settings, tagger=there("trainings", stage.settings.tagger, "0"))
        )
        if isinstance(stage.settings, TaggerSettings)
        else stage
        for stage in plan.stages
    )
    weights = there("weights", plan.policy.weights, "0")
    return plan_values(replace(plan, stages=stages, policy=replace(plan.policy, weights=weights)))


def named_numbers(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """What lists, rules and types were called, by the numbers of those that are there still."""
    made: dict[str, dict[str, int]] = {}
    for of in ("lists", "rules", "types"):
        named = value.get(of, {}) if isinstance(value, dict) else None
        if not isinstance(named, dict) or not all(type(number) is int for number in named.values()):
            raise BadFile("names of lists, rules and types are numbers by name")
        made[of] = {name: numbers[of][number] for name, number in named.items() if number in numbers[of]}
    return made


def weigher(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    Weigher.from_dict(value)
    return value


_COUNTS = ("texts", "sentences", "train_texts")
_AGAINST = ("right", "found", "gold")


def weighing_figures(value: Any, _numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """How weights did on dev."""

    def holds(one: object, names: tuple[str, ...], kind: type | tuple[type, ...]) -> bool:
        return (
            isinstance(one, dict)
            and one.keys() == set(names)
            and all(type(x) in (kind if isinstance(kind, tuple) else (kind,)) for x in one.values())
        )

    is_sound = (
        isinstance(value, dict)
        and value.keys() == {"least", "weighed", "now", "gain", *_COUNTS}
        and type(value["least"]) in (int, float)
        and all(type(value[name]) is int for name in _COUNTS)
        and all(holds(value[name], _AGAINST, int) for name in ("weighed", "now"))
        and holds(value["gain"], ("f1", "low", "high"), (int, float, type(None)))
        and value["gain"]["f1"] is not None
    )
    if not is_sound:
        raise BadFile("the figures of weights are not as they should be")
    return value
