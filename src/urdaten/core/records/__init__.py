"""Record templates and the assembly of records from spans."""

from urdaten.core.records.assembly import Part, Record, assemble
from urdaten.core.records.template import Field, Template

__all__ = ["Field", "Part", "Record", "Template", "assemble"]
