"""Whether the others who teach at an academy see somebody's eye by name"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0036'
down_revision = '0035'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('account', sa.Column('eye_named', sa.Boolean(), server_default='false', nullable=False))


def downgrade() -> None:
    op.drop_column('account', 'eye_named')
