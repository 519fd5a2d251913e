"""People in projects, layers under annotation, a log that outlives what it tells of, versions of schemes and of whatever two
people may change (pre).

Revision: 0009
"""

from __future__ import annotations

import hashlib
import json
from bisect import bisect_right
from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

_NOW = sa.text("now()")
_JSON = postgresql.JSONB(astext_type=sa.Text())
_AT = sa.DateTime(timezone=True)
_FIELDS = ("code", "name", "key", "hue", "definition", "counts", "counts_not", "rulings")


def upgrade() -> None:
    _people()
    _sessions()
    _versions()
    _revisions()
    _types()
    _schemes()
    _layers()
    _log()
    op.create_index("ix_text_project_id_split", "text", ["project_id", "split"])
    op.create_index("ix_text_project_id_group", "text", ["project_id", "group"])
    op.create_index("ix_scored_sentence_sentence_id", "scored_sentence", ["sentence_id"])
    op.create_table(
        "kept_fact",
        sa.Column("name", sa.String(), primary_key=True),
        sa.Column("value", sa.String(), nullable=False),
    )


def _account(name: str, *, index: bool = False) -> sa.Column[Any]:
    return sa.Column(
        name, sa.Integer(), sa.ForeignKey("account.id", ondelete="SET NULL"), nullable=True, index=index
    )


def _number(table: str, **more: Any) -> sa.Column[Any]:
    return sa.Column(
        f"{table}_id", sa.Integer(), sa.ForeignKey(f"{table}.id", ondelete="CASCADE"), nullable=False, **more
    )


def _drop_foreign_key(table: str, column: str) -> None:
    """Whatever it is called: not every step before this one named them by rule."""
    for key in sa.inspect(op.get_bind()).get_foreign_keys(table):
        if key["constrained_columns"] == [column] and key["name"]:
            op.drop_constraint(key["name"], table, type_="foreignkey")


def _created() -> sa.Column[Any]:
    return sa.Column("created_at", _AT, server_default=_NOW, nullable=False)


def _people() -> None:
    op.create_table(
        "membership",
        _number("project", primary_key=True),
        _number("account", primary_key=True, index=True),
        sa.Column("role", sa.String(), nullable=False),
        _created(),
    )
    op.create_table(
        "invitation",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("token_hash", sa.String(), nullable=False),
        _number("project", index=True),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        _account("made_by"),
        sa.Column("expires_at", _AT, nullable=False),
        sa.Column("used_at", _AT, nullable=True),
        _account("used_by"),
        _created(),
        sa.UniqueConstraint("token_hash", name=op.f("uq_invitation_token_hash")),
    )
    # Everybody saw every project, and was the same in each.
    op.execute(
        "INSERT INTO membership (project_id, account_id, role) "
        "SELECT project.id, account.id, account.role FROM project, account"
    )
    for name, value in (("active", "true"), ("keeper", "false")):
        op.add_column("account", sa.Column(name, sa.Boolean(), nullable=False, server_default=sa.text(value)))
        op.alter_column("account", name, server_default=None)
    op.execute(
        "UPDATE account SET keeper = true WHERE id = (SELECT min(id) FROM account WHERE role = 'lead')"
    )
    op.drop_column("account", "role")
    op.add_column("project", sa.Column("removed_at", _AT, nullable=True))


def _sessions() -> None:
    op.drop_constraint("pk_web_session", "web_session", type_="primary")
    op.add_column("web_session", sa.Column("id", sa.Integer(), sa.Identity(), nullable=False))
    op.execute("ALTER TABLE web_session ALTER COLUMN id DROP IDENTITY")
    op.execute("CREATE SEQUENCE web_session_id_seq OWNED BY web_session.id")
    op.execute(
        "SELECT setval('web_session_id_seq', (SELECT coalesce(max(id), 0) + 1 FROM web_session), false)"
    )
    op.execute("ALTER TABLE web_session ALTER COLUMN id SET DEFAULT nextval('web_session_id_seq')")
    op.create_primary_key("pk_web_session", "web_session", ["id"])
    op.create_unique_constraint("uq_web_session_token_hash", "web_session", ["token_hash"])
    op.create_index("ix_web_session_account_id", "web_session", ["account_id"])
    op.add_column("web_session", sa.Column("seen_at", _AT, server_default=_NOW, nullable=False))
    op.alter_column("web_session", "seen_at", server_default=None)
    op.add_column("web_session", sa.Column("ends_at", _AT, nullable=True))
    op.execute("UPDATE web_session SET ends_at = expires_at")
    op.alter_column("web_session", "ends_at", nullable=False)
    op.add_column("web_session", sa.Column("agent", sa.String(), nullable=False, server_default=""))
    op.alter_column("web_session", "agent", server_default=None)


