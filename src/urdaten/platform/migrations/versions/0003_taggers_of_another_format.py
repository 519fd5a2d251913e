"""Taggers kept in the first format cannot be read any more: their trainings stay, to be run again.

Revision: 0003
"""

from __future__ import annotations

from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # The first format was an archive; no tagger of the present one begins like that.
    op.execute(
        "UPDATE training SET model = NULL, in_use = false WHERE substring(model FROM 1 FOR 2) = 'PK'::bytea"
    )


def downgrade() -> None:
    # The present format is unknown to what came before.
    op.execute("UPDATE training SET model = NULL, in_use = false")
