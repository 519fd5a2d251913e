"""Bundles: one file with everything that a pipeline needs, which runs without any database."""

from urdaten.core.bundle.bundle import (
    Bundle,
    BundledRule,
    BundledTagger,
    gathered_lists,
)
from urdaten.core.bundle.file import FORMAT, PARTS, from_bytes, read_file, to_bytes
from urdaten.core.bundle.running import LARGEST_GROUP, Extraction, Incoming, Runner, portions

__all__ = [
    "FORMAT",
    "LARGEST_GROUP",
    "PARTS",
    "Bundle",
    "BundledRule",
    "BundledTagger",
    "Extraction",
    "Incoming",
    "Runner",
    "from_bytes",
    "gathered_lists",
    "portions",
    "read_file",
    "to_bytes",
]
