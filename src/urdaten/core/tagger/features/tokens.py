"""Token features: what a token has of its own and not by its form. A thin sparse matrix, no window.

Every feature is a triple (kind, left, right) of a kind's name and up to two symbols of the lexicon, so
distinct ones are found by sorting whole numbers, and names are made for those that were learnt alone.
"""

from __future__ import annotations

import weakref
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.lexicon import PHRASE_KINDS
from urdaten.core.tagger.features.lexicon import MARK, Lexicon
from urdaten.core.tagger.kernels.scores import WINDOW
from urdaten.core.tagger.layout import Layout

Columns = tuple[Ints, Ints]
# Positions, kinds, left and right symbols; one number stands for all positions.
_Part = tuple[Ints, Ints | int, Ints | int, Ints | int]
PAIR_KINDS = ("pair before", "pair after", "outlines before", "outlines after")
TEXT_KINDS = (
    "elsewhere before",
    "elsewhere after",
    "repeated in the text",
    "small elsewhere in the text",
    "capital within a sentence elsewhere",
)
# A pair of words counts when it was met this often.
LEAST = 2


def evidence_kinds(types: Sequence[str], sources: Sequence[str]) -> list[str]:
    """Names of evidence features by source, type, part of the hit and place in the window, in order."""
    return [
        f"{source} {code} {part} {reach:+d}" if reach else f"{source} {code} {part}"
        for source in sources
        for code in types
        for part in ("begins", "inside")
        for reach in range(-WINDOW, WINDOW + 1)
    ]


@dataclass(frozen=True, order=True)
class TokenFeature:
    """Names of a learnt token feature."""

    kind: str
    left: str = ""
    right: str = ""

    def __str__(self) -> str:
        words = " ".join(part.lstrip(MARK) for part in (self.left, self.right) if part)
        return f"{self.kind}={words}" if words else self.kind


@dataclass(frozen=True, eq=False)
class FeatureColumns:
    """Learnt token features as columns: the number of each one's kind, and of the names on its left and right."""

    kind: Ints
    left: Ints
    right: Ints
    # In order, each once.
    names: Sequence[str]

    @classmethod
    def of(cls, kind: Ints, left: Sequence[str], right: Sequence[str]) -> FeatureColumns:
        names = sorted({*left, *right})
        number = {name: k for k, name in enumerate(names)}
        sides = [np.array([number[name] for name in side], dtype=np.int64) for side in (left, right)]
        return cls(kind, sides[0], sides[1], names)

    def only(self, rows: Ints) -> FeatureColumns:
        """Some of the features, in this order."""
        sides = np.stack([self.left[rows], self.right[rows]])
        used, number = np.unique(sides, return_inverse=True)
        left, right = number.reshape(sides.shape)
        return FeatureColumns(self.kind[rows], left, right, [self.names[k] for k in used.tolist()])


@dataclass(frozen=True)
class _Hits:
    """Features of tokens as triples: position, kind number, left and right symbol."""

    position: Ints
    kind: Ints
    left: Ints
    right: Ints


