"""Checked bounds: a body written so that one sees where its tokens and sentences begin and end.

Tokens have a space between them; one that follows the token before it without white space is led by `~`.
Each sentence stands on a line of its own. `⏎` at the end of a line is a line break of the body (two are an
empty line), `↩` one within a sentence, which goes on in the next line. An empty line ends the text, and a line
that begins with `#` and a space is a remark.
"""

from __future__ import annotations

from dataclasses import dataclass

from urdaten.errors import BadFile


@dataclass(frozen=True)
class CheckedText:
    """A body with its token bounds and sentence bounds, half-open, in code points."""

    body: str
    tokens: tuple[tuple[int, int], ...]
    sentences: tuple[tuple[int, int], ...]


def read_bounds(source: str) -> list[CheckedText]:
    """The checked texts of a file. Raises BadFile with the line of a text that has a token "~" or "⏎" amiss."""
    texts = []
    block: list[str] = []
    for number, line in enumerate([*source.split("\n"), ""], start=1):
        if line.startswith("# "):
            continue
        if line.strip():
            block.append(line)
        elif block:
            texts.append(_text(block, number - len(block)))
            block = []
    return texts


def _text(block: list[str], first_line: int) -> CheckedText:
    body = ""
    tokens: list[tuple[int, int]] = []
    sentences: list[tuple[int, int]] = []
    open_at: int | None = None
    joint = ""
    for number, line in enumerate(block, start=first_line):
        runs_on = False
        for piece in line.split():
            if piece == "⏎":
                joint = "\n" if joint in ("", " ") else joint + "\n"
            elif piece == "↩":
                joint, runs_on = "\n", True
            elif piece == "~" or (piece.startswith("~") and (not body or joint.startswith("\n"))):
                raise BadFile(f"Line {number}: nothing stands before or after “~”.", line=number)
            else:
                glued = piece.startswith("~")
                body += ("" if glued else joint) + piece.removeprefix("~")
                start = len(body) - len(piece.removeprefix("~"))
                tokens.append((start, len(body)))
                open_at = start if open_at is None else open_at
                joint = " "
        if not runs_on and open_at is not None:
            sentences.append((open_at, tokens[-1][1]))
            open_at = None
    return CheckedText(body, tuple(tokens), tuple(sentences))
