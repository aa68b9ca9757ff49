"""The points of a rep have a version of their own, which the database gives anew whenever any of them changes"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0030'
down_revision = '0029'
branch_labels = None
depends_on = None

CHANGES = {'insert': 'new', 'update': 'new', 'delete': 'old'}


def upgrade() -> None:
    op.add_column('rep', sa.Column('points_version', sa.BigInteger(), server_default='0', nullable=False))
    # A sequence, and no count: what a transaction made that was rolled back is never the version of anything else.
    op.execute('create sequence rep_points_version')
    op.execute("""
        create function lacertus_points_changed() returns trigger language plpgsql as $$
        begin
          update rep set points_version = nextval('rep_points_version') where id in (select rep_id from changed);
          return null;
        end $$
    """)
    for change, rows in CHANGES.items():
        op.execute(f"""
            create trigger points_after_{change} after {change} on point referencing {rows} table as changed
            for each statement execute function lacertus_points_changed()
        """)


def downgrade() -> None:
    for change in CHANGES:
        op.execute(f'drop trigger points_after_{change} on point')
    op.execute('drop function lacertus_points_changed()')
    op.execute('drop sequence rep_points_version')
    op.drop_column('rep', 'points_version')
