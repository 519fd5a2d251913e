"""The demo corpus as a tagger sees it: signed texts by split with what lists and rules find, and unsigned ones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from urdaten.core.tagger import GoldText, Neighbours, Tagger, TaggerInput, preset, train
from urdaten.core.text import Analysis, Vocabulary, batch_of
from urdaten.demo.evidence import found_in
from urdaten.demo.files import read_demo
from urdaten.installed import general_lexicon


@dataclass(frozen=True)
class DemoTexts:
    types: tuple[str, ...]
    vocabulary: Vocabulary
    train: list[GoldText]
    dev: list[GoldText]
    test: list[GoldText]
    unsigned: Neighbours


def demo_texts() -> DemoTexts:
    demo = read_demo()
    vocabulary = Vocabulary()
    batch = batch_of([bulletin.body for bulletin in demo.bulletins], demo.language, vocabulary)
    evidence = found_in(demo, batch)
    split: dict[str, list[GoldText]] = {"train": [], "dev": [], "test": []}
    unsigned: list[Analysis] = []
    for bulletin, analysis, found in zip(demo.bulletins, batch.analyses, evidence, strict=True):
        if not bulletin.signed:
            unsigned.append(analysis)
            continue
        item = TaggerInput(analysis, found, group=bulletin.group)
        split[bulletin.split].append(GoldText(item, bulletin.gold))
    types = tuple(t.code for t in demo.types)
    neighbours = Neighbours()
    neighbours.add(unsigned)
    return DemoTexts(types, vocabulary, split["train"], split["dev"], split["test"], neighbours)


def trained(texts: DemoTexts, own: Sequence[GoldText]) -> Tagger:
    """A tagger of the preset "thorough" that has learnt from some texts, watched on dev."""
    return train(
        own,
        texts.dev,
        texts.vocabulary,
        texts.types,
        preset("thorough"),
        lambda *_: None,
        lambda: False,
        unsigned=texts.unsigned,
        general=general_lexicon(),
        threads=2,
    )
