"""The page on the rule language says what the grammar reads."""

from __future__ import annotations

from pathlib import Path

import pytest
import regex

from urdaten.core import rules
from urdaten.core.rules import many, raw
from urdaten.core.rules.fragments import MOST_POSITIONS
from urdaten.core.rules.reading import MOST_DEPTH, MOST_SIGNS, read
from urdaten.demo.files import read_demo

ROOT = Path(__file__).parents[2]
PAGE = (ROOT / "docs/rules.md").read_text(encoding="utf-8")
GUIDE = (ROOT / "docs/guide/rules.md").read_text(encoding="utf-8")
GRAMMAR = (Path(rules.__file__).parent / "grammar.lark").read_text(encoding="utf-8")
REGULAR = PAGE.index("## Regular expressions")
_CONDITIONS = ("only if", "unless")


def words_of_the_grammar() -> set[str]:
    quoted = regex.findall(r'"([a-z]+)"', GRAMMAR)
    assert len(quoted) > 40
    return set(quoted)


@pytest.mark.parametrize("word", sorted(words_of_the_grammar()))
def test_every_word_of_the_language_is_explained(word: str) -> None:
    assert regex.search(rf"`[^`\n]*\b{word}\b[^`\n]*`", PAGE) or f"\n{word} " in PAGE


def pieces() -> list[str]:
    """What stands between backticks in the tables of a page, without those of regular expressions."""
    found = []
    for page in (PAGE[:REGULAR], GUIDE):
        for row in regex.findall(r"^\| (`.*?) \|", page, regex.MULTILINE):
            found += regex.findall(r"`([^`]+)`", row.replace("\\|", "|"))
    return found


@pytest.mark.parametrize("piece", [one for one in pieces() if "…" not in one])
def test_what_the_tables_show_can_be_read(piece: str) -> None:
    if piece.startswith(_CONDITIONS):
        read(f"'a'\n{piece}")
    elif regex.fullmatch(r"(earlier|later|within).*", piece):
        read(f"'a'\nonly if 'b' {piece}")
    elif piece.startswith(("drop", "retype")):
        read(f"'a'\n{piece}")
    elif regex.fullmatch(r"optional|\d+ to \d+|up to \d+|\d+ or more|any number of", piece):
        read(f"{piece} any")
    elif piece.startswith("sentence"):
        read(f"{piece} 'a'")
    else:
        read(piece)


def test_whole_rules_on_the_page_can_be_read() -> None:
    blocks = regex.findall(r"```(?:rule)?\n(.*?)```", PAGE + GUIDE, regex.DOTALL)
    assert len(blocks) >= 4
    for block in blocks:
        read(block)


def test_the_bounds_are_those_of_the_code() -> None:
    said = PAGE[PAGE.index("## Steps") : REGULAR]
    assert (many.STEPS, many.STEPS_A_TOKEN, raw.STEPS, raw.STEPS_A_SIGN) == (2_000_000, 1_000, 2_000_000, 500)
    for number in (f"{MOST_DEPTH} deep", f"{MOST_POSITIONS:,} words", f"{MOST_SIGNS:,} signs"):
        assert number in said


def test_every_rule_of_the_demo_holds_its_examples_by_the_language_alone() -> None:
    demo = read_demo()
    assert len(demo.compiled_rules) == 14
    assert all("text(/" not in one.pattern for one in demo.rules)
