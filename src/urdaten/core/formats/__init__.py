"""Readers and writers of open formats."""

from urdaten.core.formats.bounds import CheckedText, read_bounds
from urdaten.core.formats.columns import read_columns, write_columns
from urdaten.core.formats.marked import read_marked, write_marked
from urdaten.core.formats.names import Name, read_names
from urdaten.core.formats.samples import Sample, read_samples, stream_samples, write_samples
from urdaten.core.formats.scheme import (
    Scheme,
    SchemeFormat,
    SchemeType,
    read_scheme,
    scheme_from,
    scheme_values,
    write_scheme,
)
from urdaten.core.formats.tables import write_csv, write_json_lines
from urdaten.core.formats.texts import read_texts

__all__ = [
    "CheckedText",
    "Name",
    "Sample",
    "Scheme",
    "SchemeFormat",
    "SchemeType",
    "read_bounds",
    "read_columns",
    "read_marked",
    "read_names",
    "read_samples",
    "read_scheme",
    "read_texts",
    "scheme_from",
    "scheme_values",
    "stream_samples",
    "write_columns",
    "write_csv",
    "write_json_lines",
    "write_marked",
    "write_samples",
    "write_scheme",
]