def _versions() -> None:
    for table in ("text", "list", "list_entry", "rule", "record_template", "round"):
        op.add_column(table, sa.Column("version", sa.Integer(), nullable=False, server_default="1"))
        op.alter_column(table, "version", server_default=None)


def _revisions() -> None:
    op.drop_constraint("pk_revision", "revision", type_="primary")
    op.execute("CREATE SEQUENCE revision_id_seq")
    op.add_column(
        "revision",
        sa.Column("id", sa.Integer(), nullable=False, server_default=sa.text("nextval('revision_id_seq')")),
    )
    op.execute("ALTER SEQUENCE revision_id_seq OWNED BY revision.id")
    op.create_primary_key("pk_revision", "revision", ["id"])
    op.create_index("ix_revision_project_id_place", "revision", ["project_id", "place"])


def _types() -> None:
    for name in ("parent_id", "merged_into"):
        op.add_column("entity_type", sa.Column(name, sa.Integer(), nullable=True))
        op.create_foreign_key(
            f"fk_entity_type_{name}_entity_type",
            "entity_type",
            "entity_type",
            [name],
            ["id"],
            ondelete="SET NULL",
        )
    op.add_column("entity_type", sa.Column("value_kind", sa.String(), nullable=False, server_default="none"))
    op.add_column("entity_type", sa.Column("version", sa.Integer(), nullable=False, server_default="1"))
    for name in ("value_kind", "version"):
        op.alter_column("entity_type", name, server_default=None)
    op.add_column("entity_type", sa.Column("retired_at", _AT, nullable=True))
    for name in ("code", "key"):
        op.drop_constraint(f"uq_entity_type_project_id_{name}", "entity_type", type_="unique")
        op.create_index(
            f"uq_entity_type_{name}",
            "entity_type",
            ["project_id", name],
            unique=True,
            postgresql_where=sa.text("retired_at IS NULL"),
        )


def _schemes() -> None:
    """Every version that there was, told anew from the changes that were kept."""
    op.create_table(
        "scheme",
        sa.Column("id", sa.Integer(), primary_key=True),
        _number("project"),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("overlap", sa.String(), nullable=False),
        sa.Column("types", _JSON, nullable=False),
        _account("account_id"),
        sa.Column("step", _JSON, nullable=False),
        _created(),
        sa.UniqueConstraint("project_id", "number", name=op.f("uq_scheme_project_id_number")),
    )
    db = op.get_bind()
    changes = db.execute(
        sa.text(
            "SELECT project_id, account_id, kind, before, after, created_at FROM scheme_change ORDER BY id"
        )
    ).all()
    types: dict[int, dict[int, dict[str, Any]]] = {}
    overlaps: dict[int, str] = {}
    numbers: dict[int, int] = {}
    for project, account, kind, before, after, at in changes:
        held = types.setdefault(project, {})
        overlap = overlaps.setdefault(project, "apart")
        if kind == "overlap":
            overlap = overlaps[project] = after["overlap"]
            step = {"what": "overlap", "type": None, "into": None}
        elif kind == "remove":
            held.pop(before["id"], None)
            _bring_back_retired(project, before, at)
            step = {"what": "retired", "type": before["id"], "into": None}
        else:
            held[after["id"]] = _snapshot(after)
            step = {"what": "added" if kind == "add" else "changed", "type": after["id"], "into": None}
        number = numbers[project] = numbers.get(project, 0) + 1
        present = [one | {"position": i} for i, one in enumerate(held.values())]
        db.execute(
            sa.text(
                "INSERT INTO scheme (project_id, number, digest, overlap, types, account_id, step, created_at) "
                "VALUES (:project, :number, :digest, :overlap, CAST(:types AS jsonb), :account, "
                "CAST(:step AS jsonb), :at)"
            ),
            {
                "project": project,
                "number": number,
                "digest": _digest(overlap, present),
                "overlap": overlap,
                "types": json.dumps(present),
                "account": account,
                "step": json.dumps([step]),
                "at": at,
            },
        )


def _snapshot(told: Mapping[str, Any]) -> dict[str, Any]:
    lists = {name: list(told.get(name, ())) for name in ("counts", "counts_not", "rulings")}
    plain = {name: told[name] for name in ("id", "code", "name", "key", "hue", "definition")}
    return {**plain, **lists, "parent": None, "value_kind": "none", "version": 1}


def _digest(overlap: str, types: Iterable[Mapping[str, Any]]) -> str:
    fields = (*_FIELDS, "parent", "value_kind", "position")
    plain = [{name: one[name] for name in fields} for one in types]
    return hashlib.sha256(json.dumps([overlap, plain], sort_keys=True).encode()).hexdigest()


