"""All measures of the demo files, and which limits they miss."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

from urdaten.core.lists import Gazetteer
from urdaten.core.rules import try_examples
from urdaten.core.text import Analysis, analyse_many, batch_of
from urdaten.demo.annotators import ANNOTATORS, read_annotator
from urdaten.demo.files import Bulletin, Demo
from urdaten.demo.gold_records import WEEKS as RECORD_WEEKS
from urdaten.demo.gold_records import read_gold_records
from urdaten.demo.measures.agreement import annotator_agreement, pass_agreement
from urdaten.demo.measures.difficulty import Difficulty
from urdaten.demo.measures.records import record_faults
from urdaten.demo.measures.repetition import common_openings, near_duplicates
from urdaten.demo.measures.surfaces import ambiguous_share, unseen_share

SPLITS = ("train", "dev", "test", "unsigned")
BULLETINS = {"train": 180, "dev": 50, "test": 70, "unsigned": 40}
LEAST_SENTENCES_SIGNED = 1600
LEAST_VOICES = 6
LEAST_SPANS_PER_TYPE = 150
UNSEEN_TEST_SPANS = (0.35, 0.50)
LEAST_AMBIGUOUS = 0.06
MOST_NEAR_DUPLICATES = 0.03
RULES = 14
FAILING_RULES = 0
LIST_ENTRIES = {
    "vessels": 220,
    "ports": 140,
    "berths": 40,
    "agents and authorities": 60,
    "cargoes": 120,
}
GUIDELINE_EXAMPLES = 8
TWICE = 150
LEAST_PASS_AGREEMENT = 0.90


@dataclass(frozen=True)
class Report:
    """Figures by name, and what is wrong in words."""

    figures: dict[str, object] = field(default_factory=dict)
    faults: list[str] = field(default_factory=list)

    def hold(self, name: str, value: float, least: float | None = None, most: float | None = None) -> None:
        """Note a figure; outside its limits it is a fault."""
        self.figures[name] = round(value, 3)
        if least is not None and value < least:
            self.faults.append(f"{name}: {value:.3g}, and at least {least:g} is wanted")
        if most is not None and value > most:
            self.faults.append(f"{name}: {value:.3g}, and at most {most:g} is wanted")


def split_of(bulletin: Bulletin) -> str:
    return bulletin.split if bulletin.signed else "unsigned"


def measure(demo: Demo, difficulty: Difficulty | None = None) -> Report:
    """Hold the files against their limits; with a difficulty, that of the corpus for the tagger too."""
    report = Report()
    analyses = analyse_many([b.body for b in demo.bulletins], demo.language)
    _counts(demo, analyses, report)
    _bounds(demo, analyses, report)
    _surfaces(demo, report)
    _repetition(demo, analyses, report)
    _lists_and_rules(demo, report)
    _records(demo, report)
    _people(demo, report)
    if difficulty is not None:
        difficulty.judge(report.hold, report.faults)
    return report


def _counts(demo: Demo, analyses: list[Analysis], report: Report) -> None:
    splits = Counter(split_of(b) for b in demo.bulletins)
    sentences = Counter[str]()
    for bulletin, analysis in zip(demo.bulletins, analyses, strict=True):
        sentences[split_of(bulletin)] += len(analysis.sentence_bounds())
    report.hold("bulletins", len(demo.bulletins))
    for name in SPLITS:
        report.hold(f"bulletins, {name}", splits[name], BULLETINS[name], BULLETINS[name])
    for name in SPLITS:
        report.hold(f"sentences, {name}", sentences[name])
    signed = sentences.total() - sentences["unsigned"]
    report.hold("sentences, all signed", signed, LEAST_SENTENCES_SIGNED)
    report.hold("tokens", sum(map(len, analyses)))
    report.hold("voices", len({b.voice for b in demo.bulletins}), LEAST_VOICES)
    spans = Counter(s.type for b in demo.bulletins for s in b.gold)
    report.hold("gold spans", spans.total())
    for t in demo.types:
        report.hold(f"gold spans, {t.code}", spans[t.code], LEAST_SPANS_PER_TYPE)
    fewest = min((len(side) for t in demo.types for side in (t.counts, t.counts_not)), default=0)
    report.hold("guideline examples each way, fewest", fewest, GUIDELINE_EXAMPLES)


def _bounds(demo: Demo, analyses: list[Analysis], report: Report) -> None:
    codes = {t.code for t in demo.types}
    for bulletin, analysis in zip(demo.bulletins, analyses, strict=True):
        starts, ends = set(analysis.start.tolist()), set(analysis.end.tolist())
        sentences = analysis.sentence_bounds()
        for span in bulletin.gold:
            surface = bulletin.body[span.start : span.end]
            where = f"{bulletin.title}: “{surface}”"
            if span.type not in codes:
                report.faults.append(f"{where} has the unknown type {span.type}")
            if span.start not in starts or span.end not in ends:
                report.faults.append(f"{where} does not lie on token bounds")
            if not any(a <= span.start and span.end <= b for a, b in sentences):
                report.faults.append(f"{where} runs over the end of a sentence")


def _surfaces(demo: Demo, report: Report) -> None:
    spans = [
        (split_of(b), b.body[s.start : s.end].casefold(), s.type) for b in demo.bulletins for s in b.gold
    ]
    train = {surface for split, surface, _ in spans if split == "train"}
    test = [surface for split, surface, _ in spans if split == "test"]
    report.hold("test spans unseen in train", unseen_share(test, train), *UNSEEN_TEST_SPANS)
    pairs = [(surface, type_) for _, surface, type_ in spans]
    report.hold("surfaces of two or more types", ambiguous_share(pairs), LEAST_AMBIGUOUS)


def _repetition(demo: Demo, analyses: list[Analysis], report: Report) -> None:
    sentences = [
        (split_of(bulletin), bulletin.title, bulletin.body[start:end])
        for bulletin, analysis in zip(demo.bulletins, analyses, strict=True)
        for start, end in analysis.sentence_bounds()
    ]
    words = [text for _, _, text in sentences]
    pairs = near_duplicates(words)
    touched = {i for pair in pairs for i in pair}
    report.hold(
        "sentences with a near duplicate", len(touched) / max(1, len(words)), most=MOST_NEAR_DUPLICATES
    )
    for i, j in pairs:
        if sentences[i][0] != sentences[j][0]:
            places = f"{sentences[i][1]} ({sentences[i][0]}) and {sentences[j][1]} ({sentences[j][0]})"
            report.faults.append(f"{places} have nearly the same sentence “{words[i]}”")
    report.faults.extend(
        f"{count} sentences open with “{opening}”" for opening, count in common_openings(words)
    )
    bodies = Counter(b.body for b in demo.bulletins)
    report.faults.extend(
        f"a bulletin stands there {n} times: {body[:40]!r}" for body, n in bodies.items() if n > 1
    )


def _records(demo: Demo, report: Report) -> None:
    records = read_gold_records()
    report.hold("bulletins with records gold", sum(b.group in RECORD_WEEKS for b in demo.bulletins), 120)
    for template in demo.templates:
        report.hold(f"gold records, {template.name}", sum(r.template == template.name for r in records), 1)
    report.faults.extend(record_faults(demo, records))


def _people(demo: Demo, report: Report) -> None:
    marked = {who.name: read_annotator(who) for who in ANNOTATORS}
    for name, value in annotator_agreement(demo, marked).items():
        report.hold(name, value)
    sentences, f1 = pass_agreement(demo)
    report.hold("test sentences annotated twice", sentences, TWICE)
    report.hold("two passes, F1", f1, LEAST_PASS_AGREEMENT)


def _lists_and_rules(demo: Demo, report: Report) -> None:
    entries = {names.name: len(names.entries) for names in demo.lists}
    for name, wanted in LIST_ENTRIES.items():
        report.hold(f"list entries, {name}", entries.get(name, 0), wanted)
    gazetteer = Gazetteer(demo.lists)
    failing = 0
    for k, rule in enumerate(demo.rules):
        batch = batch_of([*rule.must_find, *rule.must_not_find], demo.language)
        are_wanted = [True] * len(rule.must_find) + [False] * len(rule.must_not_find)
        spans = gazetteer.read(batch).table
        results = try_examples(demo.compiled_rules[: k + 1], batch, spans, are_wanted)
        for result in results:
            if not result.holds:
                report.faults.append(
                    f"rule “{rule.name}” {'finds nothing' if result.wanted else 'finds something'} in “{result.text}”"
                )
        failing += any(not result.holds for result in results)
    report.hold("rules", len(demo.rules), RULES, RULES)
    report.hold("rules that fail an example of their own", failing, FAILING_RULES, FAILING_RULES)
