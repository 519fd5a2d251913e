"""Lists of up to 500 000 names with --full, a tenth without: compiling, matching, what the demo's lists are worth, and a list of
that size in the application.

Ratios are within one run: what an entry costs in a large list to what it costs in one of a thousand, and the speed of matching
likewise. The texts are generated bulletins, in which some of the large list's names stand.
"""

from __future__ import annotations

import json
import statistics
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import islice
from typing import TypeVar

import httpx
import numpy as np
from _baseline import strict_f1
from _demo import DemoTexts, demo_texts
from _plain import PlainLists
from _served import ENDED, Urdaten, running

from urdaten.core.lists import CompiledLists, Entry, Gazetteer, ListHead, NameList, Part, listfile
from urdaten.core.tagger import PRESETS, GoldText, TrainingSettings, text_from_lists, train, weighed
from urdaten.core.text import Batch, analyse, batch_of
from urdaten.demo.files import Demo, read_demo
from urdaten.demo.stream import generate
from urdaten.installed import general_lexicon
from urdaten.places.lists import acts as lists
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.accounts import account_by_login
from urdaten.platform.database import transaction

FEW = 1_000
MANY, FULL_MANY = 50_000, 500_000
BULLETINS, FULL_BULLETINS = 1_000, 4_000
ROUNDS = 5
SEEDS = (1, 2, 3)
# So many texts are signed where little is.
BEGUN = 5
SYLLABLES = (
    "ba be bo da de di ka ke ki la le lo ma mi mo na ne no ra ri ro sa se so ta te tu va vi vo".split()
)
T = TypeVar("T")


def measure(full: bool) -> dict[str, float]:
    """Every figure by name; times of the application are over HTTP."""
    demo = read_demo()
    many = FULL_MANY if full else MANY
    bodies = [
        json.loads(line)["text"] for line in generate(demo, FULL_BULLETINS if full else BULLETINS, seed=5)
    ]
    figures = _compiling(many) | _matching(demo, many, bodies) | _harm() | _from_lists(demo)
    return figures | _served(many)