def _bring_back_retired(project: int, before: Mapping[str, Any], at: datetime) -> None:
    """A type that was removed is a retired one from now on: the log may speak of it."""
    op.get_bind().execute(
        sa.text(
            "INSERT INTO entity_type (id, project_id, code, name, key, hue, definition, counts, counts_not, rulings, "
            "position, value_kind, version, retired_at) VALUES (:id, :project, :code, :name, :key, :hue, :definition, "
            ":counts, :counts_not, :rulings, 0, 'none', 1, :at) ON CONFLICT (id) DO NOTHING"
        ),
        {"project": project, "at": at}
        | {name: before[name] for name in ("id", "code", "name", "key", "hue", "definition")}
        | {name: list(before.get(name, ())) for name in ("counts", "counts_not", "rulings")},
    )


def _layers() -> None:
    op.create_table(
        "layer",
        sa.Column("id", sa.Integer(), primary_key=True),
        _number("project"),
        sa.Column("kind", sa.String(), nullable=False),
        _account("account_id"),
        sa.Column("round_id", sa.Integer(), sa.ForeignKey("round.id", ondelete="SET NULL"), nullable=True),
        sa.Column("name", sa.String(), nullable=False),
        _created(),
        sa.UniqueConstraint("project_id", "name", name=op.f("uq_layer_project_id_name")),
    )
    op.create_index(
        "uq_layer_gold", "layer", ["project_id"], unique=True, postgresql_where=sa.text("kind = 'gold'")
    )
    op.execute("INSERT INTO layer (project_id, kind, name) SELECT id, 'gold', 'gold' FROM project")

    for table in ("span", "turned_down"):
        _drop_foreign_key(table, "sentence_id")
    op.drop_constraint("pk_annotation", "annotation", type_="primary")
    op.execute("CREATE SEQUENCE annotation_id_seq")
    op.add_column(
        "annotation",
        sa.Column("id", sa.Integer(), nullable=False, server_default=sa.text("nextval('annotation_id_seq')")),
    )
    op.execute("ALTER SEQUENCE annotation_id_seq OWNED BY annotation.id")
    op.create_primary_key("pk_annotation", "annotation", ["id"])
    op.add_column("annotation", sa.Column("layer_id", sa.Integer(), nullable=True))
    op.add_column("annotation", sa.Column("scheme", sa.Integer(), nullable=True))
    op.execute(
        "UPDATE annotation SET layer_id = layer.id, scheme = coalesce("
        "(SELECT max(number) FROM scheme WHERE scheme.project_id = annotation.project_id), 0) "
        "FROM layer WHERE layer.project_id = annotation.project_id"
    )
    for name in ("layer_id", "scheme"):
        op.alter_column("annotation", name, nullable=False)
    op.create_foreign_key(
        "fk_annotation_layer_id_layer", "annotation", "layer", ["layer_id"], ["id"], ondelete="CASCADE"
    )
    op.create_index("ix_annotation_layer_id", "annotation", ["layer_id"])
    op.create_unique_constraint(
        "uq_annotation_sentence_id_layer_id", "annotation", ["sentence_id", "layer_id"]
    )
    op.create_index(
        "ix_annotation_signed",
        "annotation",
        ["layer_id", "sentence_id"],
        postgresql_where=sa.text("state = 'signed'"),
    )
    op.create_table(
        "question",
        _number("annotation", primary_key=True),
        sa.Column("words", sa.String(), nullable=False),
        _account("asked_by"),
        sa.Column("asked_at", _AT, nullable=False),
        sa.Column("answer", sa.String(), nullable=False),
        _account("answered_by"),
        sa.Column("answered_at", _AT, nullable=True),
    )
    said = (
        "(SELECT {} FROM act WHERE act.sentence_id = annotation.sentence_id AND act.kind = '{}' "
        "ORDER BY act.id DESC LIMIT 1)"
    )
    op.execute(
        "INSERT INTO question (annotation_id, words, asked_by, asked_at, answer, answered_by, answered_at) "
        f"SELECT id, question, {said.format('account_id', 'ask')}, "
        f"coalesce({said.format('created_at', 'ask')}, now()), answer, "
        f"{said.format('account_id', 'answer')}, {said.format('created_at', 'answer')} "
        "FROM annotation WHERE question <> '' OR answer <> ''"
    )
    op.drop_index("ix_annotation_project_id", "annotation")
    for name in ("project_id", "question", "answer"):
        op.drop_column("annotation", name)

    for table in ("span", "turned_down"):
        op.add_column(table, sa.Column("annotation_id", sa.Integer(), nullable=True))
        op.execute(
            f"UPDATE {table} SET annotation_id = annotation.id FROM annotation "
            f"WHERE annotation.sentence_id = {table}.sentence_id"
        )
        op.alter_column(table, "annotation_id", nullable=False)
        op.drop_column(table, "sentence_id")
        op.create_foreign_key(
            f"fk_{table}_annotation_id_annotation",
            table,
            "annotation",
            ["annotation_id"],
            ["id"],
            ondelete="CASCADE",
        )
        op.create_unique_constraint(
            op.f(f"uq_{table}_annotation_id_start_end_type_id"),
            table,
            ["annotation_id", "start", "end", "type_id"],
        )
    _drop_foreign_key("turned_down", "type_id")
    op.create_foreign_key(
        "fk_turned_down_type_id_entity_type", "turned_down", "entity_type", ["type_id"], ["id"]
    )
    op.create_index("ix_turned_down_type_id", "turned_down", ["type_id"])


