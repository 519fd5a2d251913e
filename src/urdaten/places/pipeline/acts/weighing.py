"""Learning to weigh what the stages of a plan say: everything that it takes, read at once, and the work itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from urdaten.core.pipeline import (
    Material,
    Pipeline,
    Plan,
    PolicyPlan,
    Signed,
    TaggerGiven,
    TaggerSettings,
    Weigher,
    answers_by_folds,
    build,
    learn,
)
from urdaten.core.scoring import compare
from urdaten.core.spans import Span
from urdaten.core.tagger import TrainingSettings
from urdaten.errors import BadInput, Stopped
from urdaten.places.pipeline.acts import versions
from urdaten.places.pipeline.acts.examples import Examples, read_examples
from urdaten.places.pipeline.acts.material import read_material
from urdaten.places.pipeline.acts.names import Known, known_names
from urdaten.places.pipeline.acts.signed_texts import SignedTexts, signed_dev
from urdaten.places.tagger import acts as tagger
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types

# Train texts are dealt out to so many taggers that have not seen them.
HELD_OUT = 5
Report = Callable[[int, int, str], None]


@dataclass(frozen=True, kw_only=True, eq=False)
class Weighing:
    """What was read to learn from; nothing of it is asked of the database again."""

    plan: Plan
    known: Known
    material: Material
    dev: SignedTexts
    # The pipeline of now, to hold it against; None where it cannot run. Where it weighs, it is weighed anew.
    now: Pipeline | None
    now_weighs: bool
    # Train texts by fold, and of each tagger that a stage names what it learns from and how.
    folds: list[SignedTexts]
    learners: dict[str, tuple[Examples, TrainingSettings]]
    codes: list[str]

    @property
    def steps(self) -> int:
        """How many steps the work has."""
        return len(self.folds) * max(1, len(self.learners)) + 2

    def learnt(self, report: Report, should_stop: Callable[[], bool]) -> tuple[Weigher, dict[str, Any]]:
        """Weights, and how they do on dev by folds, beside the pipeline of now.

        Raises BadInput where too little is signed, Stopped.
        """
        others = list(self._train(report, should_stop))
        done = self.steps - 2
        report(done, self.steps, "Dev texts are read by all stages.")
        dev = self._signed(self.dev, self.material)
        overlap = self.material.overlap
        weigher = learn([*others, dev], overlap, should_stop=should_stop)
        report(done + 1, self.steps, "Each fold of dev is answered by weights that have not seen it.")
        answers = answers_by_folds(others, dev, overlap, should_stop=should_stop)
        now = self._answers_now(should_stop)
        return weigher, {"least": weigher.least, **self._figures(answers, now, len(others) > 0)}

    def _train(self, report: Report, should_stop: Callable[[], bool]) -> Iterator[Signed]:
        """Train texts, each as stages see it whose taggers have not learnt from it."""
        done = 0
        for fold in self.folds:
            held = {text.id for text in fold.wanted}
            given = {}
            for name, (examples, settings) in self.learners.items():
                report(done, self.steps, "Taggers are trained that have not seen some train texts.")
                made = examples.learnt(self.codes, settings, lambda *_: None, should_stop, without=held)
                if should_stop():
                    raise Stopped("Learning to weigh was stopped; what was learnt before stays.")
                given[name] = TaggerGiven(tagger=made)
                done += 1
            yield self._signed(fold, replace(self.material, taggers={**self.material.taggers, **given}))

    def _signed(self, held: SignedTexts, material: Material) -> Signed:
        spans = build(self.plan, material).candidates(held.batch, held.beside)
        return Signed.of(held.batch, spans, held.gold, held.bounds, held.beside)

    def _answers_now(self, should_stop: Callable[[], bool]) -> list[list[Span]]:
        """What the pipeline of now answers on dev; by weights that have not seen it, too."""
        dev = self.dev
        if self.now is None:
            return [[] for _ in dev.wanted]
        if not self.now_weighs:
            return dev.answers(self.now)
        spans = self.now.candidates(dev.batch, dev.beside)
        signed = Signed.of(dev.batch, spans, dev.gold, dev.bounds, dev.beside)
        return answers_by_folds([], signed, self.material.overlap, should_stop=should_stop)

    def _figures(self, answers: list[list[Span]], now: list[list[Span]], with_train: bool) -> dict[str, Any]:
        dev = self.dev
        gain = compare(dev.gold, dev.judged(answers), dev.judged(now), dev.groups)
        return {
            "texts": len(dev.wanted),
            "sentences": dev.sentences,
            "train_texts": sum(len(fold.wanted) for fold in self.folds) if with_train else 0,
            "weighed": asdict(dev.scored(answers)),
            "now": asdict(dev.scored(now)),
            "gain": asdict(gain),
        }


def read_weighing(db: Session, project: Project, plan: Plan, *, with_train: bool) -> Weighing:
    """Everything that learning takes. Raises BadInput and BadPattern where the plan cannot be built."""
    # What stages say counts, whatever becomes of it; how the plan decides now is not looked at.
    bare = replace(plan, policy=PolicyPlan())
    material = read_material(db, project, bare)
    build(bare, material)
    kept = versions.present(db, project.id).plan
    now_weighs = kept.policy.kind == "weighed"
    kept = replace(kept, policy=PolicyPlan()) if now_weighs else kept
    try:
        now = build(kept, read_material(db, project, kept))
    except BadInput:
        now = None
    names = sorted(
        {one.settings.tagger for one in plan.on if isinstance(one.settings, TaggerSettings)}
        if with_train
        else ()
    )
    learners = {}
    for name in names:
        training = tagger.read_training(db, project.id, _number(db, project.id, name))
        learners[name] = read_examples(db, project, training.settings), training.settings
    return Weighing(
        plan=bare,
        known=known_names(db, project.id),
        material=material,
        dev=signed_dev(db, project),
        now=now,
        now_weighs=now_weighs,
        folds=_folds(db, project, HELD_OUT if names else 1) if with_train else [],
        learners=learners,
        codes=[one.code for one in types.list_types(db, project.id)],
    )


def _number(db: Session, project_id: int, name: str) -> int:
    return int(name) if name else tagger.in_use(db, project_id) or 0


def _folds(db: Session, project: Project, count: int) -> list[SignedTexts]:
    """Signed train texts, those of a group in one fold."""
    every = texts.all_texts(db, project.id, ("train",))
    groups = sorted({text.group or str(text.id) for text in every})
    dealt = {group: number % count for number, group in enumerate(groups)}
    folds = [
        SignedTexts(db, project, [text for text in every if dealt[text.group or str(text.id)] == number])
        for number in range(count)
    ]
    return [fold for fold in folds if fold.wanted]
