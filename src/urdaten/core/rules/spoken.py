"""A rule read aloud."""

from __future__ import annotations

from collections.abc import Sequence

from urdaten.core.rules import tree
from urdaten.core.rules.reading import read
from urdaten.core.text import PARTS

# Of more words than these only the first are said.
_MOST_WORDS = 6
# A word of a shape, several, and what is said of a word that has it.
_SHAPES: dict[tree.Shape, tuple[str, str, str]] = {
    "capital": ("a word with a capital", "words with a capital", "has a capital"),
    "capitals": ("a word in capitals", "words in capitals", "is in capitals"),
    "small": ("a word in small letters", "words in small letters", "is in small letters"),
    "initial": ("an initial", "initials", "is an initial"),
    "figure": ("a figure", "figures", "is a figure"),
    "code": (
        "a code of figures and letters",
        "codes of figures and letters",
        "is a code of figures and letters",
    ),
    "letters": ("a word of letters", "words of letters", "is of letters"),
    "sign": ("a sign", "signs", "is a sign"),
}


def aloud(text: str, type: str) -> list[str]:
    """What a rule says, a sentence for each of its lines and conditions. Raises BadPattern."""
    whole = read(text)
    said = [_line(line, type, whole.removal) for line in whole.lines]
    said += [_condition(one) for one in whole.conditions]
    if whole.removal is not None:
        said.append(_removal(whole.removal, type))
    if whole.across:
        said.append("A match may run over the end of a sentence.")
    return said


def conditions_aloud(text: str) -> list[str]:
    """What the conditions of a rule ask. Raises BadPattern."""
    return [_condition(one) for one in read(text).conditions]


def said_of(leaf: tree.Token | tree.Whole | tree.Edge) -> str:
    """One part of a pattern in words: “a word with a capital”."""
    return _node(leaf)


def _line(line: tree.Line, own: str, removal: tree.Removal | None) -> str:
    act = "finds" if removal is not None and not removal.replaced else "marks"
    said = [f"after {_node(line.contexts[0])}," if _is_something(line.contexts[0]) else ""]
    for k, mark in enumerate(line.marks):
        minus = f" without each word that {_clause(mark.minus)}" if mark.minus is not None else ""
        kind = f" as {mark.type or own}" if act == "marks" else ""
        said.append(f"{'it ' + act if k == 0 else 'and'} {_node(mark.part)}{minus}{kind}")
        between = line.contexts[k + 1]
        if _is_something(between):
            last = k + 1 == len(line.marks)
            said[-1] += f", before {_node(between)}" if last else f", then after {_node(between)}"
    words = " ".join(part for part in said if part)
    return f"{words[:1].upper()}{words[1:]}."


def _is_something(node: tree.Node) -> bool:
    return not (isinstance(node, tree.Row) and not node.parts)


def _node(node: tree.Node) -> str:
    match node:
        case tree.Token(test):
            return _test(test)
        case tree.Whole(source):
            return _source(source)
        case tree.Edge(end):
            return f"the {'end' if end else 'beginning'} of the sentence"
        case tree.Use(name):
            return f"the fragment “{name}”"
        case tree.Row((tree.Token(tree.OfShape("initial")), *_)):
            return "an initial"
        case tree.Row(parts):
            return ", then ".join(map(_node, _phrases(parts)))
        case tree.Choice(options):
            return "either " + _listed([_node(option) for option in options])
        case tree.Repeat(part, least, most):
            return _repeat(part, least, most)


def _phrases(parts: Sequence[tree.Node]) -> list[tree.Node]:
    """Words that stand one behind the other as one."""
    made: list[tree.Node] = []
    for part in parts:
        match made[-1:], part:
            case [tree.Token(tree.Letters(before, exact))], tree.Token(tree.Letters(form, also)) if (
                exact == also
            ):
                made[-1] = tree.Token(tree.Letters(f"{before} {form}", exact))
            case _:
                made.append(part)
    return made


def _repeat(part: tree.Node, least: int, most: int | None) -> str:
    if (least, most) == (0, 1):
        return f"perhaps {_node(part)}"
    count = str(least)
    if most is None:
        count = f"{least} or more" if least else "any number of"
    elif most != least:
        count = f"{least} to {most}" if least else f"up to {most}"
    if isinstance(part, tree.Token):
        return f"{count} {_tests(part.test)}"
    return (
        f"{count} times ({_node(part)})"
        if most is not None or least
        else f"any number of times ({_node(part)})"
    )


def _test(test: tree.Test) -> str:
    match test:
        case tree.Letters():
            return _letters(test)
        case tree.OfShape(shape):
            return _SHAPES[shape][0]
        case tree.Any():
            return "any word"
        case tree.OneOf(tests) if words := _words(tests):
            return words
        case tree.Within(_, tree.OfTag() | tree.OfLemma() | tree.OfKind() as source):
            return _source(source)
        case tree.Within("first" | "last" as part, source):
            return f"the {part} word of {_source(source)}"
        case tree.Used(name):
            return f"the fragment “{name}”"
        case _:
            return f"a word that {_clause(test)}"


def _tests(test: tree.Test) -> str:
    """Of several words."""
    match test:
        case tree.OfShape(shape):
            return _SHAPES[shape][1]
        case tree.Any():
            return "words of any kind"
        case _:
            return f"words, each of which {_clause(test)}"


