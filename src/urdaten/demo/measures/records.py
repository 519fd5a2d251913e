"""Do the records gold and the span gold of the same bulletins tell the same?"""

from __future__ import annotations

from collections import Counter

import regex

from urdaten.core.lists import Gazetteer
from urdaten.demo.files import Bulletin, Demo
from urdaten.demo.gold_records import WEEKS, GoldRecord

_AMOUNT = regex.compile(r"\d+(?:\.\d+)? (?:t|cbm|boxes|crates|bales|cases|casks)")
_FIELD_TYPES = {
    "vessel": "VES",
    "from": "PRT",
    "to": "PRT",
    "berth": "BTH",
    "cargo": "CGO",
    "agent": "ORG",
    "what": "INC",
    "reported to": "ORG",
}


def record_faults(demo: Demo, records: list[GoldRecord]) -> list[str]:
    """Records without a text, values that no span of the text can have given, incidents left out."""
    faults = []
    texts = {b.title: b for b in demo.bulletins if b.group in WEEKS}
    names = Gazetteer(demo.lists)
    told: dict[str, Counter[str]] = {title: Counter() for title in texts}
    for record in records:
        text = texts.get(record.text)
        if text is None:
            faults.append(f"records gold: {record.text} is no bulletin of the weeks that have records")
            continue
        if record.template == "Incident":
            told[record.text][record.values["what"].casefold()] += 1
        weight = record.values.get("weight")
        if weight and not _AMOUNT.fullmatch(weight):
            faults.append(f"records gold, {record.text}: “{weight}” is no figure with a unit")
        for field, type_ in _FIELD_TYPES.items():
            value = record.values.get(field)
            if value and not any(_tells(s, value, type_, names) for s in _surfaces(text, type_)):
                faults.append(f"records gold, {record.text}: no {type_} span gives {field} “{value}”")
    for title, text in texts.items():
        marked = Counter(s.casefold() for s in _surfaces(text, "INC"))
        if marked != told[title]:
            faults.append(f"records gold, {title}: incidents {dict(told[title])}, marked {dict(marked)}")
    return faults


def _surfaces(text: Bulletin, type_: str) -> list[str]:
    return [text.body[s.start : s.end] for s in text.gold if s.type == type_]


def _tells(surface: str, value: str, type_: str, names: Gazetteer) -> bool:
    """Can these words stand for that name? By the lists, shortened, in part, or as initials."""
    if names.preferred(surface, type_) == value:
        return True
    short, full = (
        [word for word in regex.findall(r"\w+", name.casefold()) if word != "and"]
        for name in (surface, value)
    )
    initials = "".join(word[0] for word in full)
    return short == [initials] or all(any(word.startswith(piece[:4]) for word in full) for piece in short)
