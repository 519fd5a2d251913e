"""Known attributes of many forms at once: the numbers of what form_attributes names, without making a name for each."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.lexicon import COMMON, WordLexicon
from urdaten.core.tagger.features.pieces import Pieces
from urdaten.core.tagger.features.writing import ALL_CAPITALS, CAPITAL, Writing, key_of_shape
from urdaten.core.text import FormColumn

# Pairs of a form, counted from the first that is asked for, and the number of an attribute that it has.
Pairs = tuple[Ints, Ints]
_NONE = -1


class Lookup:
    """The attributes of a table by what they are looked up with."""

    def __init__(
        self,
        groups: Sequence[str],
        names: Sequence[str],
        classes: Mapping[str, Sequence[int]],
        general: WordLexicon | None,
    ) -> None:
        self._names = names
        # Where a file has a name twice, the first counts.
        self._number = dict(zip(reversed(names), reversed(range(len(names))), strict=True))
        self._classes = classes
        self._general = general
        finders: dict[str, Callable[[Writing, slice], Iterator[Pairs]]] = {
            "words": self._of_words,
            "shapes": self._of_shapes,
            "affixes": self._of_affixes,
            "grams": self._of_grams,
            "classes": self._of_classes,
            "lexicon": self._of_lexicon,
        }
        self._finders = [find for group, find in finders.items() if group in groups]
        self._class_number = {key: k for k, key in enumerate(classes)}
        # Each is found once for what the forms of a vocabulary have in common.
        self._word = self._named("word=")
        self._shape, self._outline = self._named("shape="), self._named("outline=")
        self._figure = FormColumn(lambda shapes: _numbers(["9" in drawn for drawn in shapes]))
        self._class = FormColumn(lambda folds: self._class_numbers(folds))
        self._class_of_shape = FormColumn(lambda shapes: self._class_numbers(map(key_of_shape, shapes)))

    def _named(self, prefix: str) -> FormColumn:
        get = self._number.get
        return FormColumn(lambda names: _numbers([get(prefix + name, _NONE) for name in names]))

    def _class_numbers(self, keys: Iterable[str]) -> Ints:
        return _numbers([self._class_number.get(key, _NONE) for key in keys])

    def rows(self, writing: Writing, since: int) -> Pairs:
        """Attribute numbers of the forms from number `since` on, end to end, and where each form's end."""
        new = slice(since, len(writing.forms))
        pairs = [pair for find in self._finders for pair in find(writing, new)]
        none = [np.zeros(0, dtype=np.int64)]
        form = np.concatenate(none + [form for form, _ in pairs])
        number = np.concatenate(none + [number for _, number in pairs])
        ends = np.cumsum(np.bincount(form, minlength=new.stop - new.start))
        return number[np.argsort(form, kind="stable")], ends

    def _of_words(self, writing: Writing, new: slice) -> Iterator[Pairs]:
        get, folds = self._number.get, writing.folds.forms
        yield _known(writing.folds.column(self._word)[writing.folded[new]])
        written = zip(writing.forms[new], writing.folded[new].tolist(), strict=True)
        yield _known(
            _numbers([get("form=" + form, _NONE) if form != folds[k] else _NONE for form, k in written])
        )

    def _of_shapes(self, writing: Writing, new: slice) -> Iterator[Pairs]:
        shape, case = writing.shape[new], writing.case[new]
        yield _known(writing.shapes.column(self._shape)[shape])
        yield _known(writing.outlines.column(self._outline)[writing.outline[new]])
        all_capitals = case & ALL_CAPITALS > 0
        yield self._where("all capitals", all_capitals)
        yield self._where("capital", (case & CAPITAL > 0) & ~all_capitals)
        yield self._where("figure", writing.shapes.column(self._figure)[shape] > 0)

    def _where(self, name: str, has: NDArray[np.bool_]) -> Pairs:
        form = np.flatnonzero(has & (name in self._number))
        return form, np.full(len(form), self._number.get(name, _NONE), dtype=np.int64)

    def _of_affixes(self, writing: Writing, new: slice) -> Iterator[Pairs]:
        yield self._pieces.affixes(_folds(writing, new))

    def _of_grams(self, writing: Writing, new: slice) -> Iterator[Pairs]:
        yield self._pieces.grams(_folds(writing, new))

    @cached_property
    def _pieces(self) -> Pieces:
        return Pieces(self._names)

    def _of_classes(self, writing: Writing, new: slice) -> Iterator[Pairs]:
        own = writing.folds.column(self._class)[writing.folded[new]]
        of_shape = writing.shapes.column(self._class_of_shape)[writing.shape[new]]
        number = np.where(own != _NONE, own, of_shape)
        form = np.flatnonzero(number != _NONE)
        for attributes in self._class_attributes:
            told = attributes[number[form]]
            yield form[told != _NONE], told[told != _NONE]

    @cached_property
    def _class_attributes(self) -> list[Ints]:
        """By level: the attribute of every class key."""
        get = self._number.get
        return [
            _numbers([get(f"class {level}={number}", _NONE) for number in numbers])
            for level, numbers in enumerate(zip(*self._classes.values(), strict=True))
        ]

    def _of_lexicon(self, writing: Writing, new: slice) -> Iterator[Pairs]:
        if self._general is None:
            return
        meant = writing.folds.column(self._general.meanings)[writing.folded[new]]
        meant = np.where(writing.case[new] & CAPITAL > 0, meant, meant & COMMON)
        form = np.flatnonzero(meant)
        distinct, which = np.unique(meant[form], return_inverse=True)
        names = [self._general.told(bits) for bits in distinct.tolist()]
        rows = [[self._number[name] for name in told if name in self._number] for told in names]
        pointer = np.append(0, np.cumsum([len(row) for row in rows])).astype(np.int64)
        column = _numbers([number for row in rows for number in row])
        count = np.diff(pointer)[which]
        at = np.arange(int(count.sum())) - np.repeat(np.cumsum(count) - count, count)
        yield np.repeat(form, count), column[np.repeat(pointer[which], count) + at]


def _folds(writing: Writing, new: slice) -> list[str]:
    forms = writing.folds.forms
    return [forms[k] for k in writing.folded[new].tolist()]


def _numbers(values: Sequence[Any]) -> Ints:
    return np.array(values, dtype=np.int64)


def _known(number: Ints) -> Pairs:
    """Pairs of what has one number each, or none."""
    form = np.flatnonzero(number != _NONE)
    return form, number[form]
