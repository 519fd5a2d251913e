"""Reads the text of a rule. What cannot be read is told of with its line, its column and what was expected there."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any as Anything
from typing import NoReturn, cast

from lark import Lark, Token, Transformer
from lark.exceptions import UnexpectedCharacters, UnexpectedEOF, UnexpectedToken

from urdaten.core.rules import tree
from urdaten.core.rules.faults import expected, fail, nearest
from urdaten.core.rules.habits import said_here, tag_named
from urdaten.core.text import KINDS, TAGS, fold, token_forms

# More is no rule that anybody reads.
MOST_SIGNS = 20_000
# Groups within groups.
MOST_DEPTH = 40
# A part repeated more often is written as “or more”.
MOST_TIMES = 1000
_BACKSLASH = "\\"


def read(text: str) -> tree.Tree:
    """A rule as a tree. Raises BadPattern with line, column and offset of the fault."""
    if len(text) > MOST_SIGNS:
        fail(f"a rule has {MOST_SIGNS:,} signs at most", tree.NOWHERE)
    if "\0" in text:
        fail("a rule holds no zero bytes", _at_offset(text, text.index("\0")))
    try:
        return cast("tree.Tree", _parser().parse(text + "\n"))
    except UnexpectedCharacters as fault:
        at = _at_offset(text, fault.pos_in_stream or 0)
        _unreadable(text, at, fault.allowed or ())
    except UnexpectedToken as fault:
        token = fault.token
        end = token.type == "$END" or (token.type == "_NL" and not text[token.start_pos :].strip())
        at = _at_offset(text, len(text.rstrip()) if end else token.start_pos)
        _unreadable(text, at, fault.accepts or fault.expected)
    except UnexpectedEOF as fault:
        _unreadable(text, _at_offset(text, len(text.rstrip())), fault.expected)


def _unreadable(text: str, at: tree.At, allowed: Iterable[str]) -> NoReturn:
    rest = text[at.start :]
    sign = rest[:1]
    if sign in {"'", '"'} and rest.count(sign, 1, rest.find("\n") if "\n" in rest else None) == 0:
        fail(f"this {sign} has no second {sign} on its line", at)
    word = _word(rest)
    begin = text.rfind("\n", 0, at.start) + 1
    if then := said_here(rest, text[begin : at.start]):
        fail(f"“{word or sign}” cannot stand here; {then}", at)
    fail(expected(sorted(allowed), word or sign, near=nearest(word, allowed)), at)


def _word(rest: str) -> str:
    length = next((k for k, sign in enumerate(rest) if not (sign.isalnum() or sign in "_-")), len(rest))
    return rest[:length]


def _at_offset(text: str, offset: int) -> tree.At:
    offset = min(offset, len(text))
    before = text[:offset]
    line = before.count("\n") + 1
    return tree.At(line, offset - (before.rfind("\n") + 1) + 1, offset, offset)


def _at(token: Token) -> tree.At:
    return tree.At(token.line or 1, token.column or 1, token.start_pos or 0, token.end_pos or 0)


class _Lines:
    """Drops the ends of lines that end no statement: within brackets, and before a line that is indented."""

    always_accept = ("_NL",)

    def process(self, stream: Iterator[Token]) -> Iterator[Token]:
        depth = 0
        ended = False
        for token in stream:
            if token.type in {"OPEN", "GROUP"}:
                depth += 1
                if depth > MOST_DEPTH:
                    fail(f"groups stand in groups more than {MOST_DEPTH} deep", _at(token))
            elif token.type in {"RSQB", "RPAR"}:
                depth -= 1
            ends = token.type == "_NL"
            # A line that holds nothing but a remark ends a second time what has ended.
            if ends and (ended or depth > 0 or token.rpartition("\n")[2]):
                continue
            ended = ends
            yield token


class _Made(Transformer[Token, Anything]):
    """Makes a tree of what the grammar finds; called while it is read, so that nothing nests too deep."""

    def start(self, parts: list[Anything]) -> tree.Tree:
        lines = tuple(part for part in parts if isinstance(part, tree.Line))
        conditions = tuple(part for part in parts if isinstance(part, tree.Condition))
        removals = [part for part in parts if isinstance(part, tree.Removal)]
        if len(removals) > 1:
            fail("a rule drops or retypes once; write a second rule", removals[1].at)
        if not lines:
            fail("a rule needs a line that says what it matches", tree.NOWHERE)
        return tree.Tree(lines, conditions, removals[0] if removals else None, "across" in parts)

    def pattern(self, parts: list[Anything]) -> tree.Line:
        contexts: list[list[tree.Node]] = [[]]
        marks: list[tree.Mark] = []
        for part in parts:
            if isinstance(part, tree.Mark):
                marks.append(part)
                contexts.append([])
            else:
                contexts[-1].append(part)
        if not marks:
            marks, contexts = [tree.Mark(_row(contexts[0]))], [[], []]
        return tree.Line(tuple(map(_row, contexts)), tuple(marks))

    def mark(self, parts: list[Anything]) -> tree.Mark:
        opening, row, *rest = parts
        minus = None
        if rest and rest[0].type == "MINUS":
            minus = as_test(rest[1], _at(rest[0]), "minus")
            rest = rest[2:]
        if not rest:
            return tree.Mark(row, None, minus, _at(opening))
        return tree.Mark(row, str(rest[0]), minus, _at(opening), _at(rest[0]))

    def row(self, parts: list[Anything]) -> tree.Node:
        return _row(parts)

    def repeated(self, parts: list[Anything]) -> tree.Node:
        (least, most, at), part = parts
        if most is not None and most < least:
            fail(f"{least} to {most}: the smaller number goes first", at)
        if max(least, most or 0) > MOST_TIMES:
            fail(f"a part is repeated {MOST_TIMES:,} times at most; write “or more”", at)
        if most == 0:
            fail("a part that stands no times says nothing", at)
        return tree.Repeat(part, least, most)

    def optional(self, parts: list[Anything]) -> Anything:
        return 0, 1, _at(parts[0])

    def exactly(self, parts: list[Anything]) -> Anything:
        return _number(parts[0]), _number(parts[0]), _at(parts[0])

    def between(self, parts: list[Anything]) -> Anything:
        return _number(parts[0]), _number(parts[1]), _at(parts[0])

    def up_to(self, parts: list[Anything]) -> Anything:
        return 0, _number(parts[0]), _at(parts[0])

    def at_least(self, parts: list[Anything]) -> Anything:
        return _number(parts[0]), None, _at(parts[0])

    def any_number(self, parts: list[Anything]) -> Anything:
        return 0, None, _at(parts[0])

    def all_of(self, parts: list[Anything]) -> tree.Node:
        if len(parts) == 1:
            return cast("tree.Node", parts[0])
        tests = tuple(as_test(part, place_of(part), "and") for part in parts)
        _check_one_word(tests, parts)
        return tree.Token(tree.AllOf(tests), place_of(parts[0]))

    def negation(self, parts: list[Anything]) -> tree.Node:
        sign, part = parts
        test = as_test(part, _at(sign), "not")
        # Said twice it is not said.
        return tree.Token(test.test if isinstance(test, tree.Not) else tree.Not(test), _at(sign))

    def letters(self, parts: list[Anything]) -> tree.Node:
        return _words(parts[0], exact=False)

    def exact(self, parts: list[Anything]) -> tree.Node:
        return _words(parts[0], exact=True)

    def any_word(self, parts: list[Anything]) -> tree.Node:
        return tree.Token(tree.Any(), _at(parts[0]))

    def shape(self, parts: list[Anything]) -> tree.Node:
        at = _at(parts[0])
        token = tree.Token(tree.OfShape(cast("tree.Shape", str(parts[0]))), at)
        if parts[0] != "initial":
            return token
        # Its stop is a token of its own.
        return tree.Row((token, tree.Repeat(tree.Token(tree.Letters(".", True), at), 0, 1)))

    def length(self, parts: list[Anything]) -> tree.Node:
        least, most = _number(parts[1]), _number(parts[-1])
        if most < least:
            fail(f"{least} to {most}: the smaller number goes first", _at(parts[1]))
        return tree.Token(tree.Length(least, most), _at(parts[0]))

    def like(self, parts: list[Anything]) -> tree.Node:
        at = _at(parts[0])
        return tree.Token(tree.Like(_expression(parts[1]), _at(parts[1])), at)

    def of_tag(self, parts: list[Anything]) -> tree.Node:
        for token in parts[1:]:
            if token not in TAGS:
                near = tag_named(token) or nearest(token, (), TAGS)
                then = f"did you mean {near}?" if near else f"they are {', '.join(TAGS)}"
                fail(f"there is no tag {token}; {then}", _at(token))
        return _known(tree.OfTag(tuple(map(str, parts[1:])), _at(parts[0])))

    def of_lemma(self, parts: list[Anything]) -> tree.Node:
        words = []
        for token in parts[1:]:
            forms = token_forms(_unescaped(token[1:-1]))
            if len(forms) != 1:
                fail("a lemma is one word", _at(token))
            words += forms
        return _known(tree.OfLemma(tuple(words), _at(parts[0])))

    def of_kind(self, parts: list[Anything]) -> tree.Node:
        for token in parts[1:]:
            if token not in KINDS:
                near = nearest(token, (), KINDS)
                then = f"did you mean {near}?" if near else f"they are {', '.join(sorted(KINDS))}"
                fail(f"there is no kind {token}; {then}", _at(token))
        return _known(tree.OfKind(tuple(map(str, parts[1:])), _at(parts[0])))

    def whole(self, parts: list[Anything]) -> tree.Node:
        return tree.Whole(parts[0], parts[0].at)

    def place_of(self, parts: list[Anything]) -> tree.Node:
        return tree.Token(tree.Within(parts[0], parts[1]), parts[1].at)

    def edge(self, parts: list[Anything]) -> tree.Node:
        return tree.Edge(parts[1] == "end", _at(parts[0]))

    def use(self, parts: list[Anything]) -> tree.Node:
        name, token = parts[1]
        return tree.Use(name, _at(token))

    def group(self, parts: list[Anything]) -> tree.Node:
        options = parts[1:]
        if len(options) == 1:
            return cast("tree.Node", options[0])
        if all(isinstance(option, tree.Token) for option in options):
            return tree.Token(tree.OneOf(tuple(option.test for option in options)), _at(parts[0]))
        return tree.Choice(tuple(options))

    def unknown(self, parts: list[Anything]) -> NoReturn:
        word = str(parts[0])
        if then := said_here(word, ""):
            fail(f"“{word}” cannot stand here; {then}", _at(parts[0]))
        # Words of texts stand here too: only what is much like one of ours is taken for it.
        near = nearest(word, None, alike=0.75)
        if near == word:
            fail(f"“{word}” cannot stand here", _at(parts[0]))
        then = f"did you mean {near}?" if near else f"as a word of the text it is written '{word}'"
        fail(f"“{word}” means nothing here; {then}", _at(parts[0]))

    def of_list(self, parts: list[Anything]) -> tree.Source:
        names, tokens = zip(*parts[1:], strict=True)
        return tree.OfList(names, _to(parts[0], tokens[-1]), tuple(map(_at, tokens)))

    def of_found(self, parts: list[Anything]) -> tree.Source:
        return tree.OfFound(tuple(map(str, parts[1:])), _to(parts[0], parts[-1]), tuple(map(_at, parts[1:])))

    def of_text(self, parts: list[Anything]) -> tree.Source:
        return tree.OfText(_expression(parts[1]), _at(parts[1]))

    def name(self, parts: list[Anything]) -> Anything:
        token = parts[0]
        said = _unescaped(token[1:-1]) if token.type == "EXACT" else " ".join(token.split())
        if not said.strip():
            fail("a name is missing here", _at(token))
        return said, token

    def place(self, parts: list[Anything]) -> tree.Part:
        return cast("tree.Part", str(parts[0]))

    def only_if(self, parts: list[Anything]) -> tree.Condition:
        return tree.Condition(parts[0], negated=False)

    def unless(self, parts: list[Anything]) -> tree.Condition:
        return tree.Condition(parts[0], negated=True)

    def inside(self, parts: list[Anything]) -> tree.What:
        return tree.Inside(parts[-1], len(parts) > 1)

    def repeats(self, parts: list[Anything]) -> tree.What:
        part = parts[1] if len(parts) == 4 else None
        return tree.Repeats(part, parts[-2], parts[-1])

    def stands(self, parts: list[Anything]) -> tree.What:
        return tree.Stands(parts[0], parts[1])

    def in_unit(self, parts: list[Anything]) -> tree.Window:
        side: tree.Side = "either"
        if len(parts) == 2:
            side = "before" if parts[0].type == "EARLIER" else "after"
        return tree.Window(cast("tree.Scope", str(parts[-1])), side)

    def within(self, parts: list[Anything]) -> tree.Window:
        tokens = _number(parts[1])
        if not tokens:
            fail("within one token or more", _at(parts[1]))
        side = cast("tree.Side", str(parts[2])) if len(parts) > 2 else "either"
        return tree.Window("sentence", side, tokens)

    def drop(self, parts: list[Anything]) -> tree.Removal:
        return _removal(parts, replaced=False)

    def retype(self, parts: list[Anything]) -> tree.Removal:
        return _removal(parts, replaced=True)

    def across(self, _parts: list[Anything]) -> str:
        return "across"


def as_test(node: tree.Node, at: tree.At, after: str) -> tree.Test:
    """A part that asks of one token as the test that it is; `after` names what takes nothing else. Raises BadPattern."""
    match node:
        case tree.Token(test):
            return test
        case tree.Whole(source):
            return tree.Within("part", source)
        case tree.Use(name, place):
            return tree.Used(name, place)
        case tree.Row((tree.Token(tree.OfShape("initial") as test), *_)):
            return test
        case tree.Choice(options):
            return tree.OneOf(tuple(as_test(option, at, after) for option in options))
        case _:
            return fail(f"“{after}” asks of one word; this is more than one", at)


def _check_one_word(tests: Sequence[tree.Test], parts: Sequence[tree.Node]) -> None:
    words = [
        (test, place_of(part))
        for test, part in zip(tests, parts, strict=True)
        if isinstance(test, tree.Letters)
    ]
    for test, at in words[1:]:
        first = words[0][0]
        if fold(test.form) != fold(first.form):
            fail(
                f"one word cannot be both “{first.form}” and “{test.form}”; write them one behind the other, or with or between "
                "them",
                at,
            )


def place_of(node: tree.Node) -> tree.At:
    """Where a part begins, as far as that is known."""
    match node:
        case tree.Row(parts) | tree.Choice(parts) if parts:
            return place_of(parts[0])
        case tree.Repeat(part):
            return place_of(part)
        case tree.Token() | tree.Whole() | tree.Edge() | tree.Use():
            return node.at
        case _:
            return tree.NOWHERE


def _removal(parts: list[Token], *, replaced: bool) -> tree.Removal:
    return tree.Removal(tuple(map(str, parts[1:])), replaced, _at(parts[0]), tuple(map(_at, parts[1:])))


def _known(source: tree.Known) -> tree.Node:
    return tree.Token(tree.Within("part", source), source.at)


def _row(parts: list[tree.Node]) -> tree.Node:
    return parts[0] if len(parts) == 1 else tree.Row(tuple(parts))


def _to(first: Token, last: Token) -> tree.At:
    at = _at(first)
    return tree.At(at.line, at.column, at.start, last.end_pos or at.end)


def _number(token: Token) -> int:
    if len(token) > 6:
        fail("this number is too large", _at(token))
    return int(token)


def _words(token: Token, *, exact: bool) -> tree.Node:
    forms = token_forms(_unescaped(token[1:-1]))
    if not forms:
        fail("there is no word between these quotation marks", _at(token))
    return _row([tree.Token(tree.Letters(form, exact), _at(token)) for form in forms])


def _unescaped(text: str) -> str:
    made = []
    signs = iter(text)
    for sign in signs:
        made.append(next(signs, sign) if sign == _BACKSLASH else sign)
    return "".join(made)


def _expression(token: Token) -> str:
    """A regular expression between strokes; those within are written with a backslash."""
    return str(token[1:-1]).replace("\\/", "/")


@lru_cache(maxsize=1)
def _parser() -> Lark:
    grammar = (Path(__file__).with_name("grammar.lark")).read_text(encoding="utf-8")
    return Lark(grammar, parser="lalr", transformer=_Made(), postlex=_Lines(), maybe_placeholders=False)
