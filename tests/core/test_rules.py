"""Rules as people write them: what they find, and what is said of those that cannot be read."""

from __future__ import annotations

import pytest

from urdaten.core.lists import Entry, Gazetteer, NameList
from urdaten.core.rules import CompiledRule, Rule, match_rules, mentions, renamed, try_examples
from urdaten.core.rules.carried import carried_over
from urdaten.core.rules.rule import check_fragment
from urdaten.core.spans import SpanTable
from urdaten.core.text import batch_of
from urdaten.errors import BadPattern

LISTS = Gazetteer(
    [
        NameList(
            name="vessels", type="VES", entries=(Entry(preferred="Amber Quay"), Entry(preferred="Lindmoor"))
        ),
        NameList(
            name="ports", type="PRT", entries=(Entry(preferred="Lindmoor"), Entry(preferred="Harrow Ness"))
        ),
    ]
)


def rule(text: str, type: str = "PER", **fragments: str) -> CompiledRule:
    return Rule(name="tried", type=type, text=text).compiled(fragments)


def found(text: str, body: str, *before: CompiledRule, **fragments: str) -> list[tuple[str, str]]:
    """Words and type of what a rule marks."""
    batch = batch_of([body])
    made = rule(text, **fragments)
    finds = match_rules([*before, made], batch, LISTS.read(batch).table)[-1]
    rows = zip(finds.first.tolist(), finds.last.tolist(), finds.kind.tolist(), strict=True)
    return [(body[batch.start[a] : batch.end[b - 1]], made.types[k]) for a, b, k in rows]


def words(text: str, body: str, *before: CompiledRule, **fragments: str) -> list[str]:
    return [said for said, _ in found(text, body, *before, **fragments)]


def test_what_is_marked_stands_in_brackets_and_context_outside() -> None:
    text = "'pilot' [ optional initial 1 to 3 capital ] up to 3 any ('aboard' or 'boarded')"
    body = "Pilot Amber Vane boarded off the Spit; pilot J. Marsh aboard; pilot Cutter."
    assert words(text, body) == ["Amber Vane", "J. Marsh"]


def test_without_brackets_all_of_it_is_marked() -> None:
    assert words("figure 't'", "with 400 t of salt and 20 t more") == ["400 t", "20 t"]


def test_several_marks_have_types_of_their_own() -> None:
    assert found("[ capital ] as VES 'from' [ 1 to 2 capital ]", "Pellin from Harrow Ness sails") == [
        ("Pellin", "VES"),
        ("Harrow Ness", "PER"),
    ]


def test_a_mark_is_as_long_as_it_can_be_and_a_gap_as_short() -> None:
    body = "Ann saw Ben and Carl and Dora Quay"
    assert words("[capital] any number of any [1 to 2 capital]", body) == ["Ann", "Ben", "Carl", "Dora Quay"]
    # What stands behind it has to fit still.
    assert words("[1 to 3 small] 'aboard'", "Vane was aboard soon") == ["was"]
    assert words("[1 to 2 any] 'and' [any] 'and'", body) == ["saw Ben", "Carl"]
    # The search goes on behind the last mark, also where a longer one begins within it.
    assert words("[('ann' 'saw' or 'saw' 'ben' 'and')]", body) == ["Ann saw"]


def test_words_are_compared_in_any_case_or_exactly() -> None:
    assert words("'trust'", "the Trust and a trust") == ["Trust", "trust"]
    assert words('"Trust"', "the Trust and a trust") == ["Trust"]
    assert words("'half past' ('one', 'two')", "Half past two") == ["Half past two"]
    assert words("'don\\'t'", "we don’t pay") == ["don’t"]


@pytest.mark.parametrize(
    ("shape", "wanted"),
    [
        ("capital", ["Amber", "J", "A"]),
        ("capitals", ["SW", "NB"]),
        ("small", ["the", "fore-deck"]),
        ("figure", ["3,200", "0410", "7.2"]),
        ("code", ["SW-4", "4B"]),
        ("sign", [";", ".", "|"]),
        ("letters", ["Amber", "the", "SW", "J", "A", "NB"]),
    ],
)
def test_shapes(shape: str, wanted: list[str]) -> None:
    body = "Amber the SW fore-deck 3,200 ; SW-4 J . 0410 7.2 4B A | NB"
    assert sorted(words(f"[{shape}]", body)) == sorted(wanted)


