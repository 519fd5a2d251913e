"""The general lexicon as the tagger asks it: of single words by form, of phrases by an automaton."""

from __future__ import annotations

import hashlib
import io
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.lexicon.reading import KINDS, Noun
from urdaten.core.lists import Automaton
from urdaten.core.text import FormColumn, Vocabulary, cut_texts, fold
from urdaten.errors import BadFile

LONGEST = 5
_BETWEEN = "\0"
_PLURALS = (("ies", "y"), ("es", ""), ("s", ""))
_KIND_NAMES = tuple(KINDS.values())
_BIT = {kind: 1 << place for place, kind in enumerate(KINDS)}
# Masks of kinds have 32 bits; those of names stand above those of kinds.
_KINDS_AT = 32
COMMON = 2**_KINDS_AT - 1
_ARRAYS = ("root", "begin", "symbol", "follow", "leaves", "name")
# What a phrase says of each of its tokens: kinds it is a kind of, kinds it is a name of; whether it begins there.
PHRASE_KINDS = tuple(
    f"lexicon {sort}{kind}, {part}"
    for sort in ("", "name of ")
    for kind in _KIND_NAMES
    for part in ("begins", "inside")
)


@dataclass(frozen=True, eq=False)
class _Meanings:
    """What entries are: bits by place in KINDS; common for kinds of things, named for single things."""

    common: NDArray[np.uint32]
    named: NDArray[np.uint32]


