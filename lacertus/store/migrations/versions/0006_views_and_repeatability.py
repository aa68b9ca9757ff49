"""Tied views that are read together, and how closely a coach marks"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0006'
down_revision = '0005'
branch_labels = None
depends_on = None


def upgrade() -> None:
    jsonb = postgresql.JSONB(astext_type=sa.Text())
    op.add_column('review', sa.Column('account_id', sa.Uuid(), nullable=True))
    op.create_foreign_key(op.f('fk_review_account_id_account'), 'review', 'account', ['account_id'], ['id'], ondelete='SET NULL')
    op.create_index(op.f('ix_review_account_id'), 'review', ['account_id'], unique=False)
    op.add_column('review', sa.Column('marking', jsonb, server_default='{}', nullable=False))
    op.add_column('rep', sa.Column('blind_of', sa.Uuid(), nullable=True))
    op.create_foreign_key(op.f('fk_rep_blind_of_rep'), 'rep', 'rep', ['blind_of'], ['id'], ondelete='CASCADE')
    op.create_index(op.f('ix_rep_blind_of'), 'rep', ['blind_of'], unique=False)
    op.add_column('point', sa.Column('grain', sa.Float(), nullable=True))
    op.add_column('judgement', sa.Column('view', sa.String(), nullable=True))
    op.create_table(
        'remark',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=False),
        sa.Column('rep_id', sa.Uuid(), nullable=True),
        sa.Column('body', jsonb, nullable=False),
        sa.Column('created_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_remark_account_id_account'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['rep_id'], ['rep.id'], name=op.f('fk_remark_rep_id_rep'), ondelete='SET NULL'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_remark')),
        sa.UniqueConstraint('rep_id', name=op.f('uq_remark_rep_id')),
    )
    op.create_index(op.f('ix_remark_account_id'), 'remark', ['account_id'], unique=False)


def downgrade() -> None:
    op.drop_table('remark')
    op.drop_column('judgement', 'view')
    op.drop_column('point', 'grain')
    op.drop_index(op.f('ix_rep_blind_of'), table_name='rep')
    op.drop_constraint(op.f('fk_rep_blind_of_rep'), 'rep', type_='foreignkey')
    op.drop_column('rep', 'blind_of')
    op.drop_column('review', 'marking')
    op.drop_index(op.f('ix_review_account_id'), table_name='review')
    op.drop_constraint(op.f('fk_review_account_id_account'), 'review', type_='foreignkey')
    op.drop_column('review', 'account_id')