def test_an_initial_has_its_stop_with_it() -> None:
    assert words("[initial capital]", "J. Marsh and K Vane") == ["J. Marsh", "K Vane"]


def test_lengths_and_expressions_of_one_word() -> None:
    assert words("length(2 to 3)", "a bc def ghij") == ["bc", "def"]
    assert words("like(/(?i)[a-c]+\\d?/)", "abc ABC2 abd2 c") == ["abc", "ABC2", "c"]


def test_lists_are_asked_of_whole_names_and_of_words() -> None:
    body = "Amber Quay sailed for Harrow Ness, amber came from Lindmoor"
    assert words("list(vessels)", body) == ["Amber Quay", "Lindmoor"]
    assert words("list(vessels, ports)", body) == ["Amber Quay", "Harrow Ness", "Lindmoor"]
    assert words("[capital and not list(vessels)]", body) == ["Harrow", "Ness"]
    assert words("last of list(ports)", body) == ["Ness", "Lindmoor"]
    assert words("[found(PRT)]\nunless 'from' within 1 token before", body) == ["Harrow Ness"]


def test_a_rule_sees_what_those_before_it_found_and_not_what_those_behind_it_do() -> None:
    amount = rule("figure 't'", "QTY")
    goods = "found(QTY) optional 'of' [small and not 'of']"
    assert words(goods, "with 400 t of salt", amount) == ["salt"]
    assert words(goods, "with 400 t of salt") == []


def test_rules_that_ask_the_same_see_what_came_between_them() -> None:
    body = "the Velda sailed, Velda and Osk"
    ask = "[capital and not found(SHP)]"
    ship = rule("'the' [capital]", "SHP")
    assert words(ask, body, rule(ask), ship) == ["Velda", "Osk"]
    assert words(ask, body, rule(ask), ship, rule("'velda'", "SHP")) == ["Osk"]


def test_a_mark_may_name_the_type_that_the_rule_has_anyway() -> None:
    made = rule("[capital] as PER 'and' [capital]")
    assert (made.types, made.lines[0].types) == (("PER", "PER"), (1, 0))


def test_a_match_ends_with_its_sentence_unless_it_is_to_run_on() -> None:
    body = "It blew. Pellin sailed."
    assert words("'.' [capital]", body) == []
    assert words("'.' [capital]\nacross sentences", body) == ["Pellin"]
    assert words("sentence start [any]", body) == ["It", "Pellin"]
    assert words("sentence start [any]\nacross sentences", body) == ["It", "Pellin"]
    assert words("[any] sentence end any\nacross sentences", body) == ["."]
    assert words("[any] sentence end", body) == [".", "."]


def test_minus_splits_what_is_marked() -> None:
    assert words("[ 1 or more any minus ('of' or 'and') ]", "salt and lamp oil of birch") == [
        "salt",
        "lamp oil",
        "birch",
    ]
    assert words("[ 1 or more 'of' minus 'of' ]", "of of") == []


def test_conditions_look_around() -> None:
    body = "Gale of Carl. Amber in a gale. Bert in fog."
    mark = "[('Amber', 'Bert', 'Carl')]\n"
    assert words(mark + "only if 'gale' in sentence", body) == ["Carl", "Amber"]
    assert words(mark + "only if 'gale' later in sentence", body) == ["Amber"]
    assert words(mark + "unless 'gale' in sentence", body) == ["Bert"]
    assert words(mark + "only if 'fog' later in text", body) == ["Carl", "Amber", "Bert"]
    assert words(mark + "only if 'gale' within 2 tokens before", body) == ["Carl"]
    assert words("[capital]\nonly if 'in' any earlier in sentence", "in Bert and in fog Carl") == ["Carl"]
    assert words(mark + "only if 'gale' within 3 tokens\nunless 'of' in sentence", body) == ["Amber"]


