"""From lanes of evidence to one answer."""

from urdaten.core.pipeline.resolve import ORDER, resolve

__all__ = ["ORDER", "resolve"]
