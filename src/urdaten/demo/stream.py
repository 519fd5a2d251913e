"""A stream of generated bulletins, for load and throughput only: never part of splits or scores.

Sentences are put together from forms and the names of the demo's lists, so they look like the office's
papers to a program and not to a person. Each line says that it is generated.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from datetime import date, timedelta
from random import Random

from urdaten.demo.files import Demo
from urdaten.errors import BadInput

GROUP = "generated"
MOST = 1_000_000
_FIRST_DAY = date(2027, 1, 4)
_PER_DAY = 40
_FORMS = (
    "{time} {vessel} all fast {berth}, pilot {person}.",
    "{time} {vessel} cleared {berth} for {port}.",
    "{vessel} is due from {port} on {day} with {amount} t of {cargo}.",
    "{vessel}, from {port}, berthed at {berth} at {time} with {amount} t of {cargo}; agents {firm}.",
    "{amount} t {cargo} out of {vessel} by {time}.",
    "At {time} {person} reported {mishap} aboard the {vessel}, {firm} told.",
    "{firm} ask for {berth} from {day} on behalf of {vessel}.",
    "Nothing heard of {vessel} since {time}.",
    "{vessel} shifts from {berth} to {berth} when {vessel} has gone.",
    "The {cargo} for {firm} is put back to {day}.",
)
_MISHAPS = ("an oil sheen", "a parted line", "a small fire", "a broken wrist", "hull damage", "a lost anchor")
_DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def generate(demo: Demo, count: int, seed: int) -> Iterator[str]:
    """JSON Lines, one bulletin each: id, text, group, meta. The same seed gives the same lines.

    Raises BadInput for a count that is not 1 to 1 000 000.
    """
    if not 1 <= count <= MOST:
        raise BadInput(f"A stream has 1 to {MOST} bulletins, not {count}.", field="count")
    random = Random(seed)
    names = {names.type: [e.preferred for e in names.entries] for names in demo.lists}
    persons = sorted({b.body[s.start : s.end] for b in demo.bulletins for s in b.gold if s.type == "PER"})

    fill: dict[str, Callable[[], str]] = {
        "time": lambda: f"{random.randrange(24):02}{random.randrange(12) * 5:02}",
        "vessel": lambda: random.choice(names["VES"]),
        "port": lambda: random.choice(names["PRT"]),
        "berth": lambda: random.choice(names["BTH"]),
        "cargo": lambda: random.choice(names["CGO"]),
        "firm": lambda: random.choice(names["ORG"]),
        "person": lambda: random.choice(persons),
        "day": lambda: random.choice(_DAYS),
        "amount": lambda: f"{random.randrange(2, 900) * 10:,}",
        "mishap": lambda: random.choice(_MISHAPS),
    }

    def sentence() -> str:
        parts = random.choice(_FORMS).split("{")
        return parts[0] + "".join(
            fill[name]() + rest for name, _, rest in (part.partition("}") for part in parts[1:])
        )

    for i in range(count):
        text = " ".join(sentence() for _ in range(random.randrange(1, 9)))
        if random.random() < 0.1:
            text = text.upper()
        dated = _FIRST_DAY + timedelta(days=i // _PER_DAY)
        meta = {"generated": True, "seed": seed, "dated": dated.isoformat()}
        line = {"id": f"{GROUP}-{i + 1:06}", "text": text, "group": GROUP, "meta": meta}
        yield json.dumps(line, ensure_ascii=False)
