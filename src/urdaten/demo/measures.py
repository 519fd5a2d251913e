"""What the demo files hold, and the rules that they keep."""

from __future__ import annotations

from collections import Counter

from urdaten.core.rules import try_examples
from urdaten.core.text import analyse
from urdaten.demo.files import Demo

SPLITS = ("train", "dev", "test")


def measure(demo: Demo) -> tuple[dict[str, object], list[str]]:
    """(figures by name, what is wrong in words)."""
    faults: list[str] = []
    codes = [t.code for t in demo.types]
    spans: Counter[str] = Counter()
    splits: Counter[str] = Counter()
    sentences = tokens = 0
    openings: Counter[tuple[str, ...]] = Counter()
    surfaces: dict[str, set[str]] = {name: set() for name in SPLITS}
    test_spans: list[str] = []
    for bulletin in demo.bulletins:
        analysis = analyse(bulletin.body, demo.language)
        bounds = analysis.sentence_bounds()
        sentences += len(bounds)
        tokens += len(analysis)
        splits[bulletin.split if bulletin.signed else "unsigned"] += 1
        starts, ends = set(analysis.start.tolist()), set(analysis.end.tolist())
        for start, end in bounds:
            words = analysis.body[start:end].casefold().split()
            if len(words) > 4:
                openings[tuple(words[:4])] += 1
        for span in bulletin.gold:
            surface = bulletin.body[span.start : span.end]
            spans[span.type] += 1
            if span.type not in codes:
                faults.append(f"{bulletin.title}: “{surface}” has the unknown type {span.type}")
            if span.start not in starts or span.end not in ends:
                faults.append(f"{bulletin.title}: “{surface}” does not lie on token bounds")
            if not any(a <= span.start and span.end <= b for a, b in bounds):
                faults.append(f"{bulletin.title}: “{surface}” runs over the end of a sentence")
            if bulletin.split in surfaces and bulletin.signed:
                surfaces[bulletin.split].add(surface.casefold())
                if bulletin.split == "test":
                    test_spans.append(surface.casefold())
    repeated = [" ".join(words) for words, count in openings.items() if count > max(2, sentences // 100)]
    faults += [
        f"{count} sentences open with “{words}”"
        for words, count in openings.items()
        if " ".join(words) in repeated
    ]
    bodies = Counter(b.body for b in demo.bulletins)
    faults += [f"a bulletin stands there {n} times: {body[:40]!r}" for body, n in bodies.items() if n > 1]
    failing = sum(
        not result.holds
        for r in demo.rules
        for result in try_examples(r.rule, list(r.must_find), list(r.must_not_find), demo.language)
    )
    unseen = sum(s not in surfaces["train"] for s in test_spans) / max(1, len(test_spans))
    figures: dict[str, object] = {
        "bulletins": len(demo.bulletins),
        "sentences": sentences,
        "tokens": tokens,
        "gold spans": sum(spans.values()),
        **{f"gold spans, {code}": spans[code] for code in codes},
        **{f"bulletins, {name}": splits[name] for name in (*SPLITS, "unsigned")},
        "unseen test surfaces": round(unseen, 3),
        "voices": len({b.voice for b in demo.bulletins}),
        "list entries": sum(len(x.entries) for x in demo.lists),
        "rules": len(demo.rules),
        "failing rule examples": failing,
    }
    faults += [f"no gold span has the type {code}" for code in codes if not spans[code]]
    return figures, faults
