"""What some students of an academy missed is found by student, not among all academies'"""

from __future__ import annotations

from alembic import op

revision = '0029'
down_revision = '0028'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_index('ix_tally_student_id_filmed_on', 'tally', ['student_id', 'filmed_on'])


def downgrade() -> None:
    op.drop_index('ix_tally_student_id_filmed_on', table_name='tally')
