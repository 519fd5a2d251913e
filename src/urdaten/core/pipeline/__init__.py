"""From lanes of evidence to one answer, and what they say of a sentence's worth to an annotator."""

from urdaten.core.pipeline.resolve import ORDER, resolve
from urdaten.core.pipeline.urgency import disputes, doubt

__all__ = ["ORDER", "disputes", "doubt", "resolve"]
