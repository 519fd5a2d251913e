"""What a rule says, read aloud."""

from __future__ import annotations

import pytest
from hypothesis import given, reject, settings

from core.test_rule_matching import RULES
from urdaten.core.rules.reading import read
from urdaten.core.rules.spoken import aloud
from urdaten.errors import BadPattern


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (
            "'pilot' [ optional initial 1 to 3 capital ] up to 3 any ('aboard' or 'boarded')\nunless inside list(berths)",
            [
                "After “pilot”, it marks perhaps an initial, then 1 to 3 words with a capital as PER, before up to 3 words of any "
                "kind, then “aboard” or “boarded”.",
                "Not where it lies within a name of the list berths.",
            ],
        ),
        (
            "[ capital and not list(ports, berths) ] as VES 'from' [ found(PRT) ]",
            [
                "It marks a word that has a capital and is not part of a name of the lists ports or berths as VES, then after "
                "“from” and a span of PRT as PER."
            ],
        ),
        (
            "[ 1 or more letters minus ('of' or 'and') ] sentence end\nonly if repeats last of found(PER) earlier in text",
            [
                "It marks 1 or more words of letters without each word that is “of” or “and” as PER, before the end of the "
                "sentence.",
                "Only where it is the same as the last word of a span of PER earlier in the text.",
            ],
        ),
        (
            "use(day) 2 (figure \"t\")\ndrop\nacross sentences",
            [
                "It finds the fragment “day”, then 2 times (a figure, then “t” written just so).",
                "Earlier spans of any type with just these words go.",
                "A match may run over the end of a sentence.",
            ],
        ),
        (
            "('a', 'b', 'c', 'd', 'e', 'f', 'g', 'h')\nretype VES, PRT\nonly if 'x' within 1 token before",
            [
                "It marks “a”, “b”, “c”, “d”, “e”, “f” or one of 2 more as PER.",
                "Only where “x” stands within 1 word before it.",
                "Earlier spans of VES or PRT with just these words become PER.",
            ],
        ),
        (
            "('Sill Wharf' or \"North Mole\") (\"Lines\" or \"House\") [any and not capital] 3 (any and not 'a')",
            [
                "After either “Sill Wharf” or “North Mole” written just so, then “Lines” or “House” written just so, it marks a "
                "word that has no capital as PER, before 3 words, each of which is not “a”."
            ],
        ),
        (
            "[ (capital or capitals) and not ('a', 'b') ] (not (capital or 'of') or not (small and like(/x/)))",
            [
                "It marks a word that either has a capital or is in capitals, and is not “a” or “b” as PER, before a word that "
                "either has no capital and is not “of” or either is not in small letters or /x/ does not match."
            ],
        ),
        (
            "[found(PRT)]\nonly if inside longer found(VES)\ndrop",
            [
                "It finds a span of PRT.",
                "Only where it lies within a span of VES, and is not the whole of it.",
                "Earlier spans of any type with just these words go.",
            ],
        ),
        ("like(/\\d+/) any number of not length(2)", ["It marks a word that /\\d+/ matches, then any number of words, each of which has not 2 letters as PER."]),
    ],
)  # fmt: skip
def test_it_reads_as_a_colleague_would_say_it(text: str, said: list[str]) -> None:
    assert aloud(text, "PER") == said


@settings(max_examples=200, deadline=None)
@given(text=RULES)
def test_whatever_can_be_written_can_be_said(text: str) -> None:
    try:
        read(text)
    except BadPattern:
        reject()
    assert all(line[:1].isupper() and line.endswith(".") for line in aloud(text, "PER"))
