"""How large a pattern becomes when it is compiled, judged by its text: a short pattern can ask for gigabytes."""

from __future__ import annotations

import regex

from urdaten.errors import BadPattern

# Groups within groups, and how many copies of a part nested repetitions may ask for.
MOST_DEPTH = 60
MOST_COPIES = 20_000
_CLASS_END = regex.compile(r"\[\^?\]?(?:[^\\\]]|\\.)*\]", regex.DOTALL)
_REPEAT = regex.compile(r"\{(\d*)(?:,(\d*))?\}")
# A pattern that calls itself or one of its groups has no size at all.
_CALL = regex.compile(r"\(\?(?:R|\d+|[+-]\d+|&|P>)")
_QUANTIFIERS = "*+?{"


def check_size(pattern: str, name: str) -> None:
    """Raises BadPattern, with the offset, for what would compile to too much or calls itself."""
    at = 0
    # By open group, the copies of what it holds so far.
    held: list[int] = [1]
    last = 1
    while at < len(pattern):
        sign = pattern[at]
        if sign == "\\":
            at, last = at + 2, 1
        elif sign == "[":
            found = _CLASS_END.match(pattern, at)
            at, last = (found.end() if found else len(pattern)), 1
        elif sign == "(":
            if _CALL.match(pattern, at):
                raise _too_much(name, at, "calls itself or one of its groups")
            held.append(1)
            if len(held) > MOST_DEPTH:
                raise _too_much(name, at, f"has groups within groups, more than {MOST_DEPTH} deep")
            at, last = at + 1, 1
        elif sign == ")" and len(held) > 1:
            last = held.pop()
            held[-1] = max(held[-1], last)
            at += 1
        elif sign in _QUANTIFIERS:
            found = _REPEAT.match(pattern, at) if sign == "{" else None
            if found:
                last *= max(1, *(int(number or 0) for number in found.groups(default="0")))
                held[-1] = max(held[-1], last)
                if last > MOST_COPIES:
                    raise _too_much(name, at, f"repeats a part more than {MOST_COPIES} times over")
            at = found.end() if found else at + 1
        else:
            at, last = at + 1, 1


def _too_much(name: str, at: int, what: str) -> BadPattern:
    return BadPattern(
        f"The pattern of “{name}” {what}, at character {at}; write it with fewer repetitions.",
        field="pattern",
        offset=at,
    )
