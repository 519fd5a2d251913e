"""Tags and lemmas of the tokens of texts."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np
import regex

from urdaten.core.arrayfile import pack, unpack
from urdaten.core.arrays import Bools, Ints
from urdaten.core.tagger import Tagger, from_bytes, to_bytes
from urdaten.core.tags.english import FORMS
from urdaten.core.tags.words import WordForms
from urdaten.core.text import TAGS, Batch, Vocabulary, fold
from urdaten.errors import BadFile

MAGIC = b"URDATAGS"
FORMAT = 1
# The class of words that those of a tag are looked up in.
_CLASS_OF = {"NOUN": "noun", "VERB": "verb", "AUX": "verb", "ADJ": "adjective", "ADV": "adverb"}
_FORMS = {
    tag: {form: word for word, forms in words.items() for form in forms.split()}
    for tag, words in FORMS.items()
}
_OTHER = TAGS.index("X")
_VOWELS = "aeiouy"
# Stems that stand before an e in all likelihood: reseiz, handl, undulat, but not float.
_DROPS_E = regex.compile(r"([cgsuvz]|[bdt]l|[^aeo]at)$")


class Parts:
    """The parts of speech of a language: a tagger with the words that it knows. `figures` says how often it is right."""

    def __init__(self, tagger: Tagger, words: WordForms | None, figures: Mapping[str, Any]) -> None:
        self._tagger, self.words, self.figures = tagger, words, figures
        self._number = np.array([TAGS.index(code) for code in tagger.types] + [_OTHER], dtype=np.int32)
        self._lemma_of: dict[str, Callable[[str], str]] = {}

    def tags(self, batch: Batch) -> Ints:
        """The tag of each token of a batch: numbers of TAGS, int32."""
        return self._number[self._tagger.kinds(batch)]

    def lemma(self, form: str, tag: str) -> str:
        """The word that a form with a tag is a form of, folded."""
        folded = fold(form)
        if word := _FORMS.get(tag, {}).get(folded):
            return word
        name = _CLASS_OF.get(tag)
        if name is None:
            return folded
        word = self.words.lemma(folded, name) if self.words is not None else None
        return _guessed(folded, name) if word is None else word

    def of_lemmas(self, words: Sequence[str], vocabulary: Vocabulary) -> Bools:
        """For each tag and form whether it is a form of one of these words: shape (n_tags, n_forms)."""
        wanted = [fold(word) for word in words]
        rows = []
        for tag in TAGS:
            names, number = vocabulary.image(self._asks(tag))
            rows.append(np.isin(number, [k for k in names.find(wanted).tolist() if k >= 0]))
        return np.stack(rows)

    def _asks(self, tag: str) -> Callable[[str], str]:
        """One function for each tag with words of its own, so that a vocabulary asks it once for a form."""
        key = tag if tag in _FORMS or tag in _CLASS_OF else ""
        if key not in self._lemma_of:
            self._lemma_of[key] = (lambda form: self.lemma(form, key)) if key else fold
        return self._lemma_of[key]

    @cached_property
    def fingerprint(self) -> str:
        """Of what it was made from."""
        return str(self._tagger.manifest["made_from"])

    @property
    def knows_its_words(self) -> bool:
        """Does the tagger have the words that it learnt with?"""
        return self._tagger.table.general is not None

    # Its file

    def to_bytes(self) -> bytes:
        """The whole file: a tagger's, and that of its words."""
        words = b"" if self.words is None else self.words.to_bytes()
        return pack(
            MAGIC,
            {"format": FORMAT, "figures": dict(self.figures)},
            {
                "tagger": np.frombuffer(to_bytes(self._tagger), dtype=np.uint8),
                "words": np.frombuffer(words, dtype=np.uint8),
            },
        )

    @classmethod
    def from_bytes(cls, data: bytes) -> Parts:
        """Read what to_bytes wrote. Raises BadFile for anything else."""

        def read(about: dict[str, Any], arrays: dict[str, Any]) -> Parts:
            if about["format"] != FORMAT:
                raise BadFile(f"These parts of speech have format {about['format']}; install them again.")
            held = arrays["words"].tobytes()
            words = WordForms.from_bytes(held) if held else None
            tagger = from_bytes(arrays["tagger"].tobytes(), words)
            if not set(tagger.types) <= set(TAGS) or (tagger.table.general is None) != (words is None):
                raise _damaged()
            return cls(tagger, words, about["figures"])

        return unpack(MAGIC, data, read, _damaged)


def _damaged() -> BadFile:
    return BadFile("This is no file of parts of speech that Urdaten wrote; install it again.")


def _guessed(form: str, name: str) -> str:
    """Of a word that no lexicon has, by its ending."""
    if name in ("adjective", "adverb") or len(form) < 5:
        return form
    if form.endswith("s") and not form.endswith(("ss", "us", "is")):
        return form.removesuffix("s")
    for ending in ("ed", "ing") if name == "verb" else ():
        stem = form.removesuffix(ending)
        if stem == form or not any(sign in _VOWELS for sign in stem):
            continue
        if stem[-1:] == stem[-2:-1]:
            return stem if stem[-1] in "ls" else stem[:-1]
        return stem + "e" if _DROPS_E.search(stem) else stem
    return form
