"""Lists (gazetteers): entries compiled to a token automaton, matched over word numbers."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from urdaten.core.spans.span import Span, without_overlaps
from urdaten.core.text import Analysis, token_forms


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One name of a list with the other ways it is written."""

    preferred: str
    variants: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class NameList:
    """A list as the matcher needs it: its name, the type its names have, and its entries."""

    name: str
    type: str
    entries: tuple[Entry, ...]


@dataclass(frozen=True)
class _Leaf:
    list_name: str
    type: str
    preferred: str
    written: str


def fold(form: str) -> str:
    """The form under which names are compared: case and typographic apostrophes do not count."""
    return form.casefold().replace("’", "'")


def has_capital(form: str) -> bool:
    return form[:1].isupper() or form[:1].isdigit()


class Gazetteer:
    """Compiled lists.

    Names are compared token by token, without regard to case. A name that is written with a capital
    in the list is not found in a text in small letters ("Amber" the pilot is not "amber"), so that
    ordinary words stay out; a name written small in the list is found in either case.
    """

    def __init__(self, lists: Iterable[NameList]) -> None:
        self._next: list[dict[str, int]] = [{}]
        self._leaves: list[list[_Leaf]] = [[]]
        for names in lists:
            for entry in names.entries:
                for written in (entry.preferred, *entry.variants):
                    self._add(written, _Leaf(names.name, names.type, entry.preferred, written))

    def _add(self, written: str, leaf: _Leaf) -> None:
        forms = token_forms(written)
        if not forms:
            return
        state = 0
        for form in forms:
            key = fold(form)
            follow = self._next[state].get(key)
            if follow is None:
                follow = len(self._next)
                self._next[state][key] = follow
                self._next.append({})
                self._leaves.append([])
            state = follow
        if leaf not in self._leaves[state]:
            self._leaves[state].append(leaf)

    def match(self, analysis: Analysis) -> list[Span]:
        """All list spans of a text: the longest at each place within each type, never across sentences."""
        opening = self._next[0]
        if not opening or not len(analysis):
            return []
        folded = [fold(form) for form in analysis.vocabulary.forms]
        may_begin = np.fromiter((form in opening for form in folded), dtype=bool, count=len(folded))
        found: dict[str, list[Span]] = {}
        words, sentences = analysis.word, analysis.sentence
        for first in np.flatnonzero(may_begin[words]):
            state, i = 0, int(first)
            while i < len(words) and sentences[i] == sentences[first]:
                follow = self._next[state].get(folded[words[i]])
                if follow is None:
                    break
                state, i = follow, i + 1
                start, end = int(analysis.start[first]), int(analysis.end[i - 1])
                surface = analysis.body[start:end]
                for leaf in self._leaves[state]:
                    if has_capital(leaf.written) and not has_capital(surface):
                        continue
                    why = f"list {leaf.list_name}, entry “{leaf.preferred}”"
                    if fold(leaf.written) != fold(leaf.preferred):
                        why += f", variant “{leaf.written}”"
                    found.setdefault(leaf.type, []).append(
                        Span(start, end, leaf.type, "lists", None, why, leaf.list_name)
                    )
        return sorted(span for spans in found.values() for span in without_overlaps(spans))

    def preferred(self, surface: str, type_code: str) -> str | None:
        """The preferred name of the entry that is written like this, if there is just one."""
        state = 0
        for form in token_forms(surface):
            follow = self._next[state].get(fold(form))
            if follow is None:
                return None
            state = follow
        names = {leaf.preferred for leaf in self._leaves[state] if leaf.type == type_code}
        return names.pop() if len(names) == 1 else None
