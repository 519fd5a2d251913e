"""What in a mail is not its writer's own: quoted words, and the signature."""

from __future__ import annotations

import re

from urdaten.readers.document import Bounds

# In lines.
LONGEST_SIGNATURE = 15
_QUOTED = re.compile(r"^\s{0,3}>")
# The line that leads into what is quoted: a moment or an address, and a colon at its end.
_LEAD = re.compile(r"^(?=.*(?:\d|@))(?:on|am|le|den|el|il|op)\b.{5,200}:\s*$", re.IGNORECASE)
_BELOW = re.compile(
    r"^\s*(?:-{2,}\s*(?:original message|forwarded message|ursprüngliche nachricht|message d'origine)\s*-{2,}|_{10,})\s*$",
    re.IGNORECASE,
)
_HEADER = re.compile(
    r"^\s*\*?(?:from|von|de|sent|gesendet|date|datum|to|an|subject|betreff)\*?\s*:", re.IGNORECASE
)
_ANSWER = re.compile(r"^\s*(?:(?:re|aw|sv|fwd?|wg|tr|antw|vs|r)\s*(?:\[\d+\])?\s*:\s*)+", re.IGNORECASE)


def marked_off(text: str) -> tuple[str, tuple[Bounds, ...]]:
    """The body of a mail, and where in it others are quoted and a signature stands."""
    body = "\n".join(line.rstrip() for line in text.split("\n")).strip("\n")
    lines = body.split("\n")
    off = [False] * len(lines)
    quoted = [bool(_QUOTED.match(line)) for line in lines]
    own_left = len(lines) - sum(quoted)
    below = False
    for number, line in enumerate(lines):
        # A rule between two parts of a mail has more below it than a signature.
        signs = line == "--" and own_left <= LONGEST_SIGNATURE
        below = below or signs or bool(_BELOW.match(line)) or _headed(lines, number)
        off[number] = below or quoted[number]
        own_left -= not quoted[number]
    for number, line in enumerate(lines[:-1]):
        if not off[number] and _LEAD.match(line):
            after = next((n for n in range(number + 1, len(lines)) if lines[n]), None)
            off[number] = after is not None and off[after]
    bounds: list[Bounds] = []
    at = 0
    for line, marked in zip(lines, off, strict=True):
        end = at + len(line)
        if marked and line:
            if bounds and not body[bounds[-1][1] : at].strip():
                bounds[-1] = (bounds[-1][0], end)
            else:
                bounds.append((at, end))
        at = end + 1
    return body, tuple(bounds)


def _headed(lines: list[str], number: int) -> bool:
    """Do the lines of a mail's head follow, as where one is quoted whole?"""
    return (
        number > 0
        and sum(bool(_HEADER.match(line)) for line in lines[number : number + 5]) >= 3
        and bool(_HEADER.match(lines[number]))
    )


def without(body: str, aside: tuple[Bounds, ...]) -> str:
    """The body without what is marked off."""
    kept, at = [], 0
    for start, end in aside:
        kept.append(body[at:start])
        at = end
    kept.append(body[at:])
    return re.sub(r"\n{3,}", "\n\n", "".join(kept)).strip()


def thread_of(subject: str) -> str:
    """The subject without what answering and forwarding put before it."""
    return _ANSWER.sub("", subject)[:200]
