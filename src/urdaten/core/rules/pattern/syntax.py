"""How a pattern is read from its text.

Patterns are ordinary regular expressions that a machine without memory of its way can run: signs, classes,
groups, alternatives, repetition, looks ahead and behind. What would need such a memory (a group repeated as it was
matched, patterns that call themselves, groups that never give back) is refused by name.
"""

from __future__ import annotations

import sys
from typing import NoReturn

import regex

from urdaten.core.rules.pattern.tree import (
    At,
    Choice,
    Look,
    Mark,
    Node,
    Property,
    Range,
    Repeat,
    Row,
    Signs,
    size,
)
from urdaten.errors import BadPattern

# The group of this name is what is marked; without it the whole match is.
MARKED = "mark"
# Groups within groups, and the steps that a pattern may have once its repetitions are written out.
MOST_DEPTH = 60
MOST_STEPS = 20_000
_COUNT = regex.compile(r"\{(?:(\d+)(,(\d*))?|,(\d+))\}")
_BRACES = regex.compile(r"\{[^{}]*\}")
_PROPERTY = regex.compile(r"\\[pP](?:\{\^?[\w :=-]+\}|[A-Z])")
_NAME = regex.compile(r"[^\W\d]\w*")
_CALL = regex.compile(r"R|\d|[+-]\d|&|P>")
_FLAGS = regex.compile(r"([a-zA-Z\d]*)(?:-([a-zA-Z\d]+))?([:)])")
_CODE = {"x": 2, "u": 4, "U": 8}
_CONTROLS = {"n": "\n", "t": "\t", "r": "\r", "f": "\f", "v": "\v", "a": "\a", "0": "\0"}
# Lines are matched one by one: a dot, ^ and $ mean the same with these flags and without.
_WITHOUT_EFFECT = "msu"


def read(pattern: str, name: str) -> Node:
    """A pattern as a tree.

    `name` is that of the rule, for messages. Raises BadPattern, with the offset of the fault, for what cannot be
    read, is too large, or needs what patterns do not know.
    """
    return _Reader(pattern, name).whole()


def _one_sign(sign: str) -> Range:
    return Range(ord(sign), ord(sign))