def _log() -> None:
    op.add_column("act", sa.Column("layer_id", sa.Integer(), nullable=True))
    op.execute(
        "UPDATE act SET layer_id = layer.id FROM layer WHERE layer.project_id = act.project_id AND layer.kind = 'gold'"
    )
    op.alter_column("act", "layer_id", nullable=False)
    op.create_foreign_key("fk_act_layer_id_layer", "act", "layer", ["layer_id"], ["id"], ondelete="CASCADE")
    _drop_foreign_key("act", "sentence_id")
    op.drop_index("ix_act_sentence_id", "act")
    _drop_foreign_key("verdict", "type_id")
    # Acts from before have no transaction; whoever asks what is new asks for later ones.
    op.add_column("act", sa.Column("transaction", sa.BigInteger(), nullable=False, server_default="0"))
    op.alter_column("act", "transaction", server_default=sa.text("(pg_current_xact_id()::text)::bigint"))
    _name_types_by_number()
    op.create_index("ix_act_project_id_id", "act", ["project_id", "id"])
    op.create_index("ix_act_project_id_created_at", "act", ["project_id", "created_at"])
    op.create_index("ix_act_project_id_transaction", "act", ["project_id", "transaction"])
    op.create_index("ix_act_sentence_id_layer_id", "act", ["sentence_id", "layer_id", "id"])
    op.drop_table("scheme_change")


def _name_types_by_number() -> None:
    """The log spoke of types by the codes that they had at the time, and did not say whose a signing was."""
    db = op.get_bind()
    meanings: dict[int, tuple[list[datetime], list[dict[str, int]]]] = {}
    for project, at, types in db.execute(
        sa.text("SELECT project_id, created_at, types FROM scheme ORDER BY number")
    ):
        times, codes = meanings.setdefault(project, ([], []))
        # A code that is gone keeps its last meaning.
        times.append(at)
        codes.append((codes[-1] if codes else {}) | {one["code"]: one["id"] for one in types})
    acts = db.execute(
        sa.text(
            "SELECT id, project_id, sentence_id, account_id, created_at, before, after FROM act "
            "ORDER BY sentence_id, id"
        )
    )
    sentence: int | None = None
    signing: dict[str, Any] = {}
    changed: list[dict[str, Any]] = []
    for number, project, at_sentence, account, at, before, after in acts:
        if at_sentence != sentence:
            sentence, signing = at_sentence, {}
        times, codes = meanings.get(project, ([], []))
        i = max(0, bisect_right(times, at) - 1)
        meaning = codes[i] if codes else {}
        now = _numbered(before, meaning) | (signing if before["state"] == "signed" else {})
        if after["state"] != "signed":
            signing = {}
        elif before["state"] != "signed" or before.get("spans") != after.get("spans"):
            signing = {"signed_at": at.isoformat()} | ({"signed_by": account} if account else {})
        then = _numbered(after, meaning) | signing
        changed.append({"id": number, "before": json.dumps(now), "after": json.dumps(then)})
    statement = sa.text(
        "UPDATE act SET before = CAST(:before AS jsonb), after = CAST(:after AS jsonb) WHERE id = :id"
    )
    for first in range(0, len(changed), 1000):
        db.execute(statement, changed[first : first + 1000])


def _numbered(state: Mapping[str, Any], meaning: Mapping[str, int]) -> dict[str, Any]:
    made = dict(state)
    for name in ("spans", "turned_down"):
        if name in made:
            made[name] = [[start, end, meaning.get(code, 0)] for start, end, code in made[name]]
    return made


def downgrade() -> None:
    raise NotImplementedError("Restore the backup that was made before this step.")
