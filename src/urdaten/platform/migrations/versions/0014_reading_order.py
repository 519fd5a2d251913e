"""The index of the reading order says how many sentences a text has (pre).

Revision: 0014
"""

from __future__ import annotations

from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_index("ix_text_reading_order", "text")
    op.create_index(
        "ix_text_reading_order",
        "text",
        ["project_id", "position", "id"],
        postgresql_include=["sentences", "split"],
    )


def downgrade() -> None:
    raise NotImplementedError("Restore the backup that was made before this step.")
