"""What the partner did and how it was answered, wrong choices, layers and starts; views by their plain names"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = '0015'
down_revision = '0014'
branch_labels = None
depends_on = None

VIEWS = {'back': 'behind', 'oblique': 'angle'}
FACTS = ('layer', 'start')
JUDGED = ('stance', 'layer', 'start', 'start_at', 'end_at', 'choice')
MISSED = "(j.verdict = 'missed' or j.verdict = 'borderline' and j.safety)"
FUNCTION = """
create or replace function add_up_faults() returns trigger language plpgsql as $$
begin
    delete from tally where review_id in (select distinct review_id from changed);
    insert into tally (review_id, student_id, technique, fault, academy_id, filmed_on, family, safety, exposures, misses)
    select j.review_id, j.student_id, j.technique, j.fault, s.academy_id, min(j.filmed_on), min(j.family), bool_or(j.safety),
           count(*), count(*) filter (where {missed})
    from judgement j join student s on s.id = j.student_id
    where (j.verdict = 'met' or {missed}) and j.purpose <> 'demonstration' {counts}
      and j.review_id in (select distinct c.review_id from changed c join review r on r.id = c.review_id)
    group by j.review_id, j.student_id, j.technique, j.fault, s.academy_id;
    return null;
end $$
"""


def _rename_views(names: dict[str, str]) -> None:
    for old, new in names.items():
        values = {'old': old, 'new': new}
        op.execute(sa.text('update rep set view = :new where view = :old').bindparams(**values))
        renamed = "jsonb_set(naming, '{view}', to_jsonb(cast(:new as text)))"
        op.execute(sa.text(f"update clip set naming = {renamed} where naming->>'view' = :old").bindparams(**values))


def upgrade() -> None:
    for name in FACTS:
        op.add_column('rep', sa.Column(name, sa.String(), nullable=True))
    for name in JUDGED:
        op.add_column('judgement', sa.Column(name, sa.String(), nullable=True))
    for name, default in (('counts', sa.true()), ('entry', sa.false())):
        op.add_column('judgement', sa.Column(name, sa.Boolean(), server_default=default, nullable=False))
    op.execute(FUNCTION.format(missed=MISSED, counts='and j.counts'))
    op.create_table(
        'reacted',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('review_id', sa.Uuid(), nullable=False),
        sa.Column('rep_id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('filmed_on', sa.Date(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('reaction', sa.String(), nullable=False),
        sa.Column('frame', sa.Integer(), nullable=True),
        sa.Column('answer', sa.String(), nullable=True),
        sa.Column('latency_ms', sa.Float(), nullable=True),
        sa.Column('u_ms', sa.Float(), nullable=True),
        sa.Column('verdict', sa.String(), nullable=False),
        sa.Column('reason', sa.String(), nullable=True),
        sa.Column('side', sa.String(), nullable=False),
        sa.Column('pace', sa.String(), nullable=False),
        sa.Column('rung', sa.String(), nullable=True),
        sa.Column('purpose', sa.String(), nullable=False),
        sa.Column('outcome', sa.String(), nullable=True),
        sa.Column('stance', sa.String(), nullable=True),
        sa.Column('start', sa.String(), nullable=True),
        sa.Column('options', JSONB(), nullable=False),
        sa.CheckConstraint("verdict in ('met', 'borderline', 'missed', 'not_seen', 'not_asked')", name=op.f('ck_reacted_verdict')),
        sa.ForeignKeyConstraint(['review_id'], ['review.id'], name=op.f('fk_reacted_review_id_review'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['rep_id'], ['rep.id'], name=op.f('fk_reacted_rep_id_rep'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_reacted_student_id_student')),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_reacted')),
    )
    op.create_index(op.f('ix_reacted_review_id'), 'reacted', ['review_id'])
    op.create_index(op.f('ix_reacted_rep_id'), 'reacted', ['rep_id'])
    op.create_index(op.f('ix_reacted_student_id'), 'reacted', ['student_id'])
    op.create_table(
        'made_start',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('phase', sa.String(), nullable=False),
        sa.Column('says', sa.String(), nullable=False),
        sa.Column('resists_from', sa.String(), nullable=True),
        sa.Column('resistance', sa.String(), server_default='none', nullable=False),
        sa.Column('rep_id', sa.Uuid(), nullable=True),
        sa.Column('frame', sa.Integer(), nullable=True),
        sa.Column('offered', sa.Boolean(), server_default=sa.true(), nullable=False),
        sa.Column('created_at', sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("resistance in ('none', 'fifth', 'half', 'full')", name=op.f('ck_made_start_resistance')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_made_start_academy_id_academy'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['rep_id'], ['rep.id'], name=op.f('fk_made_start_rep_id_rep'), ondelete='SET NULL'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_made_start')),
        sa.UniqueConstraint('rep_id', 'frame', name=op.f('uq_made_start_rep_id_frame')),
    )
    op.create_index(op.f('ix_made_start_academy_id'), 'made_start', ['academy_id'])
    _rename_views(VIEWS)


def downgrade() -> None:
    _rename_views({new: old for old, new in VIEWS.items()})
    op.drop_table('made_start')
    op.drop_table('reacted')
    op.execute(FUNCTION.format(missed=MISSED, counts=''))
    op.execute("delete from judgement where kind = 'reaction'")
    for name in ('counts', 'entry', *JUDGED):
        op.drop_column('judgement', name)
    for name in FACTS:
        op.drop_column('rep', name)
