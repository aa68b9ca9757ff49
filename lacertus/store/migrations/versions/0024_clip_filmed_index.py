"""An index for when each student was last filmed: rows of clips are wide, and the day is asked of all of them at once"""

from __future__ import annotations

from alembic import op

revision = '0024'
down_revision = '0023'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_index('ix_clip_academy_id_student_id_filmed_on', 'clip', ['academy_id', 'student_id', 'filmed_on'])


def downgrade() -> None:
    op.drop_index('ix_clip_academy_id_student_id_filmed_on', table_name='clip')
