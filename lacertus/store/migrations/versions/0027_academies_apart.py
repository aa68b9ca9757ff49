"""Row-level security: each academy's rows apart"""

from __future__ import annotations

from alembic import op

revision = '0027'
down_revision = '0026'
branch_labels = None
depends_on = None

TABLES = (
    'account', 'account_link', 'audit', 'calendar_feed', 'clip', 'floor_note', 'grade', 'inbox', 'job', 'lesson',
    'made_start', 'own_drill', 'review', 'round', 'share_link', 'student', 'tally', 'taught', 'technique_version', 'upload',
    'weekly_class',
)  # fmt: skip
OF_NOBODY_TOO = ('account_link', 'technique_version')
# A scalar subquery is worked out once a statement, not once a row.
OWN = (
    "({column} = (select nullif(current_setting('lacertus.academy', true), '*')::uuid)"
    " or (select current_setting('lacertus.academy', true)) = '*')"
)


def upgrade() -> None:
    for table, column in (*((table, 'academy_id') for table in TABLES), ('academy', 'id')):
        own = OWN.format(column=column)
        seen = f'({column} is null or {own})' if table in OF_NOBODY_TOO else own
        op.execute(f'alter table {table} enable row level security')
        op.execute(f'create policy own_academy on {table} using ({seen}) with check ({own})')


def downgrade() -> None:
    for table in (*TABLES, 'academy'):
        op.execute(f'drop policy own_academy on {table}')
        op.execute(f'alter table {table} disable row level security')
