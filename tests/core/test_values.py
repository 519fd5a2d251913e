"""Values read from words: tables of hand-made cases, and what holds for all of them."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from urdaten.core.values import (
    KINDS,
    UNITS,
    Direction,
    Reading,
    Value,
    compared,
    convert,
    fault_words,
    in_unit,
    later_days,
    read_comparison,
    read_value,
    same_value,
    value_words,
    value_words_of,
)
from urdaten.errors import BadInput

CASES = Path(__file__).parent / "cases"
LEAST = {"numbers": 150, "quantities": 150, "dates": 150, "times": 70, "money": 30, "moments": 20}
KIND = {"numbers": "number", "quantities": "quantity", "dates": "date", "times": "time", "moments": "moment"}


def _rows(name: str) -> Iterator[list[str]]:
    for line in (CASES / f"{name}.tsv").read_text(encoding="utf-8").splitlines():
        if line and not line.startswith("#"):
            yield line.split("\t")


def _read(name: str, row: list[str]) -> Value:
    written, language, *middle = row[:-1]
    kind = KIND.get(name, "money")
    if name in ("quantities", "money"):
        how = Reading(words=value_words(language), unit=middle[0])
    elif name in ("dates", "moments"):
        base = date.fromisoformat(middle[0]) if middle[0] else None
        direction: Direction = (
            "past" if middle[1] == "past" else "future" if middle[1] == "future" else "near"
        )
        how = Reading(words=value_words(language), base=base, direction=direction)
    else:
        how = Reading(words=value_words(language))
    return read_value(written, kind, how)


@pytest.mark.parametrize("name", sorted(LEAST))
def test_every_case_is_read_as_the_table_says(name: str) -> None:
    rows = list(_rows(name))
    assert len(rows) >= LEAST[name]
    assert len({tuple(row[:-1]) for row in rows}) == len(rows)
    wrong = []
    for row in rows:
        value = _read(name, row)
        found = f"!{value.fault}" if value.fault else value.text
        if found != row[-1]:
            wrong.append((row, found))
    assert wrong == []


@pytest.mark.parametrize("name", sorted(LEAST))
def test_every_step_and_every_fault_has_words(name: str) -> None:
    for row in _rows(name):
        value = _read(name, row)
        value_words_of(value)
        assert not value.fault or fault_words(value.fault)


def test_a_value_in_its_open_form_is_read_as_itself() -> None:
    """What is written out can be read in again."""
    for name in ("numbers", "quantities", "dates", "times", "money", "moments"):
        for row in _rows(name):
            value = _read(name, row)
            if value.fault or any(sign in value.text for sign in "/X~?%[{–<>≤≥") or "kW.h" in value.text:
                continue
            again = read_value(
                value.text, value.kind, Reading(words=value_words("en"), base=date(2000, 1, 1))
            )
            if value.kind == "date" and len(value.text) == 7 and int(value.text[5:]) > 12:
                continue
            assert again.known, (row, value.text, again)
            if value.kind == "moment" and len(value.text) <= 5:
                continue
            assert same_value(again, value), (row, value.text, again.text)


def _said(written: str, kind: str, **more: object) -> str:
    return value_words_of(read_value(written, kind, Reading(**more)))  # type: ignore[arg-type]


def test_how_a_value_was_read_is_told() -> None:
    base = date(2026, 8, 4)
    assert _said("Wednesday", "date", base=base) == "reckoned from the text's day, 2026-08-04"
    assert _said("14 July", "date", base=base) == "the year is not said: the fitting one"
    assert _said("Friday 9 July 2026", "date") == "that day is no Friday"
    assert _said("3/4/2026", "date") == "read with the day before the month"
    assert _said("14/7/2026", "date") == ""
    assert _said("two hundred tonnes", "quantity") == "from words"
    assert _said("3 m 20", "quantity") == "parts added"
    assert _said("several", "number") == "no number is told"
    assert _said("half past eight", "time") == "morning or evening is not said; as the clock shows it"


def test_ends_and_units_are_kept_apart() -> None:
    value = read_value("40 to 50 tonnes", "quantity", Reading())
    assert (value.low, value.high, value.unit) == (Decimal(40), Decimal(50), "t")
    value = read_value("over 70 m", "quantity", Reading())
    assert (value.low, value.high) == (Decimal(70), None)
    assert read_value("about 400 t", "quantity", Reading()).about
    assert not read_value("400 t", "quantity", Reading()).about


@pytest.mark.parametrize("kind", KINDS)
def test_long_words_stay_whole(kind: str) -> None:
    written = "salt " * 60
    value = read_value(written, kind, Reading())
    assert value.text == written.strip()
    assert value.fault == ("" if kind in ("none", "name") else "too long")


def test_codes_by_pattern() -> None:
    assert read_value("ab 12-34", "code", Reading()).text == "AB1234"
    assert read_value("ab 1234", "code", Reading(pattern=r"[A-Z]{2}\d{4}")).text == "AB1234"
    assert read_value("ab-1234", "code", Reading(pattern=r"[A-Z]{2}-\d{4}")).text == "AB-1234"
    assert read_value("abc", "code", Reading(pattern=r"\d+")).fault == "not as the pattern has it"
    assert (
        read_value("a" * 40 + "!", "code", Reading(pattern=r"(A|A)*B")).fault == "not as the pattern has it"
    )
    assert read_value(" - ", "code", Reading()).fault == "no code"


@given(st.text(max_size=60), st.sampled_from(KINDS), st.sampled_from(["en", "de", "neutral"]))
@settings(max_examples=600, deadline=None)
def test_nothing_raises_whatever_is_written(written: str, kind: str, language: str) -> None:
    value = read_value(written, kind, Reading(words=value_words(language), base=date(2026, 7, 6)))
    assert value.kind == kind
    assert bool(value.text) or not written.split() or kind == "code"
    assert value.known or fault_words(value.fault)


_WORDS = st.lists(
    st.sampled_from(
        "a the of and to half past next last monday 9 july 2026 14 th noon two dozen hundred thousand t m 3.5 3,200 - – / ' : "
        "ago in week days about between from more than 24:00 31 february q3 1990 s century end month 0 99".split()
    ),
    max_size=7,
).map(" ".join)


@given(_WORDS, st.sampled_from(KINDS))
@settings(max_examples=1500, deadline=None)
def test_nothing_raises_for_words_of_values(written: str, kind: str) -> None:
    value = read_value(written, kind, Reading(base=date(2026, 12, 31)))
    assert value.known or fault_words(value.fault)
    value_words_of(value)


@given(st.integers(0, 999_999))
@settings(max_examples=300, deadline=None)
def test_numbers_in_english_words_are_read_back(number: int) -> None:
    assert read_value(_in_words(number), "number", Reading()).text == str(number)


def _in_words(number: int) -> str:
    """A slow writer of numbers, against the reader."""
    small = (
        "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen "
        "eighteen nineteen"
    ).split()
    tens = "twenty thirty forty fifty sixty seventy eighty ninety".split()
    if number < 20:
        return small[number]
    if number < 100:
        ten, one = divmod(number, 10)
        return tens[ten - 2] + (f"-{small[one]}" if one else "")
    if number < 1000:
        hundreds, rest = divmod(number, 100)
        return f"{small[hundreds]} hundred" + (f" and {_in_words(rest)}" if rest else "")
    thousands, rest = divmod(number, 1000)
    joint = " and " if 0 < rest < 100 else " "
    return f"{_in_words(thousands)} thousand" + (f"{joint}{_in_words(rest)}" if rest else "")


@given(st.dates(date(1900, 1, 1), date(2100, 12, 31)), st.integers(-3, 3))
def test_a_weekday_is_the_nearest_one(base: date, shift: int) -> None:
    day = base + timedelta(days=shift)
    assert read_value(f"{day:%A}", "date", Reading(base=base)).text == day.isoformat()


@given(st.dates(date(1900, 1, 1), date(2099, 12, 31)))
def test_days_are_read_in_every_order(day: date) -> None:
    for written in (f"{day.day} {day:%B} {day.year}", f"{day:%B} {day.day}, {day.year}", f"{day:%d.%m.%Y}"):
        assert read_value(written, "date", Reading()).text == day.isoformat()


def test_units_are_converted_there_and_back() -> None:
    for unit in UNITS.values():
        for other in UNITS.values():
            if unit.dimension == other.dimension:
                there = convert(unit.factor * 7, unit.code, other.code)
                assert convert(there, other.code, unit.code) == unit.factor * 7


def test_conversion_keeps_the_original() -> None:
    value = in_unit(read_value("2 miles", "quantity", Reading()), "km")
    assert value.text == "3.218688 km"
    assert value_words_of(
        value
    ) == "from words; converted from 2 [mi_i]" or "converted from 2 [mi_i]" in value_words_of(value)
    assert in_unit(read_value("58 C", "quantity", Reading()), "[degF]").text == "136.4 [degF]"
    assert in_unit(read_value("over 1 km", "quantity", Reading()), "m").text == "> 1000 m"
    with pytest.raises(BadInput, match="of mass and “m” of length"):
        in_unit(read_value("5 t", "quantity", Reading()), "m")
    with pytest.raises(BadInput, match=r"no unit “\{crate\}”"):
        in_unit(read_value("5 crates", "quantity", Reading()), "t")


def test_the_same_in_another_unit() -> None:
    one, other = (read_value(w, "quantity", Reading()) for w in ("1.5 t", "1,500 kg"))
    assert same_value(one, other)
    assert not same_value(one, read_value("1,500 g", "quantity", Reading()))
    assert not same_value(one, read_value("1.5 m", "quantity", Reading()))


def test_midnights_of_a_log() -> None:
    assert later_days(["20:30", "22:00", "23:35", "01:15", "03:00"]) == [0, 0, 0, 1, 1]
    assert later_days(["00:15", "03:10", "05:05"]) == [0, 0, 0]
    assert later_days(["06:00", "05:30", "07:00"]) == [0, 0, 0]
    assert later_days(["22:00", "01:00", "23:30", "02:00"]) == [0, 1, 0, 1]
    assert later_days(["23:00", "01:00", "22:00", "23:30", "00:30"]) == [0, 1, 0, 0, 1]
    assert later_days(["14:00", "06:30"]) == [0, 0]
    assert later_days([]) == []


@pytest.mark.parametrize(
    ("written", "kind", "other", "expected"),
    [
        ("two hours later", "moment", "2026-12-31T23:00", "2027-01-01T01:00"),
        ("two hours earlier", "moment", "2026-08-04T01:30", "2026-08-03T23:30"),
        ("an hour after", "time", "23:30", "00:30"),
        ("ten minutes before that", "time", "05:05", "04:55"),
        ("a week later", "date", "2026-12-28", "2027-01-04"),
        ("two days earlier", "date", "2026-03-01", "2026-02-27"),
        ("two hours later", "date", "2026-03-01", None),
        ("half that weight", "quantity", "800 t", "400 t"),
        ("a third of that", "quantity", "900 t", "300 t"),
        ("twice as much", "quantity", "1.5 t", "3 t"),
        ("three times that", "number", "7", "21"),
        ("a metre longer than the other", "quantity", "80 m", "81 m"),
        ("20 cm less", "quantity", "7.5 m", "7.3 m"),
        ("10 t more", "quantity", "500 kg", "10500 kg"),
        ("10 t more", "quantity", "80 m", None),
        ("the same weight", "quantity", "800 t", "800 t"),
        ("half that weight", "quantity", "40 to 50 t", None),
        ("half that weight", "quantity", "several", None),
        ("half that", "date", "2026-03-01", None),
    ],
)
def test_values_that_follow_from_another(written: str, kind: str, other: str, expected: str | None) -> None:
    comparison = read_comparison(written, value_words("en"))
    assert comparison is not None
    made = compared(comparison, read_value(other, kind, Reading()))
    assert (None if made is None else made.text) == expected
    assert made is None or (made.derived and made.notes[-1].what == "derived from")


@pytest.mark.parametrize(
    "written", ["800 t", "half a tonne", "half", "twice", "two hours", "later", "salt", "Monday"]
)
def test_what_does_not_refer_to_another_value(written: str) -> None:
    assert read_comparison(written, value_words("en")) is None
