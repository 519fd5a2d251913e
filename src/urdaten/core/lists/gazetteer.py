"""Lists (gazetteers): entries compiled to a token automaton, matched over word numbers."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from urdaten.core.lists.automaton import Automaton
from urdaten.core.lists.entries import EntryReason, NameList
from urdaten.core.lists.kernels import apart
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Analysis, Batch, FormColumn, cut_texts

SOURCE = "lists"


def has_capital(form: str) -> bool:
    """Does it begin with a capital or a figure?"""
    return form[:1].isupper() or form[:1].isdigit()


def _capitals(forms: Sequence[str]) -> NDArray[np.bool_]:
    return np.fromiter(map(has_capital, forms), dtype=bool, count=len(forms))


# Of each form: does it begin with a capital or a figure?
_CAPITAL = FormColumn(_capitals)


class Gazetteer:
    """Compiled lists.

    Names are compared token by token, by their folded forms. A name that is written with a capital
    in the list is not found in a text in small letters ("Amber" the pilot is not "amber"), so that
    ordinary words stay out; a name written small in the list is found in either case.
    """

    def __init__(self, lists: Iterable[NameList]) -> None:
        lists = tuple(lists)
        self.makers = tuple(dict.fromkeys(names.name for names in lists))
        self.types = tuple(dict.fromkeys(names.type for names in lists))
        # Every way to write an entry is a reason to find it; one that a list has twice is one.
        told = {
            EntryReason(names.name, entry.preferred, written): names.type
            for names in lists
            for entry in names.entries
            for written in (entry.preferred, *entry.variants)
        }
        self.reasons = tuple(told)
        cut = cut_texts([reason.written for reason in self.reasons])
        self._automaton = Automaton.of(cut)
        maker = {name: k for k, name in enumerate(self.makers)}
        kind = {code: k for k, code in enumerate(self.types)}
        self._maker = np.array([maker[reason.list] for reason in self.reasons], dtype=np.int32)
        self._kind = np.array([kind[code] for code in told.values()], dtype=np.int32)
        # Of each reason: does it begin with a capital or a figure? One without any token is never asked.
        capital = np.append(_capitals(cut.forms)[cut.form], False) if cut.forms else np.zeros(1, dtype=bool)
        self._capital = capital[cut.first[:-1]]

    @property
    def content(self) -> list[tuple[str, EntryReason]]:
        """What it is made of: each way to write an entry, with its type."""
        return [(self.types[k], reason) for k, reason in zip(self._kind.tolist(), self.reasons, strict=True)]

    def table(self, batch: Batch) -> SpanTable:
        """All list spans of the texts: the longest at each place within each type, never across sentences."""
        hits = self._automaton.hits(batch)
        leaves = self._automaton.leaves
        count = leaves[hits.state + 1] - leaves[hits.state]
        hit = np.repeat(np.arange(len(count)), count)
        before = np.cumsum(count) - count
        reason = self._automaton.name[np.arange(len(hit)) + (leaves[hits.state] - before)[hit]]
        first, last = hits.first[hit], hits.last[hit]
        capital = batch.vocabulary.column(_CAPITAL)[batch.word[first]]
        held = capital | ~self._capital[reason]
        return self._longest(batch, first[held], last[held], reason[held])

    def _longest(
        self, batch: Batch, first: NDArray[np.int32], last: NDArray[np.int32], reason: NDArray[np.int32]
    ) -> SpanTable:
        kind = self._kind[reason]
        length = batch.end[last - 1] - batch.start[first]
        order = np.lexsort((first, -length, kind)).astype(np.int32)
        kept = np.zeros(len(order), dtype=np.uint8)
        apart(order, kind, first, last, np.zeros(len(batch.word), dtype=np.uint8), kept)
        rows = np.flatnonzero(kept)
        return SpanTable.of_tokens(
            batch,
            first[rows],
            last[rows],
            kind[rows],
            self.types,
            source=SOURCE,
            maker=self._maker[reason[rows]],
            makers=self.makers,
            reason=reason[rows],
            reasons=self.reasons,
        ).in_order()

    def match(self, analysis: Analysis) -> list[Span]:
        """As `table`, of one text."""
        return self.table(Batch.joined([analysis])).spans(1)[0]

    def preferred(self, surface: str, type_code: str) -> str | None:
        """The preferred name of the entry that is written like this, if there is just one."""
        found = self._automaton.names_of(surface)
        names = {self.reasons[k].preferred for k in found if self.types[self._kind[k]] == type_code}
        return names.pop() if len(names) == 1 else None
