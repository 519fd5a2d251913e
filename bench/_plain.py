"""What one would script to find the names of lists."""

from __future__ import annotations

from collections.abc import Sequence

from urdaten.core.lists import NameList
from urdaten.core.text import Batch, token_forms


class PlainLists:
    """A dictionary of tuples of small words for each type, the longest first at each token."""

    def __init__(self, lists: Sequence[NameList]) -> None:
        self.names: dict[str, set[tuple[str, ...]]] = {}
        for one in lists:
            for entry in one.entries:
                for written in (entry.preferred, *entry.variants):
                    name = tuple(form.lower() for form in token_forms(written))
                    self.names.setdefault(one.type, set()).add(name)
        self.longest = {code: max(map(len, names)) for code, names in self.names.items()}

    def find(self, batch: Batch) -> list[tuple[int, int, str]]:
        small = [form.lower() for form in batch.vocabulary.forms]
        words = [small[word] for word in batch.word.tolist()]
        found = []
        for code, names in self.names.items():
            i = 0
            while i < len(words):
                for length in range(self.longest[code], 0, -1):
                    if tuple(words[i : i + length]) in names:
                        found.append((i, i + length, code))
                        i += length - 1
                        break
                i += 1
        return found
