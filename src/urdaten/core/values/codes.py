"""Codes: container numbers, call signs, file numbers; told by a pattern."""

from __future__ import annotations

import regex

from urdaten.core.values.value import Note, Value, unread
from urdaten.errors import BadInput

_SPACES = regex.compile(r"[\s./_-]+")
LONGEST_PATTERN = 200
# A pattern that takes longer than this, in seconds, is no pattern of a code.
_LIMIT_S = 0.2


def check_pattern(pattern: str) -> None:
    """Raises BadInput for what is no regular expression, or too long for one of a code."""
    if len(pattern) > LONGEST_PATTERN:
        raise BadInput(f"A code's pattern has at most {LONGEST_PATTERN} signs.", field="pattern")
    try:
        regex.compile(pattern)
    except regex.error as fault:
        raise BadInput(f"The pattern “{pattern}” cannot be read: {fault}.", field="pattern") from fault


def read_code(written: str, pattern: str = "") -> Value:
    """A value of kind "code": capitals, and no spaces, stops or strokes unless the pattern has them."""
    whole = " ".join(written.split()).upper()
    bare = _SPACES.sub("", whole)
    if not bare:
        return unread("code", written, "no code")
    if pattern:
        for one in dict.fromkeys((whole, bare)):
            try:
                if regex.fullmatch(pattern, one, timeout=_LIMIT_S):
                    return Value(kind="code", text=one, notes=(Note("fits the pattern", (pattern,)),))
            except TimeoutError:
                break
        return unread("code", written, "not as the pattern has it")
    return Value(kind="code", text=bare)
