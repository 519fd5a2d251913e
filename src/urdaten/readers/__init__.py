"""Readers of sources: files of many kinds to documents."""

from urdaten.readers.corpora import corpus_of
from urdaten.readers.document import (
    NAME_ROLES,
    ROLES,
    Beat,
    Column,
    Document,
    Found,
    How,
    HowNames,
    Item,
    NameRow,
    Names,
    Refusal,
)
from urdaten.readers.guarded import Ended, Limits, read_guarded
from urdaten.readers.kinds import READERS
from urdaten.readers.limits import MOST_BYTES
from urdaten.readers.reading import read_source
from urdaten.readers.site import Crawl, Fetched, fetch_site
from urdaten.readers.sources import files_of

__all__ = [
    "MOST_BYTES",
    "NAME_ROLES",
    "READERS",
    "ROLES",
    "Beat",
    "Column",
    "Crawl",
    "Document",
    "Ended",
    "Fetched",
    "Found",
    "How",
    "HowNames",
    "Item",
    "Limits",
    "NameRow",
    "Names",
    "Refusal",
    "corpus_of",
    "fetch_site",
    "files_of",
    "read_guarded",
    "read_source",
]
