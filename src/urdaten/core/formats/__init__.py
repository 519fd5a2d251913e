"""Readers and writers of open formats."""

from urdaten.core.formats.bounds import CheckedText, read_bounds
from urdaten.core.formats.codes import free_code, letters_of
from urdaten.core.formats.columns import read_columns, write_columns
from urdaten.core.formats.conllu import read_conllu, write_conllu
from urdaten.core.formats.corpus import (
    CorpusSentence,
    CorpusText,
    analysed,
    read_corpus,
    write_corpus,
)
from urdaten.core.formats.exports import CORPUS_FORMATS, CorpusFormat, Shape
from urdaten.core.formats.folds import folds_of
from urdaten.core.formats.label_columns import read_label_columns, write_label_columns
from urdaten.core.formats.labels import labels_of, layers_of, spans_of
from urdaten.core.formats.marked import read_marked, write_marked
from urdaten.core.formats.name_files import NAME_FORMATS, ListedName, NameFormat, write_names
from urdaten.core.formats.names import Name, read_names
from urdaten.core.formats.samples import Sample, read_json, read_samples, stream_samples, write_samples
from urdaten.core.formats.scheme import (
    Scheme,
    SchemeFormat,
    SchemeType,
    read_scheme,
    scheme_from,
    scheme_values,
    write_scheme,
)
from urdaten.core.formats.skos import (
    Concept,
    SkosFormat,
    read_concepts,
    read_skos,
    write_concepts,
    write_skos,
)
from urdaten.core.formats.tables import write_csv, write_json_lines
from urdaten.core.formats.texts import read_texts
from urdaten.core.formats.web_annotations import read_web_annotations, write_web_annotations
from urdaten.core.formats.workbook import write_workbook

__all__ = [
    "CORPUS_FORMATS",
    "NAME_FORMATS",
    "CheckedText",
    "Concept",
    "CorpusFormat",
    "CorpusSentence",
    "CorpusText",
    "ListedName",
    "Name",
    "NameFormat",
    "Sample",
    "Scheme",
    "SchemeFormat",
    "SchemeType",
    "Shape",
    "SkosFormat",
    "analysed",
    "folds_of",
    "free_code",
    "labels_of",
    "layers_of",
    "letters_of",
    "read_bounds",
    "read_columns",
    "read_concepts",
    "read_conllu",
    "read_corpus",
    "read_json",
    "read_label_columns",
    "read_marked",
    "read_names",
    "read_samples",
    "read_scheme",
    "read_skos",
    "read_texts",
    "read_web_annotations",
    "scheme_from",
    "scheme_values",
    "spans_of",
    "stream_samples",
    "write_columns",
    "write_concepts",
    "write_conllu",
    "write_corpus",
    "write_csv",
    "write_json_lines",
    "write_label_columns",
    "write_marked",
    "write_names",
    "write_samples",
    "write_scheme",
    "write_skos",
    "write_web_annotations",
    "write_workbook",
]
