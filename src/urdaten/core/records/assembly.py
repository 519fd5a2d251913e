"""Assembling records: spans are linked to the nearest anchor, and to the field whose cue is nearest."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from urdaten.core.records.template import Field, Template
from urdaten.core.spans import Span
from urdaten.core.text import Analysis, fold, token_forms

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
    """One mention of what a record is about, and the parts that its own sentence gives to it."""

    token: int
    sentence: int
    made: Part
    near: list[tuple[Field, Part]] = field(default_factory=list)


def assemble(
    analysis: Analysis,
    spans: Sequence[Span],
    template: Template,
    preferred: Callable[[str, str], str | None] = lambda _surface, _type: None,
) -> list[Record]:
    """Records of one text, in the order of their anchors.

    Mentions of one value are one record for as long as what their sentences say of it agrees; a mention whose sentence
    gives a field another value begins a record of its own. `preferred(surface, type)` gives the preferred name of a list
    entry, or None.
    """
    anchor_field = template.anchor_field
    by_type: dict[str, list[Field]] = {}
    for f in template.fields:
        if f.name != template.anchor:
            for code in f.types:
                by_type.setdefault(code, []).append(f)
    cues = _Cues(analysis)

    def part(span: Span, why: str) -> Part:
        written = analysis.body[span.start : span.end]
        name = preferred(written, span.type)
        value = name or " ".join(written.split())
        if name and fold(name) != fold(written):
            why += f"; list name “{name}”"
        return Part(span=span, written=written, value=value, why=why)

    placed = [(span, token) for span in sorted(spans) if (token := analysis.token_at(span.start)) is not None]
    anchors = [
        _Anchor(token, int(analysis.sentence[token]), part(span, "anchor"))
        for span, token in placed
        if span.type in anchor_field.types
    ]
    if not anchors:
        return []
    # What stands in the sentence of an anchor has the first word; the rest fills what is left.
    anchored = {a.sentence for a in anchors}
    rest: list[tuple[_Anchor, Field, Part]] = []
    for span, token in placed:
        fields = by_type.get(span.type)
        chosen = cues.field_for(token, fields) if fields and span.type not in anchor_field.types else None
        if chosen is None:
            continue
        anchor, link = _nearest(anchors, int(analysis.sentence[token]), token, anchor_field)
        target, reason = chosen
        made = part(span, f"{reason}; {link}")
        if int(analysis.sentence[token]) in anchored:
            anchor.near.append((target, made))
        else:
            rest.append((anchor, target, made))
    records: list[Record] = []
    of_value: dict[str, Record] = {}
    of_anchor: dict[int, Record] = {}
    for anchor in anchors:
        record = of_value.get(fold(anchor.made.value))
        if record is None or any(_differs(record, target, made) for target, made in anchor.near):
            record = of_value[fold(anchor.made.value)] = Record(template, {template.anchor: [anchor.made]})
            records.append(record)
        of_anchor[id(anchor)] = record
        for target, made in anchor.near:
            _put(record, target, made)
    for anchor, target, made in rest:
        _put(of_anchor[id(anchor)], target, made)
    return records


def _nearest(anchors: list[_Anchor], sentence: int, token: int, anchor_field: Field) -> tuple[_Anchor, str]:
    name = anchor_field.name
    here = [a for a in anchors if a.sentence == sentence]
    before = [a for a in here if a.token < token]
    if before:
        return before[-1], f"nearest {name} before it in the sentence"
    if here:
        return here[0], f"nearest {name} after it in the sentence"
    earlier = [a for a in anchors if a.token < token]
    if earlier:
        return earlier[-1], f"last {name} named before this sentence"
    return anchors[0], f"first {name} named after this sentence"


class _Cues:
    """Looks for cues before a token of one text."""

    def __init__(self, analysis: Analysis) -> None:
        self._analysis = analysis
        self._tokens: dict[str, tuple[str, ...]] = {}

    def field_for(self, token: int, fields: Sequence[Field]) -> tuple[Field, str] | None:
        """The field whose cue ends nearest before the token, the longest of those that end there; else a field without
        cues, else none."""
        cues = [(cue, f) for f in fields for cue in map(self._cut, f.cues) if cue]
        longest = max((len(cue) for cue, _ in cues), default=0)
        words = self._words_before(token, CUE_REACH + longest)
        folded = tuple(map(fold, words))
        for end in range(len(words), max(0, len(words) - CUE_REACH), -1):
            told = [(cue, f) for cue, f in cues if folded[max(0, end - len(cue)) : end] == cue]
            if told:
                cue, found = max(told, key=lambda one: len(one[0]))
                return found, f"after “{' '.join(words[end - len(cue) : end])}”"
            if words[end - 1] in _CLAUSE_MARKS:
                break
        plain = next((f for f in fields if not f.cues), None)
        return (plain, "only field for its type") if plain else None

    def _words_before(self, token: int, most: int) -> list[str]:
        """The last words before it in its sentence."""
        column, forms = self._analysis.sentence, self._analysis.vocabulary.forms
        first = max(int(column.searchsorted(column[token])), token - most)
        return [forms[word] for word in self._analysis.word[first:token].tolist()]

    def _cut(self, cue: str) -> tuple[str, ...]:
        if cue not in self._tokens:
            self._tokens[cue] = tuple(map(fold, token_forms(cue)))
        return self._tokens[cue]


def _differs(record: Record, target: Field, made: Part) -> bool:
    """Does the field hold another value of this type?"""
    return any(
        held.span.type == made.span.type and fold(held.value) != fold(made.value)
        for held in record.parts.get(target.name, ())
    )


def _put(record: Record, target: Field, made: Part) -> None:
    parts = record.parts.setdefault(target.name, [])
    same = next((p for p in parts if p.span.type == made.span.type), None)
    if same is None:
        parts.append(made)
        parts.sort(key=lambda p: target.types.index(p.span.type))
    elif fold(same.value) != fold(made.value):
        record.rivals.append((target.name, made))
