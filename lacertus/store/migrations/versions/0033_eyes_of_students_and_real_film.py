"""Students train their eyes too, on film of finished reviews too, and of an academy's own techniques"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0033'
down_revision = '0032'
branch_labels = None
depends_on = None

NOW = "(select current_setting('lacertus.academy', true))"
OWN = f"academy_id is null or academy_id = (select nullif({NOW}, '*')::uuid) or {NOW} = '*'"
ONE_LEARNER = 'num_nonnulls(account_id, student_id) = 1'


def upgrade() -> None:
    for table in ('eye_card', 'eye_answer'):
        op.alter_column(table, 'account_id', existing_type=sa.Uuid(), nullable=True)
        op.add_column(table, sa.Column('student_id', sa.Uuid(), nullable=True))
        op.create_foreign_key(op.f(f'fk_{table}_student_id'), table, 'student', ['student_id'], ['id'], ondelete='CASCADE')
        op.create_index(op.f(f'ix_{table}_student_id'), table, ['student_id'])
        op.create_check_constraint(op.f(f'ck_{table}_learner'), table, ONE_LEARNER)
    of_card = ['student_id', 'technique', 'kind', 'subject']
    op.create_unique_constraint(op.f('uq_eye_card_student_id_technique_kind_subject'), 'eye_card', of_card)
    for column, whose in (('academy_id', 'academy'), ('version_id', 'technique_version'), ('rep_id', 'rep')):
        op.add_column('eye_take', sa.Column(column, sa.Uuid(), nullable=True))
        op.create_foreign_key(op.f(f'fk_eye_take_{column}'), 'eye_take', whose, [column], ['id'], ondelete='CASCADE')
    op.add_column('eye_take', sa.Column('finished_at', sa.DateTime(timezone=True), nullable=True))
    for column in ('academy_id', 'version_id'):
        op.create_index(op.f(f'ix_eye_take_{column}'), 'eye_take', [column])
    op.create_unique_constraint(op.f('uq_eye_take_rep_id'), 'eye_take', ['rep_id'])
    op.create_check_constraint(op.f('ck_eye_take_rep'), 'eye_take', '(rep_id is null) = (finished_at is null)')
    of_nobody = 'academy_id is not null or (version_id is null and rep_id is null)'
    op.create_check_constraint(op.f('ck_eye_take_academy'), 'eye_take', of_nobody)
    op.execute('alter table eye_take enable row level security')
    op.execute(f'create policy own_academy on eye_take using ({OWN}) with check ({OWN})')


def downgrade() -> None:
    op.execute('drop policy own_academy on eye_take')
    op.execute('alter table eye_take disable row level security')
    op.execute('delete from eye_take where academy_id is not null')
    for column in ('finished_at', 'rep_id', 'version_id', 'academy_id'):
        op.drop_column('eye_take', column)
    for table in ('eye_card', 'eye_answer'):
        op.execute(f'delete from {table} where student_id is not null')
        op.drop_column(table, 'student_id')
        op.alter_column(table, 'account_id', existing_type=sa.Uuid(), nullable=False)
