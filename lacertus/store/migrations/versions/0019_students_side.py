"""The student's own side: links, inbox, consents, language, and how long films are kept"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = '0019'
down_revision = '0018'
branch_labels = None
depends_on = None

AT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.add_column('academy', sa.Column('needs_consent', sa.Boolean(), server_default=sa.false(), nullable=False))
    op.add_column('academy', sa.Column('keeps_films_days', sa.Integer()))
    op.add_column('academy', sa.Column('films_go_from', sa.Date()))
    op.add_column('student', sa.Column('language', sa.String(), server_default='', nullable=False))
    op.add_column('clip', sa.Column('keeps_film', sa.Boolean(), server_default=sa.false(), nullable=False))
    op.add_column('upload', sa.Column('naming', JSONB(), server_default='{}', nullable=False))
    op.add_column('upload', sa.Column('sent_by', sa.String(), server_default='', nullable=False))
    op.create_table(
        'student_link',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('holder', sa.String(), nullable=False),
        sa.Column('opened', sa.Integer(), nullable=False),
        sa.Column('first_opened_at', AT),
        sa.Column('last_opened_at', AT),
        sa.Column('revoked_at', AT),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("holder in ('student', 'guardian')", name=op.f('ck_student_link_holder')),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], ondelete='CASCADE', name=op.f('fk_student_link_student_id')),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], ondelete='SET NULL', name=op.f('fk_student_link_account_id')),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_student_link')),
    )
    op.create_index(op.f('ix_student_link_student_id'), 'student_link', ['student_id'])
    op.create_table(
        'inbox',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('key', sa.Uuid(), nullable=False),
        sa.Column('kind', sa.String(), nullable=False),
        sa.Column('sent_by', sa.String(), nullable=False),
        sa.Column('words', sa.String(), nullable=False),
        sa.Column('review_id', sa.Uuid()),
        sa.Column('clip_id', sa.Uuid()),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('checkpoint', sa.String(), nullable=False),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.Column('done_at', AT),
        sa.Column('reply', sa.String(), nullable=False),
        sa.Column('replied_at', AT),
        sa.Column('account_id', sa.Uuid()),
        sa.CheckConstraint(
            "kind in ('answer', 'question', 'pain', 'clip', 'opened', 'consent', 'forget')", name=op.f('ck_inbox_kind')
        ),
        sa.CheckConstraint("sent_by in ('student', 'guardian')", name=op.f('ck_inbox_sent_by')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], ondelete='CASCADE', name=op.f('fk_inbox_academy_id')),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], ondelete='CASCADE', name=op.f('fk_inbox_student_id')),
        sa.ForeignKeyConstraint(['review_id'], ['review.id'], ondelete='CASCADE', name=op.f('fk_inbox_review_id')),
        sa.ForeignKeyConstraint(['clip_id'], ['clip.id'], ondelete='CASCADE', name=op.f('fk_inbox_clip_id')),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], ondelete='SET NULL', name=op.f('fk_inbox_account_id')),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_inbox')),
        sa.UniqueConstraint('academy_id', 'key', name=op.f('uq_inbox_academy_id_key')),
    )
    for column in ('academy_id', 'student_id', 'review_id', 'clip_id'):
        op.create_index(op.f(f'ix_inbox_{column}'), 'inbox', [column])
    op.create_index(op.f('ix_inbox_academy_id_created_at'), 'inbox', ['academy_id', 'created_at'])
    op.create_table(
        'consent',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('purpose', sa.String(), nullable=False),
        sa.Column('given_by', sa.String(), nullable=False),
        sa.Column('given_as', sa.String(), nullable=False),
        sa.Column('given_on', sa.Date(), nullable=False),
        sa.Column('until', sa.Date()),
        sa.Column('withdrawn_on', sa.Date()),
        sa.Column('withdrawn_by', sa.String(), nullable=False),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("purpose in ('filming', 'sharing', 'training')", name=op.f('ck_consent_purpose')),
        sa.CheckConstraint("given_as in ('student', 'guardian')", name=op.f('ck_consent_given_as')),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], ondelete='CASCADE', name=op.f('fk_consent_student_id')),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], ondelete='SET NULL', name=op.f('fk_consent_account_id')),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_consent')),
    )
    op.create_index(op.f('ix_consent_student_id'), 'consent', ['student_id'])


def downgrade() -> None:
    for table in ('consent', 'inbox', 'student_link'):
        op.drop_table(table)
    for table, name in (
        ('upload', 'sent_by'), ('upload', 'naming'), ('clip', 'keeps_film'), ('student', 'language'),
        ('academy', 'films_go_from'), ('academy', 'keeps_films_days'), ('academy', 'needs_consent'),
    ):
        op.drop_column(table, name)
