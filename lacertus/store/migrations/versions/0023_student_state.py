"""What was worked out of each student, kept between starts"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = '0023'
down_revision = '0022'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'student_state',
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('part', sa.String(), nullable=False),
        sa.Column('stamp', sa.String(), nullable=False),
        sa.Column('until', sa.Date()),
        sa.Column('body', JSONB(), nullable=False),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_student_state_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('student_id', 'part', name=op.f('pk_student_state')),
    )


def downgrade() -> None:
    op.drop_table('student_state')
