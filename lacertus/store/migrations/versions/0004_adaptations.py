"""Adaptations: checkpoints switched off, relaxed or replaced for one student"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0004'
down_revision = '0003'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'adaptation',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('checkpoint', sa.String(), nullable=False),
        sa.Column('body', postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column('created_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.Column('ended_at', sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_adaptation_student_id_student'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_adaptation')),
    )
    op.create_index(op.f('ix_adaptation_student_id'), 'adaptation', ['student_id'], unique=False)


def downgrade() -> None:
    op.drop_table('adaptation')
