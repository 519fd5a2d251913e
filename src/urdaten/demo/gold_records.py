"""Records gold: what port calls and incidents a bulletin tells of, with normalised values."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path

from urdaten.demo.files import FOLDER
from urdaten.errors import BadFile

WEEKS = tuple(f"week-{number}" for number in range(27, 41))
FILES = {"Port call": "port-calls.csv", "Incident": "incidents.csv"}
MOMENTS = ("arrives", "sails", "when")


@dataclass(frozen=True, kw_only=True)
class GoldRecord:
    """One record of one text.

    Values by field, empty ones left out: names in full and as the lists have them, moments as
    ISO 8601 to the minute or to the day, amounts as figure, space, unit.
    """

    text: str
    template: str
    values: dict[str, str]


def read_gold_records(folder: Path = FOLDER) -> list[GoldRecord]:
    """Every record in file order. Raises BadFile with file and line for a moment that is none."""
    found = []
    for template, name in FILES.items():
        with (folder / "records" / name).open(newline="") as file:
            for line, row in enumerate(csv.DictReader(file), start=2):
                text = row.pop("text")
                values = {field: value for field, value in row.items() if value}
                for field in MOMENTS:
                    if field in values and not _is_moment(values[field]):
                        raise BadFile(
                            f"{name}, line {line}: “{values[field]}” is no date such as 2026-09-30 "
                            "or 2026-09-30T05:30.",
                            line=line,
                            field=field,
                        )
                found.append(GoldRecord(text=text, template=template, values=values))
    return found


def _is_moment(value: str) -> bool:
    try:
        if "T" in value:
            datetime.strptime(value, "%Y-%m-%dT%H:%M")  # noqa: DTZ007  the office's own clock
        else:
            date.fromisoformat(value)
    except ValueError:
        return False
    return True
