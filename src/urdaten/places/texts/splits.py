"""How texts are split into train, dev and test: as they are, as they would be, and what leaks from one into another."""

from __future__ import annotations

import hashlib
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.scoring import split_texts
from urdaten.core.text import fold
from urdaten.errors import BadInput, Clash
from urdaten.places.desk import acts as desk
from urdaten.places.texts import acts
from urdaten.places.types import acts as types

PARTS = ("train", "dev", "test")
MOST_NAMED = 50
MOST_REPEATED = 10


@dataclass(frozen=True, kw_only=True)
class SplitsDraft:
    """How texts shall be split: shares in percent; what they leave of a hundred goes into no split."""

    train: float = 80
    dev: float = 10
    test: float = 10
    seed: int = 1
    # Texts that have a split keep it.
    keep: bool = False

    def check(self) -> None:
        """Raises BadInput, naming the field."""
        for name in PARTS:
            if not 0 <= getattr(self, name) <= 100:
                raise BadInput("A share lies between 0 and 100 percent.", field=name)
        if self.train + self.dev + self.test > 100:
            raise BadInput("The shares come to more than 100 percent.", field="train")


@dataclass(frozen=True, kw_only=True)
class Part:
    """What is in one split."""

    split: str
    texts: int
    sentences: int
    # Gold spans by the code of their type.
    spans: Mapping[str, int]


@dataclass(frozen=True, kw_only=True)
class Names:
    """Distinct names of a type in gold, as they are written but for case: of dev and test, and how many of those train has too."""

    type: str
    elsewhere: int
    in_train: int
    # The first of those, by how often dev and test have them.
    shared: Sequence[str]


@dataclass(frozen=True, kw_only=True)
class Alike:
    """Texts that are nearly the same, in two splits."""

    text: int
    title: str
    split: str
    other: int
    other_title: str
    other_split: str
    share: float


@dataclass(frozen=True, kw_only=True)
class Repeated:
    """A sentence that stands word for word in texts of several splits."""

    words: str
    # A text of each split.
    texts: Mapping[str, int]


@dataclass(frozen=True, kw_only=True)
class Splits:
    """How texts are split, or would be."""

    parts: Sequence[Part]
    # Texts whose split would be another.
    moved: int
    # By which whoever saw this names it again.
    digest: str
    # Pairs in two splits, the first ones of so many; groups with texts in two.
    alike: Sequence[Alike]
    alike_count: int
    repeated: Sequence[Repeated]
    repeated_count: int
    groups: Sequence[str]
    group_count: int
    names: Sequence[Names]


Values = Sequence[tuple[int, int, str, int]]


def read_splits(db: Session, project_id: int) -> Splits:
    """As texts are split now."""
    heads = acts.heads(db, project_id)
    return _told(db, project_id, heads, {head.id: head.split for head in heads})


def draft_splits(db: Session, project_id: int, draft: SplitsDraft) -> Splits:
    """As texts would be split by a draft. Raises BadInput."""
    heads = acts.heads(db, project_id)
    return _told(db, project_id, heads, _drafted(db, project_id, draft, heads))


def assign_splits(
    db: Session, project_id: int, account_id: int, draft: SplitsDraft, digest: str
) -> acts.TextAct:
    """Split texts as the draft says. Raises BadInput, and Clash where that is not any more what was seen."""
    heads = acts.heads(db, project_id)
    splits = _drafted(db, project_id, draft, heads)
    if _digest(splits) != digest:
        raise Clash(
            "Texts, groups or annotation have changed since you saw this; nothing was split. Look again."
        )
    return acts.assign_splits(db, project_id, account_id, splits)


def _drafted(db: Session, project_id: int, draft: SplitsDraft, heads: Sequence[acts.Head]) -> dict[int, str]:
    """A split for each text. Texts of a group, and texts that are nearly the same, stay together."""
    draft.check()
    place = {head.id: i for i, head in enumerate(heads)}
    pairs = [(place[pair.text], place[pair.earlier]) for pair in acts.read_likeness(db, project_id).pairs]
    numbers = {number: i for i, number in enumerate(types.type_codes(db, project_id))}
    # Sentences, then spans of each type.
    amounts = [[float(max(1, head.sentences)), *([0.0] * len(numbers))] for head in heads]
    for text, type_id, _, count in desk.gold_values(db, project_id):
        if text in place and type_id in numbers:
            amounts[place[text]][1 + numbers[type_id]] += count
    shares = [draft.train / 100, draft.dev / 100, draft.test / 100]
    names = [*PARTS, "none"]
    held = {i: names.index(head.split) for i, head in enumerate(heads) if draft.keep and head.split in PARTS}
    whole = [*shares, max(0.0, 1 - sum(shares))]
    parts = split_texts([head.group for head in heads], pairs, amounts, whole, draft.seed, held)
    return {head.id: names[part] for head, part in zip(heads, parts, strict=True)}


