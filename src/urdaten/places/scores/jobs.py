"""The scoring job."""

from __future__ import annotations

from urdaten.core.pipeline import resolve
from urdaten.core.scoring import score_spans
from urdaten.core.spans import Span
from urdaten.errors import Stopped
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.scores import acts
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles


@handles(acts.JOB)
def run_scoring(context: JobContext) -> str:
    """Score lists, rules, the tagger in use and all of them together on signed test sentences."""
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        team.wait_for_writers(db, project.id)
        made_from = acts.made_from_now(db, project.id)
        codes = [t.code for t in types.list_types(db, project.id)]
        wanted = texts.all_texts(db, project.id, ("test",))
        signed = pipeline.gold_by_sentence(db, wanted)
        wanted = [text for text in wanted if signed[text.id]]
        pipeline.check_runs(db, project)
        evidence = pipeline.evidence(db, project, wanted)
        training = tagger.training_in_use(db, project.id)
    sources = {"resolved": "All together", "lists": "Lists only", "rules": "Rules only"}
    if training:
        made_from |= {"tagger": training.name, "learnt": tagger.learnt_in_words(training)}
        sources = {"resolved": "All together", "tagger": f"Tagger “{training.name}” only", **sources}
    made_from |= {"texts": len(wanted), "sentences": sum(len(signed[text.id]) for text in wanted)}
    # All of one scoring becomes visible at once, or none of it.
    with transaction(context.database_url) as db:
        for i, (source, title) in enumerate(sources.items()):
            context.progress(i, len(sources), "scorecards")
            if context.should_stop():
                raise Stopped("Scoring was stopped; no scorecard of it was kept.")
            pairs: list[tuple[list[Span], list[Span]]] = []
            sentences = []
            for text, found in zip(wanted, evidence, strict=True):
                spans = (
                    found.resolved
                    if source == "resolved"
                    else resolve({source: found.alone(source)}, [source], project.overlap, found.ranks)
                )
                gold_in_text: list[Span] = []
                found_in_text: list[Span] = []
                for sentence, annotation in signed[text.id]:
                    here = [s for s in spans if sentence.start <= s.start and s.end <= sentence.end]
                    gold_in_text += annotation.spans
                    found_in_text += here
                    sentences.append(
                        acts.ScoredSentence(sentence_id=sentence.id, gold=annotation.spans, found=here)
                    )
                pairs.append((gold_in_text, found_in_text))
            scores = score_spans(pairs, codes, groups=[text.group or text.id for text in wanted])
            acts.keep_scorecard(db, project.id, context.job.id, source, title, scores, sentences, made_from)
        said = f"{made_from['sentences']} signed sentences of {len(wanted)} test texts are scored."
        context.conclude(db, said)
    return said
