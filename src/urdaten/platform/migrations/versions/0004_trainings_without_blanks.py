"""Trainings from before words were blanked say so, so that running one again does the same.

Revision: 0004
"""

from __future__ import annotations

from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "UPDATE training SET settings = (settings::jsonb || jsonb_build_object('blank', 0))::json"
        " WHERE NOT jsonb_exists(settings::jsonb, 'blank')"
    )


def downgrade() -> None:
    op.execute("UPDATE training SET settings = (settings::jsonb - 'blank')::json")
