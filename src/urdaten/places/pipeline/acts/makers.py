"""What evidence is made with: the lists and rules that are on, and the tagger in use."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b

from sqlalchemy.orm import Session

from urdaten.core.pipeline import PRIORITIES, Ranks
from urdaten.core.rules import CompiledRule
from urdaten.places.lists import acts as lists
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.revisions import revisions

# Raised whenever the code finds something else than before: what was kept until then is made anew.
MADE_WITH = 4


def digest_of(*parts: object) -> str:
    """Of what these look like."""
    return blake2b(repr(parts).encode(), digest_size=16).hexdigest()


@dataclass(frozen=True, kw_only=True)
class RuleOn:
    """A rule that is on."""

    id: int
    rule: CompiledRule
    # Of what it matches and of what it looks at, and of the name by which it is told of when it takes too long.
    fingerprint: str
    # Where its finds meet those of other rules: one of PRIORITIES.
    priority: str = "usual"

    @property
    def name(self) -> str:
        return self.rule.rule.name

    @property
    def looks(self) -> bool:
        """Does it depend on what lists find?"""
        return bool(self.rule.lists or self.rule.found or self.rule.removal)


@dataclass(frozen=True, kw_only=True)
class Makers:
    """The lists and rules of a project that are on, with the numbers of their types."""

    # Of everything that evidence depends on, as far as it is counted; without the lists the same for all of `base`.
    stamp: str
    base: str
    made_with: str
    # The last change of lists that they show at least.
    list_change: int
    lists: Mapping[int, lists.ListOn]
    # In their order.
    rules: tuple[RuleOn, ...]
    # Is a tagger in use?
    has_tagger: bool
    # Code of each type by its number, merged ones included, and the number of each code.
    codes: Mapping[int, str]
    numbers: Mapping[str, int]

    @cached_property
    def ranks(self) -> Ranks:
        """Of rules that have another than the usual one, by name."""
        return {x.name: PRIORITIES[x.priority] for x in self.rules if PRIORITIES[x.priority]}

    @cached_property
    def key(self) -> str:
        """Of what finds are counted with."""
        return digest_of(
            sorted((x.id, self.numbers[x.type]) for x in self.lists.values()),
            sorted(
                (x.id, x.fingerprint, [self.numbers.get(kind, 0) for kind in x.rule.types])
                for x in self.rules
            ),
        )

    def needed_for(self, wanted: Collection[str]) -> list[RuleOn]:
        """The rules with these fingerprints, and those before them that they look at, in their order."""
        needed: list[RuleOn] = []
        for one in reversed(self.rules):
            if one.fingerprint in wanted or any(_sees(later.rule, one.rule) for later in needed):
                needed.insert(0, one)
        return needed


def stamp(db: Session, project_id: int) -> tuple[int, ...]:
    """What evidence depends on: revisions of lists, rules and types, and the tagger in use."""
    numbers = revisions(db, project_id)
    places = (lists.PLACE, rules.PLACE, types.PLACE)
    return (*(numbers.get(place, 0) for place in places), tagger.in_use(db, project_id) or 0)


def read_makers(db: Session, project: Project) -> Makers:
    """Those of now. What is changed meanwhile is in what they say, but not in the stamp and the number of the change."""
    numbers = revisions(db, project.id)
    made_with = f"{MADE_WITH} {project.language}"
    # Texts too: the tagger reads what belongs to one group together.
    places = (rules.PLACE, types.PLACE, texts.PLACE)
    in_use = tagger.in_use(db, project.id)
    base = digest_of([numbers.get(place, 0) for place in places], in_use, made_with)
    change = lists.last_change(db, project.id)
    on = lists.lists_on(db, project.id)
    return Makers(
        stamp=f"{base} {numbers.get(lists.PLACE, 0)}",
        base=base,
        made_with=made_with,
        list_change=change,
        lists={x.id: x for x in on},
        rules=_rules_on(db, project.id, on),
        has_tagger=in_use is not None,
        codes=types.present_codes(db, project.id),
        numbers={code: number for number, code in types.type_codes(db, project.id).items()},
    )


def _sees(later: CompiledRule, earlier: CompiledRule) -> bool:
    """Does a rule look at spans that another sets or takes away?"""
    if earlier.removes is None or earlier.removes & later.found:
        return bool(later.found)
    return earlier.marks and bool(later.found.intersection(earlier.types))


def _rules_on(db: Session, project_id: int, on: Sequence[lists.ListOn]) -> tuple[RuleOn, ...]:
    """Those that can be read still."""
    fragments, words = rules.fragment_texts(db, project_id), rules.words_of(db, project_id)
    found: list[RuleOn] = []
    for one in rules.read_rules(db, project_id):
        rule = rules.compiled_or_none(one, fragments, words) if one.on else None
        if rule is None:
            continue
        looked_at = [
            sorted(x.id for x in on if x.name in rule.lists),
            sorted(x.id for x in on if x.type in rule.found),
            [earlier.fingerprint for earlier in found if _sees(rule, earlier.rule)],
        ]
        digest = digest_of(one.name, rule.content, looked_at)
        found.append(RuleOn(id=one.id, rule=rule, fingerprint=digest, priority=one.priority))
    return tuple(found)