class TokenTable:
    """Learnt token features, numbered."""

    def __init__(
        self,
        groups: Sequence[str],
        types: Sequence[str],
        sources: Sequence[str],
        columns: FeatureColumns | None = None,
    ) -> None:
        self.groups = tuple(groups)
        self.types = tuple(types)
        self.sources = tuple(sources)
        none = np.zeros(0, dtype=np.int64)
        self.named = FeatureColumns(none, none, none, []) if columns is None else columns
        # Every kind that a feature can be of.
        self.kinds = [*PAIR_KINDS, *TEXT_KINDS, *evidence_kinds(types, sources), *PHRASE_KINDS]
        self._keys: tuple[weakref.ref[Lexicon], int, Ints, Ints] | None = None

    def __len__(self) -> int:
        return len(self.named.kind)

    @cached_property
    def features(self) -> list[TokenFeature]:
        """The names of each."""
        kind, left, right = (
            column.tolist() for column in (self.named.kind, self.named.left, self.named.right)
        )
        names = self.named.names
        return [
            TokenFeature(self.kinds[k], names[a], names[b]) for k, a, b in zip(kind, left, right, strict=True)
        ]

    def only(self, rows: Ints) -> TokenTable:
        """A table of some of the features, in this order."""
        return TokenTable(self.groups, self.types, self.sources, self.named.only(rows))

    @classmethod
    def learn(
        cls,
        groups: Sequence[str],
        types: Sequence[str],
        sources: Sequence[str],
        lexicon: Lexicon,
        layout: Layout,
    ) -> TokenTable:
        """The features of a corpus; pairs and words elsewhere only where they were met LEAST times."""
        table = cls(groups, types, sources)
        hits = _joined([*table._word_hits(lexicon, layout), *table._evidence_hits(layout)])
        keys, counts = np.unique(table._pack(hits, lexicon.symbols), return_counts=True)
        named = len(PAIR_KINDS) + 2
        size = lexicon.symbols
        kind, rest = np.divmod(keys, size * size)
        kept = (counts >= LEAST) | (kind >= named)
        left, right = np.divmod(rest[kept], size)
        sides = ([lexicon.name(symbol) for symbol in side.tolist()] for side in (left, right))
        table.named = FeatureColumns.of(kind[kept], *sides)
        return table

    def columns(self, lexicon: Lexicon, layout: Layout) -> Columns:
        """(pointer, column) by position: the numbers of the features that each token has."""
        return self.with_evidence(self.of_words(lexicon, layout), lexicon, layout)

    def of_words(self, lexicon: Lexicon, layout: Layout) -> Columns:
        """(position, column) of the features that do not depend on evidence."""
        return self._numbered(lexicon, self._word_hits(lexicon, layout))

    def with_evidence(self, of_words: Columns, lexicon: Lexicon, layout: Layout) -> Columns:
        """As columns, of which the part that words give is known."""
        seen = self._numbered(lexicon, self._evidence_hits(layout))
        position, column = (np.append(one, other) for one, other in zip(of_words, seen, strict=True))
        pointer = np.zeros(len(layout.word) + 1, dtype=np.int64)
        np.cumsum(np.bincount(position, minlength=len(layout.word)), out=pointer[1:])
        return pointer, column[np.argsort(position, kind="stable")]

    def _numbered(self, lexicon: Lexicon, parts: Sequence[_Part]) -> Columns:
        """(position, column) of the hits that are among the learnt features."""
        none = np.zeros(0, dtype=np.int64)
        if not len(self) or not parts:
            return none, none
        wanted, number = self._wanted(lexicon)
        hits = _joined(parts)
        keys = self._pack(hits, lexicon.symbols)
        at = np.minimum(np.searchsorted(wanted, keys), len(wanted) - 1)
        known = wanted[at] == keys
        return hits.position[known], number[at[known]]

    def _wanted(self, lexicon: Lexicon) -> tuple[Ints, Ints]:
        """Sorted keys of the learnt features under the lexicon's symbols, and their numbers."""
        size = lexicon.symbols
        # Read once: another thread may tag with another lexicon meanwhile.
        kept = self._keys
        if kept is not None and kept[0]() is lexicon and kept[1] == size:
            return kept[2], kept[3]
        names = self.named.names
        symbol = np.fromiter(map(lexicon.symbol, names), dtype=np.int64, count=len(names))
        left, right = symbol[self.named.left], symbol[self.named.right]
        key = (self.named.kind * size + left) * size + right
        key = np.where((left >= 0) & (right >= 0), key, -1)
        order = np.argsort(key, kind="stable")
        self._keys = (weakref.ref(lexicon), size, key[order], order)
        return key[order], order

    @staticmethod
    def _pack(hits: _Hits, size: int) -> Ints:
        return (hits.kind * size + hits.left) * size + hits.right

    def _word_hits(self, lexicon: Lexicon, layout: Layout) -> list[_Part]:
        parts: list[_Part] = []
        at = layout.position
        if "pairs" in self.groups:
            for number, symbol in ((0, lexicon.folded), (2, lexicon.outline)):
                here = symbol[layout.word]
                parts.append((at, number, here[at - 1], here[at]))
                parts.append((at, number + 1, here[at], here[at + 1]))
        if "texts" in self.groups:
            parts += _text_hits(lexicon, layout)
        general = lexicon.table.general
        if "lexicon" in self.groups and general is not None:
            at, kind = general.phrases(lexicon.vocabulary, layout.word, lexicon.is_capital)
            parts.append((at, kind + len(self.kinds) - len(PHRASE_KINDS), 0, 0))
        return parts

    def _evidence_hits(self, layout: Layout) -> list[_Part]:
        parts: list[_Part] = []
        if self.sources and len(layout.evidence_position):
            kind = layout.evidence_kind * (2 * WINDOW + 1) + self._evidence_base
            inside = np.zeros(len(layout.word), dtype=bool)
            inside[layout.position] = True
            sentence = np.cumsum(~inside)
            for reach in range(-WINDOW, WINDOW + 1):
                # A hit at p is seen by the token at p − reach as standing `reach` places after it.
                seen_by = layout.evidence_position - reach
                same = inside[seen_by] & (sentence[seen_by] == sentence[layout.evidence_position])
                parts.append((seen_by[same], kind[same] + reach + WINDOW, 0, 0))
        return parts

    @property
    def _evidence_base(self) -> int:
        return len(PAIR_KINDS) + len(TEXT_KINDS)


def _joined(parts: Sequence[_Part]) -> _Hits:
    if not parts:
        none = np.zeros(0, dtype=np.int64)
        return _Hits(none, none, none, none)
    columns = [
        [np.broadcast_to(np.asarray(part[n], dtype=np.int64), part[0].shape) for part in parts]
        for n in range(4)
    ]
    return _Hits(*(np.concatenate(column) for column in columns))


def _text_hits(lexicon: Lexicon, layout: Layout) -> list[_Part]:
    """How the same word stands elsewhere in its text."""
    base = len(PAIR_KINDS)
    folded = lexicon.folded[layout.word]
    at = layout.position[lexicon.is_word[layout.word[layout.position]]]
    if not len(at):
        return []
    capital = lexicon.is_capital[layout.word[at]]
    opens = lexicon.folded[layout.word[at - 1]] == 0
    same = layout.text[at] * lexicon.symbols + folded[at]
    order = np.argsort(same, kind="stable")
    at, capital, opens, same = at[order], capital[order], opens[order], same[order]
    new = np.append(True, same[1:] != same[:-1])
    group = np.cumsum(new) - 1
    size = np.bincount(group)
    small = np.bincount(group, weights=~capital)[group] > 0
    within = (capital & ~opens).astype(np.int64)
    others_within = np.bincount(group, weights=within)[group] - within > 0
    held = size[group] > 1
    hits: list[_Part] = []
    # Of the other places the one before, and for the first place of a word the one after.
    other = np.arange(len(at)) - 1
    other[new] += 2
    kept = np.flatnonzero(held & capital)
    there = at[np.minimum(other[kept], len(at) - 1)]
    hits.append((at[kept], base, folded[there - 1], 0))
    hits.append((at[kept], base + 1, folded[there + 1], 0))
    hits.append((at[kept], base + 2, 0, 0))
    hits.append((at[capital & small], base + 3, 0, 0))
    hits.append((at[capital & others_within], base + 4, 0, 0))
    return hits
