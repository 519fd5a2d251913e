"""What `urdaten run` writes: spans or records, as JSON Lines, CSV or Parquet."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any

from urdaten.cli.run_texts import Text
from urdaten.core.bundle import Extraction
from urdaten.core.formats import write_csv, write_json_lines
from urdaten.core.records import Template
from urdaten.errors import BadFile, BadInput

FORMS = ("jsonl", "csv", "parquet")
SPAN_COLUMNS = ("text", "source", "id", "group", "start", "end", "type", "words", "probability", "from")
_ABOUT = ("text", "source", "id", "group")
# Rows of a portion, and what went wrong in its texts.
Told = tuple[Any, int, tuple[str, ...]]


class Rows:
    """Puts what was found into rows; it is where the texts are read."""

    def __init__(self, form: str, template: Template | None, *, why: bool = False) -> None:
        self._form, self._template, self._why = form, template, why

    @property
    def columns(self) -> tuple[str, ...]:
        """Those of a table."""
        if self._template is not None:
            return (*_ABOUT, *(f.name for f in self._template.fields))
        return (*SPAN_COLUMNS, "why") if self._why else SPAN_COLUMNS

    def tell(self, found: Sequence[Extraction]) -> Told:
        """The rows of some texts: lines, or for Parquet columns; how many texts they are of, and what went wrong."""
        troubles = tuple(f"text {_text(one).number}: {trouble}" for one in found for trouble in one.troubles)
        if self._form == "jsonl":
            objects = (row for one in found for row in self._objects(one))
            return "".join(write_json_lines(objects)), len(found), troubles
        rows = [row for one in found for row in self._cells(one)]
        if self._form == "parquet":
            return [list(column) for column in zip(*rows, strict=True)], len(found), troubles
        lines = list(write_csv(self.columns, [["" if c is None else str(c) for c in row] for row in rows]))
        return "".join(lines[1:]), len(found), troubles

    def _objects(self, one: Extraction) -> Iterator[dict[str, Any]]:
        text = _text(one)
        about = {name: value for name in ("id", "group", "source") if (value := getattr(text, name))}
        if self._template is not None:
            for record in one.records:
                fields = {
                    f.name: record.value(f.name) for f in self._template.fields if f.name in record.values
                }
                yield {"number": text.number, **about, "fields": fields, "missing": record.missing}
            return
        row: dict[str, Any] = {"text": text.text, **about}
        if text.meta:
            row["meta"] = dict(text.meta)
        row["spans"] = [
            {
                "start": span.start,
                "end": span.end,
                "type": span.type,
                "probability": _short(span.probability),
                "from": span.source,
                **({"why": span.why} if self._why else {}),
            }
            for span in one.spans
        ]
        yield row

    def _cells(self, one: Extraction) -> Iterator[tuple[Any, ...]]:
        text = _text(one)
        about = (text.number, text.source, text.id, text.group)
        if self._template is not None:
            for record in one.records:
                yield (*about, *(record.value(f.name) for f in self._template.fields))
            return
        for s in one.spans:
            words = text.text[s.start : s.end]
            row = (*about, s.start, s.end, s.type, words, _short(s.probability), s.source)
            yield (*row, s.why) if self._why else row


def _short(probability: float | None) -> float | None:
    # As many figures as there are in single precision.
    return None if probability is None else float(f"{probability:.7g}")


def _text(one: Extraction) -> Text:
    assert isinstance(one.text, Text)
    return one.text


def form_of(form: str, out: Path | None) -> str:
    """What is written, where it is not said: by the ending of the file. Raises BadInput."""
    found = form or (out.suffix.removeprefix(".") if out else "") or "jsonl"
    if found not in FORMS:
        raise BadInput(f"Spans are written as {', '.join(FORMS)}, not {found!r}.", field="--to")
    if found == "parquet" and out is None:
        raise BadInput("Parquet goes into a file; name it with --out.", field="--out")
    return found


@contextmanager
def writing(form: str, columns: Sequence[str], out: Path | None) -> Iterator[Callable[[Any], object]]:
    """Takes the rows of one portion after the other; a file is there when all of it is. Raises BadFile."""
    if out is None:
        if form == "csv":
            sys.stdout.writelines(write_csv(columns, []))
        yield sys.stdout.write
        return
    part = out.with_name(f"{out.name}.part")
    try:
        try:
            with _parquet(part, columns) if form == "parquet" else _lines(part, form, columns) as write:
                yield write
        except OSError as fault:
            raise BadFile(f"{out} cannot be written: {fault.strerror}.") from fault
        part.replace(out)
    finally:
        part.unlink(missing_ok=True)


@contextmanager
def _lines(part: Path, form: str, columns: Sequence[str]) -> Iterator[Callable[[Any], object]]:
    with part.open("w", encoding="utf-8", newline="") as file:
        lines: IO[str] = file
        if form == "csv":
            lines.writelines(write_csv(columns, []))
        yield lines.write


@contextmanager
def _parquet(part: Path, columns: Sequence[str]) -> Iterator[Callable[[Any], object]]:
    import pyarrow as pa
    from pyarrow import parquet

    kinds = {"text": pa.int64(), "start": pa.int64(), "end": pa.int64(), "probability": pa.float32()}
    # A field of a record may be called like one of these.
    spans = tuple(columns[: len(SPAN_COLUMNS)]) == SPAN_COLUMNS
    schema = pa.schema(
        [
            (name, kinds.get(name, pa.string()) if spans or k == 0 else pa.string())
            for k, name in enumerate(columns)
        ]
    )
    with parquet.ParquetWriter(part, schema) as file:

        def write(values: list[list[Any]]) -> None:
            if values:
                arrays = [pa.array(own, kind) for own, kind in zip(values, schema.types, strict=True)]
                file.write_batch(pa.record_batch(arrays, schema=schema))

        yield write
