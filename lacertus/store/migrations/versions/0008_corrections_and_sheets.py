"""Corrections of several marks, revisions, links, and what the student answers"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0008'
down_revision = '0007'
branch_labels = None
depends_on = None


def _created() -> sa.Column:
    return sa.Column('created_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False)


def _foreign(table: str, column: str, target: str, gone: str) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint([column], [f'{target}.id'], name=op.f(f'fk_{table}_{column}_{target}'), ondelete=gone)


def upgrade() -> None:
    jsonb = postgresql.JSONB(astext_type=sa.Text())
    op.add_column('student', sa.Column('email', sa.String(), server_default='', nullable=False))
    op.add_column('student', sa.Column('lends_pictures', sa.Boolean(), server_default=sa.false(), nullable=False))
    op.add_column('review', sa.Column('words', jsonb, server_default='{}', nullable=False))
    op.add_column('review', sa.Column('marked', jsonb, nullable=True))
    op.add_column('review', sa.Column('reopened_why', sa.String(), nullable=True))
    op.add_column('technique_version', sa.Column('brought_in', sa.Boolean(), server_default=sa.false(), nullable=False))
    op.add_column('point', sa.Column('shared', sa.Float(), nullable=True))
    for name, kind in (('first_frame', sa.Integer()), ('last_frame', sa.Integer()), ('voice_s', sa.Float()), ('beside', jsonb)):
        op.add_column('correction', sa.Column(name, kind, nullable=True))
    for name in ('marks', 'drawn'):
        op.add_column('correction', sa.Column(name, jsonb, server_default='[]', nullable=False))
    # What was one arrow from place to place is a mark of that kind, shown on its one frame.
    op.execute("""
        update correction set first_frame = frame, last_frame = frame, marks = jsonb_build_array(jsonb_build_object(
            'kind', 'force', 'spots', jsonb_build_array(
                jsonb_build_object('x', from_x, 'y', from_y), jsonb_build_object('x', to_x, 'y', to_y))))
    """)
    for name in ('first_frame', 'last_frame'):
        op.alter_column('correction', name, nullable=False)
    for name in ('from_x', 'from_y', 'to_x', 'to_y'):
        op.drop_column('correction', name)
    op.create_check_constraint(op.f('ck_correction_frames'), 'correction', 'first_frame <= frame and frame <= last_frame')
    op.create_table(
        'revision',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('review_id', sa.Uuid(), nullable=False),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=True),
        sa.Column('why', sa.String(), nullable=False),
        sa.Column('changes', jsonb, nullable=False),
        sa.Column('record', jsonb, nullable=False),
        sa.Column('sheet', jsonb, nullable=False),
        _created(),
        _foreign('revision', 'review_id', 'review', 'CASCADE'),
        _foreign('revision', 'account_id', 'account', 'SET NULL'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_revision')),
        sa.UniqueConstraint('review_id', 'number', name=op.f('uq_revision_review_id')),
    )
    op.create_index(op.f('ix_revision_review_id'), 'revision', ['review_id'])
    op.create_table(
        'share_link',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('review_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=True),
        sa.Column('sent_to', sa.String(), nullable=False),
        sa.Column('expires_at', sa.DateTime(timezone=True), nullable=False),
        sa.Column('revoked_at', sa.DateTime(timezone=True), nullable=True),
        sa.Column('opened', sa.Integer(), nullable=False),
        sa.Column('first_opened_at', sa.DateTime(timezone=True), nullable=True),
        sa.Column('last_opened_at', sa.DateTime(timezone=True), nullable=True),
        _created(),
        _foreign('share_link', 'academy_id', 'academy', 'CASCADE'),
        _foreign('share_link', 'review_id', 'review', 'CASCADE'),
        _foreign('share_link', 'account_id', 'account', 'SET NULL'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_share_link')),
    )
    op.create_index(op.f('ix_share_link_academy_id'), 'share_link', ['academy_id'])
    op.create_index(op.f('ix_share_link_review_id'), 'share_link', ['review_id'])
    op.create_table(
        'sheet_answer',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('review_id', sa.Uuid(), nullable=False),
        sa.Column('link_id', sa.Uuid(), nullable=True),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('checkpoint', sa.String(), nullable=False),
        sa.Column('felt', sa.String(), nullable=True),
        sa.Column('tried', sa.Boolean(), nullable=True),
        sa.Column('sure', sa.Boolean(), nullable=True),
        sa.Column('words', sa.String(), nullable=False),
        _created(),
        sa.CheckConstraint("felt in ('right', 'off')", name=op.f('ck_sheet_answer_felt')),
        _foreign('sheet_answer', 'review_id', 'review', 'CASCADE'),
        _foreign('sheet_answer', 'link_id', 'share_link', 'SET NULL'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_sheet_answer')),
    )
    op.create_index(op.f('ix_sheet_answer_review_id'), 'sheet_answer', ['review_id'])
    op.create_table(
        'site_key',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('secret', sa.String(), nullable=False),
        sa.CheckConstraint('id = 1', name=op.f('ck_site_key_one')),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_site_key')),
    )


def downgrade() -> None:
    for table in ('site_key', 'sheet_answer', 'share_link', 'revision'):
        op.drop_table(table)
    op.drop_constraint(op.f('ck_correction_frames'), 'correction')
    for name in ('from_x', 'from_y', 'to_x', 'to_y'):
        op.add_column('correction', sa.Column(name, sa.Float(), server_default='0', nullable=False))
    for name in ('first_frame', 'last_frame', 'voice_s', 'beside', 'marks', 'drawn'):
        op.drop_column('correction', name)
    op.drop_column('point', 'shared')
    op.drop_column('technique_version', 'brought_in')
    for table, names in (('review', ('reopened_why', 'marked', 'words')), ('student', ('lends_pictures', 'email'))):
        for name in names:
            op.drop_column(table, name)
