"""A job is held by the worker that began it last"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0034'
down_revision = '0033'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('job', sa.Column('taken', sa.Integer(), server_default='0', nullable=False))


def downgrade() -> None:
    op.drop_column('job', 'taken')
