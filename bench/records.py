"""Records: how good they are from gold spans and from the pipeline's, what each step costs, and how quick assembling is.

Linking and opening learn from the records gold of the train and dev weeks. The test weeks are looked at once, for the figures
that the goals are about; dev figures, by an assembler that has learnt from the train weeks alone, stand beside them. Both
templates count together. The baseline in the same table gives each value to the nearest anchor before it, and to the first field
that takes its type.
"""

from __future__ import annotations

import json
import time
from collections.abc import Mapping, Sequence

from _demo import demo_texts, trained

from urdaten.core.lists import Gazetteer
from urdaten.core.pipeline import Beside, TaggerStage
from urdaten.core.records import (
    About,
    Assembler,
    Names,
    Record,
    RecordScores,
    Signed,
    Signings,
    Template,
    lesson_of,
    nearest_before,
    score_records,
    teach,
)
from urdaten.core.scoring import Figures
from urdaten.core.spans import SpanTable
from urdaten.core.tagger import Tagger
from urdaten.core.text import Batch, Vocabulary, batch_of, fold
from urdaten.demo.bundle import demo_bundle
from urdaten.demo.files import Bulletin, Demo, read_demo
from urdaten.demo.gold_records import read_gold_records
from urdaten.demo.stream import generate

AT_A_TIME = 200
ROUNDS = 3


def measure(full: bool) -> dict[str, float]:
    """Every figure by name, in per cent where it is an F1. With `full`, a stream of 20 000 bulletins instead of 2 000."""
    demo, texts = read_demo(), demo_texts()
    tagger = trained(texts, texts.train)
    weeks = _Weeks(demo, tagger)
    figures: dict[str, float] = {}
    for name, learnt, judged in (("dev", ("train",), "dev"), ("test", ("train", "dev"), "test")):
        figures |= {f"{name}_{what}": value for what, value in weeks.figures(learnt, judged).items()}
    return figures | weeks.speed(20_000 if full else 2_000)


