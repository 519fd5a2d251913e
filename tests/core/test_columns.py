"""BIO column files: read, written, and refused by line."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.formats import Sample, read_columns, write_columns
from urdaten.core.spans import Span
from urdaten.errors import BadFile

FILE = """# group: week 27
The\tx\tO
Amber\tx\tB-VES
Quay\tx\tI-VES
sails\tx\tO

Pellin B-VES
Haldis B-VES
salt I-CGO
"""


def test_columns_become_samples() -> None:
    samples, problems = read_columns(FILE.split("\n"))
    assert problems == []
    assert [(s.text, s.group) for s in samples] == [
        ("The Amber Quay sails", "week 27"),
        ("Pellin Haldis salt", "week 27"),
    ]
    assert samples[0].spans == (Span(4, 14, "VES"),)
    # Two beginnings are two spans, and an inside that continues nothing begins one.
    assert samples[1].spans == (Span(0, 6, "VES"), Span(7, 13, "VES"), Span(14, 18, "CGO"))


@pytest.mark.parametrize(
    ("line", "words"),
    [("Pellin", "a token and its label"), ("Pellin X-VES", "not 'X-VES'"), ("a B-ves", "not 'B-ves'")],
)
def test_a_bad_line_is_named_and_the_rest_kept_if_wished(line: str, words: str) -> None:
    lines = ["Good O", "", "Also O", line, "more O", "", "Last O"]
    with pytest.raises(BadFile, match="Line 4"):
        read_columns(lines)
    samples, problems = read_columns(lines, keep_good=True)
    assert [s.text for s in samples] == ["Good", "Last"]
    assert len(problems) == 1
    assert words in problems[0]


@given(
    st.lists(
        st.lists(
            st.tuples(st.sampled_from("salt Pellin quay B12".split()), st.booleans()), min_size=1, max_size=6
        ),
        max_size=4,
    )
)
def test_what_is_written_is_read_back(sentences: list[list[tuple[str, bool]]]) -> None:
    samples = []
    for k, words in enumerate(sentences):
        text = " ".join(word for word, _ in words)
        ends = [len(" ".join(w for w, _ in words[: n + 1])) for n in range(len(words))]
        spans = [
            Span(end - len(word), end, "VES") for (word, held), end in zip(words, ends, strict=True) if held
        ]
        samples.append(Sample(text=text, spans=tuple(spans), group=f"g{k}"))
    lines = "".join(write_columns(samples, [s.spans for s in samples])).split("\n")
    assert read_columns(lines) == (samples, [])


def test_of_overlapping_spans_the_longest_is_written() -> None:
    sample = Sample(text="Amber Quay is in. Salt too.")
    found = [Span(0, 10, "VES"), Span(0, 5, "CGO"), Span(18, 22, "CGO")]
    assert "".join(write_columns([sample], [found])) == (
        "Amber\tB-VES\nQuay\tI-VES\nis\tO\nin\tO\n.\tO\n\nSalt\tB-CGO\ntoo\tO\n.\tO\n\n"
    )
