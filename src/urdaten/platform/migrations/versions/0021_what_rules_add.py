"""Rules have a priority, what is done to them can be undone, and what each finds alone is counted.

Revision: 0021
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("rule", sa.Column("priority", sa.String(), server_default="usual", nullable=False))
    op.alter_column("rule", "priority", server_default=None)
    op.create_table(
        "rule_act",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("account_id", sa.Integer()),
        sa.Column("said", sa.String(), nullable=False),
        sa.Column("of_fragment", sa.Boolean(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("before", postgresql.JSONB(), nullable=False),
        sa.Column("after", postgresql.JSONB(), nullable=False),
        sa.Column("undone_at", sa.DateTime(timezone=True)),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_rule_act")),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_rule_act_project_id_project"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["account_id"], ["account.id"], name=op.f("fk_rule_act_account_id_account"), ondelete="SET NULL"
        ),
    )
    op.create_index("ix_rule_act_project_id_id", "rule_act", ["project_id", "id"])
    # Finds are counted anew: what there is does not say who else found them.
    op.execute("DELETE FROM finds")
    op.execute("DELETE FROM counted")
    op.execute("UPDATE evidence SET counted = ''")
    for name in ("alone", "with_alone"):
        op.add_column("finds", sa.Column(name, sa.Integer(), nullable=False))