class _Reader:
    def __init__(self, pattern: str, name: str) -> None:
        self._pattern = pattern
        self._name = name
        self._at = 0
        self._depth = 0
        self._fold = False
        self._spaced = False
        self._looking = False

    def whole(self) -> Node:
        node = self._choice()
        if self._at < len(self._pattern):
            self._fail("there is no ( for this )")
        return node

    def _fail(self, what: str, at: int | None = None) -> NoReturn:
        self._refuse(f"does not compile: {what}", at)

    def _refuse(self, what: str, at: int | None = None, then: str = "") -> NoReturn:
        at = self._at if at is None else at
        raise BadPattern(
            f"The pattern of “{self._name}” {what}, at character {at}{then}.", field="pattern", offset=at
        )

    def _unknown(self, what: str, at: int | None = None) -> NoReturn:
        self._fail(f"patterns do not know {what}", at)

    def _peek(self, length: int = 1) -> str:
        return self._pattern[self._at : self._at + length]

    def _took(self, text: str) -> bool:
        if not self._pattern.startswith(text, self._at):
            return False
        self._at += len(text)
        return True

    def _choice(self) -> Node:
        options = [self._row()]
        while self._took("|"):
            options.append(self._row())
        return options[0] if len(options) == 1 else Choice(tuple(options))

    def _row(self) -> Node:
        parts: list[Node] = []
        total = 0
        while (sign := self._peek()) and sign not in "|)":
            began = self._at
            if self._spaced and self._skipped_space():
                continue
            part = self._part()
            if part is None:
                continue
            part = self._repeated(part, began)
            total += size(part)
            if total > MOST_STEPS:
                self._too_often(began)
            parts.append(part)
        return parts[0] if len(parts) == 1 else Row(tuple(parts))

    def _too_often(self, at: int) -> NoReturn:
        self._refuse(
            f"repeats a part so often that it comes to more than {MOST_STEPS} steps",
            at,
            "; write it with fewer repetitions",
        )

    def _skipped_space(self) -> bool:
        if self._peek().isspace():
            self._at += 1
            return True
        if self._peek() == "#":
            end = self._pattern.find("\n", self._at)
            self._at = len(self._pattern) if end < 0 else end
            return True
        return False

    def _part(self) -> Node | None:
        sign = self._peek()
        if sign == "(":
            return self._group()
        if sign == "[":
            return self._brackets()
        if sign == "\\":
            return self._escape()
        if sign in "*+?" or _COUNT.match(self._pattern, self._at):
            self._fail("there is nothing to repeat")
        self._at += 1
        if sign == ".":
            return Signs((), negated=True)
        if sign == "^":
            return At("line start")
        if sign == "$":
            return At("line end")
        return Signs((_one_sign(sign),), fold=self._fold)

    def _repeated(self, part: Node, began: int) -> Node:
        while True:
            bounds = self._bounds()
            if bounds is None:
                return part
            least, most = bounds
            if most is not None and most < least:
                self._fail("the least number is above the most", began)
            if self._peek() == "+":
                self._unknown("a repetition that never gives back")
            repeat = Repeat(part, least, most, self._took("?"))
            if size(repeat) > MOST_STEPS:
                self._too_often(began)
            part = repeat

    def _bounds(self) -> tuple[int, int | None] | None:
        while self._spaced and self._skipped_space():
            pass
        sign = self._peek()
        if sign in {"*", "+", "?"}:
            self._at += 1
            return int(sign == "+"), 1 if sign == "?" else None
        if sign != "{":
            return None
        found = _COUNT.match(self._pattern, self._at)
        if found:
            self._at = found.end()
            least, comma, most, up_to = found.groups()
            if up_to is not None:
                return 0, int(up_to)
            return int(least), (int(most) if most else None) if comma else int(least)
        if _BRACES.match(self._pattern, self._at):
            self._fail("this is no count; a brace that stands for itself is written \\{")
        return None

    def _group(self) -> Node | None:
        began = self._at
        self._at += 1
        if not self._took("?"):
            return self._inside(began)
        if _CALL.match(self._pattern, self._at):
            self._refuse("calls itself or one of its groups", began, "; write out what it should find")
        if self._took("#"):
            end = self._pattern.find(")", self._at)
            if end < 0:
                self._fail("the comment has no end", began)
            self._at = end + 1
            return None
        if self._took(":"):
            return self._inside(began)
        for words, behind, negated in (("=", 0, 0), ("!", 0, 1), ("<=", 1, 0), ("<!", 1, 1)):
            if self._took(words):
                return self._look(began, bool(behind), bool(negated))
        if self._took("P<") or self._took("<"):
            return self._named(began)
        found = _FLAGS.match(self._pattern, self._at)
        if not found or not (found[1] or found[2]):
            self._unknown("this kind of group", began)
        return self._flagged(began, found)

    def _look(self, began: int, behind: bool, negated: bool) -> Node:
        outer, self._looking = self._looking, True
        part = self._inside(began)
        self._looking = outer
        return Look(part, behind, negated)

    def _named(self, began: int) -> Node:
        found = _NAME.match(self._pattern, self._at)
        if not found or not self._pattern.startswith(">", found.end()):
            self._fail("a group’s name is a word, and > ends it")
        self._at = found.end() + 1
        part = self._inside(began)
        if found[0] != MARKED:
            return part
        if self._looking:
            self._fail(f"what is only looked at cannot be marked; take “{MARKED}” out of the look", began)
        return Mark(part)

    def _flagged(self, began: int, found: regex.Match[str]) -> Node | None:
        on, off, end = found[1] or "", found[2] or "", found[3]
        for flag in on + off:
            if flag not in "ix" + _WITHOUT_EFFECT:
                self._unknown(f"the flag “{flag}”", began)
        if set(on) & set(off):
            self._fail("a flag is set and taken away at once", began)
        self._at = found.end()
        before = self._fold, self._spaced
        self._fold = ("i" in on or self._fold) and "i" not in off
        self._spaced = ("x" in on or self._spaced) and "x" not in off
        if end == ")":
            return None  # until the group around it ends
        node = self._inside(began)
        self._fold, self._spaced = before
        return node

    def _inside(self, began: int) -> Node:
        self._depth += 1
        if self._depth > MOST_DEPTH:
            self._refuse(f"has groups within groups, more than {MOST_DEPTH} deep", began)
        before = self._fold, self._spaced
        node = self._choice()
        self._fold, self._spaced = before
        if not self._took(")"):
            self._fail("there is no ) for this (", began)
        self._depth -= 1
        return node

    def _escape(self) -> Node:
        sign = self._pattern[self._at + 1 : self._at + 2]
        if sign in {"b", "B"}:
            self._at += 2
            return At("word bound", negated=sign == "B")
        if sign in {"A", "Z"}:
            self._at += 2
            return At("line start" if sign == "A" else "line end")
        item = self._escaped()
        return Signs((item,), fold=self._fold)

    def _escaped(self) -> Range | Property:
        """What a backslash and what follows it stand for, within brackets or without."""
        began = self._at
        sign = self._pattern[began + 1 : began + 2]
        if not sign:
            self._fail("a backslash at the end stands for nothing")
        self._at += 2
        if sign in "dwsDWS":
            return Property(f"\\{sign.lower()}", negated=sign.isupper())
        if sign in "pP":
            return self._property(began)
        if sign in _CODE:
            digits = self._peek(_CODE[sign])
            if len(digits) < _CODE[sign] or not regex.fullmatch(r"[0-9a-fA-F]+", digits):
                self._fail(f"\\{sign} asks for {_CODE[sign]} hexadecimal figures", began)
            if int(digits, 16) > sys.maxunicode:
                self._fail("there is no such code point", began)
            self._at += len(digits)
            return _one_sign(chr(int(digits, 16)))
        if sign in _CONTROLS:
            return _one_sign(_CONTROLS[sign])
        if sign in "123456789":
            self._unknown("a group repeated as it was matched", began)
        if sign.isascii() and sign.isalpha():
            self._unknown(f"\\{sign}", began)
        return _one_sign(sign)

    def _property(self, began: int) -> Property:
        found = _PROPERTY.match(self._pattern, began)
        if not found:
            self._fail("a property is written \\p{Lu}", began)
        try:
            regex.compile(found[0])
        except regex.error:
            self._fail(f"there is no property {found[0]}", began)
        self._at = found.end()
        return Property(found[0].replace("\\P", "\\p", 1), negated=found[0].startswith("\\P"))

    def _brackets(self) -> Node:
        began = self._at
        self._at += 1
        negated = self._took("^")
        items: list[Range | Property] = []
        while True:
            sign = self._peek()
            if not sign:
                self._fail("there is no ] for this [", began)
            if sign == "]" and items:
                self._at += 1
                return Signs(tuple(items), negated, self._fold)
            items.append(self._item(began))

    def _item(self, began: int) -> Range | Property:
        at = self._at
        if self._peek() == "[" or self._peek(2) in {"&&", "--", "||", "~~"}:
            self._unknown("a class made of classes (write \\[, \\&, \\-, \\| or \\~ for the sign itself)")
        low = self._one()
        if self._peek() != "-" or self._peek(2) in {"-]", "--"}:
            return low
        self._at += 1
        if not self._peek():
            self._fail("there is no ] for this [", began)
        high = self._one()
        if not isinstance(low, Range) or not isinstance(high, Range):
            self._fail("a range goes from sign to sign", at)
        if high.high < low.low:
            self._fail("the range runs backwards", at)
        return Range(low.low, high.high)

    def _one(self) -> Range | Property:
        if self._peek() == "\\":
            if self._pattern[self._at + 1 : self._at + 2] == "b":
                self._at += 2
                return _one_sign("\b")
            return self._escaped()
        sign = self._peek()
        self._at += 1
        return _one_sign(sign)
