"""Assembling records: spans are linked to the nearest anchor, and to the field whose cue is nearest."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from urdaten.core.records.template import Field, Template
from urdaten.core.spans.span import Span
from urdaten.core.text import Analysis, fold

# How many tokens before a span a cue may stand.
CUE_REACH = 8
_CLAUSE_MARKS = frozenset(";.!?")


@dataclass(frozen=True, kw_only=True)
class Part:
    """One span's share in a value, and the decisions that put it there."""

    span: Span
    written: str
    value: str
    why: str


@dataclass
class Record:
    """Parts per field name. Fields that nothing fills are absent."""

    template: Template
    parts: dict[str, list[Part]] = field(default_factory=dict)
    # Spans that would have filled a field that was already filled with another value.
    rivals: list[tuple[str, Part]] = field(default_factory=list)

    def value(self, name: str) -> str:
        """A field's value, "" where there is none; parts stand in the order of the field's types."""
        return " ".join(part.value for part in self.parts.get(name, ()))

    @property
    def missing(self) -> list[str]:
        return [f.name for f in self.template.fields if f.required and f.name not in self.parts]


@dataclass
class _Anchor:
    token: int
    sentence: int
    record: Record


def assemble(
    analysis: Analysis,
    spans: Sequence[Span],
    template: Template,
    preferred: Callable[[str, str], str | None] = lambda _surface, _type: None,
) -> list[Record]:
    """Records of one text, in the order of their anchors.

    `preferred(surface, type)` gives the preferred name of a list entry, or None.
    """
    anchor_field = template.anchor_field
    by_type: dict[str, list[Field]] = {}
    for f in template.fields:
        if f.name != template.anchor:
            for code in f.types:
                by_type.setdefault(code, []).append(f)

    def part(span: Span, why: str) -> Part:
        written = analysis.body[span.start : span.end]
        name = preferred(written, span.type)
        value = name or " ".join(written.split())
        if name and fold(name) != fold(written):
            why += f"; list name “{name}”"
        return Part(span=span, written=written, value=value, why=why)

    records: dict[str, Record] = {}
    anchors: list[_Anchor] = []
    for span in sorted(spans):
        if span.type in anchor_field.types:
            token, _ = analysis.token_range(span.start, span.end)
            made = part(span, "anchor")
            record = records.setdefault(fold(made.value), Record(template))
            record.parts.setdefault(template.anchor, [made])
            anchors.append(_Anchor(token, int(analysis.sentence[token]), record))
    # What stands in the sentence of an anchor has the first word; the rest fills what is left.
    anchored = {a.sentence for a in anchors}
    for near in (True, False):
        for span in sorted(spans):
            fields = by_type.get(span.type)
            if span.type in anchor_field.types or not fields or not anchors:
                continue
            token, _ = analysis.token_range(span.start, span.end)
            chosen = _field_for(analysis, token, fields)
            if chosen is None or (int(analysis.sentence[token]) in anchored) != near:
                continue
            record, link = _nearest(anchors, analysis, token, anchor_field)
            target, reason = chosen
            _put(record, target, part(span, f"{reason}; {link}"))
    return list(records.values())


def _nearest(
    anchors: list[_Anchor], analysis: Analysis, token: int, anchor_field: Field
) -> tuple[Record, str]:
    sentence = int(analysis.sentence[token])
    name = anchor_field.name
    here = [a for a in anchors if a.sentence == sentence]
    before = [a for a in here if a.token < token]
    if before:
        return before[-1].record, f"nearest {name} before it in the sentence"
    if here:
        return here[0].record, f"nearest {name} after it in the sentence"
    earlier = [a for a in anchors if a.token < token]
    if earlier:
        return earlier[-1].record, f"last {name} named before this sentence"
    return anchors[0].record, f"first {name} named after this sentence"


def _field_for(analysis: Analysis, token: int, fields: Sequence[Field]) -> tuple[Field, str] | None:
    """The field whose cue stands nearest before the token, else a field without cues, else none."""
    forms = analysis.vocabulary.forms
    cue_of = {fold(cue): f for f in fields for cue in f.cues}
    sentence = analysis.sentence[token]
    for at in range(token - 1, max(-1, token - 1 - CUE_REACH), -1):
        word = forms[analysis.word[at]]
        if analysis.sentence[at] != sentence or word in _CLAUSE_MARKS:
            break
        if fold(word) in cue_of:
            return cue_of[fold(word)], f"after “{word}”"
    plain = next((f for f in fields if not f.cues), None)
    return (plain, "only field for its type") if plain else None


def _put(record: Record, target: Field, made: Part) -> None:
    parts = record.parts.setdefault(target.name, [])
    same = next((p for p in parts if p.span.type == made.span.type), None)
    if same is None:
        parts.append(made)
        parts.sort(key=lambda p: target.types.index(p.span.type))
    elif fold(same.value) != fold(made.value):
        record.rivals.append((target.name, made))
