"""The demo corpus as a tagger sees it: signed texts by split with what lists and rules find, and unsigned ones."""

from __future__ import annotations

from dataclasses import dataclass

from urdaten.core.lists import Gazetteer
from urdaten.core.tagger import GoldText, Neighbours, TaggerInput
from urdaten.core.text import Analysis, Vocabulary, analyse
from urdaten.demo.files import read_demo


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
    names = Gazetteer(demo.lists)
    vocabulary = Vocabulary()
    split: dict[str, list[GoldText]] = {"train": [], "dev": [], "test": []}
    unsigned: list[Analysis] = []
    for bulletin in demo.bulletins:
        analysis = analyse(bulletin.body, demo.language, vocabulary)
        if not bulletin.signed:
            unsigned.append(analysis)
            continue
        rules = [span for r in demo.rules for span in r.rule.match(analysis)]
        item = TaggerInput(analysis, [*names.match(analysis), *rules], group=bulletin.group)
        split[bulletin.split].append(GoldText(item, bulletin.gold))
    types = tuple(t.code for t in demo.types)
    neighbours = Neighbours()
    neighbours.add(unsigned)
    return DemoTexts(types, vocabulary, split["train"], split["dev"], split["test"], neighbours)
