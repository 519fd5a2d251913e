"""Lists against a slow search that holds every run of tokens against every way to write every entry."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby

from hypothesis import given, settings
from hypothesis import strategies as st

from urdaten.core.lists import (
    CASES,
    CompiledLists,
    Entry,
    EntryReason,
    Gazetteer,
    ListHead,
    ListOptions,
    NameList,
    Part,
)
from urdaten.core.lists.entries import SLIP
from urdaten.core.lists.ways import ways
from urdaten.core.spans import Span
from urdaten.core.text import Analysis, analyse, batch_of, fold, fold_but_case, token_forms, without_accents

WORDS = [
    "amber",
    "Amber",
    "quay",
    "Quay",
    "II",
    "’s",
    "É",
    "Lindmoor",
    "Lindmör",
    "Pier",
    "north-pier",
    "TM-1",
    "Lindmoors",
]
IN_TEXTS = [
    *(
        "amber",
        "Amber",
        "AMBER",
        "quay",
        "Quay",
        "ii",
        "'s",
        "E\u0301",
        "é",
        "e",
        ".",
        "The",
        "\n\n",
        "quays",
        "Quay-II",
    ),
    *(
        "Lindmoor",
        "lindmoor",
        "Lindmoer",
        "Lindmör",
        "Lindmor",
        "lindmooor",
        "Lindomor",
        "Lindxxor",
        "TM-1",
        "TM-2",
    ),
    *("North Pier", "north-pier", "Ambers'", "Amber-Quay", "piers", "Lindmoor’s"),
]
NAME = st.lists(st.sampled_from(WORDS), max_size=3).map(" ".join)
ENTRY = st.builds(
    lambda preferred, variants: Entry(preferred=preferred, variants=tuple(variants)),
    NAME,
    st.lists(NAME, max_size=2),
)
BODY = st.lists(st.sampled_from(IN_TEXTS), max_size=14).map(" ".join)
SELDOM = st.sampled_from([(), (), (), (), ("the",), ("quay", "Amber quay"), ("É",)])
OPTIONS = st.builds(
    ListOptions,
    case=st.sampled_from(CASES),
    exact_below=st.sampled_from([0, 0, 0, 5, 7]),
    accents=st.booleans(),
    hyphens=st.booleans(),
    endings=st.booleans(),
    slips=st.booleans(),
    shortest=st.sampled_from([0, 0, 0, 4, 5]),
    near=SELDOM,
    not_after=SELDOM,
    not_before=SELDOM,
)


def distance(one: str, other: str) -> int:
    """Letters too many, too few, others, and two in the wrong order (optimal string alignment)."""
    rows = [list(range(len(other) + 1))]
    for i, a in enumerate(one, start=1):
        row = [i]
        for j, b in enumerate(other, start=1):
            least = min(rows[-1][j] + 1, row[-1] + 1, rows[-1][j - 1] + (a != b))
            if i > 1 and j > 1 and a == other[j - 2] and b == one[i - 2]:
                least = min(least, rows[-2][j - 2] + 1)
            row.append(least)
        rows.append(row)
    return rows[-1][-1]


def slips_of(text: str, name: str, options: ListOptions, exact: bool) -> int | None:
    """With how many slips a token of the text is one of the name; None if it is not."""
    with_accents = options.accents and not options.slips
    keep = fold_but_case if exact else fold
    one, other = (keep(form) if with_accents else without_accents(keep(form)) for form in (text, name))
    if one == other:
        return 0
    able = options.slips and not exact and len(other) >= 6 and one.isalpha() and other.isalpha()
    return 1 if able and distance(one, other) == 1 else None


def stands(analysis: Analysis, phrase: str, first: int, last: int) -> bool:
    """Is this run of tokens the phrase?"""
    forms = [analysis.vocabulary.forms[word] for word in analysis.word[first:last]]
    return bool(forms) and list(map(fold, forms)) == list(map(fold, token_forms(phrase)))


def allowed(analysis: Analysis, options: ListOptions, first: int, last: int) -> bool:
    """Do the words around let a name stand here?"""
    own = [k for k in range(len(analysis)) if analysis.sentence[k] == analysis.sentence[first]]
    low, high = own[0], own[-1] + 1

    def runs(begin: int, end: int, phrases: Sequence[str]) -> bool:
        places = [(p, q) for p in range(begin, end) for q in range(p + 1, end + 1)]
        return any(stands(analysis, phrase, p, q) for p, q in places for phrase in phrases)

    def touches(phrases: Sequence[str], *, before: bool) -> bool:
        places = (
            [(p, first) for p in range(low, first)]
            if before
            else [(last, q) for q in range(last + 1, high + 1)]
        )
        return any(stands(analysis, phrase, p, q) for p, q in places for phrase in phrases)

    if touches(options.not_after, before=True) or touches(options.not_before, before=False):
        return False
    around = [(max(low, first - options.within), first), (last, min(high, last + options.within))]
    return not options.near or any(runs(begin, end, options.near) for begin, end in around)


def finds(
    names: NameList, analysis: Analysis
) -> Iterator[tuple[tuple[int, int, int, int, int, int], EntryReason]]:
    """Every find of a list with the key by which it is better than others at its place."""
    forms = [analysis.vocabulary.forms[word] for word in analysis.word]
    options = names.options
    for number, entry in enumerate(names.entries):
        for variant, written in enumerate(dict.fromkeys((entry.preferred, *entry.variants))):
            letters = sum(map(str.isalnum, written))
            if letters < options.shortest:
                continue
            exact = options.case == "exact" or letters < options.exact_below
            made = ways(written, "en", endings=options.endings, hyphens=options.hyphens)
            for way, how in made.items():
                tokens = token_forms(way)
                capital = (
                    not exact
                    and options.case == "capital"
                    and tokens
                    and (tokens[0][0].isupper() or tokens[0][0].isdigit())
                )
                for first in range(len(forms) - len(tokens) + 1 if tokens else 0):
                    last = first + len(tokens)
                    if analysis.sentence[first] != analysis.sentence[last - 1]:
                        continue
                    if capital and not (forms[first][0].isupper() or forms[first][0].isdigit()):
                        continue
                    slips = [
                        slips_of(t, n, options, exact) for t, n in zip(forms[first:last], tokens, strict=True)
                    ]
                    if None in slips or not allowed(analysis, options, first, last):
                        continue
                    count = sum(slip or 0 for slip in slips)
                    why = EntryReason(names.name, entry.preferred, written, how | (SLIP if count else 0))
                    yield (first, -last, count, how, variant, number), why


def slow(lists: Sequence[NameList], body: str) -> list[tuple[Span, str]]:
    analysis = analyse(body)
    found = []
    for names in lists:
        end = 0
        every = sorted(finds(names, analysis), key=lambda find: find[0])
        for (first, minus), group in groupby(every, key=lambda find: find[0][:2]):
            own = list(group)
            if first < end:
                continue
            end = -minus
            (key, why), slips = own[0], own[0][0][2]
            also = [other.preferred for k, other in own if k[2] == slips and other.preferred != why.preferred]
            why = EntryReason(why.list, why.preferred, why.written, why.how, tuple(dict.fromkeys(also)))
            span = Span(
                int(analysis.start[first]),
                int(analysis.end[end - 1]),
                names.type,
                "lists",
                None,
                why.words,
                names.name,
            )
            found.append((span, why.words))
            assert key[0] == first
    return sorted(found, key=lambda pair: (pair[0], pair[0].maker))


def lists_of(
    entry: st.SearchStrategy[Entry], options: st.SearchStrategy[ListOptions]
) -> st.SearchStrategy[list[NameList]]:
    """Up to three lists."""
    one = st.tuples(st.lists(entry, min_size=1, max_size=3), st.sampled_from(["VES", "PRT"]), options)
    return st.lists(one, min_size=1, max_size=3).map(
        lambda made: [
            NameList(name=f"list {k}", type=code, entries=tuple(entries), options=own)
            for k, (entries, code, own) in enumerate(made)
        ]
    )


MIXED = lists_of(ENTRY, OPTIONS)
LONG_WORDS = [
    "Haldis",
    "Haldi",
    "Haldsi",
    "Haldiss",
    "haldus",
    "Hallus",
    "Corrie",
    "Corie",
    "Coriie",
    "CORRIE",
    "the",
    ".",
]
SLIPPING = lists_of(
    st.builds(
        lambda preferred, variants: Entry(preferred=" ".join(preferred), variants=tuple(variants)),
        st.lists(st.sampled_from(["Haldis", "Haldus", "Corrie", "the"]), min_size=1, max_size=2),
        st.lists(st.sampled_from(["Haldus", "Corrie", "Haldis Haldis", "Haldi"]), max_size=1),
    ),
    st.builds(
        ListOptions,
        slips=st.sampled_from([True, True, False]),
        case=st.sampled_from(CASES),
        endings=st.booleans(),
    ),
)
SLIPPED = st.lists(st.sampled_from(LONG_WORDS), min_size=1, max_size=6).map(" ".join)
AROUND = st.lists(st.sampled_from(["a", "b", "a b c", "b c", "."]), max_size=2).map(tuple)
IN_CONTEXT = lists_of(
    st.sampled_from(["n", "n n", "a n"]).map(lambda name: Entry(preferred=name)),
    st.builds(ListOptions, near=AROUND, within=st.integers(1, 3), not_after=AROUND, not_before=AROUND),
)
CONTEXTS = st.lists(
    st.sampled_from(["a b c", "a", "b", "c", "n", "n", "x", ".\n\nN"]), min_size=2, max_size=12
).map(" ".join)


def found(gazetteer: Gazetteer, bodies: Sequence[str]) -> list[list[tuple[Span, str]]]:
    spans = gazetteer.table(batch_of(bodies)).spans(len(bodies))
    return [sorted(((s, s.why) for s in own), key=lambda pair: (pair[0], pair[0].maker)) for own in spans]


@given(MIXED, st.lists(BODY, min_size=1, max_size=3))
def test_lists_find_what_a_slow_search_finds(lists: list[NameList], bodies: list[str]) -> None:
    agree(lists, bodies)


@given(SLIPPING, st.lists(SLIPPED, min_size=1, max_size=3))
def test_words_with_slips_are_found_as_a_slow_search_finds_them(
    lists: list[NameList], bodies: list[str]
) -> None:
    agree(lists, bodies)


@settings(max_examples=300)
@given(IN_CONTEXT, st.lists(CONTEXTS, min_size=1, max_size=3))
def test_words_around_count_as_in_a_slow_search(lists: list[NameList], bodies: list[str]) -> None:
    agree(lists, bodies)


def agree(lists: Sequence[NameList], bodies: Sequence[str]) -> None:
    gazetteer = Gazetteer(lists)
    for body, spans in zip(bodies, found(gazetteer, bodies), strict=True):
        wanted = slow(lists, body)
        assert spans == wanted
        assert [span.maker for span, _ in spans] == [span.maker for span, _ in wanted]


@given(MIXED, st.lists(BODY, min_size=1, max_size=3), st.data())
def test_parts_find_what_one_finds(lists: list[NameList], bodies: list[str], data: st.DataObject) -> None:
    """Entries that were compiled before and are gone, or have changed and are in a second part, make no difference."""
    before: list[tuple[int, NameList]] = []
    after: list[tuple[int, NameList]] = []
    whole: list[tuple[int, NameList]] = []
    gone: list[int] = []
    number = 0
    for k, names in enumerate(lists):
        kinds = [data.draw(st.sampled_from(["stays", "goes", "changes", "comes"])) for _ in names.entries]
        first, second, now = [], [], []
        for entry, kind in zip(names.entries, kinds, strict=True):
            number += 1
            mine = Entry(preferred=entry.preferred, variants=entry.variants, number=number)
            older = Entry(preferred="Quay", variants=("amber",), number=number)
            first += {"stays": [mine], "goes": [mine], "changes": [older], "comes": []}[kind]
            second += [mine] if kind in ("changes", "comes") else []
            now += [] if kind == "goes" else [mine]
            gone += [number] if kind in ("goes", "changes") else []
        for rows, own in ((before, first), (after, second), (whole, now)):
            rows.append(
                (k, NameList(name=names.name, type=names.type, entries=tuple(own), options=names.options))
            )
    large = CompiledLists.of(before)
    parts = [Part(large, large.entries_of(gone)), Part(CompiledLists.of(after))]
    heads = {k: ListHead(name=x.name, type=x.type, options=x.options) for k, x in enumerate(lists)}
    gazetteer = Gazetteer.joined(parts, heads)
    assert found(gazetteer, bodies) == found(Gazetteer(names for _, names in whole), bodies)
    some = {k: head for k, head in heads.items() if k != 1}
    assert found(Gazetteer.joined(parts, some), bodies) == found(
        Gazetteer(names for k, names in whole if k != 1), bodies
    )
    assert Gazetteer.joined(parts, heads).content == Gazetteer(names for _, names in whole).content
