"""Rules of before the rule language: a regular expression held against each line of a text."""

from __future__ import annotations

import regex

_STROKE = regex.compile(r"\\.|/", regex.DOTALL)


def carried_over(pattern: str) -> str:
    """A rule that marks what this regular expression marked, or its group `mark` where it has one."""
    escaped = _STROKE.sub(lambda found: "\\/" if found[0] == "/" else found[0], pattern)
    return f"[ text(/{escaped}/) ]\nacross sentences"
