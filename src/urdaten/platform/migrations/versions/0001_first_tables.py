"""First tables (pre): accounts, project, the places, and the job queue's own schema.

Revision: 0001
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from procrastinate import PsycopgConnector
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "account",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("login", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("password_hash", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_account")),
        sa.UniqueConstraint("login", name=op.f("uq_account_login")),
    )
    op.create_table(
        "project",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("slug", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_project")),
        sa.UniqueConstraint("slug", name=op.f("uq_project_slug")),
    )
    op.create_table(
        "assembly",
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("made_from", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_assembly_project_id_project"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("project_id", name=op.f("pk_assembly")),
    )
    op.create_table(
        "entity_type",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("hue", sa.Integer(), nullable=False),
        sa.Column("definition", sa.String(), nullable=False),
        sa.Column("counts", sa.ARRAY(sa.String()), nullable=False),
        sa.Column("counts_not", sa.ARRAY(sa.String()), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_entity_type_project_id_project"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_entity_type")),
        sa.UniqueConstraint("project_id", "code", name=op.f("uq_entity_type_project_id_code")),
        sa.UniqueConstraint("project_id", "key", name=op.f("uq_entity_type_project_id_key")),
    )
    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("params", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("total", sa.Integer(), nullable=False),
        sa.Column("unit", sa.String(), nullable=False),
        sa.Column("message", sa.String(), nullable=False),
        sa.Column("stop_requested", sa.Boolean(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("finished_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["account_id"], ["account.id"], name=op.f("fk_job_account_id_account"), ondelete="SET NULL"
        ),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_job_project_id_project"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job")),
    )
    op.create_index(op.f("ix_job_project_id"), "job", ["project_id"], unique=False)
    op.create_table(
        "record_template",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("anchor", sa.String(), nullable=False),
        sa.Column("fields", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
            name=op.f("fk_record_template_project_id_project"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_record_template")),
        sa.UniqueConstraint("project_id", "name", name=op.f("uq_record_template_project_id_name")),
    )
    op.create_table(
        "revision",
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_revision_project_id_project"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("project_id", "place", name=op.f("pk_revision")),
    )
    op.create_table(
        "scheme_change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("before", postgresql.JSONB(astext_type=sa.Text()), nullable=True),
        sa.Column("after", postgresql.JSONB(astext_type=sa.Text()), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["account_id"],
            ["account.id"],
            name=op.f("fk_scheme_change_account_id_account"),
            ondelete="SET NULL",
        ),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
            name=op.f("fk_scheme_change_project_id_project"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_scheme_change")),
    )
    op.create_index(op.f("ix_scheme_change_project_id"), "scheme_change", ["project_id"], unique=False)
    op.create_table(
        "sign_in_link",
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["account_id"],
            ["account.id"],
            name=op.f("fk_sign_in_link_account_id_account"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("token_hash", name=op.f("pk_sign_in_link")),
    )
    op.create_table(
        "text",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("body", sa.String(), nullable=False),
        sa.Column("body_digest", sa.String(), nullable=False),
        sa.Column("group", sa.String(), nullable=False),
        sa.Column("dated", sa.Date(), nullable=True),
        sa.Column("split", sa.String(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_text_project_id_project"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_text")),
        sa.UniqueConstraint("project_id", "body_digest", name=op.f("uq_text_project_id_body_digest")),
    )
    op.create_index("ix_text_reading_order", "text", ["project_id", "position", "id"], unique=False)
    op.create_table(
        "web_session",
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["account_id"], ["account.id"], name=op.f("fk_web_session_account_id_account"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("token_hash", name=op.f("pk_web_session")),
    )
    op.create_table(
        "list",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("type_id", sa.Integer(), nullable=False),
        sa.Column("on", sa.Boolean(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_list_project_id_project"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["type_id"], ["entity_type.id"], name=op.f("fk_list_type_id_entity_type")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_list")),
        sa.UniqueConstraint("project_id", "name", name=op.f("uq_list_project_id_name")),
    )
    op.create_table(
        "record",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("template_id", sa.Integer(), nullable=False),
        sa.Column("text_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("parts", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("rivals", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("missing", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["template_id"],
            ["record_template.id"],
            name=op.f("fk_record_template_id_record_template"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["text_id"], ["text.id"], name=op.f("fk_record_text_id_text"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_record")),
    )
    op.create_index(op.f("ix_record_template_id"), "record", ["template_id"], unique=False)
    op.create_index(op.f("ix_record_text_id"), "record", ["text_id"], unique=False)
    op.create_table(
        "rule",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("type_id", sa.Integer(), nullable=False),
        sa.Column("pattern", sa.String(), nullable=False),
        sa.Column("must_find", sa.ARRAY(sa.String()), nullable=False),
        sa.Column("must_not_find", sa.ARRAY(sa.String()), nullable=False),
        sa.Column("on", sa.Boolean(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_rule_project_id_project"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["type_id"], ["entity_type.id"], name=op.f("fk_rule_type_id_entity_type")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_rule")),
        sa.UniqueConstraint("project_id", "name", name=op.f("uq_rule_project_id_name")),
    )
    op.create_table(
        "scorecard",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("figures", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("made_from", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_scorecard_job_id_job"), ondelete="SET NULL"
        ),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_scorecard_project_id_project"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_scorecard")),
    )
    op.create_index(op.f("ix_scorecard_project_id"), "scorecard", ["project_id"], unique=False)
    op.create_table(
        "sentence",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("text_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("start", sa.Integer(), nullable=False),
        sa.Column("end", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["text_id"], ["text.id"], name=op.f("fk_sentence_text_id_text"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sentence")),
        sa.UniqueConstraint("text_id", "number", name=op.f("uq_sentence_text_id_number")),
    )
    op.create_table(
        "training",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("settings", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("epochs", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("made_from", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("in_use", sa.Boolean(), nullable=False),
        sa.Column("model", sa.LargeBinary(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_training_job_id_job"), ondelete="SET NULL"
        ),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_training_project_id_project"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_training")),
    )
    op.create_index(op.f("ix_training_project_id"), "training", ["project_id"], unique=False)
    op.create_index("uq_training_in_use", "training", ["project_id"], unique=True, postgresql_where="in_use")
    op.create_table(
        "act",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("sentence_id", sa.Integer(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("before", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("after", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("standing", sa.String(), nullable=False),
        sa.Column("token", sa.Uuid(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["account_id"], ["account.id"], name=op.f("fk_act_account_id_account"), ondelete="SET NULL"
        ),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_act_project_id_project"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["sentence_id"], ["sentence.id"], name=op.f("fk_act_sentence_id_sentence"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_act")),
        sa.UniqueConstraint("project_id", "token", name=op.f("uq_act_project_id_token")),
    )
    op.create_index(op.f("ix_act_sentence_id"), "act", ["sentence_id"], unique=False)
    op.create_index("ix_act_undo", "act", ["project_id", "account_id", "standing", "id"], unique=False)
    op.create_table(
        "annotation",
        sa.Column("sentence_id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("signed_by", sa.Integer(), nullable=True),
        sa.Column("signed_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_annotation_project_id_project"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["sentence_id"],
            ["sentence.id"],
            name=op.f("fk_annotation_sentence_id_sentence"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["signed_by"], ["account.id"], name=op.f("fk_annotation_signed_by_account"), ondelete="SET NULL"
        ),
        sa.PrimaryKeyConstraint("sentence_id", name=op.f("pk_annotation")),
    )
    op.create_index(op.f("ix_annotation_project_id"), "annotation", ["project_id"], unique=False)
    op.create_table(
        "list_entry",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("list_id", sa.Integer(), nullable=False),
        sa.Column("preferred", sa.String(), nullable=False),
        sa.Column("variants", sa.ARRAY(sa.String()), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["list_id"], ["list.id"], name=op.f("fk_list_entry_list_id_list"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_list_entry")),
        sa.UniqueConstraint("list_id", "preferred", name=op.f("uq_list_entry_list_id_preferred")),
    )
    op.create_table(
        "scored_sentence",
        sa.Column("scorecard_id", sa.Integer(), nullable=False),
        sa.Column("sentence_id", sa.Integer(), nullable=False),
        sa.Column("gold", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("found", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("outcomes", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(
            ["scorecard_id"],
            ["scorecard.id"],
            name=op.f("fk_scored_sentence_scorecard_id_scorecard"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["sentence_id"],
            ["sentence.id"],
            name=op.f("fk_scored_sentence_sentence_id_sentence"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("scorecard_id", "sentence_id", name=op.f("pk_scored_sentence")),
    )
    op.create_table(
        "span",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sentence_id", sa.Integer(), nullable=False),
        sa.Column("start", sa.Integer(), nullable=False),
        sa.Column("end", sa.Integer(), nullable=False),
        sa.Column("type_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["sentence_id"],
            ["annotation.sentence_id"],
            name=op.f("fk_span_sentence_id_annotation"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(["type_id"], ["entity_type.id"], name=op.f("fk_span_type_id_entity_type")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_span")),
        sa.UniqueConstraint(
            "sentence_id", "start", "end", "type_id", name=op.f("uq_span_sentence_id_start_end_type_id")
        ),
    )
    op.create_index(op.f("ix_span_type_id"), "span", ["type_id"], unique=False)
    op.get_bind().exec_driver_sql(SchemaManager(PsycopgConnector()).get_schema().replace("%", "%%"))
