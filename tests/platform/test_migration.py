"""A database of the Urdaten before layers, with a part of the demo and 200 acts, is carried over whole.

`before_0009.sql.gz` was written by that Urdaten's own acts: two people marking, signing, asking, answering, turning down
and undoing, a type that got another code in between, and one that was used and removed.
"""

from __future__ import annotations

import gzip
import json
import threading
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import psycopg
import pytest
from psycopg.rows import dict_row

from conftest import Api, settings_for
from urdaten.core.rules import carried_over
from urdaten.errors import Unavailable
from urdaten.places.desk import acts as desk
from urdaten.places.rules import acts as rules
from urdaten.places.team import acts as team
from urdaten.places.types import acts as types
from urdaten.platform.database import engine_for, transaction
from urdaten.platform.migrate import check_schema, migrate
from urdaten.platform.passwords import hash_password
from urdaten.platform.postgres import Cluster
from urdaten.platform.settings import Settings
from urdaten.server.application import build

DUMP = Path(__file__).with_name("before_0009.sql.gz")
Rows = list[dict[str, Any]]


def rows(settings: Settings, query: str) -> Rows:
    with psycopg.connect(settings.psycopg_dsn, row_factory=dict_row) as connection:
        return connection.execute(query.encode()).fetchall()


@pytest.fixture
def old(cluster: Cluster) -> Iterator[Settings]:
    name = "test_old"
    cluster.create_database(name)
    settings = settings_for(cluster, name)
    lines = gzip.decompress(DUMP.read_bytes()).decode().splitlines(keepends=True)
    with psycopg.connect(settings.psycopg_dsn, autocommit=True) as connection:
        connection.execute("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
        # What begins with a backslash is meant for the program that restores dumps.
        connection.execute("".join(line for line in lines if not line.startswith("\\")).encode())
    yield settings
    engine_for(settings.database_url).dispose()
    cluster.drop_database(name)


def test_nothing_is_lost(old: Settings) -> None:
    spans_before = rows(
        old,
        'SELECT sentence_id, start, "end", type_id FROM span ORDER BY 1, 2, 3, 4',
    )
    down_before = rows(old, 'SELECT sentence_id, start, "end", type_id FROM turned_down ORDER BY 1, 2, 3, 4')
    annotation = "sentence_id, state, version, signed_by, signed_at"
    before = rows(old, f"SELECT {annotation} FROM annotation ORDER BY sentence_id")
    questions = rows(
        old, "SELECT sentence_id, question, answer FROM annotation WHERE question <> '' ORDER BY 1"
    )
    acts = rows(old, "SELECT * FROM act ORDER BY id")
    verdicts = rows(old, "SELECT * FROM verdict ORDER BY id")
    changes = rows(old, "SELECT * FROM scheme_change ORDER BY id")
    people = rows(old, "SELECT login, role, password_hash FROM account ORDER BY id")
    rounds = rows(old, "SELECT name, note, priority FROM round ORDER BY id")
    revisions = rows(old, "SELECT place, number FROM revision ORDER BY 1")
    assert len(acts) > 400
    assert sum(act["standing"] != "passed" for act in acts) >= 180
    assert {"ask", "answer", "turn down", "undo mark"} <= {act["kind"] for act in acts}

    migrate(old.database_url)

    joined = "annotation JOIN {0} ON {0}.annotation_id = annotation.id"
    columns = 'sentence_id, start, "end", type_id'
    for table, held in (("span", spans_before), ("turned_down", down_before)):
        now = rows(old, f"SELECT {columns} FROM {joined.format(table)} ORDER BY 1, 2, 3, 4")
        assert now == held, table
    assert rows(old, f"SELECT {annotation} FROM annotation ORDER BY sentence_id") == before
    told = "SELECT sentence_id, words AS question, answer FROM {} ORDER BY 1"
    assert rows(old, told.format(joined.format("question"))) == questions
    assert {row["kind"] for row in rows(old, "SELECT kind FROM layer")} == {"gold"}
    assert rows(old, "SELECT * FROM verdict ORDER BY id") == verdicts
    assert rows(old, "SELECT name, note, priority FROM round ORDER BY id") == rounds
    assert rows(old, "SELECT place, number FROM revision ORDER BY 1") == revisions
    query = (
        "SELECT login, membership.role, password_hash FROM membership JOIN account ON account.id = account_id "
        "ORDER BY account_id"
    )
    assert rows(old, query) == people
    keepers = rows(old, "SELECT login FROM account WHERE keeper")
    assert keepers == [{"login": "ines"}]

    versions = rows(old, "SELECT number, types FROM scheme ORDER BY number")
    assert [row["number"] for row in versions] == list(range(1, len(changes) + 1))
    with transaction(old.database_url) as db:
        present = [t.code for t in types.list_types(db, 1)]
        assert [one["code"] for one in versions[-1]["types"]] == present
        assert "SHP" in present
        assert "OLD" in types.last_codes(db, 1).values(), "a type that was removed is a retired one"

    # What is counted beside texts is what one would count.
    with transaction(old.database_url) as db:
        done = desk.progress(db, 1)
    stand = {
        row["state"]: row["count"] for row in rows(old, "SELECT state, count(*) FROM annotation GROUP BY 1")
    }
    assert done.signed == stand["signed"]
    assert done.total == rows(old, "SELECT count(*) FROM sentence")[0]["count"]
    assert done.asked == sum(row["answer"] == "" for row in questions) > 0
    assert rows(old, "SELECT sum(spans) AS spans FROM tally")[0]["spans"] == len(spans_before)

    # The log says the same of every act, by number where it said a code; a code's meaning is that of its time.
    numbers = {one["code"]: one["id"] for row in versions for one in row["types"]}
    assert numbers["VES"] == numbers["SHP"]
    now = rows(old, "SELECT * FROM act ORDER BY id")
    assert len(now) == len(acts)
    was: dict[str, Any]
    kept: dict[str, Any]
    for was, kept in zip(acts, now, strict=True):
        for name in ("id", "sentence_id", "account_id", "kind", "standing", "token", "batch", "created_at"):
            assert kept[name] == was[name]
        for side in ("before", "after"):
            said: dict[str, Any] = was[side]
            says: dict[str, Any] = kept[side]
            named = {
                member: [[a, b, numbers[code]] for a, b, code in said[member]]
                for member in ("spans", "turned_down")
                if member in said
            }
            signing = {name: says[name] for name in ("signed_by", "signed_at") if name in says}
            assert says == said | named | signing
            assert ("signed_at" in signing) == (said["state"] == "signed")


def test_the_log_knows_whose_each_signing_was(old: Settings) -> None:
    migrate(old.database_url)
    query = (
        "SELECT DISTINCT ON (sentence_id) annotation.signed_by, after FROM act "
        "JOIN annotation USING (sentence_id) WHERE state = 'signed' ORDER BY sentence_id, act.id DESC"
    )
    found = rows(old, query)
    assert len(found) > 200
    for row in found:
        assert row["after"]["signed_by"] == row["signed_by"], json.dumps(row["after"])


def test_work_goes_on(old: Settings) -> None:
    migrate(old.database_url)
    migrate(old.database_url)
    check_schema(old.database_url)
    with psycopg.connect(old.psycopg_dsn) as connection:
        hashed = hash_password(old, "a long password")
        connection.execute("UPDATE account SET password_hash = %s", [hashed])
    api = Api(build(old), old).sign_in("ines")
    undone = 0
    while True:
        answer = api.request("POST", "/api/projects/tessmar/desk/undo")
        if answer.status_code == 404:
            break
        assert answer.status_code == 200, answer.text
        undone += answer.json()["sentences"]
    assert undone > 20
    with transaction(old.database_url) as db:
        assert desk.read_layers(db, 1)[0].kind == "gold"
        sentences = rows(old, "SELECT DISTINCT sentence_id FROM act")
        for row in sentences[:40]:
            assert all(act.kind for act in desk.history(db, 1, row["sentence_id"]))
    assert api.get("/figures")["sentences"] > 0
    assert [one["number"] for one in api.get("/types/versions")][:2] == [14, 13]


def test_a_newer_database_is_refused(old: Settings) -> None:
    with pytest.raises(Unavailable, match="older schema"):
        check_schema(old.database_url)
    migrate(old.database_url)
    with psycopg.connect(old.psycopg_dsn) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    for act in (migrate, check_schema):
        with pytest.raises(Unavailable, match="newer Urdaten"):
            act(old.database_url)


def test_two_who_migrate_at_once_do_so_one_after_the_other(old: Settings) -> None:

    faults: list[BaseException] = []

    def run() -> None:
        try:
            migrate(old.database_url)
        except BaseException as fault:
            faults.append(fault)

    threads = [threading.Thread(target=run) for _ in range(3)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert faults == []
    check_schema(old.database_url)


def test_rules_of_before_the_language_find_what_they_found(old: Settings) -> None:
    pattern = r"(?i)\bberth (?P<mark>\d+/\d+)|a\/b"
    with psycopg.connect(old.psycopg_dsn) as connection:
        connection.execute(
            'INSERT INTO rule (project_id, name, type_id, pattern, must_find, must_not_find, "on", position, about) '
            "SELECT 1, 'old', id, %s, '{}', '{}', true, 99, '' FROM entity_type ORDER BY id LIMIT 1",
            [pattern],
        )
    migrate(old.database_url)
    with transaction(old.database_url) as db:
        (rule,) = [one for one in rules.read_rules(db, 1) if one.name == "old"]
        assert rule.pattern == carried_over(pattern)
        project = team.project_by_id(db, 1)
        draft = replace(rule, must_find=("Berth 3/4 and a/b",), must_not_find=("berth 3", "a/b"))
        results = rules.try_rule(db, project, draft)
        assert [result.holds for result in results] == [True, True, True]
        assert [span.end - span.start for span in results[0].found] == [3]