class GeneralLexicon:
    """Words and phrases of up to LONGEST tokens with the kinds of things that they stand for."""

    def __init__(
        self, words: Vocabulary, of_words: _Meanings, phrases: Automaton[Vocabulary], of_phrases: _Meanings
    ) -> None:
        self._words, self._of_words = words, of_words
        self._phrases, self._of_phrases = phrases, of_phrases
        self._told: dict[int, tuple[str, ...]] = {}

    @classmethod
    def of(cls, nouns: Iterable[Noun]) -> GeneralLexicon:
        """Compiled from what `read_nouns` gives."""
        masks: dict[str, list[int]] = {}
        for noun in nouns:
            masks.setdefault(noun.words, [0, 0])[noun.is_name] |= _BIT[noun.kind]
        cut = cut_texts(list(masks))
        folded = [fold(form) for form in cut.forms]
        lengths = np.diff(cut.first)
        singles: dict[str, list[int]] = {}
        phrases: dict[str, list[int]] = {}
        for (written, own), first, length in zip(
            masks.items(), cut.first[:-1].tolist(), lengths.tolist(), strict=True
        ):
            if length == 1:
                known, key = singles, folded[cut.form[first]]
            elif 1 < length <= LONGEST:
                known, key = phrases, written
            else:
                continue
            held = known.setdefault(key, [0, 0])
            held[0] |= own[0]
            held[1] |= own[1]
        return cls(
            Vocabulary(singles),
            _meanings(singles),
            Automaton.of(cut_texts(list(phrases)), Vocabulary),
            _meanings(phrases),
        )

    def attributes(self, form: str) -> tuple[str, ...]:
        """Names of what is told of a form: the kinds that it is of, those it names if it is written with a capital, and
        whether it stands for several."""
        meant = self._meant(fold(form))
        return self.told(meant if form[:1].isupper() else meant & COMMON)

    def told(self, meant: int) -> tuple[str, ...]:
        """Names of what some bits of `meanings` say."""
        if meant not in self._told:
            self._told[meant] = _told(meant & COMMON, meant >> _KINDS_AT)
        return self._told[meant]

    @cached_property
    def meanings(self) -> FormColumn:
        """Over folded forms: what each is a kind of, in the bits of COMMON, and above them what it names; int64."""
        return FormColumn(
            lambda folded: np.fromiter(map(self._meant, folded), dtype=np.int64, count=len(folded))
        )

    def _meant(self, folded: str) -> int:
        at = self._words.get(folded)
        if at < 0:
            return self._of_singular(folded)
        return int(self._of_words.common[at]) | int(self._of_words.named[at]) << _KINDS_AT

    def _of_singular(self, folded: str) -> int:
        for ending, instead in _PLURALS:
            if folded.endswith(ending) and len(folded) > len(ending) + 2:
                at = self._words.get(folded[: -len(ending)] + instead)
                if at >= 0:
                    return int(self._of_words.common[at])
        return 0

    def phrases(self, vocabulary: Vocabulary, word: Ints, is_capital: NDArray[np.bool_]) -> tuple[Ints, Ints]:
        """Where phrases stand in a row of words and what they tell there: positions, and numbers of PHRASE_KINDS.

        word (P,): number of a form and one, 0 where no phrase may run over; is_capital by these numbers. The longest
        phrase at each place counts, the earlier one of two that overlap; names only where they begin with a capital.
        """
        folds, folded = vocabulary.image(fold)
        symbol = np.append(np.int32(-1), folds.column(self._phrases.column)[folded])[word].astype(np.int32)
        hits = self._phrases.walk(symbol, np.zeros(len(symbol), dtype=np.int32))
        rows = self._phrases.longest(hits, len(symbol))
        first, last, state = hits.first[rows], hits.last[rows], hits.state[rows]
        # Writings of one phrase end in one state, and are told of together.
        bits = self._bits_of_states[state]
        bits[~is_capital[word[first]], len(_KIND_NAMES) :] = False
        hit, kind = np.nonzero(bits)
        length = (last - first).astype(np.int64)[hit]
        total = int(length.sum())
        inside = np.arange(total) - np.repeat(np.cumsum(length) - length, length)
        return np.repeat(first[hit], length) + inside, 2 * np.repeat(kind, length) + (inside > 0)

    @cached_property
    def _bits_of_states(self) -> NDArray[np.bool_]:
        """Of each state of the phrases: kinds it is of, then kinds it names; shape (n_states, 2 · n_kinds)."""
        leaves = self._phrases.leaves
        state = np.repeat(np.arange(len(leaves) - 1), np.diff(leaves))
        bits = np.zeros((len(leaves) - 1, 2 * len(_KIND_NAMES)), dtype=bool)
        for half, masks in enumerate((self._of_phrases.common, self._of_phrases.named)):
            for place in range(len(_KIND_NAMES)):
                has = (masks[self._phrases.name] >> np.uint32(place)) & np.uint32(1) > 0
                bits[state[has], half * len(_KIND_NAMES) + place] = True
        return bits

    @cached_property
    def digest(self) -> str:
        """Of what it tells."""
        told = hashlib.sha256(_BETWEEN.join(self._words.forms).encode())
        for array in self._arrays().values():
            told.update(np.ascontiguousarray(array).tobytes())
        return told.hexdigest()

    def _arrays(self) -> dict[str, NDArray[Any]]:
        return {
            "words": _blob(self._words),
            "symbols": _blob(self._phrases.symbols),
            "word_common": self._of_words.common,
            "word_named": self._of_words.named,
            "phrase_common": self._of_phrases.common,
            "phrase_named": self._of_phrases.named,
            **{name: getattr(self._phrases, name) for name in _ARRAYS},
        }

    def to_bytes(self) -> bytes:
        """A zip archive of NumPy arrays."""
        made = io.BytesIO()
        np.savez_compressed(made, allow_pickle=False, **self._arrays())
        return made.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> GeneralLexicon:
        """Read what to_bytes wrote, on this machine. Raises BadFile for what is no such file."""
        try:
            with np.load(io.BytesIO(data), allow_pickle=False) as held:
                arrays = {name: held[name] for name in held.files}
            phrases = Automaton(_forms(arrays["symbols"]), *(arrays[name] for name in _ARRAYS))
            return cls(
                _forms(arrays["words"]),
                _Meanings(arrays["word_common"], arrays["word_named"]),
                phrases,
                _Meanings(arrays["phrase_common"], arrays["phrase_named"]),
            )
        except (KeyError, ValueError, OSError, EOFError, zipfile.BadZipFile) as fault:
            raise BadFile("This is no general lexicon that Urdaten wrote; install it again.") from fault


def _told(common: int, named: int) -> tuple[str, ...]:
    kinds = [name for place, name in enumerate(_KIND_NAMES) if common >> place & 1]
    names = [name for place, name in enumerate(_KIND_NAMES) if named >> place & 1]
    found = [f"lexicon {name}" for name in kinds] + [f"lexicon name of {name}" for name in names]
    return (*found, "lexicon several") if len(found) > 1 else tuple(found)


def _meanings(masks: dict[str, list[int]]) -> _Meanings:
    columns = np.array(list(masks.values()), dtype=np.uint32).reshape(-1, 2)
    return _Meanings(columns[:, 0].copy(), columns[:, 1].copy())


def _blob(vocabulary: Vocabulary) -> NDArray[np.uint8]:
    return np.frombuffer("".join(form + _BETWEEN for form in vocabulary.forms).encode(), dtype=np.uint8)


def _forms(blob: NDArray[np.uint8]) -> Vocabulary:
    return Vocabulary(blob.tobytes().decode().split(_BETWEEN)[:-1])
