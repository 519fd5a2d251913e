"""Counts kept beside texts, so that figures are read and not counted anew; trigrams for the search of texts (pre).

Revision: 0010
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("text", sa.Column("sentences", sa.Integer(), nullable=False, server_default="0"))
    op.execute(
        "UPDATE text SET sentences = counted.count FROM "
        "(SELECT text_id, count(*) FROM sentence GROUP BY text_id) counted WHERE counted.text_id = text.id"
    )
    op.alter_column("text", "sentences", server_default=None)
    op.drop_index("ix_text_project_id_split", "text")
    op.create_index(
        "ix_text_project_id_split",
        "text",
        ["project_id", "split", "id"],
        postgresql_include=["sentences"],
    )
    op.execute("CREATE EXTENSION IF NOT EXISTS pg_trgm")
    op.create_index(
        "ix_text_words",
        "text",
        ["title", "body"],
        postgresql_using="gin",
        postgresql_ops={"title": "gin_trgm_ops", "body": "gin_trgm_ops"},
    )
    op.create_table(
        "tally",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("text_id", sa.Integer(), nullable=False),
        sa.Column("signed", sa.Integer(), nullable=False),
        sa.Column("empty", sa.Integer(), nullable=False),
        sa.Column("asked", sa.Integer(), nullable=False),
        sa.Column("spans", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name="fk_tally_project_id_project", ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["text_id"], ["text.id"], name="fk_tally_text_id_text", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_tally"),
    )
    op.create_index("ix_tally_project_id", "tally", ["project_id"])
    op.create_index("ix_tally_text_id", "tally", ["text_id"])
    op.execute(
        """
        INSERT INTO tally (project_id, text_id, signed, empty, asked, spans)
        SELECT project_id, text_id,
               count(*) FILTER (WHERE signed), count(*) FILTER (WHERE signed AND spans = 0),
               count(*) FILTER (WHERE asked), sum(spans)
        FROM (
            SELECT layer.project_id, sentence.text_id, annotation.state = 'signed' AS signed,
                   coalesce(question.words <> '' AND question.answer = '', false) AS asked,
                   (SELECT count(*) FROM span WHERE span.annotation_id = annotation.id) AS spans
            FROM annotation
            JOIN layer ON layer.id = annotation.layer_id AND layer.kind = 'gold'
            JOIN sentence ON sentence.id = annotation.sentence_id
            LEFT JOIN question ON question.annotation_id = annotation.id
        ) AS stands
        GROUP BY project_id, text_id
        """
    )


def downgrade() -> None:
    raise NotImplementedError("Restore the backup that was made before this step.")
