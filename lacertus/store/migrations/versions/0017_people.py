"""Roles, links that are used once, the audit trail, and what is known of students"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY

revision = '0017'
down_revision = '0016'
branch_labels = None
depends_on = None

AT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.add_column('academy', sa.Column('time_zone', sa.String(), server_default='UTC', nullable=False))
    op.add_column('academy', sa.Column('sheet_language', sa.String(), server_default='en', nullable=False))
    op.add_column('academy', sa.Column('units', sa.String(), server_default='metric', nullable=False))
    op.add_column('academy', sa.Column('needs_second_factor', sa.Boolean(), server_default=sa.false(), nullable=False))
    op.create_check_constraint('units', 'academy', "units in ('metric', 'imperial')")
    op.add_column('account', sa.Column('role', sa.String(), server_default='coach', nullable=False))
    op.add_column('account', sa.Column('totp_secret', sa.String()))
    op.add_column('account', sa.Column('totp_used', sa.Integer()))
    op.add_column('account', sa.Column('left_at', AT))
    op.create_check_constraint('role', 'account', "role in ('owner', 'coach', 'assistant')")
    # Whoever has been there longest owns the academy.
    op.execute(
        "update account set role = 'owner' where id in "
        "(select distinct on (academy_id) id from account order by academy_id, created_at, id)"
    )
    op.add_column(
        'sign_in', sa.Column('id', sa.Uuid(), server_default=sa.text('gen_random_uuid()'), nullable=False)
    )
    op.alter_column('sign_in', 'id', server_default=None)
    op.create_unique_constraint('uq_sign_in_id', 'sign_in', ['id'])
    op.add_column('sign_in', sa.Column('device', sa.String(), server_default='', nullable=False))
    op.add_column('sign_in', sa.Column('made_at', AT, server_default=sa.func.now(), nullable=False))
    op.add_column('sign_in', sa.Column('seen_at', AT, server_default=sa.func.now(), nullable=False))
    op.create_table(
        'account_link',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('token_hash', sa.String(), nullable=False),
        sa.Column('kind', sa.String(), nullable=False),
        sa.Column('academy_id', sa.Uuid()),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('email', sa.String(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('role', sa.String(), nullable=False),
        sa.Column('expires_at', AT, nullable=False),
        sa.Column('used_at', AT),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("kind in ('setup', 'invite', 'reset')", name=op.f('ck_account_link_kind')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], ondelete='CASCADE', name=op.f('fk_account_link_academy_id')),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], ondelete='CASCADE', name=op.f('fk_account_link_account_id')),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_account_link')),
        sa.UniqueConstraint('token_hash', name=op.f('uq_account_link_token_hash')),
    )
    op.create_index(op.f('ix_account_link_academy_id'), 'account_link', ['academy_id'])
    op.create_index(op.f('ix_account_link_account_id'), 'account_link', ['account_id'])
    op.create_table(
        'audit',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('at', AT, server_default=sa.func.now(), nullable=False),
        sa.Column('who', sa.String(), nullable=False),
        sa.Column('what', sa.String(), nullable=False),
        sa.Column('about', sa.String(), nullable=False),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], ondelete='CASCADE', name=op.f('fk_audit_academy_id')),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_audit')),
    )
    op.create_index(op.f('ix_audit_academy_id_id'), 'audit', ['academy_id', 'id'])
    op.execute(
        """
        create function audit_is_kept() returns trigger language plpgsql as $$
        begin
          -- With its academy it may go: nobody is left who could look it up.
          if tg_op = 'DELETE' and not exists (select from academy where id = old.academy_id) then
            return old;
          end if;
          raise exception 'the audit trail cannot be changed';
        end $$
        """
    )
    op.execute("create trigger audit_is_kept before update or delete on audit for each row execute function audit_is_kept()")
    op.add_column('student', sa.Column('born_on', sa.Date()))
    op.add_column('student', sa.Column('height_cm', sa.Double()))
    op.add_column('student', sa.Column('weight_kg', sa.Double()))
    op.add_column('student', sa.Column('groups', ARRAY(sa.String()), server_default='{}', nullable=False))
    op.add_column('student', sa.Column('equipment', ARRAY(sa.String()), server_default='{}', nullable=False))
    op.add_column('student', sa.Column('guardian', sa.String(), server_default='', nullable=False))
    op.add_column('student', sa.Column('guardian_email', sa.String(), server_default='', nullable=False))
    op.add_column('student', sa.Column('archived_at', AT))


def downgrade() -> None:
    for name in ('archived_at', 'guardian_email', 'guardian', 'equipment', 'groups', 'weight_kg', 'height_cm', 'born_on'):
        op.drop_column('student', name)
    op.drop_table('audit')
    op.execute("drop function audit_is_kept")
    op.drop_table('account_link')
    for name in ('seen_at', 'made_at', 'device', 'id'):
        op.drop_column('sign_in', name)
    for name in ('left_at', 'totp_used', 'totp_secret', 'role'):
        op.drop_column('account', name)
    for name in ('needs_second_factor', 'units', 'sheet_language', 'time_zone'):
        op.drop_column('academy', name)
