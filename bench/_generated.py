"""A project of generated bulletins."""

from __future__ import annotations

import json
from itertools import islice

from _served import Urdaten

from urdaten.core.formats import Scheme, SchemeType
from urdaten.demo.files import Demo
from urdaten.demo.stream import generate
from urdaten.places.desk import acts as desk
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.platform.accounts import account_by_login
from urdaten.platform.database import transaction
from urdaten.server.projects import use_scheme

AT_A_TIME = 2000
GROUP = 20


def fill(urdaten: Urdaten, demo: Demo, count: int, group: int = GROUP) -> tuple[str, int]:
    """A project with so many generated texts in groups of this size, each for itself with 1; its slug and how many
    sentences it has."""
    scheme = Scheme(types=tuple(SchemeType(**vars(t)) for t in demo.types))
    with transaction(urdaten.database_url) as db:
        lead = account_by_login(db, "ines").id
        project = team.create_project(db, name="Generated", language="en")
        team.add_member(db, project.id, lead, team.Role.LEAD)
        desk.gold_layer(db, project.id)
        use_scheme(db, project, lead, scheme)
    bodies = (json.loads(line)["text"] for line in generate(demo, count, 7))
    total = 0
    for first in range(0, count, AT_A_TIME):
        chunk = islice(bodies, AT_A_TIME)
        drafts = [
            (
                texts.TextDraft(title=f"{first + j}", group=f"{(first + j) // group}" if group > 1 else ""),
                f"{first + j}: {body}",
            )
            for j, body in enumerate(chunk)
        ]
        with transaction(urdaten.database_url) as db:
            made = texts.add_texts(db, project, drafts)
            held = texts.sentences_of(db, [text.id for text in made])
            every = [sentence.id for sentences in held.values() for sentence in sentences]
            total += len(every)
            # Every second text is signed as a whole, the first ones aside: they are what is annotated here.
            signed = [s.id for n, sentences in enumerate(held.values()) if first and n % 2 for s in sentences]
            desk.sign_many(db, project.id, lead, dict.fromkeys(signed, ()))
    return project.slug, total
