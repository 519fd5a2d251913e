"""Formats of whole corpora: what is written is read back the same; what is wrong is refused with its line."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from dataclasses import replace
from datetime import date
from functools import partial
from io import StringIO
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from urdaten.core.formats import (
    CorpusSentence,
    CorpusText,
    analysed,
    folds_of,
    labels_of,
    layers_of,
    read_conllu,
    read_corpus,
    read_label_columns,
    read_web_annotations,
    spans_of,
    write_conllu,
    write_corpus,
    write_label_columns,
    write_web_annotations,
)
from urdaten.core.spans import Span
from urdaten.errors import BadFile, BadSpan, UrdatenError

Write = Callable[[Iterable[CorpusText]], Iterator[str]]
Read = Callable[[Iterable[str]], Iterator[CorpusText]]
MOST_LAYERS = 6
FORMATS: dict[str, tuple[Write, Read]] = {
    "JSON Lines": (write_corpus, read_corpus),
    "BIO": (
        partial(write_label_columns, layers=MOST_LAYERS),
        partial(read_label_columns, columns=range(1, MOST_LAYERS + 1)),
    ),
    "BILOU": (
        partial(write_label_columns, kind="BILOU", layers=MOST_LAYERS),
        partial(read_label_columns, columns=range(1, MOST_LAYERS + 1)),
    ),
    "CoNLL-U": (write_conllu, read_conllu),
    "Web Annotation": (write_web_annotations, read_web_annotations),
}
WORDS = [
    "Amber",
    "Quay",
    "sails",
    "at",
    "0600.",
    "U.S.",
    "“so”",
    "née",
    "船が",
    "a\u0301b",
    "#",
    "# text:",
    "-",
    "_",
    "|",
    "=",
    "😀",
    "O",
    "B-VES",
]
LABELS = ["VES", "PRT", "a-b", "PER:x", "Ort", "T_9"]


@st.composite
def corpus_texts(draw: st.DrawFn) -> CorpusText:
    """Words in any order and spacing, with spans that may nest and cross, and cut words."""
    parts = [draw(st.sampled_from(["", "", " ", "\n"]))]
    for word in draw(st.lists(st.sampled_from(WORDS), min_size=1, max_size=14)):
        parts += [word, draw(st.sampled_from([" ", " ", "  ", "\n", "\n\n", ", ", "\t", "\u00a0", ""]))]
    body = "".join(parts)
    marks = [i for i, sign in enumerate(body) if not sign.isspace()]
    spans = set()
    for _ in range(draw(st.integers(0, 5))):
        first, last = sorted(draw(st.tuples(st.sampled_from(marks), st.sampled_from(marks))))
        spans.add(Span(first, last + 1, draw(st.sampled_from(LABELS))))
    return CorpusText(
        body=body,
        spans=tuple(sorted(spans)),
        id=draw(st.sampled_from(["", "7", "a b"])),
        title=draw(st.sampled_from(["", "33/1", 'of "a"\n#'])),
        group=draw(st.sampled_from(["", "week-41"])),
        dated=draw(st.sampled_from([None, date(2026, 3, 1)])),
        split=draw(st.sampled_from(["", "train", "test"])),
        fold=draw(st.sampled_from([None, 1, 5])),
        meta=draw(st.sampled_from([{}, {"from": "mail", "pages": [1, 2]}])),
    )


def signed_by_turns(text: CorpusText) -> CorpusText:
    sentences = tuple(replace(sentence, signed=i % 3 != 1) for i, sentence in enumerate(text.sentences))
    return replace(text, sentences=sentences)


def with_gaps(text: CorpusText, left_out: set[int]) -> CorpusText:
    """Without some of its sentences, as where words are quoted; those stay in which something is marked."""
    sentences = tuple(
        one
        for i, one in enumerate(text.sentences)
        if i not in left_out or any(s.start < one.end and one.start < s.end for s in text.spans)
    )
    tokens = tuple(
        (a, b) for a, b in text.tokens if any(one.start <= a and b <= one.end for one in sentences)
    )
    return replace(text, sentences=sentences, tokens=tokens) if sentences else text


@pytest.mark.parametrize("name", FORMATS)
@settings(deadline=None, max_examples=150)
@given(drawn=st.lists(corpus_texts(), max_size=3), left_out=st.sets(st.integers(0, 4)))
def test_what_is_written_is_read_back_the_same(
    name: str, drawn: list[CorpusText], left_out: set[int]
) -> None:
    write, read = FORMATS[name]
    texts = [with_gaps(signed_by_turns(text), left_out) for text in analysed(drawn)]
    told = list(read(list(write(texts))))
    assert len(told) == len(texts)
    for given_, back in zip(texts, told, strict=True):
        assert back.body == given_.body
        assert back.spans == given_.spans
        for field in ("title", "group", "dated", "split", "fold", "meta"):
            assert getattr(back, field) == getattr(given_, field), field
        assert back.sentences == given_.sentences
        if name in ("BIO", "BILOU", "CoNLL-U"):
            assert back.tokens == given_.tokens
    # What was read is written the same again.
    if name not in ("JSON Lines", "Web Annotation"):
        assert list(write(told)) == list(write(texts))


def test_a_hundred_labels_and_more_come_back() -> None:
    body = " ".join(f"w{i}" for i in range(140))
    starts = [body.index(f"w{i} ") if i < 139 else body.rindex("w139") for i in range(140)]
    spans = tuple(Span(start, start + len(f"w{i}"), f"LABEL-{i}") for i, start in enumerate(starts))
    (text,) = analysed([CorpusText(body=body, spans=spans)])
    assert next(read_label_columns(list(write_label_columns([text], "BILOU")))).spans == spans


COLUMNS = "Amber\tNN\tB-VES\tO\nQuay\tNN\tI-VES\tB-PRT\n\nout\tRB\tO\tO\n"


def test_columns_from_elsewhere_are_texts_of_a_sentence_with_one_label_column_or_several() -> None:
    one, two = read_label_columns(COLUMNS.splitlines(keepends=True), [2])
    assert (one.body, one.spans, two.body) == ("Amber Quay", (Span(0, 10, "VES"),), "out")
    both, _ = read_label_columns(COLUMNS.splitlines(keepends=True), [2, 3])
    assert both.spans == (Span(0, 10, "VES"), Span(6, 10, "PRT"))
    last, _ = read_label_columns(["# group: 7\n", *COLUMNS.splitlines(keepends=True)])
    assert (last.spans, last.group) == ((Span(6, 10, "PRT"),), "7")


@pytest.mark.parametrize(
    ("labels", "found"),
    [
        ("B-A I-A O B-A", [(0, 2, "A"), (3, 4, "A")]),
        ("I-A I-A L-A I-A", [(0, 3, "A"), (3, 4, "A")]),
        ("B-A B-A E-A U-A", [(0, 1, "A"), (1, 3, "A"), (3, 4, "A")]),
        ("S-A S-A I-B I-A", [(0, 1, "A"), (1, 2, "A"), (2, 3, "B"), (3, 4, "A")]),
        ("B-a-b I-a-b O O", [(0, 2, "a-b")]),
    ],
)
def test_labels_say_where_spans_are_in_every_coding(labels: str, found: list[tuple[int, int, str]]) -> None:
    tokens = [(i, i + 1) for i in range(4)]
    assert spans_of(labels.split(), tokens) == [Span(*one) for one in found]


def test_labels_need_tokens_that_spans_begin_and_end_with() -> None:
    with pytest.raises(BadSpan):
        labels_of([Span(1, 4, "A")], [(0, 2), (2, 4)], "BIO")
    with pytest.raises(BadSpan):
        labels_of([Span(0, 9, "A")], [(0, 2), (2, 4)], "BIO")
    nested = (Span(0, 5, "A"), Span(0, 2, "B"), Span(4, 6, "A"))
    assert layers_of(nested) == [[Span(0, 5, "A")], [Span(0, 2, "B"), Span(4, 6, "A")]]
    (text,) = analysed([CorpusText(body="aa bb cc", spans=(Span(0, 5, "A"), Span(0, 2, "B")))])
    with pytest.raises(BadSpan, match="2 columns"):
        list(write_label_columns([text]))


def test_labels_are_written_in_their_coding() -> None:
    tokens = [(i, i + 1) for i in range(7)]
    spans = [Span(0, 1, "A"), Span(1, 3, "A"), Span(4, 7, "B")]
    assert labels_of(spans, tokens, "BIO") == "B-A B-A I-A O B-B I-B I-B".split()
    assert labels_of(spans, tokens, "BILOU") == "U-A B-A L-A O B-B I-B L-B".split()


def test_bare_columns_hold_tokens_and_labels_of_signed_sentences_alone() -> None:
    text = CorpusText(
        body="Amber sails. Nobody looked.",
        spans=(Span(0, 5, "VES"),),
        sentences=(CorpusSentence(0, 12), CorpusSentence(13, 27, signed=False)),
    )
    lines = list(write_label_columns(analysed([text]), bare=True))
    assert lines == ["Amber\tB-VES\n", "sails\tO\n", ".\tO\n", "\n"]


CONLLU = """\
# newdoc id = one
# newpar
# sent_id = 1
1-2\tdel\t_\t_\t_\t_\t_\t_\t_\tSpan=B-X
1\tde\tde\tADP\t_\t_\t_\t_\t_\t_
2\tel\tel\tDET\t_\t_\t_\t_\t_\t_
3\tmar\tmar\tNOUN\t_\t_\t_\t_\t_\tSpaceAfter=No|Span=I-X
4\t.\t.\tPUNCT\t_\t_\t_\t_\t_\t_
4.1\tsea\t_\t_\t_\t_\t_\t_\t_\t_

