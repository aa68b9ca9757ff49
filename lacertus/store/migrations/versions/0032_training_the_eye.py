"""Training the eye: films with known truth, what is asked again, and answers"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0032'
down_revision = '0031'
branch_labels = None
depends_on = None

OWN = (
    "academy_id = (select nullif(current_setting('lacertus.academy', true), '*')::uuid)"
    " or (select current_setting('lacertus.academy', true)) = '*'"
)


def upgrade() -> None:
    now = sa.text('now()')
    op.create_table(
        'eye_take',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('fault', sa.String(), nullable=False),
        sa.Column('reaction', sa.String(), nullable=False),
        sa.Column('level', sa.Integer(), nullable=False),
        sa.Column('seed', sa.Integer(), nullable=False),
        sa.Column('state', sa.String(), nullable=False),
        sa.Column('facts', postgresql.JSONB(none_as_null=True), nullable=True),
        sa.Column('created_at', sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.CheckConstraint("state in ('wanted', 'ready', 'failed')", name=op.f('ck_eye_take_state')),
        sa.CheckConstraint("(state = 'ready') = (facts is not null)", name=op.f('ck_eye_take_facts')),
        sa.CheckConstraint('level between 1 and 5', name=op.f('ck_eye_take_level')),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_eye_take')),
    )
    op.create_index(op.f('ix_eye_take_technique'), 'eye_take', ['technique'])
    op.create_table(
        'eye_card',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('kind', sa.String(), nullable=False),
        sa.Column('subject', sa.String(), nullable=False),
        sa.Column('level', sa.Integer(), nullable=False),
        sa.Column('due_at', sa.DateTime(timezone=True), nullable=False),
        sa.Column('state', postgresql.JSONB(), nullable=False),
        sa.CheckConstraint('level between 1 and 5', name=op.f('ck_eye_card_level')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_eye_card_academy_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_eye_card_account_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_eye_card')),
        sa.UniqueConstraint('account_id', 'technique', 'kind', 'subject', name=op.f('uq_eye_card_account_id_technique_kind_subject')),
    )
    op.create_index(op.f('ix_eye_card_academy_id'), 'eye_card', ['academy_id'])
    op.create_index(op.f('ix_eye_card_account_id'), 'eye_card', ['account_id'])
    op.create_table(
        'eye_answer',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=False),
        sa.Column('take_id', sa.Uuid(), nullable=True),
        sa.Column('second_take_id', sa.Uuid(), nullable=True),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('kind', sa.String(), nullable=False),
        sa.Column('subject', sa.String(), nullable=False),
        sa.Column('level', sa.Integer(), nullable=False),
        sa.Column('given', postgresql.JSONB(none_as_null=True), nullable=False),
        sa.Column('hit', sa.Boolean(), nullable=False),
        sa.Column('frames', sa.Integer(), nullable=True),
        sa.Column('ms', sa.Double(), nullable=True),
        sa.Column('degrees', sa.Double(), nullable=True),
        sa.Column('after', sa.Double(), nullable=True),
        sa.Column('true_choice', sa.String(), nullable=True),
        sa.Column('among', postgresql.JSONB(), nullable=False),
        sa.Column('answered_at', sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_eye_answer_academy_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_eye_answer_account_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['second_take_id'], ['eye_take.id'], name=op.f('fk_eye_answer_second_take_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['take_id'], ['eye_take.id'], name=op.f('fk_eye_answer_take_id'), ondelete='SET NULL'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_eye_answer')),
    )
    for column in ('academy_id', 'account_id', 'second_take_id', 'take_id'):
        op.create_index(op.f(f'ix_eye_answer_{column}'), 'eye_answer', [column])
    op.add_column('account', sa.Column('events_from_eye', sa.Boolean(), server_default='false', nullable=False))
    for table in ('eye_card', 'eye_answer'):
        op.execute(f'alter table {table} enable row level security')
        op.execute(f'create policy own_academy on {table} using ({OWN}) with check ({OWN})')


def downgrade() -> None:
    op.drop_column('account', 'events_from_eye')
    for table in ('eye_answer', 'eye_card', 'eye_take'):
        op.drop_table(table)
