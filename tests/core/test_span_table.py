"""Spans as columns: into them and out again, joined, chosen and in order."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import batch_of

BATCH = batch_of(["Pellin sails to Varnby.", "Ketta.", "Nothing at all here"])
TYPES = ("VES", "PRT", "AGT")
TOKENS = len(BATCH.word)


@dataclass(frozen=True)
class Said:
    words: str


REASONS = (Said("heard"), Said("seen"), Said("guessed"))
# First token, tokens, type, maker, reason, probability.
ROW = st.tuples(
    st.integers(0, TOKENS - 1),
    st.integers(1, 2),
    st.integers(0, 2),
    st.integers(0, 1),
    st.integers(-1, 2),
    st.sampled_from([None, 0.25, 1.0]),
)
Rows = list[tuple[int, int, int, int, int, float | None]]


def table(rows: Rows, source: str, makers: tuple[str, ...], types: tuple[str, ...]) -> SpanTable:
    first, size, kind, maker, reason = np.array([r[:5] for r in rows], dtype=np.int32).reshape(-1, 5).T
    probability = np.array([np.nan if r[5] is None else r[5] for r in rows], dtype=np.float64)
    return SpanTable.of_tokens(
        BATCH,
        first,
        np.minimum(first + size, TOKENS),
        kind,
        types,
        source=source,
        maker=maker,
        makers=makers,
        reason=reason,
        reasons=REASONS,
        probability=probability,
    )


def slow(rows: Rows, source: str, makers: tuple[str, ...], types: tuple[str, ...]) -> list[list[Span]]:
    found: list[list[Span]] = [[] for _ in BATCH.bodies]
    for first, size, kind, maker, reason, p in rows:
        last = min(first + size, TOKENS) - 1
        why = REASONS[reason].words if reason >= 0 else ""
        start, end = int(BATCH.start[first]), int(BATCH.end[last])
        found[BATCH.text[first]].append(Span(start, end, types[kind], source, p, why, makers[maker]))
    return found


def told(spans: list[list[Span]]) -> list[list[tuple[object, ...]]]:
    """With what does not count where spans are compared."""
    return [[(s, s.source, s.probability, s.why, s.maker) for s in own] for own in spans]


@given(st.lists(ROW, max_size=8), st.lists(ROW, max_size=8))
def test_joined_tables_are_their_spans_one_after_the_other(one: Rows, other: Rows) -> None:
    a = ("lists", ("north", "south"), TYPES)
    b = ("rules", ("south", "west"), TYPES[::-1])
    wanted = [x + y for x, y in zip(slow(one, *a), slow(other, *b), strict=True)]
    made = SpanTable.joined([table(one, *a), table(other, *b)])
    assert len(made) == len(one) + len(other)
    assert told(made.spans(3)) == told(wanted)
    assert told(made.in_order().spans(3)) == told([sorted(own) for own in wanted])
    # Only what is in use is carried along, and once.
    assert len(set(made.types)) == len(made.types)
    assert set(made.makers) == {s.maker for own in wanted for s in own}


@given(st.lists(ROW, max_size=8), st.data())
def test_rows_are_chosen_in_their_order(rows: Rows, data: st.DataObject) -> None:
    chosen = data.draw(st.lists(st.integers(0, len(rows) - 1), max_size=8) if rows else st.just([]))
    made = table(rows, "lists", ("north", "south"), TYPES).at(np.array(chosen, dtype=np.int64))
    wanted = slow([rows[k] for k in chosen], "lists", ("north", "south"), TYPES)
    assert told(made.spans(3)) == told(wanted)


def test_an_empty_table_has_no_spans() -> None:
    empty = table([], "lists", ("north",), TYPES)
    assert len(empty) == 0
    assert empty.in_order().spans(2) == [[], []]
    assert SpanTable.joined([empty, empty]).spans(1) == [[]]


def test_a_row_is_found_by_its_span() -> None:
    texts = [
        [Span(0, 3, "VES", "a"), Span(0, 3, "CGO", "a")],
        [Span(0, 3, "VES", "b"), Span(0, 3, "VES", "c")],
    ]
    table = SpanTable.of_spans(texts)
    assert [table.row_of(0, span) for span in texts[0]] == [0, 1]
    # Who says it does not matter: the first one is told.
    assert table.row_of(1, Span(0, 3, "VES", "c")) == 2
    for missing in (Span(0, 4, "VES"), Span(1, 3, "VES"), Span(0, 3, "PRT")):
        assert table.row_of(0, missing) is None
    assert table.row_of(1, Span(0, 3, "CGO")) is None
    assert table.row_of(2, Span(0, 3, "VES")) is None
