"""How often a review was changed, and who changed what of it last"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0026'
down_revision = '0025'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('review', sa.Column('changes', sa.Integer(), server_default='0', nullable=False))
    op.create_table(
        'review_change',
        sa.Column('review_id', sa.Uuid(), nullable=False),
        sa.Column('what', sa.String(), nullable=False),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.Column('window', sa.String(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_review_change_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['review_id'], ['review.id'], name=op.f('fk_review_change_review_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('review_id', 'what', name=op.f('pk_review_change')),
    )
    op.create_index(op.f('ix_review_change_account_id'), 'review_change', ['account_id'])


def downgrade() -> None:
    op.drop_table('review_change')
    op.drop_column('review', 'changes')
