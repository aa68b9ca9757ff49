"""Uploads as rows, attempts to sign in by address and e-mail, what processes tell of themselves; clip names hold no path"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0012'
down_revision = '0011'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'upload',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('length', sa.BigInteger(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('folder', sa.String(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=True),
        sa.Column('filmed_on', sa.Date(), nullable=False),
        sa.Column('touched_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.CheckConstraint('length > 0', name=op.f('ck_upload_length')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_upload_academy_id_academy'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_upload_student_id_student'), ondelete='SET NULL'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_upload')),
    )
    op.create_index(op.f('ix_upload_academy_id'), 'upload', ['academy_id'])
    op.create_table(
        'sign_in_attempt',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('key', sa.String(), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_sign_in_attempt')),
    )
    op.create_index('ix_sign_in_attempt_key_at', 'sign_in_attempt', ['key', 'at'])
    op.create_index('ix_sign_in_attempt_at', 'sign_in_attempt', ['at'])
    # They count for a quarter of an hour.
    op.drop_table('failed_sign_in')
    op.create_table(
        'site_fact',
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('value', postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.PrimaryKeyConstraint('name', name=op.f('pk_site_fact')),
    )
    # Two billion bytes were the most that a clip could say of itself.
    op.alter_column('clip', 'size_bytes', type_=sa.BigInteger())
    op.execute(r"update clip set name = left(regexp_replace(name, '[/\\\x01-\x1f\x7f]', '_', 'g'), 60) where name ~ '[/\\\x01-\x1f\x7f]' or octet_length(name) > 255")
    op.create_check_constraint(op.f('ck_clip_name'), 'clip', r"name !~ '[/\\\x01-\x1f\x7f]' and octet_length(name) <= 255")


def downgrade() -> None:
    op.drop_constraint(op.f('ck_clip_name'), 'clip')
    op.alter_column('clip', 'size_bytes', type_=sa.Integer())
    op.drop_table('site_fact')
    op.drop_table('sign_in_attempt')
    op.create_table(
        'failed_sign_in',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('email', sa.String(), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_failed_sign_in')),
    )
    op.create_index(op.f('ix_failed_sign_in_email'), 'failed_sign_in', ['email'])
    op.drop_table('upload')
