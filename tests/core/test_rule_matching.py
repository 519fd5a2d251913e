"""Rules find what a slow reference finds, on whatever texts and by whatever patterns."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from core.slow_rules import Held, marks_of
from urdaten.core.arrays import Bools, Ints
from urdaten.core.rules import CompiledRule, Rule, match_rules, tree
from urdaten.core.rules.reading import read
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import TAGS, Batch, Vocabulary, batch_of
from urdaten.errors import BadPattern


class _Base:
    """Tags that hang on the words around; forms of “a” are those of “b” where it is a verb."""

    fingerprint = "of these tests"
    has_kinds = True

    def tags(self, batch: Batch, /) -> Ints:
        after = np.append(batch.word[1:], 0)
        turn = np.array([TAGS.index(tag) for tag in ("NOUN", "VERB", "ADJ")])
        return np.asarray(turn[(batch.word + after) % 3])

    def of_lemmas(self, words: Sequence[str], vocabulary: Vocabulary, /) -> Bools:
        found = np.zeros((len(TAGS), len(vocabulary)), dtype=bool)
        for tag in range(len(TAGS)):
            for k, form in enumerate(vocabulary.forms):
                lemma = "a" if form == "b" and TAGS[tag] == "VERB" else form.casefold()
                found[tag, k] = lemma in words
        return found

    def of_kinds(self, _kinds: Sequence[str], vocabulary: Vocabulary, /) -> Bools:
        return np.array([form == "Ben" for form in vocabulary.forms], dtype=bool)


BASE = _Base()
WORDS = ("a", "a", "b", "b", "Ann", "Ann", "Ben", "12", ",")
_SOURCES = ("list(ships)", "found(VES)", "list(ports)")


def _tests() -> st.SearchStrategy[str]:
    base = st.sampled_from(
        [
            "'a'", "'ann'", '"Ben"', "any", "capital", "figure", "length(1)", "length(2 to 3)",
            "first of list(ships)", "last of found(VES)", "part of list(ports)",
            "tag(NOUN)", "tag(VERB, ADJ)", "lemma('a')", "lemma('b', 'ann')", "kind(person)",
        ]
    )  # fmt: skip
    return st.recursive(
        base,
        lambda inner: st.one_of(
            inner.map(lambda one: f"not {one}"),
            st.tuples(inner, inner).map(lambda two: f"({two[0]} or {two[1]})"),
            st.tuples(inner, inner).map(lambda two: f"({two[0]} and {two[1]})"),
        ),
        max_leaves=3,
    )


_COUNTS = st.sampled_from(["optional", "2", "1 to 3", "up to 2", "1 or more", "any number of", "2 or more"])


def _parts() -> st.SearchStrategy[str]:
    base = st.one_of(
        _tests(),
        st.sampled_from([*_SOURCES, "sentence start", "sentence end", "'a b'"]),
    )
    return st.recursive(
        base,
        lambda inner: st.one_of(
            st.tuples(_COUNTS, inner).map(lambda two: f"({two[0]} ({two[1]}))"),
            st.tuples(inner, inner).map(lambda two: f"({two[0]} {two[1]})"),
            st.tuples(inner, inner).map(lambda two: f"({two[0]}, {two[1]})"),
        ),
        max_leaves=4,
    )


# Small enough to fit somewhere now and then.
_SMALL = st.sampled_from(
    ["'a'", "'b'", "'ann'", "any", "capital", "small", "optional any", "up to 2 any", "1 to 2 any", "any number of any",
     "1 or more small", "tag(NOUN)", "1 or more tag(VERB, ADJ)", "lemma('a')", "kind(person)", "up to 2 capital", "list(ships)", "found(VES)", "not 'a'", "('a' or 'b')", "('a' any, 'b')"]
)  # fmt: skip
_EASY = st.lists(_SMALL, min_size=1, max_size=2).map(" ".join)
_ROWS = st.one_of(st.just(""), _EASY, _EASY, st.lists(_parts(), min_size=0, max_size=2).map(" ".join))
_MARKS = st.tuples(
    st.one_of(_EASY, _EASY, st.lists(_parts(), min_size=1, max_size=2).map(" ".join)),
    st.one_of(st.just(""), st.just(""), _tests().map(lambda test: f" minus {test}")),
    st.sampled_from(["", " as PRT"]),
).map(lambda three: f"[{three[0]}{three[1]}]{three[2]}")
_LINES = st.one_of(
    st.tuples(_ROWS, _MARKS, _ROWS).map(" ".join),
    st.tuples(_ROWS, _MARKS, _ROWS).map(" ".join),
    st.tuples(_ROWS, _MARKS, _ROWS, _MARKS, _ROWS).map(" ".join),
    st.lists(_parts(), min_size=1, max_size=3).map(" ".join),
)
_WHERE = st.sampled_from(
    ["in sentence", "in text", "earlier in text", "later in sentence", "within 1 token", "within 2 tokens before",
     "within 2 tokens after"]
)  # fmt: skip
_CONDITIONS = st.tuples(
    st.sampled_from(["only if", "unless"]),
    st.one_of(
        st.tuples(_parts(), _WHERE).map(" ".join),
        st.tuples(st.sampled_from(["inside", "inside longer"]), st.sampled_from(_SOURCES)).map(" ".join),
        st.tuples(
            st.sampled_from(["", "first of ", "last of ", "part of "]), st.sampled_from(_SOURCES), _WHERE
        ).map(lambda three: f"repeats {three[0]}{three[1]} {three[2]}"),
    ),
).map(" ".join)
RULES = st.tuples(
    st.lists(_LINES, min_size=1, max_size=2),
    st.one_of(st.just([]), st.just([]), st.lists(_CONDITIONS, min_size=1, max_size=2)),
    st.sampled_from([[], ["across sentences"]]),
).map(lambda three: "\n".join([*three[0], *three[1], *three[2]]))
TEXTS = st.lists(
    st.lists(st.sampled_from(WORDS), min_size=4, max_size=9).map(
        lambda words: " ".join(["Then", *words]) + " ."
    ),
    min_size=1,
    max_size=3,
).map(" ".join)
_SPANS = st.lists(
    st.tuples(st.integers(0, 20), st.integers(1, 3), st.sampled_from(["ships", "ports"])), max_size=5
)


def _listed(batch: Batch, wanted: list[list[tuple[int, int, str]]]) -> SpanTable:
    """Finds of lists, those of one list apart."""
    by_text: list[list[Span]] = []
    for text, own in enumerate(wanted):
        begin, end = int(batch.first[text]), int(batch.first[text + 1])
        spans: list[Span] = []
        for offset, length, name in own:
            a, b = begin + offset, begin + offset + length
            if b > end:
                continue
            span = Span(
                int(batch.start[a]),
                int(batch.end[b - 1]),
                "VES" if name == "ships" else "PRT",
                "lists",
                None,
                "",
                name,
            )
            if not any(span.overlaps(other) and other.maker == name for other in spans):
                spans.append(span)
        by_text.append(spans)
    return SpanTable.of_spans(by_text)


def _held(batch: Batch, spans: SpanTable, text: int) -> Held:
    a, b = int(batch.first[text]), int(batch.first[text + 1])
    forms = [batch.vocabulary.forms[k] for k in batch.word[a:b].tolist()]
    by_list: dict[str, list[tuple[int, int]]] = {"ships": [], "ports": []}
    for span in spans.spans(len(batch))[text]:
        first, last = batch.analyses[text].token_range(span.start, span.end)
        by_list[span.maker].append((first, last))
    sources: dict[tree.Source, list[tuple[int, int]]] = {
        tree.OfList(("ships",)): by_list["ships"],
        tree.OfList(("ports",)): by_list["ports"],
        tree.OfFound(("VES",)): by_list["ships"],
    }
    number = {tag: k for k, tag in enumerate(TAGS)}
    own = BASE.tags(batch)[a:b].tolist()
    of_lemma = {word: BASE.of_lemmas([word], batch.vocabulary) for word in ("a", "b", "ann")}
    word = batch.word[a:b].tolist()
    lemma = [
        next((x for x, held in of_lemma.items() if held[t, w]), "") for t, w in zip(own, word, strict=True)
    ]

    def alone(holds: Iterable[bool]) -> list[tuple[int, int]]:
        return [(i, i + 1) for i, held in enumerate(holds) if held]

    sources |= {
        tree.OfTag(("NOUN",)): alone(t == number["NOUN"] for t in own),
        tree.OfTag(("VERB", "ADJ")): alone(t in (number["VERB"], number["ADJ"]) for t in own),
        tree.OfLemma(("a",)): alone(x == "a" for x in lemma),
        tree.OfLemma(("b", "ann")): alone(x in ("b", "ann") for x in lemma),
        tree.OfKind(("person",)): alone(form == "Ben" for form in forms),
    }
    return Held(forms, batch.sentence[a:b].tolist(), sources)


def _made(text: str) -> CompiledRule | None:
    """A rule; None for one that may match nothing at all, or asks two words of one, which is refused."""
    try:
        return Rule(name="r", type="PER", text=text).compiled(None, BASE)
    except BadPattern as fault:
        if not any(said in fault.message for said in ("nothing at all", "cannot be both")):
            raise
    return None


@settings(
    max_examples=400, deadline=None, suppress_health_check=[HealthCheck.filter_too_much, HealthCheck.too_slow]
)
@given(
    rule=RULES, bodies=st.lists(TEXTS, min_size=2, max_size=4), spans=st.lists(_SPANS, min_size=4, max_size=4)
)
def test_every_match_is_that_of_the_reference(
    rule: str, bodies: list[str], spans: list[list[tuple[int, int, str]]]
) -> None:
    made = _made(rule)
    assume(made is not None)
    assert made is not None
    batch = batch_of(bodies)
    listed = _listed(batch, spans[: len(bodies)])
    (found,) = match_rules([made], batch, listed)
    for text in range(len(bodies)):
        begin = int(batch.first[text])
        own = batch.text[found.first] == text if len(found.first) else np.zeros(0, bool)
        got = {
            (a - begin, b - begin, made.types[k])
            for a, b, k in zip(
                found.first[own].tolist(), found.last[own].tolist(), found.kind[own].tolist(), strict=True
            )
        }
        wanted = {(a, b, kind or "PER") for a, b, kind in marks_of(made.whole, _held(batch, listed, text))}
        assert got == wanted, rule


PIECES = st.lists(
    st.sampled_from(
        ["'a'", '"B"', "tag(NOUN)", "tag(", "lemma('a')", "kind(person, place)", "[", "]", "(", ")", "or", "and", "not", "any", "1 to 2", "capital", "list(x)", "found(", "as VES",
         "only if", "unless", "in text", "within 2 tokens", "\n", "\n ", ",", "#", "/x/", "text(/a/)", "like(", "minus",
         "drop", "sentence start", "use(y)", "'", '"', "7", "é", "optional", "up to", "{", "repeats", "inside", "longer", "of"]
    ),
    max_size=12,
).map(" ".join)  # fmt: skip


@settings(max_examples=1500, deadline=None)
@given(text=st.one_of(PIECES, st.text(max_size=30), RULES))
def test_whatever_is_written_is_read_or_told_of_with_its_place(text: str) -> None:
    fault = _fault(text)
    if fault is None:
        return
    lines = text.split("\n")
    assert 1 <= fault.detail["line"] <= len(lines)
    assert 1 <= fault.detail["column"] <= len(lines[fault.detail["line"] - 1]) + 1
    assert fault.message.startswith(f"Line {fault.detail['line']}, column {fault.detail['column']}: ")


def _fault(text: str) -> BadPattern | None:
    try:
        read(text)
    except BadPattern as fault:
        return fault
    return None
