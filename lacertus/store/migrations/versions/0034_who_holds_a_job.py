"""Nothing any more: for a while it added a column to jobs that nothing reads. A database that has it goes on from here."""

from __future__ import annotations

revision = '0034'
down_revision = '0033'
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Leave the database as it is."""


def downgrade() -> None:
    """Leave the database as it is."""
