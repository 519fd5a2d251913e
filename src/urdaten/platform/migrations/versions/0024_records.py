"""Records are signed, their values tell how they were read, and templates say more of their fields.

What was assembled before keeps its parts; its values are told as they were, and it is brought up to date by the next assembly.
To be run with the deploy: the program before it writes no values.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name, default in (("description", ""), ("scope", "text"), ("each", "entity")):
        op.add_column("record_template", sa.Column(name, sa.String(), server_default=default, nullable=False))
    op.add_column(
        "record_template", sa.Column("opens", postgresql.JSONB(), server_default="[]", nullable=False)
    )
    op.add_column("record_template", sa.Column("learnt", sa.LargeBinary()))
    op.add_column(
        "record_template", sa.Column("learnt_records", sa.Integer(), server_default="0", nullable=False)
    )
    op.add_column("record", sa.Column("entity", sa.String(), server_default="", nullable=False))
    for name, default in (("values", "{}"), ("looks", "[]"), ("differs", "{}")):
        op.add_column("record", sa.Column(name, postgresql.JSONB(), server_default=default, nullable=False))
    op.add_column("record", sa.Column("probability", sa.Float()))
    op.add_column("record", sa.Column("state", sa.String(), server_default="found", nullable=False))
    op.add_column("record", sa.Column("signed_by", sa.Integer()))
    op.add_column("record", sa.Column("signed_at", sa.DateTime(timezone=True)))
    op.create_foreign_key(
        op.f("fk_record_signed_by_account"), "record", "account", ["signed_by"], ["id"], ondelete="SET NULL"
    )
    op.create_index("ix_record_template_id_state", "record", ["template_id", "state"])
    op.create_table(
        "record_signed_text",
        sa.Column("template_id", sa.Integer(), nullable=False),
        sa.Column("text_id", sa.Integer(), nullable=False),
        sa.Column("signed_by", sa.Integer()),
        sa.Column("signed_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("template_id", "text_id", name=op.f("pk_record_signed_text")),
        sa.ForeignKeyConstraint(
            ["template_id"],
            ["record_template.id"],
            name=op.f("fk_record_signed_text_template_id_record_template"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["text_id"], ["text.id"], name=op.f("fk_record_signed_text_text_id_text"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["signed_by"],
            ["account.id"],
            name=op.f("fk_record_signed_text_signed_by_account"),
            ondelete="SET NULL",
        ),
    )
    op.create_index(op.f("ix_record_signed_text_text_id"), "record_signed_text", ["text_id"])
    op.execute(
        """
        UPDATE record SET "values" = (
            SELECT coalesce(jsonb_object_agg(field.key, jsonb_build_array(jsonb_build_object(
                'text', told.text, 'kind', 'none', 'how', '', 'fault', '', 'sort', lower(told.text)))), '{}')
            FROM jsonb_each(parts) AS field,
                LATERAL (SELECT string_agg(part->>'value', ' ') AS text
                         FROM jsonb_array_elements(field.value) AS part) AS told
            WHERE told.text IS NOT NULL
        )
        """
    )
    op.execute(
        """
        UPDATE record SET
            looks = CASE WHEN jsonb_array_length(missing) > 0 THEN '["missing"]'::jsonb ELSE '[]'::jsonb END,
            parts = coalesce((
                SELECT jsonb_object_agg(field.key, (
                    SELECT jsonb_agg(part || '{"probability": null, "speaks": [], "against": ""}')
                    FROM jsonb_array_elements(field.value) AS part))
                FROM jsonb_each(parts) AS field), '{}'),
            rivals = coalesce((
                SELECT jsonb_agg(part || '{"probability": null, "speaks": [], "against": ""}')
                FROM jsonb_array_elements(rivals) AS part), '[]')
        """
    )
