"""Reps that an academy names as its models"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0022'
down_revision = '0021'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'model_rep',
        sa.Column('rep_id', sa.Uuid(), nullable=False),
        sa.Column('checkpoint', sa.String(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('named_at', sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_model_rep_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['rep_id'], ['rep.id'], name=op.f('fk_model_rep_rep_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('rep_id', 'checkpoint', name=op.f('pk_model_rep')),
    )
    op.create_index(op.f('ix_model_rep_technique'), 'model_rep', ['technique'])


def downgrade() -> None:
    op.drop_table('model_rep')
