"""Evidence for texts: what lists, rules and the tagger in use say, and their resolution."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field

from sqlalchemy.orm import Session

from urdaten.core.pipeline import resolve
from urdaten.core.rules import LineRule
from urdaten.core.spans import Span
from urdaten.core.tagger import Explanation, TaggerInput
from urdaten.core.text import Analysis, Batch
from urdaten.errors import BadPattern, NotFound
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import has_written
from urdaten.platform.revisions import revisions

KEPT_TEXTS = 8192
# A rule is tried while it is typed: on so many code points, the last text whole, and in so many steps.
TRIAL_SIGNS = 500_000
TRIAL_STEPS = 100_000_000
# The tagger reads a group of texts at once, for names that one of them gives away. Larger groups would keep whoever opens
# one text waiting, so their texts are read one by one.
LARGEST_GROUP = 300


@dataclass(frozen=True)
class Evidence:
    """Lanes of one text, and what they come to; without a tagger in use there is no tagger lane."""

    lanes: Mapping[str, list[Span]]
    resolved: list[Span]


@dataclass
class Finds:
    """How often a list or rule finds something, and how that stands against gold."""

    finds: int = 0
    right: int = 0
    # Finds in signed sentences: only these can be right or wrong.
    judged: int = 0

    def counts(self) -> dict[str, int]:
        return asdict(self)


@dataclass
class _Memory:
    """Evidence by text, as long as nothing it depends on has changed."""

    stamp: tuple[int, ...] = ()
    evidence: OrderedDict[int, Evidence] = field(default_factory=OrderedDict)
    troubles: dict[str, str] = field(default_factory=dict)
    # Finds by source, with the revisions of all places at which they were counted.
    counted: dict[str, tuple[dict[str, int], dict[str, Finds]]] = field(default_factory=dict)


_memory: dict[int, _Memory] = {}


def stamp(db: Session, project_id: int) -> tuple[int, ...]:
    """What evidence depends on: revisions of lists, rules and types, and the tagger in use."""
    numbers = revisions(db, project_id)
    places = (lists.PLACE, rules.PLACE, types.PLACE)
    return (*(numbers.get(place, 0) for place in places), tagger.in_use(db, project_id) or 0)


def match_evidence(
    db: Session, project: Project, batch: Batch
) -> tuple[list[dict[str, list[Span]]], dict[str, str]]:
    """Lanes of lists and rules for each text, and the rules that could not be held against one of them."""
    by_lists = lists.gazetteer(db, project.id).table(batch).spans(len(batch))
    troubles: dict[str, str] = {}
    line_rules = [rule.line_rule() for rule in rules.read_rules(db, project.id) if rule.on]
    lanes = []
    for analysis, names in zip(batch.analyses, by_lists, strict=True):
        found: list[Span] = []
        for rule in line_rules:
            try:
                found += rule.match(analysis)
            except BadPattern as fault:
                # The rule goes on with the next text: what it finds there does not hang on what was read before.
                troubles[rule.name] = fault.message
        lanes.append({"lists": names, "rules": sorted(found)})
    return lanes, troubles


def evidence(db: Session, project: Project, wanted: Sequence[texts.Text]) -> list[Evidence]:
    """Evidence of each text, in their order."""
    memory = _memory.setdefault(project.id, _Memory())
    # Texts too: the tagger reads what belongs to one group together.
    now = (*stamp(db, project.id), revisions(db, project.id).get(texts.PLACE, 0))
    if memory.stamp != now:
        memory = _memory[project.id] = _Memory(stamp=now)
    missing = [text for text in wanted if text.id not in memory.evidence]
    fresh: dict[int, Evidence] = {}
    if missing:
        model = tagger.model_in_use(db, project.id)
        groups = reading_groups(db, project.id)
        if model:
            missing = _with_companions(db, project.id, missing, groups)
        batch = texts.batch_of(db, missing, project.language)
        lanes, troubles = match_evidence(db, project, batch)
        memory.troubles.update(troubles)
        if model:
            inputs = _inputs(missing, batch.analyses, lanes, groups)
            for lane, spans in zip(lanes, model.tag(inputs, batch.vocabulary), strict=True):
                lane["tagger"] = spans
        for text, lane in zip(missing, lanes, strict=True):
            fresh[text.id] = memory.evidence[text.id] = Evidence(lane, resolve(lane, overlap=project.overlap))
    answer = [fresh.get(text.id) or memory.evidence[text.id] for text in wanted]
    if has_written(db):
        # What it was made from may be rolled back, and the same revisions be given to something else.
        memory.stamp = ()
    while len(memory.evidence) > KEPT_TEXTS:
        memory.evidence.popitem(last=False)
    return answer


def reading_groups(db: Session, project_id: int) -> frozenset[str]:
    """The groups whose texts the tagger reads together."""
    sizes = texts.group_sizes(db, project_id)
    return frozenset(group for group, size in sizes.items() if 1 < size <= LARGEST_GROUP)


def _with_companions(
    db: Session, project_id: int, wanted: Sequence[texts.Text], groups: frozenset[str]
) -> list[texts.Text]:
    """The wanted texts, and those that are read with them behind."""
    have = {text.id for text in wanted}
    read = texts.texts_of_groups(db, project_id, {text.group for text in wanted} & groups)
    return [*wanted, *(text for text in read if text.id not in have)]


def _inputs(
    wanted: Sequence[texts.Text],
    analyses: Sequence[Analysis],
    lanes: Sequence[Mapping[str, list[Span]]],
    groups: frozenset[str],
) -> list[TaggerInput]:
    return [
        TaggerInput(
            analysis,
            [*lane["lists"], *lane["rules"]],
            group=text.group if text.group in groups else None,
        )
        for text, analysis, lane in zip(wanted, analyses, lanes, strict=True)
    ]


def why_tagged(db: Session, project: Project, text: texts.Text, span: Span) -> Explanation:
    """Why the tagger in use sets a span, or does not, with the evidence that it saw.

    Raises NotFound without a tagger in use, BadSpan for a span that cannot be explained.
    """
    model = tagger.model_in_use(db, project.id)
    if model is None:
        raise NotFound("No tagger is in use; train one under Tagger.")
    groups = reading_groups(db, project.id)
    read = _with_companions(db, project.id, [text], groups)
    batch = texts.batch_of(db, read, project.language)
    lanes, _ = match_evidence(db, project, batch)
    item, *others = _inputs(read, batch.analyses, lanes, groups)
    return model.explain(item, batch.vocabulary, span, others)


def troubles(db: Session, project: Project) -> dict[str, str]:
    """Rules that took too long on some text, with what was said."""
    if not any(rule.on for rule in rules.read_rules(db, project.id)):
        return {}
    evidence(db, project, texts.all_texts(db, project.id))
    return dict(_memory[project.id].troubles)


def gold_by_sentence(
    db: Session, wanted: Iterable[texts.Text]
) -> dict[int, list[tuple[texts.Sentence, desk.Annotation]]]:
    """Signed sentences of each text, with what stands in them."""
    by_text = texts.sentences_of(db, [text.id for text in wanted])
    states = desk.states_of(db, [s.id for sentences in by_text.values() for s in sentences])
    return {
        text_id: [
            (s, states[s.id]) for s in sentences if s.id in states and states[s.id].state == desk.SIGNED
        ]
        for text_id, sentences in by_text.items()
    }


def finds_by_maker(db: Session, project: Project, source: str) -> dict[str, Finds]:
    """Figures of each list or rule, by name, over all texts but the quiet ones."""
    makers = (lists.read_lists if source == "lists" else rules.read_rules)(db, project.id)
    if not any(maker.on for maker in makers):
        return {}
    numbers = revisions(db, project.id)
    before = _memory.get(project.id, _Memory()).counted.get(source)
    if before is not None and before[0] == numbers:
        return before[1]
    everything = texts.all_texts(db, project.id)
    # Its figures count what its finds show: nothing of quiet texts.
    quiet = desk.quiet_among(db, project, everything)
    everything = [text for text in everything if text.id not in quiet]
    signed = gold_by_sentence(db, everything)
    result: dict[str, Finds] = {}
    for text, found in zip(everything, evidence(db, project, everything), strict=True):
        gold = {span for _, annotation in signed[text.id] for span in annotation.spans}
        for span in found.lanes[source]:
            figures = result.setdefault(span.maker, Finds())
            figures.finds += 1
            if any(s.start <= span.start and span.end <= s.end for s, _ in signed[text.id]):
                figures.judged += 1
                figures.right += span in gold
    if not has_written(db):
        _memory[project.id].counted[source] = (numbers, result)
    return result


@dataclass(frozen=True)
class Count:
    """How often a rule finds something in so many texts, and whether these are all that are not quiet."""

    finds: int
    texts: int
    all: bool


def count_rule(db: Session, project: Project, rule: LineRule) -> Count:
    """How often a rule that is not saved yet would find something, in the first texts. Raises BadPattern."""
    read, every = texts.first_texts(db, project.id, TRIAL_SIGNS)
    quiet = desk.quiet_among(db, project, read)
    read = [text for text in read if text.id not in quiet]
    steps = TRIAL_STEPS
    finds = 0
    for analysis in texts.batch_of(db, read, project.language).analyses:
        found, took = rule.matches(analysis, steps)
        steps -= took
        finds += len(found)
    return Count(finds, len(read), every)
