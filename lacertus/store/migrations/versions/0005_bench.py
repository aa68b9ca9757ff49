"""The bench: rep facts, overruled verdicts, carried points with their uncertainty, the frame of reference"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0005'
down_revision = '0004'
branch_labels = None
depends_on = None

REP_FACTS = ('outcome', 'start_at', 'end_at', 'resists_from', 'reaction', 'finish', 'stance', 'grade')


def upgrade() -> None:
    jsonb = postgresql.JSONB(astext_type=sa.Text())
    for name in REP_FACTS:
        op.add_column('rep', sa.Column(name, sa.String(), nullable=True))
    op.add_column('rep', sa.Column('linked_to', sa.Uuid(), nullable=True))
    op.create_foreign_key(op.f('fk_rep_linked_to_rep'), 'rep', 'rep', ['linked_to'], ['id'], ondelete='SET NULL')
    op.create_index(op.f('ix_rep_linked_to'), 'rep', ['linked_to'], unique=False)
    op.add_column('rep', sa.Column('carrying', jsonb, nullable=True))
    op.add_column('point', sa.Column('sigma', sa.Float(), nullable=True))
    op.add_column('review', sa.Column('reference', jsonb, server_default='{}', nullable=False))
    op.add_column('judgement', sa.Column('measured', sa.String(), nullable=True))
    op.add_column('judgement', sa.Column('because', sa.String(), nullable=True))
    op.create_table(
        'overrule',
        sa.Column('rep_id', sa.Uuid(), nullable=False),
        sa.Column('checkpoint', sa.String(), nullable=False),
        sa.Column('verdict', sa.String(), nullable=False),
        sa.Column('reason', sa.String(), nullable=False),
        sa.ForeignKeyConstraint(['rep_id'], ['rep.id'], name=op.f('fk_overrule_rep_id_rep'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('rep_id', 'checkpoint', name=op.f('pk_overrule')),
        sa.CheckConstraint("verdict in ('met', 'borderline', 'missed', 'not_seen', 'not_asked')", name=op.f('ck_overrule_verdict')),
    )


def downgrade() -> None:
    op.drop_table('overrule')
    op.drop_column('judgement', 'because')
    op.drop_column('judgement', 'measured')
    op.drop_column('review', 'reference')
    op.drop_column('point', 'sigma')
    op.drop_column('rep', 'carrying')
    op.drop_index(op.f('ix_rep_linked_to'), table_name='rep')
    op.drop_constraint(op.f('fk_rep_linked_to_rep'), 'rep', type_='foreignkey')
    op.drop_column('rep', 'linked_to')
    for name in reversed(REP_FACTS):
        op.drop_column('rep', name)
