"""A bundle brought into a project: its types, lists, rules, taggers and templates beside those that are there, and its stages for
somebody to look at. Nothing that is there changes."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import asdict, dataclass, field, replace
from pathlib import PurePath
from typing import Any

from sqlalchemy.orm import Session

from urdaten.core.bundle import Bundle, BundledRule, BundledTagger, from_bytes
from urdaten.core.formats import Scheme, SchemeType
from urdaten.core.lists import ListHead
from urdaten.core.pipeline import (
    ListsSettings,
    Named,
    Plan,
    RulesSettings,
    StagePlan,
    Weigher,
    WhereSettings,
    plan_values,
    renamed_plan,
)
from urdaten.core.rules import mentions, renamed
from urdaten.core.tagger import from_bytes as tagger_from
from urdaten.core.tagger import is_tagger
from urdaten.errors import BadInput, Stopped
from urdaten.installed import general_lexicon
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline.acts import Arrival
from urdaten.places.records import acts as records
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.places.team.acts import Project
from urdaten.places.types import acts as types
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles

NEW, SAME, RENAMED = "new", "same", "renamed"
# What a tagger learns from, and what that is called among parts.
_MAKERS = {"lists": "list", "rules": "rule"}
Entries = frozenset[tuple[str, tuple[str, ...]]]


@dataclass(eq=False)
class Bringing:
    """What becomes of each part of a bundle, found out before anything is kept."""

    db: Session
    project: Project
    bundle: Bundle
    arrivals: list[Arrival] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    # Of each kind of part the names that it has here.
    names: dict[str, dict[str, str]] = field(default_factory=dict)

    def look(self) -> None:
        """Raises BadInput for a bundle in another language."""
        bundle, project = self.bundle, self.project
        if bundle.language != project.language:
            raise BadInput(
                f"The bundle is for texts in “{bundle.language}”, and this project has “{project.language}”.",
                field="language",
            )
        self._types()
        self._lists()
        self._fragments()
        self._rules()
        self._taggers()
        self._templates()
        self._notes()

    def _settle(
        self, what: str, name: str, wanted: object, there: Mapping[str, object], taken: Collection[str]
    ) -> None:
        """Under its name, or with a number behind it, something may be the same; otherwise it gets the first name that is free."""
        number, made = 1, name
        given = set(self.names.get(what, {}).values())
        while made in given or (made in taken and there.get(made) != wanted):
            number += 1
            made = f"{name} {number}"
        self._note(what, name, made, is_there=made in taken)

    def _note(self, what: str, name: str, becomes: str, *, is_there: bool) -> None:
        how = SAME if is_there else (NEW if becomes == name else RENAMED)
        self.arrivals.append(Arrival(what=what, name=name, becomes=becomes, how=how))
        self.names.setdefault(what, {})[name] = becomes

    # What is there, and under which name it comes

    @property
    def new_types(self) -> list[SchemeType]:
        """Types that are not here; those that only a tagger, list or rule has come without a definition."""
        bundle = self.bundle
        there = {one.code for one in types.list_types(self.db, self.project.id)}
        told = {one.code: one for one in bundle.scheme.types}
        used = [head.type for head in bundle.heads.values()]
        used += [one.type for one in bundle.rules]
        for one in bundle.taggers.values():
            used += _types_of(one).values()
        used += [code for template in bundle.templates for f in template.fields for code in f.types]
        codes = dict.fromkeys([*told, *used])
        blank = {code: SchemeType(code=code, name=code, key="", hue=k % 24) for k, code in enumerate(codes)}
        return [told.get(code, blank[code]) for code in codes if code not in there]

    def _types(self) -> None:
        new = {one.code for one in self.new_types}
        for one in self.bundle.scheme.types:
            self._note("type", one.code, one.code, is_there=one.code not in new)
        for code in sorted(new - {one.code for one in self.bundle.scheme.types}):
            self._note("type", code, code, is_there=False)

    def _lists(self) -> None:
        every = {one.name for one in lists.read_lists(self.db, self.project.id)}
        there = {
            one.name: (
                one.type,
                one.options,
                frozenset((e.preferred, tuple(sorted(e.variants))) for e in one.entries),
            )
            for one in lists.name_lists(self.db, self.project)
        }
        for head, entries in self.lists.items():
            self._settle("list", head.name, (head.type, head.options, entries), there, every)

    @property
    def lists(self) -> dict[ListHead, Entries]:
        """The lists of the bundle with their names, also those without any."""
        found: dict[ListHead, list[tuple[str, tuple[str, ...]]]] = {
            head: [] for _, head in sorted(self.bundle.heads.items())
        }
        for head, preferred, variants in self.bundle.gazetteer.content:
            found[head].append((preferred, variants))
        return {head: frozenset(entries) for head, entries in found.items()}

    def _fragments(self) -> None:
        there = rules.fragment_texts(self.db, self.project.id)
        for name in _in_turn(self.bundle.fragments):
            self._settle("fragment", name, self.pattern(self.bundle.fragments[name]), there, there)

    def _rules(self) -> None:
        every = rules.read_rules(self.db, self.project.id)
        there = {one.name: (one.type, one.pattern, one.priority) for one in every if one.on}
        for one in self.bundle.rules:
            wanted = (one.type, self.pattern(one.pattern), one.priority)
            self._settle("rule", one.name, wanted, there, {held.name for held in every})

    def _taggers(self) -> None:
        for name, one in sorted(self.bundle.taggers.items()):
            called = name or self.bundle.name
            self._note("tagger", called, called, is_there=self._tagger_here(one) is not None)

    def _tagger_here(self, one: BundledTagger) -> int | None:
        """The number of the very tagger, if it has learnt from what the lists and rules of the bundle are here."""
        makers = self._makers(one)
        if any(len(makers[source]) < len(own) for source, own in self._learnt_from(one).items()):
            return None
        return tagger.training_with_model(self.db, self.project.id, one.data, makers)

    def _makers(self, one: BundledTagger) -> dict[str, dict[str, int]]:
        """Of each list and rule that a tagger learnt, under the name of then, the number of what it is here, if it is here yet."""
        learnt, made = self._learnt_from(one), {}
        for source, what in _MAKERS.items():
            numbers, here = self._numbers(source), self.names.get(what, {})
            made[source] = {
                was: numbers[here[now]] for now, was in learnt[source].items() if here[now] in numbers
            }
        return made

    def _learnt_from(self, one: BundledTagger) -> dict[str, dict[str, str]]:
        """Of each list and rule of the bundle that a tagger learnt the name of then; without a word of that the name of now."""
        found = {}
        for source, what in _MAKERS.items():
            names = self.names.get(what, {})
            own = {name: name for name in names} if one.makers is None else one.makers.get(source, {})
            found[source] = {now: was for now, was in own.items() if now in names}
        return found

    def _templates(self) -> None:
        there = {one.template.name: one.template for one in records.read_templates(self.db, self.project.id)}
        # A template is the same whatever it is called.
        called = {name: replace(one, name="") for name, one in there.items()}
        for one in self.bundle.templates:
            self._settle("template", one.name, replace(one, name=""), called, there)

    def _notes(self) -> None:
        bundle, project = self.bundle, self.project
        if bundle.scheme.overlap != project.overlap:
            self.notes.append(
                f"Its spans stand to each other as “{bundle.scheme.overlap}”; here they stand as “{project.overlap}”."
            )
        if more := sorted(bundle.abbreviations - project.abbreviations):
            self.notes.append(f"Its abbreviations do not come along: {', '.join(more[:20])}.")
        if any(one.parent for one in self.new_types):
            self.notes.append("New types come without the types that they are a kind of.")
        general = general_lexicon()
        learnt = {tagger_from(one.data).manifest.get("lexicon") for one in bundle.taggers.values()} - {None}
        if learnt and (general is None or learnt != {general.digest}):
            self.notes.append(
                "A tagger of it has learnt with another general lexicon than the one here, and goes without."
            )

    def pattern(self, text: str) -> str:
        """A pattern with the names that its lists and fragments have here."""
        new: dict[tuple[Any, str], str] = {("list", a): b for a, b in self.names.get("list", {}).items()}
        new |= {("fragment", a): b for a, b in self.names.get("fragment", {}).items()}
        return renamed(text, new)

    # Bringing in

    def keep(self, account_id: int | None, job_id: int) -> Plan:
        """Keep everything that is not there yet; the stages of the bundle under the names of here."""
        self._keep_types(account_id)
        for head, entries in self.lists.items():
            if self._is_new("list", head.name):
                self._keep_list(head, entries, account_id)
        for name in _in_turn(self.bundle.fragments):
            if self._is_new("fragment", name):
                draft = rules.FragmentDraft(
                    name=self.names["fragment"][name], pattern=self.pattern(self.bundle.fragments[name])
                )
                rules.add_fragment(self.db, self.project.id, draft, account_id)
        for one in self.bundle.rules:
            if self._is_new("rule", one.name):
                self._keep_rule(one, account_id)
        numbers = {name: self._keep_tagger(name, one) for name, one in sorted(self.bundle.taggers.items())}
        for template in self.bundle.templates:
            if self._is_new("template", template.name):
                named = replace(template, name=self.names["template"][template.name])
                made = records.add_template(self.db, self.project.id, named)
                if template.name in self.bundle.learnt:
                    learnt = replace(self.bundle.assembler(template.name), template=named)
                    records.keep_learnt(self.db, self.project.id, made.id, learnt)
        plan = self._plan(numbers)
        if self.bundle.weigher is not None:
            weights = self._keep_weights(self.bundle.weigher, plan, job_id)
            plan = replace(plan, policy=replace(plan.policy, weights=str(weights)))
        return plan

    def _is_new(self, what: str, name: str) -> bool:
        return any(one.what == what and one.name == name and one.how != SAME for one in self.arrivals)

    def _keep_types(self, account_id: int | None) -> None:
        new = self.new_types
        if not new:
            return
        taken = {one.key for one in types.list_types(self.db, self.project.id)}
        drafts = []
        for one in new:
            key = "" if one.key in taken else one.key
            taken.add(key)
            drafts.append(
                types.TypeDraft(
                    code=one.code,
                    name=one.name,
                    key=key,
                    hue=one.hue,
                    definition=one.definition,
                    counts=one.counts,
                    counts_not=one.counts_not,
                    rulings=one.rulings,
                    value_kind=one.value_kind,
                )
            )
        types.add_more_types(self.db, self.project.id, account_id, drafts)

    def _keep_list(self, head: ListHead, entries: Entries, account_id: int | None) -> None:
        draft = lists.ListDraft(name=self.names["list"][head.name], type=head.type, options=head.options)
        made = lists.add_list(self.db, self.project.id, draft, account_id)
        if entries:
            drafts = [lists.EntryDraft(preferred=name, variants=more) for name, more in sorted(entries)]
            said = f"the names of “{self.bundle.name}”"
            lists.add_entries(self.db, self.project, made.id, drafts, account_id, said)

    def _keep_rule(self, one: BundledRule, account_id: int | None) -> None:
        draft = rules.RuleDraft(
            name=self.names["rule"][one.name],
            type=one.type,
            pattern=self.pattern(one.pattern),
            priority=one.priority,
        )
        rules.add_rule(self.db, self.project.id, draft, account_id)

    def _keep_tagger(self, name: str, one: BundledTagger) -> int:
        number = self._tagger_here(one)
        if number is not None:
            return number
        of_types = self._numbers("types")
        # What it has learnt and the bundle leaves out stays left out: no type has the number 0.
        learnt = dict.fromkeys(tagger_from(one.data).types, 0)
        learnt |= {was: of_types.get(code, 0) for was, code in _types_of(one).items()}
        called = name or self.bundle.name
        return tagger.bring_tagger(self.db, self.project.id, called, one.data, learnt, self._makers(one))

    def _numbers(self, of: str) -> dict[str, int]:
        if of == "types":
            return {one.code: one.id for one in types.list_types(self.db, self.project.id)}
        every = (
            lists.read_lists(self.db, self.project.id)
            if of == "lists"
            else rules.read_rules(self.db, self.project.id)
        )
        return {one.name: one.id for one in every}

    def _plan(self, taggers: Mapping[str, int]) -> Plan:
        new = Named(
            lists=self.names.get("list", {}),
            rules=self.names.get("rule", {}),
            taggers={name: str(number) for name, number in taggers.items()},
        )
        plan = renamed_plan(self.bundle.plan, new)
        return replace(plan, stages=tuple(self._stage(stage) for stage in plan.stages))

    def _stage(self, stage: StagePlan) -> StagePlan:
        """All lists, or all rules, are those of the bundle; what the project has besides stays out of it."""
        match stage.settings:
            case ListsSettings(lists=()):
                named = tuple(self.names.get("list", {}).values())
                return replace(stage, settings=ListsSettings(lists=named), on=stage.on and bool(named))
            case RulesSettings(rules=()):
                named = tuple(self.names.get("rule", {}).values())
                return replace(stage, settings=RulesSettings(rules=named), on=stage.on and bool(named))
            case WhereSettings() as settings:
                fragments = {("fragment", a): b for a, b in self.names.get("fragment", {}).items()}
                pattern = renamed(settings.pattern, fragments)  # type: ignore[arg-type] # kinds of mentions
                return replace(stage, settings=replace(settings, pattern=pattern))
            case _:
                return stage

    def _keep_weights(self, weigher: Weigher, plan: Plan, job_id: int) -> int:
        """Under the names that they were learnt with, which may be older than those in the bundle."""
        was = {
            "types": dict(weigher.learnt.types),
            "lists": {now: learnt for _, now, learnt in weigher.learnt.makers},
        }
        was["rules"] = was["lists"]
        known = {}
        for of, what in (("types", "type"), ("lists", "list"), ("rules", "rule")):
            numbers = self._numbers(of)
            named = self.names.get(what, {})
            known[of] = {numbers[here]: was[of].get(there, there) for there, here in named.items()}
        nothing = {"right": 0, "found": 0, "gold": 0}
        figures = {
            "least": weigher.least,
            **dict.fromkeys(("texts", "sentences", "train_texts"), 0),
            **dict.fromkeys(("weighed", "now"), nothing),
            "gain": {"f1": 0.0, "low": None, "high": None},
        }
        bare = replace(weigher, learnt=type(weigher.learnt)())
        return pipeline.keep_weights(self.db, self.project.id, job_id, plan, bare, known, figures)


def _types_of(one: BundledTagger) -> Mapping[str, str]:
    """Of the types that a tagger learnt what they are called."""
    return one.types if one.types is not None else {code: code for code in tagger_from(one.data).types}


def _in_turn(fragments: Mapping[str, str]) -> Iterable[str]:
    """Names of fragments, each after those that it uses."""
    done: dict[str, None] = {}

    def take(name: str) -> None:
        for one in mentions(fragments[name]):
            if one.kind == "fragment" and one.name not in done and one.name in fragments:
                take(one.name)
        done[name] = None

    for name in sorted(fragments):
        take(name)
    return done


def _tagger_alone(name: str, data: bytes) -> Bundle:
    """A tagger's file as a bundle that has nothing else. Raises BadFile."""
    tagger_from(data)
    called = PurePath(name).stem or "tagger"
    nothing = Plan(stages=())
    return Bundle(
        name=called, plan=nothing, scheme=Scheme(types=()), taggers={called: BundledTagger(data=data)}
    )


