"""Intake: clips without a name yet, what reading found out, capture rate, two views, a performer for each rep"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0003'
down_revision = '0002'
branch_labels = None
depends_on = None

JSONB = postgresql.JSONB(astext_type=sa.Text())


def upgrade() -> None:
    op.alter_column('clip', 'student_id', existing_type=sa.Uuid(), nullable=True)
    op.add_column('clip', sa.Column('folder', sa.String(), nullable=False, server_default=''))
    op.add_column('clip', sa.Column('sha256', sa.String(), nullable=True))
    op.add_column('clip', sa.Column('naming', JSONB, nullable=False, server_default='{}'))
    op.add_column('clip', sa.Column('mirrored', sa.Boolean(), nullable=True))
    op.add_column('clip', sa.Column('capture_rate', JSONB, nullable=False, server_default='[[0, 1.0]]'))
    op.add_column('clip', sa.Column('capture_sure', sa.Boolean(), nullable=False, server_default=sa.true()))
    op.add_column('clip', sa.Column('capture_why', sa.String(), nullable=False, server_default=''))
    op.add_column('clip', sa.Column('has_sound', sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column('clip', sa.Column('sound_broke_off', sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column('clip', sa.Column('dropped_frames', sa.Integer(), nullable=False, server_default='0'))
    op.add_column('clip', sa.Column('repeated_frames', sa.Integer(), nullable=False, server_default='0'))
    op.add_column('clip', sa.Column('film', JSONB, nullable=True))
    op.add_column('clip', sa.Column('camera', JSONB, nullable=True))
    op.add_column('clip', sa.Column('proposals', JSONB, nullable=False, server_default='[]'))
    op.add_column('clip', sa.Column('reading_since', sa.DateTime(timezone=True), nullable=True))
    op.create_unique_constraint(op.f('uq_clip_academy_id_sha256'), 'clip', ['academy_id', 'sha256'])
    op.create_table(
        'view_tie',
        sa.Column('clip_id', sa.Uuid(), nullable=False),
        sa.Column('other_id', sa.Uuid(), nullable=False),
        sa.Column('frame', sa.Integer(), nullable=False),
        sa.Column('other_frame', sa.Integer(), nullable=False),
        sa.CheckConstraint('clip_id <> other_id', name=op.f('ck_view_tie_two_clips')),
        sa.ForeignKeyConstraint(['clip_id'], ['clip.id'], name=op.f('fk_view_tie_clip_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['other_id'], ['clip.id'], name=op.f('fk_view_tie_other_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('clip_id', 'other_id', name=op.f('pk_view_tie')),
    )
    op.create_index(op.f('ix_view_tie_other_id'), 'view_tie', ['other_id'])
    op.add_column('review', sa.Column('proposals', JSONB, nullable=False, server_default='[]'))
    op.add_column('rep', sa.Column('student_id', sa.Uuid(), nullable=True))
    op.create_foreign_key(op.f('fk_rep_student_id'), 'rep', 'student', ['student_id'], ['id'])
    op.create_index(op.f('ix_rep_student_id'), 'rep', ['student_id'])


def downgrade() -> None:
    op.drop_index(op.f('ix_rep_student_id'), 'rep')
    op.drop_constraint(op.f('fk_rep_student_id'), 'rep')
    op.drop_column('rep', 'student_id')
    op.drop_column('review', 'proposals')
    op.drop_table('view_tie')
    op.drop_constraint(op.f('uq_clip_academy_id_sha256'), 'clip')
    for column in (
        'reading_since', 'proposals', 'camera', 'film', 'repeated_frames', 'dropped_frames', 'sound_broke_off', 'has_sound',
        'capture_why', 'capture_sure', 'capture_rate', 'mirrored', 'naming', 'sha256', 'folder',
    ):
        op.drop_column('clip', column)
    op.execute('delete from clip where student_id is null')
    op.alter_column('clip', 'student_id', existing_type=sa.Uuid(), nullable=False)
