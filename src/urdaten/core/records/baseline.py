"""The plainest assembly there is, to measure others against: each value goes to the nearest anchor before it."""

from __future__ import annotations

from urdaten.core.records.material import material_of
from urdaten.core.records.record import Record
from urdaten.core.records.teaching import Signings
from urdaten.core.records.template import Template
from urdaten.core.records.valuing import TextValues, Values, ways_of


def nearest_before(template: Template, texts: Signings) -> list[list[Record]]:
    """Records of each text: each value belongs to the nearest anchor before it in the text, and to the first field of its type;
    the first value that a field gets stays."""
    m = material_of(texts.batch, texts.spans, template, texts.names)
    values = Values(texts.words, texts.names)
    ways = ways_of(m, texts.words)
    by_text: list[list[int]] = [[] for _ in range(len(texts.batch))]
    for row, text in enumerate(texts.batch.text[m.first].tolist()):
        by_text[text].append(row)
    mention = dict(zip(m.mention_row.tolist(), m.mention_entity.tolist(), strict=True))
    anchor = template.anchor_field
    found: list[list[Record]] = []
    for text, rows in enumerate(by_text):
        worth = TextValues(values, m, texts.about, text, rows, texts.names, ways)
        records: dict[int, Record] = {}
        now: Record | None = None
        for row in rows:
            if row in mention and anchor is not None:
                name = m.entity_name[mention[row]]
                now = records.setdefault(mention[row], Record(template, entity=name.name))
                now.values.setdefault(anchor.name, [worth.together([row], anchor)])
                continue
            code = m.types[int(m.kind[row])]
            f = next((f for f in template.filled if code in f.types), None)
            if now is not None and f is not None:
                now.values.setdefault(f.name, [worth.together([row], f)])
        found.append(
            [
                record
                for record in records.values()
                if all(any(name in record.values for name in group) for group in template.opens)
            ]
        )
    return found
