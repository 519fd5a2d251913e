"""Web Annotation (W3C, JSON-LD): for each text a page of annotations, a line each, with the text that they are about.

An annotation's body is a `TextualBody` that classifies; its target names the text and selects the words twice: by position, in
code points, and by quotation with what stands around it, so that it is found again in a text that has changed. `describedBy` of
the text says besides what is known of it, and which of its sentences are signed.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from typing import Any

from urdaten.core.formats.corpus import (
    CorpusText,
    checked_label,
    head_of,
    sentences_of,
    told_sentences,
    with_head,
)
from urdaten.core.formats.samples import read_json
from urdaten.core.spans import Span
from urdaten.errors import BadFile

CONTEXT = "http://www.w3.org/ns/anno.jsonld"
# Code points of context on either side of a quotation.
AROUND = 32
_POSITION, _QUOTE = "TextPositionSelector", "TextQuoteSelector"


def address_of(body: str) -> str:
    """A text by what it says."""
    return f"urn:sha256:{hashlib.sha256(body.encode()).hexdigest()}"


def write_web_annotations(texts: Iterable[CorpusText]) -> Iterator[str]:
    """A line, an AnnotationPage, for each text."""
    for text in texts:
        address = address_of(text.body)
        source = {"id": address, "type": "Text", "format": "text/plain", "value": text.body}
        page = {
            "@context": CONTEXT,
            "id": f"{address}#annotations",
            "type": "AnnotationPage",
            "source": source | {"describedBy": head_of(text) | told_sentences(text)},
            "items": [
                _annotation(f"{address}#{number}", address, span, text.body)
                for number, span in enumerate(text.spans, start=1)
            ],
        }
        yield json.dumps(page, ensure_ascii=False) + "\n"


def _annotation(name: str, address: str, span: Span, body: str) -> dict[str, Any]:
    quote = {
        "type": _QUOTE,
        "exact": body[span.start : span.end],
        "prefix": body[max(0, span.start - AROUND) : span.start],
        "suffix": body[span.end : span.end + AROUND],
    }
    return {
        "id": name,
        "type": "Annotation",
        "motivation": "classifying",
        "body": {"type": "TextualBody", "purpose": "classifying", "value": span.type},
        "target": {
            "source": address,
            "selector": [{"type": _POSITION, "start": span.start, "end": span.end}, quote],
        },
    }


def read_web_annotations(
    lines: Iterable[str], bodies: Mapping[str, str] | None = None
) -> Iterator[CorpusText]:
    """The texts of a file, a page or an annotation a line, each page with its text.

    bodies: texts by their addresses, for pages that do not hold theirs. Raises BadFile with the line.
    """
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        try:
            yield _text(read_json(line), bodies or {})
        except BadFile as fault:
            raise BadFile(f"Line {number}: {fault.message}", line=number) from fault


def _text(told: object, bodies: Mapping[str, str]) -> CorpusText:
    if not isinstance(told, dict):
        raise BadFile("a page of annotations is an object.")
    page: dict[str, Any] = told
    if page.get("type") == "AnnotationCollection" and isinstance(page.get("first"), dict):
        page = page["first"]
    items = page.get("items") if "items" in page else [page]
    if not isinstance(items, list) or not all(isinstance(item, dict) for item in items):
        raise BadFile("“items” is a list of annotations.")
    source = page.get("source")
    head: dict[str, Any] = {}
    if isinstance(source, dict):
        body = source.get("value")
        head = source.get("describedBy") or {}
        if not isinstance(head, dict):
            raise BadFile("“describedBy” is no object.")
    else:
        named = {_source_of(item) for item in items}
        body = bodies.get(next(iter(named), "")) if len(named) == 1 else None
    if not isinstance(body, str):
        raise BadFile(
            "the text that the annotations are about is not there: “source” with its “value” is wanted."
        )
    spans = {_span(item, body) for item in items}
    made = with_head(CorpusText(body=body, sentences=sentences_of(head, body)), head)
    return replace(made, spans=tuple(sorted(spans)))


def _source_of(item: Mapping[str, Any]) -> str:
    target = item.get("target")
    source = target.get("source") if isinstance(target, dict) else target
    if isinstance(source, dict):
        source = source.get("id")
    return source if isinstance(source, str) else ""


def _span(item: Mapping[str, Any], body: str) -> Span:
    target = item.get("target")
    if not isinstance(target, dict):
        raise BadFile("an annotation's target is an object with a “selector”.")
    selectors = target.get("selector")
    found = [
        one for one in (selectors if isinstance(selectors, list) else [selectors]) if isinstance(one, dict)
    ]
    position = next((one for one in found if one.get("type") == _POSITION), None)
    quote = next((one for one in found if one.get("type") == _QUOTE), None)
    start, end = selected(body, position, quote)
    return Span(start, end, checked_label(_label(item.get("body"))))


def _label(body: object) -> object:
    """What the annotation says: the value that classifies or tags, else the first one."""
    said: list[dict[str, Any]] = [
        one if isinstance(one, dict) else {"value": one}
        for one in (body if isinstance(body, list) else [body])
    ]
    ranked = sorted(said, key=lambda one: one.get("purpose") not in ("classifying", "tagging"))
    return ranked[0].get("value") if ranked else None


def selected(
    body: str, position: Mapping[str, Any] | None, quote: Mapping[str, Any] | None
) -> tuple[int, int]:
    """Bounds of the words that are selected, half-open, in code points.

    A position is believed where the quotation stands there, or there is none. Otherwise the quotation is looked for, with what
    stands around it. Raises BadFile where it is not there, or there more than once.
    """
    start = end = -1
    if position is not None:
        start, end = position.get("start", -1), position.get("end", -1)
        if type(start) is not int or type(end) is not int or not 0 <= start < end:
            raise BadFile(f"a position has whole numbers “start” and “end”, not {start!r} and {end!r}.")
    if quote is None:
        if not 0 <= start < end <= len(body):
            raise BadFile("the selector points at nothing in the text.")
        return start, end
    exact, prefix, suffix = (quote.get(name) or "" for name in ("exact", "prefix", "suffix"))
    if not all(isinstance(words, str) for words in (exact, prefix, suffix)) or not exact:
        raise BadFile("a quotation has “exact” words, and “prefix” and “suffix” where wanted.")
    if body[start:end] == exact and start >= 0:
        return start, end
    places = list(_places(body, exact))
    fitting = [at for at in places if body[:at].endswith(prefix) and body.startswith(suffix, at + len(exact))]
    chosen = fitting or places
    if len(chosen) != 1:
        how = "not in the text" if not chosen else f"{len(chosen)} times in the text"
        raise BadFile(f"the words “{exact[:60]}” stand {how}.")
    return chosen[0], chosen[0] + len(exact)


def _places(body: str, words: str) -> Iterator[int]:
    at = body.find(words)
    while at >= 0:
        yield at
        at = body.find(words, at + 1)
