"""The words of a language with the parts of speech that they may have, and the forms that they take."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrayfile import pack, unpack
from urdaten.core.arrays import Ints
from urdaten.core.tags.english import ENDINGS, FUNCTION_WORDS
from urdaten.core.text import FormColumn, Vocabulary, fold
from urdaten.errors import BadFile

# Before these a last letter may be doubled.
_DOUBLING = ("ed", "ing", "er", "est")
_BETWEEN, _WITHIN = "\0", "\1"
MAGIC = b"URDATWRD"
CLASSES = ("noun", "verb", "adjective", "adverb")
_CLASS = {name: place for place, name in enumerate(CLASSES)}
# What may be said of a form, by bit: of which class it is as it stands, of which one as another form of a word, by its
# ending, and of which class the word is most often.
_SAID = (
    *(f"lexicon {name}" for name in CLASSES),
    "lexicon noun, several",
    "lexicon verb in s",
    "lexicon verb in ing",
    "lexicon verb in the past",
    "lexicon adjective, compared",
    *(f"lexicon mostly {name}" for name in CLASSES),
    *(f"lexicon may be {tag}" for tag in FUNCTION_WORDS),
)
_BIT = {name: 1 << place for place, name in enumerate(_SAID)}


class WordForms:
    """Words of the open classes, by folded form, with what their forms are.

    `met` (n_words, n_classes) counts how often each was met as a word of each of CLASSES, -1 where it is none;
    `irregular` gives for a class and a form the word that it is a form of.
    """

    def __init__(
        self,
        words: Vocabulary,
        met: NDArray[np.int32],
        irregular: Mapping[str, Mapping[str, str]],
    ) -> None:
        self._words, self._met = words, met
        self._irregular = irregular
        self._told: dict[int, tuple[str, ...]] = {}

    @classmethod
    def of(
        cls,
        words: Mapping[str, Iterable[tuple[str, int]]],
        irregular: Mapping[str, Iterable[tuple[str, str]]],
    ) -> WordForms:
        """By class: words with how often each was met, and irregular forms with their words."""
        counts: dict[str, list[int]] = {}
        for name, own in words.items():
            place = _CLASS[name]
            for word, count in own:
                held = counts.setdefault(fold(word), [-1] * len(CLASSES))
                held[place] = max(held[place], count)
        table = np.array(list(counts.values()), dtype=np.int32).reshape(-1, len(CLASSES))
        held_forms: dict[str, dict[str, str]] = {name: {} for name in CLASSES}
        for name, pairs in irregular.items():
            for form, word in pairs:
                held_forms[name].setdefault(fold(form), fold(word))
        return cls(Vocabulary(counts), table, held_forms)

    def lemma(self, form: str, name: str) -> str | None:
        """The word of a class that a folded form is a form of, itself among them; None where no such word is known."""
        word = self._irregular[name].get(form)
        if word is not None:
            return word
        other = self._regular(form, name)
        if not self._is(form, name):
            return other
        if other is None:
            return form
        # Beside a word that is met more often, its form hardly is one for itself: needs, works.
        ahead = self._often(other, name) - self._often(form, name)
        return other if ahead > 0 or (ahead == 0 and name == "noun") else form

    def _often(self, word: str, name: str) -> int:
        return int(self._met[self._words.get(word), _CLASS[name]])

    def _regular(self, form: str, name: str) -> str | None:
        for ending, instead in ENDINGS[name]:
            if not form.endswith(ending) or len(form) < len(ending) + 2:
                continue
            stem = form.removesuffix(ending)
            if self._is(stem + instead, name):
                return stem + instead
            # moored, but stopped.
            if not instead and ending in _DOUBLING and stem[-1:] == stem[-2:-1] and self._is(stem[:-1], name):
                return stem[:-1]
        return None

    def _is(self, word: str, name: str) -> bool:
        at = self._words.get(word)
        return at >= 0 and bool(self._met[at, _CLASS[name]] >= 0)

    # What a tagger asks

    def attributes(self, form: str) -> tuple[str, ...]:
        """Names of what is told of a form."""
        return self.told(self._meant(fold(form)))

    def told(self, meant: int) -> tuple[str, ...]:
        """Names of what some bits of `meanings` say."""
        if meant not in self._told:
            self._told[meant] = tuple(name for name, bit in _BIT.items() if meant & bit)
        return self._told[meant]

    @cached_property
    def meanings(self) -> FormColumn:
        """Over folded forms: what each may be, in bits; int64."""
        return FormColumn(
            lambda folded: np.fromiter(map(self._meant, folded), dtype=np.int64, count=len(folded))
        )

    def _meant(self, form: str) -> int:
        meant = _FUNCTION.get(form, 0)
        at = self._words.get(form)
        if at >= 0:
            mostly = self._mostly(at)
            for name in CLASSES:
                # That “a” may be a noun, as the letter, tells nothing.
                if self._met[at, _CLASS[name]] >= 0 and (not meant or name == mostly):
                    meant |= _BIT[f"lexicon {name}"]
            if mostly:
                meant |= _BIT[f"lexicon mostly {mostly}"]
        for name in ("noun", "verb", "adjective"):
            word = self._irregular[name].get(form) or self._regular(form, name)
            if word is None or word == form:
                continue
            meant |= _BIT[_form_of(form, name)]
            stem = self._words.get(word)
            if at < 0 and stem >= 0 and (mostly := self._mostly(stem)):
                meant |= _BIT[f"lexicon mostly {mostly}"]
        return meant

    def _mostly(self, at: int) -> str | None:
        """The class that a word is most often of."""
        place = int(np.argmax(self._met[at]))
        return CLASSES[place] if self._met[at, place] > 0 else None

    def phrases(
        self, _vocabulary: Vocabulary, _word: Ints, _is_capital: NDArray[np.bool_], /
    ) -> tuple[Ints, Ints]:
        """None: these are single words."""
        none = np.zeros(0, dtype=np.int64)
        return none, none

    @cached_property
    def digest(self) -> str:
        """Of what it tells."""
        return hashlib.sha256(self.to_bytes()).hexdigest()

    # Its file

    def to_bytes(self) -> bytes:
        """A file of arrays; the same for the same words."""
        irregular = [
            _WITHIN.join((name, form, word))
            for name in CLASSES
            for form, word in self._irregular[name].items()
        ]
        return pack(
            MAGIC,
            {"function": FUNCTION_WORDS},
            {"words": _blob(self._words.forms), "met": self._met, "irregular": _blob(irregular)},
        )

    @classmethod
    def from_bytes(cls, data: bytes) -> WordForms:
        """Read what to_bytes wrote. Raises BadFile for anything else."""

        def read(_about: dict[str, Any], arrays: dict[str, Any]) -> WordForms:
            words, met = Vocabulary(_forms(arrays["words"])), arrays["met"]
            if met.dtype != np.int32 or met.shape != (len(words), len(CLASSES)):
                raise _damaged()
            irregular: dict[str, dict[str, str]] = {name: {} for name in CLASSES}
            for row in _forms(arrays["irregular"]):
                name, form, word = row.split(_WITHIN)
                irregular[name][form] = word
            return cls(words, met.copy(), irregular)

        return unpack(MAGIC, data, read, _damaged)


def _damaged() -> BadFile:
    return BadFile("These are no word forms that Urdaten wrote; install it again.")


def _form_of(form: str, name: str) -> str:
    if name == "noun":
        return "lexicon noun, several"
    if name == "adjective":
        return "lexicon adjective, compared"
    if form.endswith("ing"):
        return "lexicon verb in ing"
    return "lexicon verb in s" if form.endswith("s") else "lexicon verb in the past"


def _function_bits() -> dict[str, int]:
    bits: dict[str, int] = {}
    for tag, words in FUNCTION_WORDS.items():
        for word in words.split():
            bits[fold(word)] = bits.get(fold(word), 0) | _BIT[f"lexicon may be {tag}"]
    return bits


_FUNCTION = _function_bits()


def _blob(words: Sequence[str]) -> NDArray[np.uint8]:
    return np.frombuffer("".join(word + _BETWEEN for word in words).encode(), dtype=np.uint8)


def _forms(blob: NDArray[Any]) -> list[str]:
    return blob.tobytes().decode().split(_BETWEEN)[:-1]