def test_a_condition_looks_around_all_that_a_line_marks() -> None:
    text = "[capital] 'from' [capital]\nunless 'from' in sentence"
    assert words(text, "Pellin from Varnby sailed") == ["Pellin", "Varnby"]
    assert words(text, "Pellin from Varnby sailed from here") == []


def test_what_a_rule_takes_away_is_gone_for_those_behind_it() -> None:
    body = "the Lindmoor sailed for Lindmoor and 4 t"
    ship = rule("'the' [list(ports)]\ndrop PRT", "VES")
    assert words("found(PRT)", body) == ["Lindmoor", "Lindmoor"]
    assert words("found(PRT)", body, ship) == ["Lindmoor"]
    assert words("found(VES)", body, ship) == ["Lindmoor", "Lindmoor"]
    assert words("list(ports)", body, ship) == ["Lindmoor", "Lindmoor"]
    amount = rule("figure 't'", "QTY")
    assert words("found(QTY)", body, amount) == ["4 t"]
    assert words("found(QTY)", body, amount, rule("[figure 't']\ndrop")) == []
    changed = rule("[figure 't']\nretype QTY", "CGO")
    assert words("found(QTY)", body, amount, changed) == []
    assert words("found(CGO)", body, amount, changed) == ["4 t"]


def test_a_name_is_known_by_its_longer_form() -> None:
    text = "(sentence start or not capital) [capital] (sentence end or not capital)\nonly if repeats last of found(VES) earlier in text"
    ships = rule("'the' [2 capital]", "VES")
    assert words(text, "Pellin came. The Velda Pellin sailed and Pellin with her.", ships) == ["Pellin"]


def test_inside_a_longer_span_is_not_that_span_itself() -> None:
    text = "Amber Quay and Amber"
    listed = "[list(vessels)]\nonly if inside {}list(vessels)"
    assert words(listed.format(""), text) == ["Amber Quay"]
    assert words(listed.format("longer "), text) == []
    assert words("[capital]\nonly if inside longer list(vessels)", text) == ["Amber", "Quay"]


def test_inside_a_span() -> None:
    assert words("[capital]\nunless inside list(vessels)", "Amber Quay and Amber Vane") == ["Amber", "Vane"]


def test_the_longest_mark_stays_where_lines_overlap() -> None:
    assert words("[figure]\n[figure 't']", "400 t and 20 kg") == ["400 t", "20"]


def test_a_raw_expression_marks_its_group_and_is_widened_to_words() -> None:
    assert words("text(/pilot (?P<mark>\\p{Lu}\\w+)/)", "pilot Vane aboard") == ["Vane"]
    assert words("text(/\\d{2}/)", "at 0415 sharp") == ["0415"]
    assert words("text(/a\\/b/)", "x a/b c") != []
    assert words("'at' [ text(/\\d{2}:?\\d{2}/) ]", "from 0415 at 0500") == ["0500"]


@pytest.mark.parametrize(
    "pattern", [r"(?i)\bpilot (?P<mark>\p{Lu}\w+)", r"a/b|c\/d", "(?x) a  # a slash: /\n b"]
)
def test_expressions_of_before_the_language_are_carried_over(pattern: str) -> None:
    text = carried_over(pattern)
    assert rule(text).whole.across
    assert (
        words(text, "Pilot Vane. ab a/b c/d")
        == {"(?i": ["Vane"], "a/b": ["a/b", "c/d"], "(?x": ["ab"]}[pattern[:3]]
    )


def test_fragments_stand_for_what_they_say() -> None:
    assert words(
        "[figure use(unit)]", "300 t and 4 kg", unit="('t' or use(small unit))", **{"small unit": "'kg'"}
    ) == [
        "300 t",
        "4 kg",
    ]
    assert words("[capital and not use(day)]", "Monday Pellin", day="('Monday', 'Tuesday')") == ["Pellin"]


