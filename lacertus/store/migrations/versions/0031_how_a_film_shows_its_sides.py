"""Films of comparisons with drawn bodies, one side over the other, or mirrored"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0031'
down_revision = '0030'
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ('drawn', 'over', 'mirrored'):
        op.add_column('compared_film', sa.Column(name, sa.Boolean(), server_default='false', nullable=False))


def downgrade() -> None:
    for name in ('drawn', 'over', 'mirrored'):
        op.drop_column('compared_film', name)
