"""Rules are written in the rule language: what was there is carried over. Fragments of rules have names.

Revision: 0020
"""

from __future__ import annotations

import re

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "rule",
        sa.Column("refers", postgresql.JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    )
    op.alter_column("rule", "refers", server_default=None)
    rules = sa.table("rule", sa.column("id", sa.Integer), sa.column("pattern", sa.String))
    db = op.get_bind()
    for number, pattern in db.execute(sa.select(rules.c.id, rules.c.pattern)).all():
        db.execute(rules.update().where(rules.c.id == number).values(pattern=_carried_over(pattern)))
    op.create_table(
        "fragment",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("about", sa.String(), nullable=False),
        sa.Column("pattern", sa.String(), nullable=False),
        sa.Column("refers", postgresql.JSONB(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_fragment")),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_fragment_project_id_project"), ondelete="CASCADE"
        ),
        sa.UniqueConstraint("project_id", "name", name=op.f("uq_fragment_project_id_name")),
    )


def _carried_over(pattern: str) -> str:
    """A regular expression that was held against each line, in the rule language."""
    escaped = re.sub(r"\\.|/", lambda found: "\\/" if found[0] == "/" else found[0], pattern, flags=re.DOTALL)
    return f"[ text(/{escaped}/) ]\nacross sentences"
