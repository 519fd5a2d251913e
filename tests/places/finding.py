"""A small project whose evidence changes in every way, and the slow way to find and count it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from hypothesis import strategies as st
from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.core.lists import Entry, EntryReason, Gazetteer, ListOptions, NameList
from urdaten.core.rules import match_rules
from urdaten.core.spans import Span, SpanTable
from urdaten.core.tagger import GoldText, TaggerInput, TrainingSettings, to_bytes, train
from urdaten.core.text import Batch, Vocabulary, analyse
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.lists.tables import EntryRow, ListActRow
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types

BODIES = (
    "Amber Quay is in. A. Quay sails at 0600.",
    "The amber is dry. Haldis comes at 0700.",
    "Nobody comes. Haldis Quay waits. Häldis and Hadlis, the amber-quays.",
)
NAMES = ("Amber Quay", "amber", "Haldis", "Quay", "a. quay", "0600", "Haldis Quay", "\u00ad")
PATTERNS = (
    "like(/\\d{4}/)",
    "'Haldis' optional 'Quay'",
    "text(/[A-Z]\\w+/)",
    "'is in' '.' 'A'\nacross sentences",
)


def pattern_of(db: Session, b: int, code: str) -> str:
    """The later ones look at what lists and other rules find, where there are any."""
    names = [one.name for one in lists.read_lists(db, 1)]
    looking = (
        f"list({names[b % len(names)]}) optional any" if names else PATTERNS[0],
        f"found({code}) [any]",
        f"[found({code})]\ndrop {code}",
        f"[capital] as {code}\nunless inside found({code})",
    )
    return (*PATTERNS, *looking)[b % (len(PATTERNS) + len(looking))]


def begin(db: Session) -> None:
    for key, code in (("v", "VES"), ("p", "PER")):
        types.add_type(db, 1, 1, types.TypeDraft(code=code, name=code, key=key, hue=1))
    drafts = [
        (texts.TextDraft(title=body[:6], split=split), body)
        for body, split in zip(BODIES, ("train", "none", "test"), strict=True)
    ]
    texts.add_texts(db, team.project_by_id(db, 1), drafts)


def step(db: Session, kind: str, a: int, b: int) -> None:
    """One change of whatever evidence depends on; UrdatenError where it cannot be made."""
    codes = [one.code for one in types.list_types(db, 1)]
    code = codes[a % len(codes)]
    all_lists, all_rules = lists.read_lists(db, 1), rules.read_rules(db, 1)
    name = NAMES[b % len(NAMES)]
    project = team.project_by_id(db, 1)
    if kind == "compile":
        change, data, _ = lists.compile_all(db, project)
        lists.keep_compiled(db, 1, change, data)
    elif kind == "list":
        lists.add_list(db, 1, lists.ListDraft(name=f"list {b}", type=code))
    elif kind == "rule":
        draft = rules.RuleDraft(name=f"rule {b}", type=code, pattern=pattern_of(db, b, code))
        rules.add_rule(db, 1, draft)
    elif kind == "type":
        one = next(t for t in types.list_types(db, 1) if t.code == code)
        draft_of_type = types.TypeDraft(code="T" + "ABCDEFGH"[b], name=f"T{b}", key=one.key, hue=1)
        types.change_type(db, 1, 1, one.id, draft_of_type, one.version)
    elif kind == "merge" and len(codes) > 1:
        first, other = types.list_types(db, 1)[:2]
        types.merge_type(db, 1, 1, first.id, other.id, types.scheme_version(db, 1))
    elif kind == "sign":
        every = [
            s for own in texts.sentences_of(db, [t.id for t in texts.all_texts(db, 1)]).values() for s in own
        ]
        sentence = every[a % len(every)]
        body = texts.read_text(db, 1, sentence.text_id).body
        words = body[sentence.start : sentence.end].split()[0]
        span = Span(sentence.start, sentence.start + len(words), code, "gold")
        version = desk.annotation_of(db, sentence.id).version
        if b % 2:
            act = desk.Signing(kind="sign", version=version, wanted=(span,))
        else:
            act = desk.Signing(kind="sign as empty", version=version, wanted=())
        desk.annotate(db, 1, 1, sentence.id, act, desk.gold_layer(db, 1))
    elif kind == "text":
        text = texts.all_texts(db, 1)[a % 3]
        split = texts.SPLITS[b % len(texts.SPLITS)]
        texts.change_text(db, 1, text.id, texts.TextDraft(title="x", split=split, group="g"), text.version)
    elif kind == "add text":
        texts.add_texts(db, project, [(texts.TextDraft(title="new"), f"{name} and Haldis {b}.")])
    elif kind == "cut":
        project = team.set_abbreviations(db, 1, frozenset({"in"} if b % 2 else set()))
        texts.split_again(db, project, lambda: [t.id for t in texts.all_texts(db, 1)])
    elif all_lists and kind in OF_LISTS:
        one_list = all_lists[a % len(all_lists)]
        entries = entries_of(db, one_list.id)
        if kind == "entry":
            lists.add_entries(db, project, one_list.id, [lists.EntryDraft(preferred=name)])
        elif kind == "switch list":
            draft_of_list = lists.ListDraft(name=one_list.name, type=code, on=not one_list.on)
            lists.change_list(db, 1, one_list.id, draft_of_list, one_list.version)
        elif kind == "options":
            draft_of_list = lists.ListDraft(
                name=one_list.name, type=one_list.type, on=one_list.on, options=OPTIONS[b % len(OPTIONS)]
            )
            lists.change_list(db, 1, one_list.id, draft_of_list, one_list.version)
        elif kind == "undo":
            acts = db.scalars(
                select(ListActRow.id).where(ListActRow.undone_at.is_(None)).order_by(ListActRow.id)
            ).all()
            if acts:
                lists.undo_act(db, project, acts[-1 - b % 2 % len(acts)])
        elif entries and kind == "switch entries":
            numbers = [entry.id for entry in entries]
            lists.switch_entries(db, project, one_list.id, numbers, b % 2 == 1, 1)
        elif kind == "remove list":
            lists.remove_list(db, 1, one_list.id)
        elif entries and kind == "change entry":
            entry = entries[b % len(entries)]
            lists.change_entry(
                db,
                project,
                one_list.id,
                entry.id,
                lists.EntryDraft(preferred="Osk", variants=(name,)),
                entry.version,
            )
        elif entries:
            lists.remove_entry(db, project, one_list.id, entries[0].id)
    elif all_rules and kind in ("switch rule", "change rule", "remove rule"):
        one_rule = all_rules[a % len(all_rules)]
        changed = rules.RuleDraft(
            name=one_rule.name,
            type=code,
            pattern=pattern_of(db, b, code) if kind == "change rule" else one_rule.pattern,
            on=not one_rule.on if kind == "switch rule" else one_rule.on,
        )
        if kind == "remove rule":
            rules.remove_rule(db, 1, one_rule.id)
        else:
            rules.change_rule(db, 1, one_rule.id, changed, one_rule.version)


OF_LISTS = (
    "entry",
    "change entry",
    "remove entry",
    "switch list",
    "remove list",
    "options",
    "undo",
    "switch entries",
)
OPTIONS = (
    ListOptions(),
    ListOptions(case="any"),
    ListOptions(slips=True),
    ListOptions(accents=False),
    ListOptions(hyphens=True, endings=True),
    ListOptions(not_before=("Quay",), shortest=5),
)
KINDS = (
    "compile",
    "options",
    "undo",
    "switch entries",
    "list",
    "rule",
    "type",
    "merge",
    "sign",
    "text",
    "add text",
    "cut",
    "entry",
    "entry",
    "change entry",
    "remove entry",
    "switch list",
    "remove list",
    "switch rule",
    "change rule",
    "remove rule",
)
STEPS = st.lists(st.tuples(st.sampled_from(KINDS), st.integers(0, 3), st.integers(0, 7)), max_size=10)


def entries_of(db: Session, list_id: int) -> list[EntryRow]:
    db.expire_all()
    return list(db.scalars(select(EntryRow).where(EntryRow.list_id == list_id).order_by(EntryRow.id)))


def gazetteer_of(db: Session, some: Iterable[lists.NamedList]) -> Gazetteer:
    """Those of the lists that are on, compiled."""
    return Gazetteer(
        NameList(
            name=one.name,
            type=one.type,
            entries=tuple(
                Entry(preferred=e.preferred, variants=tuple(e.variants), number=e.id)
                for e in entries_of(db, one.id)
                if e.on
            ),
            options=one.options,
        )
        for one in some
        if one.on
    )


def found_anew(db: Session) -> list[dict[str, list[Any]]]:
    """As `everything_found`, the lanes and what rules took away."""
    return [{key: value for key, value in one.items() if key != "finds"} for one in everything_found(db)]


def everything_found(db: Session) -> list[dict[str, list[Any]]]:
    """The slow way: everything compiled and held against every text, with what each span says of itself. Beside the lanes what
    rules took away, and what each list and rule finds."""
    project = team.project_by_id(db, 1)
    every = texts.all_texts(db, 1)
    batch = texts.batch_of(db, every, project.language)
    names = gazetteer_of(db, lists.read_lists(db, 1)).read(batch).table
    fragments = rules.fragment_texts(db, 1)
    on = [one.written().compiled(fragments) for one in rules.read_rules(db, 1) if one.on]
    left = names.spans(len(batch))
    finds = [list(own) for own in left]
    taken: list[list[Any]] = [[] for _ in every]
    for k, rule in enumerate(on):
        found = match_rules(on[: k + 1], batch, names)[-1]
        marked = SpanTable.of_tokens(
            batch, found.first, found.last, found.kind, rule.types, source="rules", makers=[rule.rule.name]
        ).spans(len(batch))
        for text, own in enumerate(marked):
            places = {(s.start, s.end) for s in own} if rule.removal else set()
            gone = [
                s
                for s in left[text]
                if (s.start, s.end) in places and (not rule.removes or s.type in rule.removes)
            ]
            taken[text] += [(*told(s)[:5], rule.rule.name) for s in gone]
            left[text] = [s for s in left[text] if s not in gone]
            finds[text] = [s for s in finds[text] if s not in gone or s.source == "lists"]
            if rule.marks:
                made = [replace(s, maker=rule.rule.name, why=f"rule “{rule.rule.name}”") for s in own]
                left[text] += made
                finds[text] += made
            else:
                finds[text] += [replace(s, source="drops", maker=rule.rule.name) for s in gone]
    return [
        {
            **{lane: [told(s) for s in sorted(own) if s.source == lane] for lane in ("lists", "rules")},
            "taken": sorted(gone),
            "finds": [told(s) for s in whole],
        }
        for own, gone, whole in zip(left, taken, finds, strict=True)
    ]


def told(span: Span) -> tuple[Any, ...]:
    return (span.start, span.end, span.type, span.source, span.maker, span.why)


def from_store(db: Session) -> list[dict[str, list[Any]]]:
    every = texts.all_texts(db, 1)
    made = pipeline.evidence(db, team.project_by_id(db, 1), every)
    return [
        {
            **{name: [told(s) for s in sorted(spans)] for name, spans in one.lanes.items()},
            "taken": sorted((*told(span)[:5], why.rule) for span, why in one.taken),
        }
        for one in made
    ]


def figures_anew(db: Session, source: str) -> dict[str, tuple[int, ...]]:
    """Finds, right ones, those in signed sentences, and right ones that nothing else of its kind finds; by name."""
    found: dict[str, Counter[str]] = {}
    every = texts.all_texts(db, 1)
    signed = pipeline.gold_by_sentence(db, every)
    for text, found_there in zip(every, everything_found(db), strict=True):
        if text.split == "test":
            continue
        own = [
            (Span(start, end, code), of, maker)
            for start, end, code, of, maker, _ in found_there["finds"]
            if (of == "lists") == (source == "lists")
        ]
        for span, of, maker in own:
            counts = found.setdefault(maker, Counter())
            counts["finds"] += 1
            for sentence, annotation in signed[text.id]:
                if sentence.start <= span.start and span.end <= sentence.end:
                    right = (span in annotation.spans) != (of == "drops")
                    others = {name for other, _, name in own if other == span and name != maker}
                    counts["judged"] += 1
                    counts["right"] += right
                    counts["alone"] += right and not others
    return {maker: (c["finds"], c["right"], c["judged"], c["alone"]) for maker, c in found.items()}


def missed_anew(db: Session) -> dict[str, int]:
    """Gold that no rule finds, by type, of types that rules which are on mark."""
    every = texts.all_texts(db, 1)
    signed = pipeline.gold_by_sentence(db, every)
    fragments = rules.fragment_texts(db, 1)
    on = [one.written().compiled(fragments) for one in rules.read_rules(db, 1) if one.on]
    kinds = {kind for rule in on if rule.marks for kind in rule.types}
    missed: Counter[str] = Counter()
    for text, found_there in zip(every, found_anew(db), strict=True):
        if text.split == "test":
            continue
        marked = {Span(*row[:3]) for row in found_there["rules"]}
        for _, annotation in signed[text.id]:
            missed.update(s.type for s in annotation.spans if s not in marked and s.type in kinds)
    return dict(missed)


def figures(db: Session, source: str) -> dict[str, tuple[int, ...]]:
    """As figures_anew, as they are kept."""
    project = team.project_by_id(db, 1)
    assert pipeline.counted(db, project)
    read: Any = lists.read_lists if source == "lists" else rules.read_rules
    name = {one.id: one.name for one in read(db, 1)}
    return {
        name[maker]: (f.finds.finds, f.finds.right, f.finds.judged, f.alone)
        for maker, f in pipeline.figures(db, project, source).items()
        if f.finds.finds
    }


def worths_anew(db: Session) -> dict[int, tuple[float, ...]]:
    """Of each entry that is found or stands in small letters: finds, judged, right, small, harm."""
    project = team.project_by_id(db, 1)
    every = [text for text in texts.all_texts(db, 1) if text.split != "test"]
    signed = pipeline.gold_by_sentence(db, every)
    gold = Counter(s.type for own in signed.values() for _, annotation in own for s in annotation.spans)
    worths: dict[int, tuple[float, ...]] = {}
    for one in lists.read_lists(db, 1):
        counts: dict[int, Counter[str]] = {}
        if not one.on:
            continue
        names = gazetteer_of(db, [one])
        for text, analysis in zip(every, texts.batch_of(db, every, project.language).analyses, strict=True):
            reading = names.read(Batch.joined([analysis]))
            for _, entry in reading.small:
                counts.setdefault(entry, Counter())["small"] += 1
            for span, reason in zip(reading.table.spans_in_order(), reading.table.reason, strict=True):
                why = reading.table.reasons[reason]
                assert isinstance(why, EntryReason)
                own = counts.setdefault(why.entry, Counter())
                own["finds"] += 1
                for sentence, annotation in signed[text.id]:
                    if sentence.start <= span.start and span.end <= sentence.end:
                        own["judged"] += 1
                        own["right"] += span in annotation.spans
        judged, right = (sum(own[name] for own in counts.values()) for name in ("judged", "right"))

        def f1(judged: int, right: int, gold: int = gold[one.type]) -> float:
            return 200 * right / (judged + gold) if judged + gold else 0.0

        for entry, own in counts.items():
            harm = f1(judged - own["judged"], right - own["right"]) - f1(judged, right)
            worths[entry] = (own["finds"], own["judged"], own["right"], own["small"], round(harm, 9))
    return worths


def worths(db: Session) -> dict[int, tuple[float, ...]]:
    """As they are kept."""
    project = team.project_by_id(db, 1)
    assert pipeline.counted(db, project)
    kept = db.execute(select(pipeline.entry_worths(db, project)))
    return {row.entry_id: (row.finds, row.judged, row.right, row.small, round(row.harm, 9)) for row in kept}


def put_to_use(db: Session) -> None:
    """A tagger that has learnt to trust lists."""
    vocabulary = Vocabulary()
    words = ["Brell", "Orda", "Tamsin", "Velk", "Yarrow", "Quill"]
    gold = []
    for k in range(60):
        word = words[k // 2 % 6]
        span = Span(0, len(word), "VES", "lists", maker="list 0")
        analysis = analyse(f"{word} waits.", vocabulary=vocabulary)
        gold.append(GoldText(TaggerInput(analysis, [span] if k % 2 else []), [span] if k % 2 else []))
    settings = TrainingSettings(epochs=8, features=("words", "shapes", "lists", "repeats"))
    made = train(gold, gold, vocabulary, ["VES"], settings)
    training = tagger.start_training(db, 1, 1, "small", settings)
    numbers = {one.code: one.id for one in types.list_types(db, 1)}
    tagger.stop_training(db, 1, training.id)
    tagger.keep_model(db, training.id, to_bytes(made), {"type_numbers": {"VES": numbers["VES"]}})


def by_tagger(db: Session) -> list[list[tuple[Any, ...]]]:
    return [one.get("tagger", []) for one in from_store(db)]
