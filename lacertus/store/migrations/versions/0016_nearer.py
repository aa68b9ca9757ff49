"""What coaches see of depth in a rep"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = '0016'
down_revision = '0015'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('rep', sa.Column('nearer', JSONB(), server_default='[]', nullable=False))


def downgrade() -> None:
    op.drop_column('rep', 'nearer')