def _names(count: int, seed: int = 7) -> list[str]:
    """Names of one to three words, each its own; there are a quarter as many words as names."""
    random = np.random.default_rng(seed)
    words = np.array(
        [
            "".join(
                SYLLABLES[k] for k in random.integers(0, len(SYLLABLES), random.integers(2, 5))
            ).capitalize()
            for _ in range(max(200, count // 4))
        ]
    )
    found: dict[str, None] = {}
    while len(found) < count:
        for length in random.choice(3, 4096, p=(0.1, 0.6, 0.3)) + 1:
            found[" ".join(random.choice(words, length))] = None
    return list(islice(found, count))


def _list(names: Sequence[str]) -> NameList:
    entries = tuple(Entry(preferred=name, number=k) for k, name in enumerate(names, start=1))
    return NameList(name="many", type="X", entries=entries)


def _timed(job: Callable[[], T], rounds: int = 1) -> tuple[float, T]:
    times = []
    for _ in range(rounds):
        began = time.perf_counter()
        made = job()
        times.append(time.perf_counter() - began)
    return statistics.median(times), made


def _compiling(many: int) -> dict[str, float]:
    cost, size, tokens = {}, {}, 0
    for count in (FEW, many):
        names = _names(count)
        one = _list(names)
        seconds, compiled = _timed(lambda one=one: CompiledLists.of([(1, one)]), 20 if count == FEW else 3)  # type: ignore[misc]
        tokens = sum(len(name.split()) for name in names)
        cost[count], size[count] = seconds / count, compiled.nbytes / tokens
    data = listfile.to_bytes(compiled, {})
    reading, _ = _timed(lambda: listfile.from_bytes(data), 3)
    return {
        "entries": float(many),
        "compiled_entries_per_second": 1 / cost[many],
        "compile_per_entry_to_few": cost[many] / cost[FEW],
        "bytes_per_token": size[many],
        "bytes_per_token_to_few": size[many] / size[FEW],
        "file_megabytes": len(data) / 1e6,
        "reading_file_seconds": reading,
    }


def _matching(demo: Demo, many: int, bodies: Sequence[str]) -> dict[str, float]:
    """Over analysed texts, of which every tenth ends with a name of the large list; with the demo's lists beside it."""
    names = _names(many)
    bodies = [f"{body} {names[k % FEW]} is in." if k % 10 == 0 else body for k, body in enumerate(bodies)]
    batch = batch_of(bodies)
    speeds, plains = {}, {}
    for count in (FEW, many):
        every = [*demo.lists, _list(names[:count])]
        gazetteer, plain = Gazetteer(every), PlainLists(every)
        found = gazetteer.table(batch)
        assert len(found) > len(bodies) // 10
        own, other = [], []
        # By turns, so that both see the machine as it is.
        for _ in range(ROUNDS):
            own.append(_timed(lambda gazetteer=gazetteer: gazetteer.table(batch))[0])  # type: ignore[misc]
            other.append(_timed(lambda plain=plain: plain.find(batch))[0])  # type: ignore[misc]
        speeds[count], plains[count] = statistics.median(own), statistics.median(other)
    large = CompiledLists.of([(1, _list(names))])
    edit, _ = _timed(lambda: _edited(large), ROUNDS)
    return {
        "tokens": float(len(batch.word)),
        "million_tokens_per_second": len(batch.word) / speeds[many] / 1e6,
        "speed_to_few": speeds[FEW] / speeds[many],
        "times_as_fast_as_plain": plains[many] / speeds[many],
        "edit_compiled_seconds": edit,
    }


def _edited(large: CompiledLists) -> Gazetteer:
    """One entry has changed: it is gone from what was compiled before, and stands beside it."""
    beside = CompiledLists.of(
        [(1, NameList(name="many", type="X", entries=(Entry(preferred="Osk", number=5),)))]
    )
    return Gazetteer.joined(
        [Part(large, large.entries_of([5])), Part(beside)], {1: ListHead(name="many", type="X")}
    )


def _harm() -> dict[str, float]:
    """What the demo's lists come to on the test split, before and after what did more harm than good on train and dev is off."""
    demo, split = read_demo(), demo_texts()
    seen = [*split.train, *split.dev]
    kept, entries_off = [], 0
    for one in demo.lists:
        off = _harmful(one, seen)
        entries_off += len(off)
        kept.append(replace(one, entries=tuple(entry for entry in one.entries if entry.preferred not in off)))
    figures = {"entries_off": float(entries_off)}
    for when, some in (("before", demo.lists), ("after", kept)):
        scores = _scores(some, split.test)
        figures |= {
            f"test_{what}_{when}": value
            for what, value in zip(("precision", "recall", "f1"), scores, strict=True)
        }
    return figures


def _from_lists(demo: Demo) -> dict[str, float]:
    """Strict test F1 of taggers: of one that learnt from what lists find alone, of which rules and lists are not evidence; of those
    that learnt from the first signed texts with all evidence, until one is as good, and how many sentences that took; and of one
    that learnt from few signed sentences, without what lists find in the others and with it. Means of SEEDS."""
    split = demo_texts()
    lists = Gazetteer(demo.lists)
    listed = frozenset(lists.types)
    texts = [
        (analyse(one.body, demo.language, split.vocabulary), one)
        for one in demo.bulletins
        if one.split == "train" or not one.signed
    ]
    seen = [
        text_from_lists(analysis, (), lists.match(analysis), listed, one.group) for analysis, one in texts
    ]
    early, alone = PRESETS["early"], PRESETS["thorough"].without(["lists", "rules", "makers"])
    from_lists = _f1(split, weighed(seen, 1, 0), alone)
    few, signed, sentences = -1.0, 0, 0
    while few < from_lists and signed < len(split.train):
        signed += 1
        sentences = sum(len(text.item.token_ranges()) for text in split.train[:signed])
        few = _f1(split, split.train[:signed], early)
    begun = split.train[:BEGUN]
    count = sum(len(text.item.token_ranges()) for text in begun)
    bodies = {text.item.analysis.body for text in begun}
    rest = [text for text in seen if text.item.analysis.body not in bodies]
    with_lists = _f1(split, [*begun, *weighed(rest, early.from_lists, count)], early)
    return {
        "from_lists_alone_f1": from_lists,
        "signed_sentences_as_good": float(sentences),
        "begun_sentences": float(count),
        "begun_f1": _f1(split, begun, early),
        "begun_with_lists_f1": with_lists,
    }


def _f1(split: DemoTexts, train_on: Sequence[GoldText], settings: TrainingSettings) -> float:
    hides = not {"lists", "rules"} & set(settings.features)
    items = [replace(text.item, evidence=()) if hides else text.item for text in split.test]
    scores = []
    for seed in SEEDS:
        tagger = train(
            train_on,
            (),
            split.vocabulary,
            split.types,
            replace(settings, epochs=12, seed=seed),
            general=general_lexicon(),
        )
        scores.append(100 * strict_f1(split.test, tagger.tag(items, split.vocabulary)))
    return statistics.mean(scores)


def _harmful(one: NameList, signed: Sequence[GoldText]) -> set[str]:
    """Entries without which the F1 of the list would be higher, each for itself."""
    gazetteer = Gazetteer([one])
    counts: dict[str, list[int]] = {}
    gold = 0
    for text in signed:
        own = {span for span in text.gold if span.type == one.type}
        gold += len(own)
        table = gazetteer.table(Batch.joined([text.item.analysis]))
        for span, reason in zip(table.spans_in_order(), table.reason.tolist(), strict=True):
            held = counts.setdefault(table.reasons[reason].preferred, [0, 0])
            held[0] += 1
            held[1] += span in own
    judged, right = (sum(held[k] for held in counts.values()) for k in (0, 1))
    now = right / (judged + gold)
    return {name for name, (found, good) in counts.items() if (right - good) / (judged - found + gold) > now}


def _scores(some: Sequence[NameList], test: Sequence[GoldText]) -> tuple[float, float, float]:
    """Precision, recall and F1 of all lists together, strict, on gold of their types."""
    gazetteer = Gazetteer(some)
    right = found = gold = 0
    for text in test:
        spans = set(gazetteer.match(text.item.analysis))
        own = {span for span in text.gold if span.type in gazetteer.types}
        right, found, gold = right + len(spans & own), found + len(spans), gold + len(own)
    return 100 * right / found, 100 * right / gold, 200 * right / (found + gold)


def _served(many: int) -> dict[str, float]:
    """A list of this size in the application: its names come as a file, with pages asked for meanwhile; pages of it; and an entry
    that is turned off until the figures are those of now."""
    names = _names(many)
    with running() as urdaten:
        slug, number = _furnished(urdaten, names)
        with urdaten.client(timeout=300) as client:
            path = f"/api/projects/{slug}"
            figures = _imported(client, f"{path}/lists/{number}", names)
            _counted(client, path)
            entries, name = f"{path}/lists/{number}/entries", names[7]
            wishes: dict[str, dict[str, str]] = {
                "first_page_ms": {},
                "search_ms": {"search": name[2:8]},
                "harm_ms": {"order": "harm"},
                "never_ms": {"show": "never"},
                "two_ms": {"show": "two"},
            }
            figures |= {
                what: 1000 * statistics.median(_asked(client, entries, wish) for _ in range(ROUNDS))
                for what, wish in wishes.items()
            }
            figures["counts_ms"] = 1000 * _asked(client, f"{entries}/counts", {})
            switched = []
            for on in (False, True, False, True):
                (entry,) = client.get(entries, params={"search": name, "limit": 1}).json()["entries"]
                wish = {key: entry[key] for key in ("preferred", "variants", "version")} | {"on": on}
                address = f"{entries}/{entry['id']}"
                began = time.perf_counter()
                client.put(address, json=wish).raise_for_status()
                # Shorter names may be found where it stood: its own figures tell.
                while (client.get(address).json()["worth"]["finds"] > 0) != on:
                    assert time.perf_counter() - began < 60
                switched.append(time.perf_counter() - began)
        return figures | {"edit_visible_seconds": statistics.median(switched)}


def _imported(client: httpx.Client, path: str, names: Sequence[str]) -> dict[str, float]:
    """The names as CSV, looked into and kept; how long each takes, and what a page takes meanwhile."""
    content = "name,id\n" + "".join(f"{name},N{k}\n" for k, name in enumerate(names))
    taken, pages = {}, []
    began = time.perf_counter()
    sent = client.post(f"{path}/imports/file", params={"name": "names.csv"}, content=content.encode())
    number = sent.raise_for_status().json()["id"]
    for step in ("look", "keep"):
        if step == "keep":
            began = time.perf_counter()
            client.post(f"{path}/imports/{number}/keep").raise_for_status()
        while True:
            pages.append(_asked(client, f"{path}/entries", {"limit": "200"}))
            held = client.get(f"{path}/imports/{number}").json()
            if held["work"]["state"] in ENDED:
                assert held["work"]["state"] == "done", held["work"]
                break
            time.sleep(0.2)
        taken[step] = time.perf_counter() - began
    whole = sum(taken.values())
    figures = {
        "looked_seconds": taken["look"],
        "imported_seconds": whole,
        "page_meanwhile_ms": 1000 * max(pages),
    }
    return figures | ({"imported_500_000_seconds": whole} if len(names) == FULL_MANY else {})


def _asked(client: httpx.Client, path: str, wish: dict[str, str]) -> float:
    began = time.perf_counter()
    client.get(path, params=wish).raise_for_status()
    return time.perf_counter() - began


def _furnished(urdaten: Urdaten, names: Sequence[str]) -> tuple[str, int]:
    """A project with a few texts in which some of the names stand, and a list without any: its address, and the list's number."""
    bodies = [json.loads(line)["text"] for line in generate(read_demo(), 400, seed=9)]
    with transaction(urdaten.database_url) as db:
        project = team.create_project(db, name="Lists", language="en")
        lead = account_by_login(db, "ines").id
        team.add_member(db, project.id, lead, team.Role.LEAD)
        types.add_type(db, project.id, lead, types.TypeDraft(code="VES", name="vessel", key="v", hue=1))
        drafts = [
            (texts.TextDraft(title=str(k), split="train"), f"{body} {names[k % 200]} is in.")
            for k, body in enumerate(bodies)
        ]
        texts.add_texts(db, project, drafts)
        made = lists.add_list(db, project.id, lists.ListDraft(name="many", type="VES"))
    return project.slug, made.id


def _counted(client: httpx.Client, path: str) -> None:
    while True:
        client.get(f"{path}/lists").raise_for_status()
        if client.get(f"{path}/evidence").json()["behind"] == 0:
            return
        time.sleep(0.2)