def _letters(test: tree.Letters) -> str:
    return f"“{test.form}”" + (" written just so" if test.exact else "")


def _words(tests: Sequence[tree.Test]) -> str:
    """Words of which it is one; "" where something else is asked."""
    words = [one for one in tests if isinstance(one, tree.Letters)]
    if len(words) < len(tests):
        return ""
    if all(one.exact for one in words):
        return f"{_listed([f'“{one.form}”' for one in words])} written just so"
    return _listed([_letters(one) for one in words])


def _clause(test: tree.Test) -> str:
    match test:
        case tree.Letters():
            return f"is {_letters(test)}"
        case tree.OfShape(shape):
            return _SHAPES[shape][2]
        case tree.Length(least, most):
            letters = f"{least}" if least == most else f"{least} to {most}"
            return f"has {letters} letters"
        case tree.Like(pattern):
            return f"/{pattern}/ matches"
        case tree.Within(_, tree.OfTag() | tree.OfLemma() | tree.OfKind() as source):
            return f"is {_source(source)}"
        case tree.Within("part", source):
            return f"is part of {_source(source)}"
        case tree.Within(part, source):
            return f"is the {part} word of {_source(source)}"
        case tree.Any():
            return "is any word"
        case tree.Used(name):
            return f"is of the fragment “{name}”"
        case tree.Not(inner):
            return _denied(inner)
        case tree.AllOf(tests):
            said = [_clause(one) for one in tests if not isinstance(one, tree.Any)]
            # What holds together what is one or the other is heard by the comma.
            between = ", and " if any(one.startswith("either ") for one in said) else " and "
            return between.join(said) or "is any word"
        case tree.OneOf(tests) if words := _words(tests):
            return f"is {words}"
        case tree.OneOf(tests):
            return "either " + " or ".join(_clause(one) for one in tests)


def _denied(test: tree.Test) -> str:
    match test:
        case tree.OneOf(tests) if not _words(tests):
            return " and ".join(map(_denied, tests))
        case tree.AllOf(tests) if len(tests) > 1:
            return "either " + " or ".join(map(_denied, tests))
        case tree.Not(inner):
            return _clause(inner)
        case tree.Like(pattern):
            return f"/{pattern}/ does not match"
        case _:
            pass
    said = _clause(test)
    if said == _SHAPES["capital"][2]:
        return "has no capital"
    for verb, denied in (("is ", "is not "), ("has ", "has not ")):
        if said.startswith(verb):
            return denied + said.removeprefix(verb)
    return f"is not such that it {said}"


def _source(source: tree.Source) -> str:
    match source:
        case tree.OfList(names):
            return f"a name of the {'list' if len(names) == 1 else 'lists'} {_listed(names, most=len(names))}"
        case tree.OfFound(types):
            return f"a span of {_listed(types, most=len(types))}"
        case tree.OfText(pattern):
            return f"what /{pattern}/ matches"
        case tree.OfTag(tags):
            return _listed([_named(tag) for tag in tags], most=len(tags))
        case tree.OfLemma(words):
            return f"any form of {_listed([f'“{word}”' for word in words])}"
        case tree.OfKind(kinds):
            return f"a word for {_listed([_with_article(kind) for kind in kinds], most=len(kinds))}"


def _named(tag: str) -> str:
    """What a tag stands for, with its article."""
    return "punctuation" if tag == "PUNCT" else _with_article(PARTS[tag].partition(":")[0])


def _with_article(words: str) -> str:
    return words if words.startswith("none ") else f"{'an' if words[0] in 'aeio' else 'a'} {words}"


def _listed(parts: Sequence[str], most: int = _MOST_WORDS) -> str:
    if len(parts) > most + 1:
        return f"{', '.join(parts[:most])} or one of {len(parts) - most} more"
    return f"{', '.join(parts[:-1])} or {parts[-1]}" if len(parts) > 1 else parts[0]


def _condition(condition: tree.Condition) -> str:
    begins = "Not where" if condition.negated else "Only where"
    match condition.what:
        case tree.Inside(source, longer):
            return f"{begins} it lies within {_source(source)}{', and is not the whole of it' if longer else ''}."
        case tree.Repeats(part, source, where):
            whole = {
                None: "",
                "first": "the first word of ",
                "last": "the last word of ",
                "part": "a word of ",
            }[part]
            return f"{begins} it is the same as {whole}{_source(source)} {_where(where)}."
        case tree.Stands(part, where):
            return f"{begins} {_node(part)} stands {_where(where)}."


def _where(where: tree.Window) -> str:
    if where.tokens is not None:
        side = {"before": " before it", "after": " behind it", "either": " of it"}[where.side]
        return f"within {where.tokens} {'word' if where.tokens == 1 else 'words'}{side}"
    side = {"before": "earlier in", "after": "later in", "either": "elsewhere in"}[where.side]
    return f"{side} the {where.scope}"


def _removal(removal: tree.Removal, own: str) -> str:
    which = (
        f"spans of {_listed(removal.types, most=len(removal.types))}"
        if removal.types
        else "spans of any type"
    )
    then = f"become {own}" if removal.replaced else "go"
    return f"Earlier {which} with just these words {then}."
