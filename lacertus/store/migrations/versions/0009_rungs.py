"""Rungs: who feels sure, and what the coach decided"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0009'
down_revision = '0008'
branch_labels = None
depends_on = None

STEPS = "('advance', 'hold', 'step_back')"


def upgrade() -> None:
    op.create_table(
        'feeling',
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('rung', sa.String(), nullable=False),
        sa.Column('performer', sa.Boolean(), nullable=True),
        sa.Column('partner', sa.Boolean(), nullable=True),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_feeling_student_id_student'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('student_id', 'technique', 'rung', name=op.f('pk_feeling')),
    )
    op.create_table(
        'rung_decision',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=True),
        *(sa.Column(name, sa.String(), nullable=False) for name in ('technique', 'from_rung', 'to_rung', 'decision', 'advice', 'because', 'why')),
        sa.Column('decided_on', sa.Date(), nullable=False),
        sa.Column('created_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.CheckConstraint(f'decision in {STEPS}', name=op.f('ck_rung_decision_decision')),
        sa.CheckConstraint(f'advice in {STEPS}', name=op.f('ck_rung_decision_advice')),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_rung_decision_account_id_account'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_rung_decision_student_id_student'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_rung_decision')),
    )
    op.create_index(op.f('ix_rung_decision_student_id'), 'rung_decision', ['student_id'])


def downgrade() -> None:
    op.drop_table('rung_decision')
    op.drop_table('feeling')
