"""Evidence for texts: what lists, rules and the tagger in use say, and their resolution.

What the store has and still holds is taken from there; the rest is found now, and kept.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from urdaten.core.lists import EntryReason, Reading
from urdaten.core.pipeline import ListStage, Ranks, TakenAway, resolve
from urdaten.core.rules import match_rules
from urdaten.core.spans import Span, SpanTable
from urdaten.core.tagger import Explanation, TaggerInput
from urdaten.core.text import Batch, marks_of_texts
from urdaten.errors import NotFound
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline.acts import store
from urdaten.places.pipeline.acts.answers import answers
from urdaten.places.pipeline.acts.groups import reading_groups, units_of
from urdaten.places.pipeline.acts.makers import Makers, RuleOn, digest_of, read_makers
from urdaten.places.pipeline.acts.store import Held, ListFind, Match
from urdaten.places.pipeline.acts.weights import weighs_from
from urdaten.places.tagger import acts as tagger
from urdaten.places.tagger.acts import TaggerInUse
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.database import attempt


@dataclass(frozen=True)
class Evidence:
    """Lanes of one text, and what they come to; without a tagger in use there is no tagger lane. What rules took away is in none
    of them: it stands by itself, each with why."""

    lanes: Mapping[str, list[Span]]
    resolved: list[Span]
    taken: Sequence[tuple[Span, TakenAway]]
    # Of rules, by name, where their spans meet.
    ranks: Ranks
    # Has somebody changed the pipeline from which the answer is?
    is_own: bool = False
    # From which probability on it takes a span, where it weighs them.
    weighs_from: float | None = None

    def alone(self, source: str) -> list[Span]:
        """What a source says when no other is heard: of lists also what rules took away."""
        if source != "lists":
            return self.lanes[source]
        return [*self.lanes[source], *(span for span, _ in self.taken if span.source == source)]


def evidence(
    db: Session, project: Project, wanted: Sequence[texts.Text], makers: Makers | None = None
) -> list[Evidence]:
    """Evidence of each text, in their order; by the makers of now, unless they were read already."""
    makers = makers or read_makers(db, project)
    answered = answers(db, project, makers, wanted)
    least = None if answered is None else weighs_from(db, project.id)
    found = []
    for one in held_of(db, project, makers, wanted, with_tagger=makers.has_tagger, whole=True):
        lanes = {"lists": one.left_of_lists(makers), "rules": one.by_rules(makers)}
        if makers.has_tagger:
            lanes["tagger"] = one.by_tagger(makers)
        answer = (
            resolve(lanes, overlap=project.overlap, ranks=makers.ranks)
            if answered is None
            else answered.get(one.text_id, [])
        )
        taken = [(span, TakenAway(rule.name)) for rule, span in one.taken(makers)]
        found.append(Evidence(lanes, answer, taken, makers.ranks, answered is not None, least))
    return found


def matches(db: Session, project: Project, wanted: Sequence[texts.Text]) -> list[list[Span]]:
    """What lists and rules find in each text, without what rules took away."""
    makers = read_makers(db, project)
    held = held_of(db, project, makers, wanted)
    return [[*one.left_of_lists(makers), *one.by_rules(makers)] for one in held]


def finds_of(
    db: Session, project: Project, wanted: Sequence[texts.Text], source: str, maker: str
) -> list[tuple[list[Span], set[Span]]]:
    """What one list or rule, by name, finds in each text, and what others of its kind find there; of a rule that only takes
    spans away, those."""
    makers = read_makers(db, project)
    found = []
    for one in held_of(db, project, makers, wanted):
        finds = one.finds_of_lists(makers) if source == "lists" else one.finds_of_rules(makers)
        own = finds.pop(maker, [])
        found.append((own, {span for spans in finds.values() for span in spans}))
    return found


def marked_by_rules(db: Session, project: Project, wanted: Sequence[texts.Text]) -> list[list[Span]]:
    """What all rules together have marked in each text in the end."""
    makers = read_makers(db, project)
    return [one.by_rules(makers) for one in held_of(db, project, makers, wanted)]


def entry_matches(
    db: Session, project: Project, wanted: Sequence[texts.Text], entry: int
) -> list[list[Span]]:
    """What one entry of a list finds in each text."""
    makers = read_makers(db, project)
    held = held_of(db, project, makers, wanted)
    return [[span for number, span in one.by_entries(makers) if number == entry] for one in held]


def held_of(
    db: Session,
    project: Project,
    makers: Makers,
    wanted: Sequence[texts.Text],
    *,
    with_tagger: bool = False,
    whole: bool = False,
) -> list[Held]:
    """What the store has of each text once it holds. Without the tagger its part may be of an older one; `whole` says that
    nothing else is to be found, so that the rows hold for good."""
    held = store.read(db, project.id, makers, [text.id for text in wanted])
    behind = [text for text in wanted if text.id not in held or held[text.id].stamp != makers.stamp]
    if behind:
        keep = store.get_hold(db, project.id)
        catch_up = CatchUp(db, project, makers, held, {text.id: text for text in wanted}, keep=keep)
        model = tagger.model_in_use(db, project.id) if with_tagger else None
        if model is not None:
            groups = reading_groups(db, project.id)
            pairs = [(text.id, text.group) for text in behind]
            catch_up.tag(model, units_of(db, project.id, pairs, groups))
        else:
            catch_up.match([text.id for text in behind], whole=whole)
    return [held[text.id] for text in wanted]


class CatchUp:
    """Brings what is held of texts up to date, and the store with it if that may be."""

    def __init__(
        self,
        db: Session,
        project: Project,
        makers: Makers,
        held: dict[int, Held],
        known: dict[int, texts.Text],
        *,
        keep: bool,
    ) -> None:
        """held, known: by number; both grow by what is read."""
        self._db, self._project, self._makers = db, project, makers
        self._held, self._known, self._keep = held, known, keep

    def match(self, numbers: Sequence[int], *, whole: bool = False) -> None:
        """Hold lists and rules against those texts that lack one. `whole` says that nothing else is to be found."""
        self._match(numbers)
        if whole and self._keep:
            attempt(self._db, lambda: store.keep_stamp(self._db, self._makers, numbers))

    def _match(self, numbers: Sequence[int]) -> None:
        lacking = [n for n in numbers if n not in self._held or self._held[n].lacks(self._makers)]
        wanted = self._texts(lacking)
        if not wanted:
            return
        before = [self._held.get(text.id) or store.fresh(text) for text in wanted]
        batch = texts.batch_of(self._db, wanted, self._project.language)
        reading = ListStage(lists.gazetteer(self._db, self._project)).read(batch)
        by_lists = zip(*_list_finds(self._makers, reading, len(batch)), strict=True)
        rules = self._makers.rules
        # What looks at lists is found anew with them.
        lacking_rules = {
            x.fingerprint for x in rules if x.looks or any(x.fingerprint not in one.matches for one in before)
        }
        needed = self._makers.needed_for(lacking_rules)
        on = {rule.fingerprint for rule in rules}
        made = []
        for one, (names, small), matched in zip(
            before, by_lists, _rule_matches(needed, batch, reading.table), strict=True
        ):
            kept = {key: value for key, value in one.matches.items() if key in on}
            made.append(
                replace(
                    one,
                    lists=names,
                    small=sorted(small.items()),
                    matches=kept | matched,
                    touched=False,
                )
            )
        self._held |= {one.text_id: one for one in made}
        if self._keep:
            rows = list(zip(made, marks_of_texts(batch), strict=True))
            self._keep = attempt(
                self._db, lambda: store.keep_matches(self._db, self._project.id, self._makers, rows)
            )

    def tag(self, model: TaggerInUse, units: Sequence[Sequence[int]]) -> None:
        """Let the tagger speak of those units in which it would see something else than when it last spoke."""
        numbers = [number for unit in units for number in unit]
        read = store.read(self._db, self._project.id, self._makers, set(numbers) - self._held.keys())
        self._held |= read
        self._match(numbers)
        # A text may have been removed since its number was read.
        there = [[number for number in unit if number in self._held] for unit in units]
        changed = [unit for unit in there if self._is_behind(model, unit)]
        known = {text.id for text in self._texts([number for unit in changed for number in unit])}
        changed = [[number for number in unit if number in known] for unit in changed]
        spoken = _tag(self._db, self._project, self._makers, model, self._held, changed, self._known)
        self._held |= {one.text_id: one for one in spoken}
        if self._keep:
            attempt(self._db, lambda: store.keep_tagger(self._db, self._makers, spoken, numbers))

    def _is_behind(self, model: TaggerInUse, unit: Sequence[int]) -> bool:
        key = unit_key(self._makers, model, self._held, unit)
        return any(self._held[number].tagger_key != key for number in unit)

    def _texts(self, numbers: Collection[int]) -> list[texts.Text]:
        """The texts with these numbers that are there, in their order."""
        missing = set(numbers) - self._known.keys()
        if missing:
            read = texts.read_texts(self._db, self._project.id, missing)
            self._known |= {text.id: text for text in read}
        return [self._known[number] for number in numbers if number in self._known]


def _list_finds(
    makers: Makers, reading: Reading, size: int
) -> tuple[list[list[ListFind]], list[dict[int, int]]]:
    """Of each of so many texts what lists find, and how often the names of entries stand there in small letters."""
    number = {one.name: one.id for one in makers.lists.values()}
    table = reading.table
    found: list[list[ListFind]] = [[] for _ in range(size)]
    for text, start, end, reason in zip(
        table.text.tolist(), table.start.tolist(), table.end.tolist(), table.reason.tolist(), strict=True
    ):
        why = table.reasons[reason]
        assert isinstance(why, EntryReason)
        # A list may have got another name since the makers were read; then the text is looked at again.
        if why.list in number:
            found[text].append(ListFind.of(start, end, number[why.list], why))
    small: list[dict[int, int]] = [{} for _ in range(size)]
    for text, entry in reading.small:
        small[text][entry] = small[text].get(entry, 0) + 1
    return found, small


def _rule_matches(makers: Sequence[RuleOn], batch: Batch, spans: SpanTable) -> list[dict[str, Match]]:
    """Of each text what each of the rules matches in it, by fingerprint; `spans` are those of lists."""
    found: list[dict[str, Match]] = [{one.fingerprint: [] for one in makers} for _ in range(len(batch))]
    for one, finds in zip(makers, match_rules([one.rule for one in makers], batch, spans), strict=True):
        columns = (
            batch.text[finds.first],
            batch.start[finds.first],
            batch.end[finds.last - 1],
            finds.kind,
        )
        for text, *match in zip(*(column.tolist() for column in columns), strict=True):
            matched = found[text][one.fingerprint]
            assert isinstance(matched, list)
            matched.append(match)
        for text, said in finds.troubles.items():
            found[text][one.fingerprint] = said
    return found


def unit_key(makers: Makers, model: TaggerInUse, held: Mapping[int, Held], unit: Sequence[int]) -> str:
    """Of all that a tagger sees of texts that are read together."""
    seen = [(number, held[number].seen_by_tagger(makers)) for number in unit]
    return digest_of(model.key(makers.numbers), seen)


def _tag(
    db: Session,
    project: Project,
    makers: Makers,
    model: TaggerInUse,
    held: Mapping[int, Held],
    units: Sequence[Sequence[int]],
    known: Mapping[int, texts.Text],
) -> list[Held]:
    """Texts that are read together, with what the tagger says of them now."""
    numbers = [number for unit in units for number in unit]
    if not numbers:
        return []
    group = {number: str(k) if len(unit) > 1 else "" for k, unit in enumerate(units) for number in unit}
    batch = texts.batch_of(db, [known[number] for number in numbers], project.language)
    seen = [[*held[n].left_of_lists(makers), *held[n].by_rules(makers)] for n in numbers]
    found = model.tag(batch, seen, [group[number] for number in numbers])
    keys: dict[int, str] = {}
    for unit in units:
        keys |= dict.fromkeys(unit, unit_key(makers, model, held, unit))
    return [
        replace(
            held[number],
            tagger_key=keys[number],
            tagger=[(s.start, s.end, model.numbers[s.type], _short(s.probability)) for s in spans],
        )
        for number, spans in zip(numbers, found.spans(len(batch)), strict=True)
    ]


def _short(probability: float | None) -> float | None:
    # As many figures as single precision has.
    return None if probability is None else float(f"{probability:.7g}")


def why_tagged(db: Session, project: Project, text: texts.Text, span: Span) -> Explanation:
    """Why the tagger in use sets a span, or does not, with the evidence that it saw.

    Raises NotFound without a tagger in use, BadSpan for a span that cannot be explained.
    """
    model = tagger.model_in_use(db, project.id)
    if model is None:
        raise NotFound("No tagger is in use; train one under Tagger.")
    groups = reading_groups(db, project.id)
    (unit,) = units_of(db, project.id, [(text.id, text.group)], groups)
    read = [text, *texts.read_texts(db, project.id, set(unit) - {text.id})]
    batch = texts.batch_of(db, read, project.language)
    group = text.group if len(read) > 1 else None
    item, *others = (
        TaggerInput(analysis, spans, group=group)
        for analysis, spans in zip(batch.analyses, matches(db, project, read), strict=True)
    )
    return model.explain(item, batch.vocabulary, span, others)