class _Weeks:
    """Bulletins with their gold, what the pipeline says of them, and their records."""

    def __init__(self, demo: Demo, tagger: Tagger) -> None:
        self._demo, self._tagger = demo, tagger
        gazetteer = Gazetteer(demo.lists, demo.language)
        self._names = Names(gazetteer.preferred, gazetteer.preferred_names(50_000))
        self._pipeline = demo_bundle(demo, tagger).pipeline()
        self._gold: dict[tuple[str, str], list[dict[str, list[str]]]] = {}
        for one in read_gold_records():
            own = {name: [value] for name, value in one.values.items()}
            self._gold.setdefault((one.text, one.template), []).append(own)

    def _spans(self, bulletins: Sequence[Bulletin], found: bool) -> SpanTable:
        if not found:
            return SpanTable.of_spans([sorted(one.gold) for one in bulletins])
        batch = batch_of([one.body for one in bulletins], self._demo.language)
        return self._answer(batch, [one.group for one in bulletins])

    def _answer(self, batch: Batch, groups: Sequence[str]) -> SpanTable:
        after = SpanTable.empty()
        for step in self._pipeline.steps(batch, Beside(groups)):
            after = step.after
        return after.in_order()

    def signings(self, splits: Sequence[str], template: Template, *, found: bool = False) -> Signings:
        """Bulletins of some splits that are signed, with gold spans or those that are found."""
        own = [one for one in self._demo.bulletins if one.split in splits and one.signed]
        names = {f.name for f in template.fields}
        records: list[list[Mapping[str, Sequence[str]]]] = [
            [
                {name: values for name, values in record.items() if name in names}
                for record in self._gold.get((one.title, template.name), [])
            ]
            for one in own
        ]
        return Signings(
            batch=batch_of([one.body for one in own], self._demo.language),
            spans=self._spans(own, found),
            records=records,
            groups=[one.group for one in own],
            names=self._names,
            about=About(days=[one.dated for one in own]),
        )

    def figures(self, learnt: Sequence[str], judged: str) -> dict[str, float]:
        scores: dict[str, list[RecordScores]] = {}
        for template in self._demo.templates:
            assembler = teach(template, self.signings(learnt, template))
            gold = self.signings([judged], template)
            piped = self.signings([judged], template, found=True)
            opened = [
                frozenset(fold(name) for r in own for name in r.get(template.anchor, ()))
                for own in gold.records
            ]
            linked = lesson_of(template, gold)[0].right
            ways: dict[str, list[list[Record]]] = {
                "gold_spans": _assembled(assembler, gold),
                "pipeline_spans": _assembled(assembler, piped),
                "told_opening": _assembled(assembler, gold, opened=opened),
                "told_links": _assembled(assembler, gold, opened=opened, linked=linked),
                "rules_alone": _assembled(Assembler(template=template), gold),
                "nearest": nearest_before(template, gold),
                "nearest_pipeline_spans": nearest_before(template, piped),
            }
            for name, found in ways.items():
                scores.setdefault(name, []).append(_scored(template, gold.records, found, gold.groups))
        fields = {name: _together([one.fields for one in own]) for name, own in scores.items()}
        made = {f"field_f1_{name}": value for name, value in fields.items()}
        for name in ("gold_spans", "pipeline_spans", "rules_alone", "nearest"):
            made[f"opened_f1_{name}"] = _together([one.opened for one in scores[name]])
            made[f"whole_f1_{name}"] = _together([one.whole for one in scores[name]])
        made["lost_to_spans"] = fields["gold_spans"] - fields["pipeline_spans"]
        made["lost_to_opening"] = fields["told_opening"] - fields["gold_spans"]
        made["lost_to_linking"] = fields["told_links"] - fields["told_opening"]
        made["lost_to_values"] = 100 - fields["told_links"]
        for k, template in enumerate(self._demo.templates):
            plain = template.name.lower().replace(" ", "_")
            for name in ("gold_spans", "pipeline_spans"):
                made[f"field_f1_{plain}_{name}"] = _together([scores[name][k].fields])
                made[f"opened_f1_{plain}_{name}"] = _together([scores[name][k].opened])
        return {name: round(value, 1) for name, value in made.items()}

    def speed(self, count: int) -> dict[str, float]:
        """Tagging a stream of generated bulletins, and assembling the records of what was found."""
        demo = self._demo
        bodies = [json.loads(line)["text"] for line in generate(demo, count, 5)]
        template = demo.templates[0]
        assembler = teach(template, self.signings(("train", "dev"), template))
        stage = TaggerStage(self._tagger)
        tagging = assembling = 0.0
        records = tokens = 0
        vocabulary = Vocabulary()
        for number, begin in enumerate(range(0, count, AT_A_TIME)):
            own = bodies[begin : begin + AT_A_TIME]
            batch = batch_of(own, demo.language, vocabulary)
            spans = self._answer(batch, [""] * len(own))
            began = time.perf_counter()
            stage.apply(batch, SpanTable.empty(), Beside([""] * len(own)))
            between = time.perf_counter()
            found = assembler.assemble(batch, spans, self._names)
            ended = time.perf_counter()
            if number:
                # The first portion warms both.
                tagging += between - began
                assembling += ended - between
                tokens += len(batch.word)
                records += sum(len(one.records) for one in found)
        return {
            "assembling_to_tagging": round(tagging / assembling, 2),
            "assembled_tokens_per_second": round(tokens / assembling),
            "records_per_second": round(records / assembling),
        }


def _assembled(assembler: Assembler, own: Signings, **told: object) -> list[list[Record]]:
    found = assembler.assemble(own.batch, own.spans, own.names, own.about, **told)  # type: ignore[arg-type] # by name
    return [one.records for one in found]


def _scored(
    template: Template,
    wanted: Sequence[Sequence[Signed]],
    found: Sequence[Sequence[Record]],
    groups: Sequence[object],
) -> RecordScores:
    return score_records(
        template, list(zip(wanted, found, strict=True)), [str(g) for g in groups], rounds=200
    )


def _together(figures: Sequence[Figures]) -> float:
    right = sum(one.right for one in figures)
    return 200 * right / max(sum(one.in_gold + one.in_found for one in figures), 1)
