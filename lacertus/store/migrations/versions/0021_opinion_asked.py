"""Coaches who were asked for a second opinion"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0021'
down_revision = '0020'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'opinion_asked',
        sa.Column('review_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=False),
        sa.Column('asked_by', sa.Uuid()),
        sa.Column('asked_on', sa.Date(), nullable=False),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_opinion_asked_account_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['asked_by'], ['account.id'], name=op.f('fk_opinion_asked_asked_by'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['review_id'], ['review.id'], name=op.f('fk_opinion_asked_review_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('review_id', 'account_id', name=op.f('pk_opinion_asked')),
    )
    op.create_index(op.f('ix_opinion_asked_account_id'), 'opinion_asked', ['account_id'])


def downgrade() -> None:
    op.drop_table('opinion_asked')