# newpar
1\tFin\tfin\tNOUN\t_\t_\t_\t_\t_\t_
"""


def test_conllu_from_elsewhere_has_its_words_joined_as_it_says() -> None:
    (text,) = read_conllu(CONLLU.splitlines(keepends=True))
    assert (text.id, text.body) == ("one", "del mar.\nFin")
    assert text.spans == (Span(0, 7, "X"),)
    assert text.tags == ("ADP", "NOUN", "PUNCT", "NOUN")
    assert [(s.start, s.end) for s in text.sentences] == [(0, 8), (9, 12)]
    # The label may stand with the first of the words that are written as one.
    moved = CONLLU.replace("\tSpan=B-X\n", "\t_\n").replace(
        "ADP\t_\t_\t_\t_\t_\t_\n", "ADP\t_\t_\t_\t_\t_\tSpan=B-X\n"
    )
    assert next(read_conllu(moved.splitlines(keepends=True))).spans == (Span(0, 7, "X"),)
    alone = list(read_conllu(CONLLU.replace("# newdoc id = one\n", "").splitlines(keepends=True)))
    assert [text.body for text in alone] == ["del mar.", "Fin"]


def test_conllu_says_where_no_space_stands_for_programs_that_know_no_remarks() -> None:
    (text,) = analysed([CorpusText(body="The U.S. (so) left, at 5.", spans=(Span(4, 8, "PLC"),))])
    lines = [line for line in write_conllu([text]) if not line.startswith("# whole")]
    (back,) = read_conllu(lines)
    assert (back.body, back.spans) == (text.body, text.spans)


def quoted(start: int, end: int, exact: str, **around: str) -> str:
    quote = {"type": "TextQuoteSelector", "exact": exact, **around}
    position = {"type": "TextPositionSelector", "start": start, "end": end}
    item = {
        "type": "Annotation",
        "body": [
            {"type": "TextualBody", "purpose": "commenting", "value": "sure"},
            {"purpose": "tagging", "value": "VES"},
        ],
        "target": {"source": "urn:x", "selector": [position, quote]},
    }
    return json.dumps({"type": "AnnotationPage", "items": [item], "source": {"id": "urn:x", "value": BODY}})


BODY = "Vane left. Vane came back, and Quay."


@pytest.mark.parametrize(
    ("line", "found"),
    [
        (quoted(11, 15, "Vane"), (11, 15)),
        (quoted(31, 35, "Quay"), (31, 35)),
        # What was moved is found by its words, and by what stands around them where they stand twice.
        (quoted(3, 7, "Quay"), (31, 35)),
        (quoted(12, 16, "Vane", prefix="left. "), (11, 15)),
        (quoted(12, 16, "Vane", suffix=" left"), (0, 4)),
        (quoted(-1 % 99, 99, "Quay", prefix="no such"), (31, 35)),
    ],
)
def test_an_annotation_is_found_by_its_place_or_by_its_words(line: str, found: tuple[int, int]) -> None:
    (text,) = read_web_annotations([line])
    assert text.spans == (Span(*found, "VES"),)


FAULTS: list[tuple[str, str, str]] = [
    ("JSON Lines", "\n[]\n", "Line 2: an object"),
    ("JSON Lines", '{"text": "ab", "spans": [{"start": 0, "end": 3, "type": "A"}]}', "does not lie within"),
    ("JSON Lines", '{"text": "ab", "spans": [{"start": true, "end": 2, "type": "A"}]}', "whole numbers"),
    ("JSON Lines", '{"text": "ab", "spans": [{"start": 0, "end": 2, "type": "A B"}]}', "one word"),
    (
        "JSON Lines",
        '{"text": "ab", "spans": [{"start": 0, "end": 2, "type": "A", "probability": 2}]}',
        "between 0",
    ),
    (
        "JSON Lines",
        '{"text": "ab", "sentences": [{"start": 0, "end": 2}, {"start": 1, "end": 2}]}',
        "before the one",
    ),
    ("JSON Lines", '{"text": "ab", "date": "March"}', "a day such as"),
    ("JSON Lines", '{"text": "ab", "fold": 0}', "“fold”"),
    ("BIO", "a\tB-X\nb\n", "Line 2: a token and its labels"),
    ("BIO", "a\tX\n", "Line 1 and below: a label is O"),
    ("BIO", "a\tB-\n", "one word"),
    ("BIO", '# text: {"id": 1}\n', "Line 1: an object with “body”"),
    ("BIO", '# text: {"body": "ab"}\nb\tO\n', "Line 2: the word 'b' is not what stands next"),
    ("CoNLL-U", "1\ta\n", "Line 1: a word has 10 columns"),
    ("CoNLL-U", CONLLU.replace("3\tmar", "x\tmar"), "Line 7: a word's number"),
    ("CoNLL-U", CONLLU.replace("Span=B-X", "Span=X"), "a label is O"),
    ("CoNLL-U", '# newdoc\n# whole = {"body": "x"}\n' + CONLLU.split("\n", 2)[2], "is not what stands next"),
    ("Web Annotation", '{"items": 3}', "“items” is a list"),
    ("Web Annotation", '{"items": [], "id": "x"}', "is not there"),
    ("Web Annotation", quoted(0, 4, "Nobody"), "stand not in the text"),
    ("Web Annotation", quoted(3, 9, "Vane"), "stand 2 times"),
    ("Web Annotation", quoted(9, 3, "Vane"), "a position has whole numbers"),
]


@pytest.mark.parametrize(("name", "file", "told"), FAULTS)
def test_what_is_wrong_is_said_with_its_line(name: str, file: str, told: str) -> None:
    read = read_label_columns if name == "BIO" else FORMATS[name][1]
    with pytest.raises(BadFile) as fault:
        list(read(StringIO(file, newline="\n")))
    assert told in fault.value.message
    assert fault.value.message.startswith("Line ")


@pytest.mark.parametrize("name", FORMATS)
@settings(deadline=None, max_examples=200)
@given(drawn=st.lists(corpus_texts(), min_size=1, max_size=2), seed=st.randoms(use_true_random=False))
def test_a_damaged_file_is_read_or_refused_and_never_a_crash(
    name: str, drawn: list[CorpusText], seed: Random
) -> None:
    write, read = FORMATS[name]
    file = "".join(write(analysed(drawn)))
    for _ in range(4):
        at = seed.randrange(len(file))
        kind = seed.randrange(3)
        sign = seed.choice('\t\n"{}[]:,0#=-|B\u2028\x00')
        file = file[:at] + (sign if kind < 2 else "") + file[at + (kind > 0) :]
    told: list[CorpusText] = []
    # Anything else that is raised fails.
    with suppress(UrdatenError):
        told += read(StringIO(file, newline="\n"))
    for text in told:
        for span in text.spans:
            assert 0 <= span.start < span.end <= len(text.body)


@settings(deadline=None)
@given(
    texts=st.lists(
        st.tuples(st.sampled_from(["", "a", "b", "c", "d", "e"]), st.integers(1, 30)), min_size=1, max_size=60
    ),
    count=st.integers(1, 6),
    seed=st.integers(0, 99),
)
def test_folds_keep_groups_together_and_come_out_alike(
    texts: list[tuple[str, int]], count: int, seed: int
) -> None:
    groups, sizes = [group for group, _ in texts], [size for _, size in texts]
    folds = folds_of(groups, sizes, count, seed)
    assert folds == folds_of(groups, sizes, count, seed)
    assert set(folds) <= set(range(1, count + 1))
    for name in set(groups) - {""}:
        assert len({fold for fold, group in zip(folds, groups, strict=True) if group == name}) == 1
    together: dict[object, int] = {}
    for i, (group, size) in enumerate(texts):
        together[group or i] = together.get(group or i, 0) + size
    held = [
        sum(size for size, fold in zip(sizes, folds, strict=True) if fold == k) for k in range(1, count + 1)
    ]
    # The last group that went to the fullest fold went there while that one held least.
    assert max(held) - min(held) <= max(together.values())


def test_another_seed_draws_other_folds() -> None:
    groups = [str(i) for i in range(40)]
    assert len({tuple(folds_of(groups, [1] * 40, 5, seed)) for seed in range(5)}) == 5
