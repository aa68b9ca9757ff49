"""Who the partner of a rep is, where a coach names them"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0035'
down_revision = '0034'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('rep', sa.Column('partner_student_id', sa.Uuid(), nullable=True))
    op.create_foreign_key(op.f('fk_rep_partner_student_id'), 'rep', 'student', ['partner_student_id'], ['id'], ondelete='SET NULL')
    op.create_index(op.f('ix_rep_partner_student_id'), 'rep', ['partner_student_id'])


def downgrade() -> None:
    op.drop_column('rep', 'partner_student_id')