@pytest.mark.parametrize(
    ("fragments", "said"),
    [
        ({"a": "use(b)", "b": "use(a)"}, "go in a circle: “a” uses “b” uses “a”"),
        ({"a": "'x' use(a)"}, "go in a circle: “a” uses “a”"),
        ({"a": "use(bcd)", "bce": "'x'"}, "there is no fragment “bcd”; did you mean bce?"),
        ({"a": "['x']"}, "marks something"),
        ({"a": "'x'\nunless 'y' in text"}, "has conditions"),
        ({"a": "'x' 'y'", "b": "not use(a)"}, "asks of one word"),
        ({"a": "100 use(b)", "b": "100 'x'"}, "more than 1,000 tokens"),
    ],
)
def test_fragments_that_cannot_be(fragments: dict[str, str], said: str) -> None:
    name = "b" if "not use(a)" in fragments.get("b", "") else "a"
    with pytest.raises(BadPattern, match=said):
        check_fragment(name, fragments[name], tuple(sorted(fragments.items())))


@pytest.mark.parametrize(
    ("text", "line", "column", "said"),
    [
        ("'pilot' [capitl]", 1, 10, "did you mean capital?"),
        ("'a'\nonly of 'b' in text", 2, 6, "expected “if”"),
        ("'a'\nunless 'b' withn 2 tokens", 2, 12, "did you mean within?"),
        ("'pilot", 1, 1, "has no second '"),
        ("[capital", 1, 9, "something is missing here; expected"),
        ("[capital] as", 1, 13, "the code of a type"),
        ("[optional 'a']", 1, 1, "may be nothing at all"),
        ("3 to 2 'a'", 1, 1, "the smaller number goes first"),
        ("2000 'a'", 1, 1, "1,000 times at most"),
        ("0 'a'", 1, 1, "says nothing"),
        ("not 'a b'", 1, 1, "asks of one word"),
        ("''", 1, 1, "no word between"),
        ("'a' like(/(b/)", 1, 11, "the regular expression does not compile"),
        ("'a' {2}", 1, 5, "“{” cannot stand here; how often something stands is said before it"),
        ("'a' ... 'b'", 1, 5, "so many words in between are written up to 3 any"),
        ("[1..3 capital]", 1, 3, "so many are written 1 to 3"),
        ("[1-3 capital]", 1, 3, "so many are written 1 to 3"),
        ("[two capital]", 1, 2, "how many is written in figures"),
        ("[figure crowns]", 1, 9, "as a word of the text it is written 'crowns'"),
        ("['a'] or ['b']", 1, 7, "another way to match stands on a line of its own"),
        ("'a'\nIf 'b' in text", 2, 1, "a condition begins with only if or with unless"),
        ("'a'\nunless 'b' after", 2, 12, "say how far: within 3 tokens"),
        ("['a'] within 3 tokens of 'b'", 1, 7, "a condition stands on a line of its own"),
        ("“a”", 1, 1, "quotation marks are the straight ones"),
        ("kind('person')", 1, 6, "what stands in these brackets has no quotation marks"),
        ("tag(adjective)", 1, 5, "did you mean ADJ?"),
        ("tag(name)", 1, 5, "did you mean PROPN?"),
        ("tag(zz)", 1, 5, "they are ADJ"),
        ("['a' and 'b']", 1, 10, "one word cannot be both “a” and “b”"),
        ("['a' and \"A\" and 'b']", 1, 18, "one word cannot be both “a” and “b”"),
        ("", 1, 1, "needs a line that says what it matches"),
        ("'a'\ndrop VES\ndrop PRT", 3, 1, "drops or retypes once"),
        ("'a'\nunless optional 'b' in text", 2, 1, "met by nothing at all"),
        ("(" * 50 + "'a'" + ")" * 50, 1, 41, "more than 40 deep"),
        ("length(3 to 2)", 1, 8, "the smaller number goes first"),
        ("'a'\nunless 'b' within 0 tokens", 2, 19, "one token or more"),
    ],
)
def test_what_cannot_be_read_is_told_of_with_its_place(text: str, line: int, column: int, said: str) -> None:
    with pytest.raises(BadPattern) as fault:
        rule(text)
    assert said in fault.value.message
    assert (fault.value.detail["field"], fault.value.detail["line"]) == ("pattern", line)
    if "nothing at all" not in said:
        assert fault.value.detail["column"] == column


