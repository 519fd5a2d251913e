"""Every table, so that the metadata is whole wherever it is looked at."""

from urdaten.places.desk import tables as desk
from urdaten.places.intake import tables as intake
from urdaten.places.lists import tables as lists
from urdaten.places.pipeline import tables as pipeline
from urdaten.places.records import tables as records
from urdaten.places.rules import tables as rules
from urdaten.places.scores import tables as scores
from urdaten.places.tagger import tables as tagger
from urdaten.places.team import tables as team
from urdaten.places.texts import tables as texts
from urdaten.places.types import tables as types
from urdaten.platform import accounts, jobs, revisions, sessions
from urdaten.platform.database import Base

METADATA = Base.metadata

__all__ = [
    "METADATA",
    "accounts",
    "desk",
    "intake",
    "jobs",
    "lists",
    "pipeline",
    "records",
    "revisions",
    "rules",
    "scores",
    "sessions",
    "tagger",
    "team",
    "texts",
    "types",
]
