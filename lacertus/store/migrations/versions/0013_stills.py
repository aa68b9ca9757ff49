"""Why the picture of a correction could not be drawn"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0013'
down_revision = '0012'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('correction', sa.Column('still_failed', sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column('correction', 'still_failed')