def test_lines_go_on_where_they_are_indented_or_in_brackets() -> None:
    one = rule("('a' or\n'b')\n  'c'  # a remark\n\n# another\nunless 'd' in text").whole
    assert one == rule("('a' or 'b') 'c'\nunless 'd' in text").whole


def test_what_a_rule_names_can_be_renamed_where_it_stands() -> None:
    text = "[list(my ports) and not found(VES)] as PRT use(a day)  # list(my ports)\nretype VES"
    assert [(one.kind, one.name) for one in mentions(text)] == [
        ("list", "my ports"),
        ("type", "VES"),
        ("type", "PRT"),
        ("fragment", "a day"),
        ("type", "VES"),
    ]
    new = renamed(
        text, {("list", "my ports"): "ports, new", ("type", "VES"): "SHP", ("fragment", "a day"): "day"}
    )
    assert new == '[list("ports, new") and not found(SHP)] as PRT use(day)  # list(my ports)\nretype SHP'
    assert [one.name for one in mentions(new)] == ["ports, new", "SHP", "PRT", "day", "SHP"]


@pytest.mark.parametrize(
    "text",
    [
        "[ 1 or more (1 or more ('a' or 'a' 'a')) ] 'b'",
        "[ 'a' any number of any 'z' ]",
        "any number of (any number of 'a') 500 'a' 'b'",
        "like(/(?:" + "|".join(f"a{{{n},200}}" for n in range(1, 25)) + ")b/)",
    ],
)
def test_a_hostile_pattern_is_stopped_by_its_steps_and_no_other_text_is_the_worse(text: str) -> None:
    long = "a " * 60_000 if "like" not in text else "a" * 20_000
    batch = batch_of(["a a b z", long])
    (finds,) = match_rules([rule(text)], batch)
    alone = match_rules([rule(text)], batch_of(["a a b z"]))[0]
    assert (finds.first.tolist(), finds.last.tolist()) == (alone.first.tolist(), alone.last.tolist())
    assert set(finds.troubles) <= {1}
    for said in finds.troubles.values():
        assert "“tried” took more than" in said


def test_what_cannot_end_is_not_tried_in_vain_from_every_word() -> None:
    (finds,) = match_rules([rule("[ 'a' any number of any 'z' ]")], batch_of(["a " * 60_000]))
    assert (finds.troubles, finds.steps < 1_000_000) == ({}, True)


def test_what_is_found_does_not_depend_on_the_texts_beside() -> None:
    bodies = ["Pellin from Harrow Ness", "", "a " * 3000, "pilot Vane"]
    one = rule("[capital] 'from' [1 to 2 capital]\n'pilot' [capital]")
    batch = batch_of(bodies)
    (together,) = match_rules([one], batch)
    alone = [match_rules([one], batch_of([body]))[0] for body in bodies]
    shifted = [int(batch.first[k]) + a for k, finds in enumerate(alone) for a in finds.first.tolist()]
    assert together.first.tolist() == shifted


def test_examples_hold_or_fail() -> None:
    bodies = ["with 400 t", "with much", "crane 2", "only 3 t"]
    results = try_examples(
        [rule("figure 't'", "QTY")], batch_of(bodies), SpanTable.empty(), [True, True, False, False]
    )
    assert [(r.text, r.holds) for r in results] == list(zip(bodies, [True, False, True, False], strict=True))
    assert [(s.type, s.source, s.maker) for s in results[0].found] == [("QTY", "rules", "tried")]


def test_no_texts_and_no_rules() -> None:
    assert match_rules([rule("'a'")], batch_of([]))[0].troubles == {}
    assert match_rules([], batch_of(["a"])) == []
    assert len(match_rules([rule("'a' list(none)")], batch_of(["", "\n"]))[0].first) == 0
