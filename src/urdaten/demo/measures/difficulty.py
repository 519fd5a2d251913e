"""How hard the corpus is for the tagger: scores on test, by type and by how much was trained on."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from random import Random
from statistics import mean
from typing import Protocol

from urdaten.core.scoring import score_spans
from urdaten.core.tagger import GoldText, TaggerInput, TrainingSettings, train
from urdaten.core.text import Vocabulary, batch_of
from urdaten.demo.evidence import found_in
from urdaten.demo.files import Demo

SHARES = (0.25, 0.5, 0.75, 1.0)
OVERALL = (0.65, 0.92)
HARDEST_BELOW = 0.60
SEEDS = (1, 2, 3, 4, 5, 6)


class Hold(Protocol):
    def __call__(
        self, name: str, value: float, least: float | None = None, most: float | None = None
    ) -> None: ...


@dataclass(frozen=True)
class Difficulty:
    """Strict F1 on test, 0 to 1."""

    overall: float
    types: dict[str, float]
    # By share of the training texts, smallest first.
    curve: dict[float, float]

    def judge(self, hold: Hold, faults: list[str]) -> None:
        hold("tagger, strict F1 on test", self.overall, *OVERALL)
        for code, f1 in self.types.items():
            hold(f"tagger, strict F1 on test, {code}", f1)
        hold("tagger, strict F1 of the hardest type", min(self.types.values()), most=HARDEST_BELOW)
        for share, f1 in self.curve.items():
            hold(f"tagger, strict F1 with {share:.0%} of train", f1)
        # A quarter more can add less than the seeds differ by; twice as much has to show, and all to be best.
        rises = all(f1 < self.curve[2 * share] for share, f1 in self.curve.items() if 2 * share in self.curve)
        if not rises or max(self.curve, key=self.curve.__getitem__) != max(self.curve):
            faults.append("the learning curve does not rise any more")


def how_hard(
    demo: Demo, shares: Sequence[float] = SHARES, report: Callable[[str], None] = lambda _: None
) -> Difficulty:
    """Train on growing shares of the training texts and score each on test; means over the seeds.

    A share is a random sample of texts, and a larger sample holds the smaller one of the same seed.
    """
    types = [t.code for t in demo.types]
    vocabulary = Vocabulary()
    batch = batch_of([one.body for one in demo.bulletins], demo.language, vocabulary)
    texts: dict[str, list[GoldText]] = {"train": [], "dev": [], "test": []}
    for bulletin, analysis, evidence in zip(
        demo.bulletins, batch.analyses, found_in(demo, batch), strict=True
    ):
        if bulletin.signed:
            item = TaggerInput(analysis, evidence, group=bulletin.group)
            texts[bulletin.split].append(GoldText(item, bulletin.gold))
    inputs = [text.item for text in texts["test"]]
    by_share: dict[float, list[float]] = {share: [] for share in shares}
    by_type: dict[str, list[float]] = {code: [] for code in types}
    for seed in SEEDS:
        order = list(range(len(texts["train"])))
        Random(seed).shuffle(order)
        for share in shares:
            report(f"training on {share:.0%} of train, seed {seed}")
            chosen = sorted(order[: round(share * len(order))])
            settings = TrainingSettings(seed=seed)
            tagger = train([texts["train"][i] for i in chosen], texts["dev"], vocabulary, types, settings)
            found = tagger.tag(inputs, vocabulary)
            pairs = [(text.gold, spans) for text, spans in zip(texts["test"], found, strict=True)]
            scores = score_spans(pairs, types, rounds=10)
            by_share[share].append(scores.overall.f1 or 0.0)
            if share == max(shares):
                for code in types:
                    by_type[code].append(scores.types[code].f1 or 0.0)
    curve = {share: mean(values) for share, values in by_share.items()}
    return Difficulty(
        overall=curve[max(shares)],
        types={code: mean(values) for code, values in by_type.items()},
        curve=curve,
    )
