"""Changes of reviews are told to whoever listens"""

from __future__ import annotations

from alembic import op

revision = '0028'
down_revision = '0027'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("""
        create function lacertus_review_changed() returns trigger language plpgsql as $$
        begin
          perform pg_notify('lacertus_review', new.id::text);
          return null;
        end $$
    """)
    op.execute("""
        create trigger review_changed after update of changes on review
        for each row when (old.changes is distinct from new.changes) execute function lacertus_review_changed()
    """)


def downgrade() -> None:
    op.execute('drop trigger review_changed on review')
    op.execute('drop function lacertus_review_changed()')
