"""Record templates, and the assembly of records from spans."""

from urdaten.core.records.assembly import Assembler, assemble
from urdaten.core.records.baseline import nearest_before
from urdaten.core.records.learntfile import from_bytes as learnt_from
from urdaten.core.records.learntfile import to_bytes as learnt_bytes
from urdaten.core.records.linker import Linker, Speaks
from urdaten.core.records.material import About
from urdaten.core.records.naming import MOST_NAMES, Named, Names
from urdaten.core.records.opening import Opener
from urdaten.core.records.record import Linked, Part, Record, Settled, TextRecords
from urdaten.core.records.schema import schema_of, template_of
from urdaten.core.records.scoring import Entry, RecordScores, score_records
from urdaten.core.records.teaching import LEAST_RECORDS, Signed, Signings, fitting_spans, lesson_of, teach
from urdaten.core.records.telling import why_words
from urdaten.core.records.template import Field, Template

__all__ = [
    "LEAST_RECORDS",
    "MOST_NAMES",
    "About",
    "Assembler",
    "Entry",
    "Field",
    "Linked",
    "Linker",
    "Named",
    "Names",
    "Opener",
    "Part",
    "Record",
    "RecordScores",
    "Settled",
    "Signed",
    "Signings",
    "Speaks",
    "Template",
    "TextRecords",
    "assemble",
    "fitting_spans",
    "learnt_bytes",
    "learnt_from",
    "lesson_of",
    "nearest_before",
    "schema_of",
    "score_records",
    "teach",
    "template_of",
    "why_words",
]
