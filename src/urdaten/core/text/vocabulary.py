"""The distinct word forms of some texts, with columns over them: what a form alone decides is found once per form."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import islice
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints


class FormColumn:
    """One value for each form: `make` gives those of some forms, and is asked once for each form of a vocabulary."""

    def __init__(self, make: Callable[[Sequence[str]], NDArray[Any]]) -> None:
        self.make = make


class _Grown:
    """An array with room behind it, so that adding to it now and again copies little."""

    def __init__(self, values: NDArray[Any]) -> None:
        self._room = values
        self._size = len(values)

    def __len__(self) -> int:
        return self._size

    def extend(self, values: NDArray[Any]) -> None:
        size = self._size + len(values)
        if size > len(self._room):
            room = np.empty(max(size, 2 * len(self._room)), dtype=self._room.dtype)
            room[: self._size] = self.values
            self._room = room
        self._room[self._size : size] = values
        self._size = size

    @property
    def values(self) -> NDArray[Any]:
        return self._room[: self._size]


class Vocabulary:
    """Distinct word forms, numbered from 0 in the order they were first met. For one thread at a time."""

    def __init__(self, forms: Iterable[str] = ()) -> None:
        self._ids: dict[str, int] = {}
        self._forms: list[str] = []
        # A column that nobody asks for any more goes, with what it was made from.
        self._columns: WeakKeyDictionary[FormColumn, _Grown] = WeakKeyDictionary()
        self._images: dict[Callable[[str], str], tuple[Vocabulary, FormColumn]] = {}
        self.add_all(forms)

    def add(self, form: str) -> int:
        """The number of a form, which is taken in if it is new."""
        number = self._ids.setdefault(form, len(self._forms))
        if number == len(self._forms):
            self._forms.append(form)
        return number

    def add_all(self, forms: Iterable[str]) -> list[int]:
        """The number of each form; those that are new are taken in."""
        ids = self._ids
        numbers = [ids.setdefault(form, len(ids)) for form in forms]
        new = list(islice(reversed(ids), len(ids) - len(self._forms)))
        self._forms.extend(reversed(new))
        return numbers

    def get(self, form: str) -> int:
        """The number of a form, or -1."""
        return self._ids.get(form, -1)

    def find(self, forms: Sequence[str]) -> Ints:
        """The number of each form, -1 for one that is not there; int32."""
        return np.fromiter((self._ids.get(form, -1) for form in forms), dtype=np.int32, count=len(forms))

    @property
    def forms(self) -> Sequence[str]:
        """Every form, by number."""
        return self._forms

    def __len__(self) -> int:
        return len(self._forms)

    def column(self, column: FormColumn) -> NDArray[Any]:
        """Its values, of shape (n_forms,)."""
        held = self._columns.get(column)
        if held is None:
            held = self._columns[column] = _Grown(column.make(self._forms))
        elif len(held) < len(self):
            held.extend(column.make(self._forms[len(held) :]))
        return held.values

    def image(self, of: Callable[[str], str]) -> tuple[Vocabulary, Ints]:
        """What a function makes of the forms: its distinct results, and of each form the number of its own, int32 of shape
        (n_forms,). The function is asked once for each form."""
        held = self._images.get(of)
        if held is None:
            names = Vocabulary()
            held = self._images[of] = (
                names,
                FormColumn(lambda forms: np.array(names.add_all(map(of, forms)), dtype=np.int32)),
            )
        return held[0], self.column(held[1])
