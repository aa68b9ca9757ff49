"""How the line to the target lies, as somebody told it"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = '0018'
down_revision = '0017'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('rep', sa.Column('target_turn', JSONB(), nullable=True))


def downgrade() -> None:
    op.drop_column('rep', 'target_turn')
