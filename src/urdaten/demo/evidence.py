"""What the demo's lists and rules find."""

from __future__ import annotations

from urdaten.core.lists import Gazetteer
from urdaten.core.pipeline import ListStage, RuleStage, trace
from urdaten.core.spans import Span
from urdaten.core.text import Batch
from urdaten.demo.files import Demo


def found_in(demo: Demo, batch: Batch) -> list[list[Span]]:
    """Of each text of a batch, what rules have left of what lists find, and what they find themselves."""
    steps = trace([ListStage(Gazetteer(demo.lists)), RuleStage(demo.compiled_rules)], batch)
    return steps[-1].after.spans(len(batch))