def _told(db: Session, project_id: int, heads: Sequence[acts.Head], splits: Mapping[int, str]) -> Splits:
    codes = types.type_codes(db, project_id)
    values = desk.gold_values(db, project_id)
    spans: dict[str, dict[str, int]] = defaultdict(lambda: defaultdict(int))
    for text, type_id, _, count in values:
        if type_id in codes and text in splits:
            spans[splits[text]][codes[type_id]] += count
    parts = [
        Part(
            split=split,
            texts=sum(splits[head.id] == split for head in heads),
            sentences=sum(head.sentences for head in heads if splits[head.id] == split),
            spans={code: spans[split][code] for code in codes.values()},
        )
        for split in acts.SPLITS
    ]
    by_number = {head.id: head for head in heads}
    alike = [
        Alike(
            text=pair.text,
            title=by_number[pair.text].title,
            split=splits[pair.text],
            other=pair.earlier,
            other_title=by_number[pair.earlier].title,
            other_split=splits[pair.earlier],
            share=pair.share,
        )
        for pair in acts.read_likeness(db, project_id).pairs
        if _leaks({splits[pair.text], splits[pair.earlier]})
    ]
    repeats = [
        one for one in acts.read_likeness(db, project_id).repeats if _leaks({splits[n] for n in one.texts})
    ]
    of_group: dict[str, set[str]] = defaultdict(set)
    for head in heads:
        if head.group:
            of_group[head.group].add(splits[head.id])
    groups = sorted(group for group, held in of_group.items() if _leaks(held))
    return Splits(
        parts=parts,
        moved=sum(splits[head.id] != head.split for head in heads),
        digest=_digest(splits),
        alike=sorted(alike, key=lambda one: -one.share)[:MOST_NAMED],
        alike_count=len(alike),
        repeated=_repeated(db, project_id, repeats[:MOST_REPEATED], splits),
        repeated_count=len(repeats),
        groups=groups[:MOST_NAMED],
        group_count=len(groups),
        names=list(_names(values, splits, codes)),
    )


def _leaks(splits: set[str]) -> bool:
    """Something in no split is seen by nobody who learns or measures."""
    return len(splits - {"none"}) > 1


def _repeated(
    db: Session, project_id: int, repeats: Sequence[acts.Repeat], splits: Mapping[int, str]
) -> list[Repeated]:
    bodies = {one.id: one.body for one in acts.read_texts(db, project_id, {one.text for one in repeats})}
    return [
        Repeated(
            words=" ".join(bodies[one.text][one.start : one.end].split()),
            texts={splits[number]: number for number in reversed(one.texts) if splits[number] != "none"},
        )
        for one in repeats
    ]


def _names(values: Values, splits: Mapping[int, str], codes: Mapping[int, str]) -> Iterable[Names]:
    train: dict[int, set[str]] = defaultdict(set)
    elsewhere: dict[int, Counter[str]] = defaultdict(Counter)
    written: dict[tuple[int, str], str] = {}
    for text, type_id, words, count in values:
        split = splits.get(text)
        if split == "train":
            train[type_id].add(fold(words))
        elif split in PARTS:
            elsewhere[type_id][fold(words)] += count
            written.setdefault((type_id, fold(words)), words)
    for type_id, code in codes.items():
        names = elsewhere[type_id]
        shared = [written[type_id, name] for name, _ in names.most_common() if name in train[type_id]]
        yield Names(type=code, elsewhere=len(names), in_train=len(shared), shared=shared[:MOST_NAMED])


def _digest(splits: Mapping[int, str]) -> str:
    told = ",".join(f"{number}:{split}" for number, split in sorted(splits.items()))
    return hashlib.sha256(told.encode()).hexdigest()[:16]
