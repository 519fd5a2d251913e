"""The tagger against what a practitioner would script with general tools: F1, time, size, memory.

Ratios are taken in one run in which both sides take turns, on one thread; medians count. Both sides
choose their settings on dev alone. Without --full a small corpus and 4 types serve for orientation.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
from _baseline import Baseline, strict_f1, tuned_baseline
from _demo import demo_texts
from _synthetic import Corpus, make_corpus
from scipy import sparse

from urdaten.core.spans import Coding
from urdaten.core.tagger import (
    PRESETS,
    GoldText,
    Tagger,
    TaggerInput,
    TrainingSettings,
    from_bytes,
    read_file,
    to_bytes,
    train,
)
from urdaten.core.tagger.corpus import label_texts
from urdaten.core.tagger.features import AttributeTable, Lexicon, TokenTable
from urdaten.core.tagger.layout import lay_out
from urdaten.core.tagger.learner import AdaGrad, LayerData
from urdaten.core.tagger.whole import Objective
from urdaten.core.text import Analysis, Vocabulary
from urdaten.installed import general_lexicon

THOROUGH, QUICK = PRESETS["thorough"], PRESETS["quick"]
# The groups that the baseline has too: neither word classes nor what stands elsewhere in a text.
SAME = THOROUGH.without(["classes", "texts", "repeats"])
FORMS = ("words", "shapes", "affixes", "grams")
ROUNDS = 5
LIGHT, FULL = 1500, 15_000


def measure(full: bool) -> dict[str, float]:
    """Every figure by name; F1 as points of 100, times in seconds where they are no ratios."""
    figures: dict[str, float] = {}
    for types in (4, 60) if full else (4,):
        seeds = (101, 102, 103) if full else (101,)
        corpora = [make_corpus(types, FULL if full else LIGHT, seed) for seed in seeds]
        figures |= _named(f"{types}_types", _against_baseline(corpora))
        figures |= _named(f"{types}_types", _speed(corpora[0]))
    if full:
        figures["evaluation_60_types_to_4"] = (
            figures["60_types_evaluation_seconds"] / figures["4_types_evaluation_seconds"]
        )
        figures |= _large(60)
        figures |= _demo(range(1, 6))
    return figures


def _named(prefix: str, figures: dict[str, float]) -> dict[str, float]:
    return {f"{prefix}_{name}": value for name, value in figures.items()}


def _timed(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def _turns(jobs: dict[str, Callable[[], object]], rounds: int = ROUNDS) -> dict[str, float]:
    """Median seconds of each job; the jobs take turns."""
    times: dict[str, list[float]] = {name: [] for name in jobs}
    for _ in range(rounds):
        for name, job in jobs.items():
            times[name].append(_timed(job))
    return {name: statistics.median(values) for name, values in times.items()}


def _learn(corpus: Corpus, settings: TrainingSettings, threads: int = 1) -> Tagger:
    return train(corpus.train, corpus.dev, corpus.vocabulary, corpus.types, settings, threads=threads)


def _f1(tagger: Tagger, texts: Sequence[GoldText], vocabulary: Vocabulary) -> float:
    return 100 * strict_f1(texts, tagger.tag([text.item for text in texts], vocabulary))


def _against_baseline(corpora: Sequence[Corpus]) -> dict[str, float]:
    """F1 on test of thorough, quick and the tuned baseline, and how long training takes."""
    sides = ("thorough", "same_features", "quick", "baseline")
    scores: dict[str, list[float]] = {side: [] for side in sides}
    times: dict[str, list[float]] = {side: [] for side in sides}
    for corpus in corpora:
        for name, settings in {"thorough": THOROUGH, "same_features": SAME, "quick": QUICK}.items():
            began = time.perf_counter()
            tagger = _learn(corpus, settings)
            times[name].append(time.perf_counter() - began)
            scores[name].append(_f1(tagger, corpus.test, corpus.vocabulary))
        tuned, seconds = tuned_baseline(corpus.train, corpus.dev, corpus.types, 1)
        times["baseline"].append(seconds)
        scores["baseline"].append(100 * strict_f1(corpus.test, tuned.tag(corpus.test)))
    mean = {name: statistics.mean(values) for name, values in scores.items()}
    spent = {name: statistics.median(values) for name, values in times.items()}
    return {
        **{f"f1_{name}": value for name, value in mean.items()},
        "f1_above_baseline": mean["thorough"] - mean["baseline"],
        "f1_above_baseline_same_features": mean["same_features"] - mean["baseline"],
        "f1_quick_below_thorough": mean["thorough"] - mean["quick"],
        "training_times_as_fast": spent["baseline"] / spent["thorough"],
        "quick_time_to_thorough": spent["quick"] / spent["thorough"],
        "training_seconds": spent["thorough"],
    }


def _layer_data(corpus: Corpus, texts: Sequence[GoldText]) -> LayerData:
    layout = lay_out([text.item for text in texts], corpus.types, ())
    forms = corpus.vocabulary.forms
    table = AttributeTable.learn([forms[row - 1] for row in np.unique(layout.word) if row], FORMS)
    lexicon = Lexicon(table, corpus.vocabulary)
    tokens = TokenTable.learn(("pairs",), corpus.types, (), lexicon, layout)
    coding = Coding("BIO", corpus.types)
    labels = label_texts(texts, layout, coding)
    own = tokens.columns(lexicon, layout)
    return LayerData(lexicon, layout, own, labels, coding, len(table), len(tokens))


def _evaluation(data: LayerData) -> Callable[[], object]:
    objective = Objective(data, THOROUGH)
    at = np.random.default_rng(1).normal(0, 0.1, objective.size).astype(np.float32)
    return lambda: objective(at)


def _products(data: LayerData) -> Callable[[], object]:
    """X · W and Xᵀ · P in double precision, X being tokens by features as a plain design has them."""
    layout, lexicon = data.layout, data.lexicon
    parts = []
    ones = np.ones(len(lexicon.column))
    forms = sparse.csr_array((ones, lexicon.column, lexicon.pointer), shape=(len(lexicon), data.attributes))
    for offset in range(-2, 3):
        parts.append(forms[layout.word[layout.position + offset]])
    pointer, column = data.own
    tokens = sparse.csr_array(
        (np.ones(len(column)), column, pointer), shape=(len(layout.word), data.features)
    )
    x = sparse.csr_array(sparse.hstack([*parts, tokens[layout.position]]))
    back = sparse.csr_array(x.T)
    random = np.random.default_rng(1)
    w = random.normal(size=(x.shape[1], data.coding.count))
    p = random.random((x.shape[0], data.coding.count))
    return lambda: (x @ w, back @ p)


def _new_words(texts: Sequence[GoldText]) -> tuple[list[TaggerInput], Vocabulary]:
    """The same texts under a vocabulary that holds nothing else."""
    vocabulary = Vocabulary()
    items = []
    for text in texts:
        old = text.item.analysis
        forms = old.vocabulary.forms
        word = np.array([vocabulary.add(forms[w]) for w in old.word.tolist()], dtype=np.int32)
        items.append(TaggerInput(Analysis(old.body, vocabulary, old.start, old.end, word, old.sentence), ()))
    return items, vocabulary


def _speed(corpus: Corpus) -> dict[str, float]:
    """Evaluation, tagging and threads, on the corpus' first seed."""
    data = _layer_data(corpus, corpus.train)
    small = _layer_data(corpus, corpus.train[: len(corpus.train) // 10])
    took = _turns({"own": _evaluation(data), "plain": _products(data), "small": _evaluation(small)})
    per_token = took["own"] / len(data.layout.position)
    figures = {
        "evaluation_to_plain_products": took["own"] / took["plain"],
        "evaluation_per_token_to_a_tenth": per_token / (took["small"] / len(small.layout.position)),
        "evaluation_seconds": took["own"],
    }
    tagger = _learn(corpus, replace(SAME, epochs=3))
    whole = tagger.lay_out([text.item for text in corpus.train])
    tokens = len(whole.position)
    new = sum(len(text.item.analysis) for text in corpus.test)
    file = to_bytes(tagger)
    baseline = Baseline(corpus.types, 1e-4, 1)
    baseline.fit(corpus.train[: max(100, len(corpus.train) // 10)])
    few = corpus.test[:30]

    def fresh() -> Callable[[], object]:
        # Neither the tagger nor the vocabulary has seen a form of theirs before.
        loaded = from_bytes(file)
        items, vocabulary = _new_words(corpus.test)
        return lambda: loaded.tag_layout(loaded.lay_out(items), vocabulary, with_probabilities=False)

    tagger.tag_layout(whole, corpus.vocabulary, with_probabilities=False)
    times: dict[str, list[float]] = {}
    for _ in range(ROUNDS):
        run = fresh()
        for name, job in {
            "known": lambda: tagger.tag_layout(whole, corpus.vocabulary, with_probabilities=False),
            "likely": lambda: tagger.tag_layout(whole, corpus.vocabulary, with_probabilities=True),
            "new": run,
            "baseline": lambda: baseline.tag(few),
        }.items():
            times.setdefault(name, []).append(_timed(job))
    rate = {name: statistics.median(values) for name, values in times.items()}
    known, likely = tokens / rate["known"], tokens / rate["likely"]
    base = sum(len(text.item.analysis) for text in few) / rate["baseline"]
    figures |= {
        "tagging_times_as_fast": known / base,
        "tagging_new_text_times_as_fast": new / rate["new"] / base,
        "probabilities_speed_to_tagging": likely / known,
        "million_tokens_per_second": known / 1e6,
    }
    learners = {threads: AdaGrad(data, THOROUGH, threads) for threads in (1, 2)}
    order = np.random.default_rng(1).permutation(len(data.layout))

    def epoch(threads: int) -> Callable[[], object]:
        return lambda: learners[threads].epoch(order, lambda: False)

    both = _turns({"one": epoch(1), "two": epoch(2)})
    return figures | {"two_threads_times_as_fast": both["one"] / both["two"]}


def _large(types: int) -> dict[str, float]:
    """Size of the file, what pruning costs, loading, a cold start, and memory in a process of its own."""
    corpus = make_corpus(types, FULL, 101)
    tagger = _learn(corpus, THOROUGH)
    whole = _learn(corpus, replace(THOROUGH, prune=0.0, file_megabytes=10_000))
    lost = _f1(whole, corpus.test, corpus.vocabulary) - _f1(tagger, corpus.test, corpus.vocabulary)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "tagger"
        file.write_bytes(to_bytes(tagger))
        loading = statistics.median(_timed(lambda: read_file(file)) for _ in range(ROUNDS))

        def cold() -> None:
            subprocess.run(
                [sys.executable, "-m", "urdaten", "tagger", "tag", str(file)],
                input=b'{"text": "Pellin sailed."}\n',
                stdout=subprocess.DEVNULL,
                check=True,
            )

        start = statistics.median(_timed(cold) for _ in range(ROUNDS))
        size = file.stat().st_size / 1e6
    code = (
        f"import sys; sys.path.insert(0, {str(Path(__file__).parent)!r})\n"
        "from _synthetic import make_corpus\n"
        "from urdaten.core.tagger import PRESETS, train\n"
        "from dataclasses import replace\n"
        f"c = make_corpus({types}, {FULL}, 101)\n"
        "train(c.train, c.dev, c.vocabulary, c.types, replace(PRESETS['thorough'], epochs=2))\n"
        # Of this process alone: what the system says of a child counts what its parent had when it began.
        "print(next(line for line in open('/proc/self/status') if line.startswith('VmHWM')).split()[1])\n"
    )
    told = subprocess.run([sys.executable, "-c", code], check=True, stdout=subprocess.PIPE)
    peak = int(told.stdout) / 1e3
    return {
        "model_megabytes": size,
        "f1_lost_by_pruning": lost,
        "loading_seconds": loading,
        "cold_start_seconds": start,
        "peak_megabytes": peak,
    }


def _demo(seeds: Sequence[int]) -> dict[str, float]:
    """F1 on the demo's test split; both sides see what lists and rules find."""
    demo = demo_texts()
    items = [text.item for text in demo.test]

    def score(settings: TrainingSettings, seed: int) -> float:
        tagger = train(
            demo.train,
            demo.dev,
            demo.vocabulary,
            demo.types,
            replace(settings, seed=seed),
            unsigned=demo.unsigned,
            general=general_lexicon(),
        )
        return 100 * strict_f1(demo.test, tagger.tag(items, demo.vocabulary))

    thorough = statistics.mean(score(THOROUGH, seed) for seed in seeds)
    quick = statistics.mean(score(QUICK, seed) for seed in seeds)
    tuned = [tuned_baseline(demo.train, demo.dev, demo.types, seed)[0] for seed in seeds]
    baseline = statistics.mean(100 * strict_f1(demo.test, one.tag(demo.test)) for one in tuned)
    return {
        "demo_f1_thorough": thorough,
        "demo_f1_quick": quick,
        "demo_f1_baseline": baseline,
        "demo_f1_above_baseline": thorough - baseline,
    }