@handles(pipeline.BRINGING_JOB)
def bring(context: JobContext) -> str:
    """Look a bundle through, or bring it in: all of it or nothing."""
    wish = context.job.params
    context.progress(0, 2, "steps", "The file is read.")
    with transaction(context.database_url) as db:
        data = pipeline.incoming_data(db, wish["digest"])
    bundle = _tagger_alone(wish["name"], data) if is_tagger(data) else from_bytes(data)
    if context.should_stop():
        raise Stopped("Reading the bundle was stopped; nothing of it was brought in.")
    context.progress(1, 2, "steps", "It is held against what is here.")
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        bringing = Bringing(db, project, bundle)
        bringing.look()
        plan = None
        if wish["keep"]:
            plan = bringing.keep(wish["account"], context.job.id)
            pipeline.let_go_of_incoming(db, wish["digest"])
        told = {
            "arrivals": [asdict(one) for one in bringing.arrivals],
            "notes": bringing.notes,
            # A tagger alone has no stages of its own.
            "plan": None if plan is None or not plan.stages else plan_values(plan),
        }
        new = sum(one.how != SAME for one in bringing.arrivals)
        said = (
            f"{new} of {len(bringing.arrivals)} parts {'are brought in' if wish['keep'] else 'are new here'}."
        )
        context.conclude(db, said, told=told)
    return said
