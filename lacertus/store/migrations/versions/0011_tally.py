"""A tally of faults by review, kept by the database"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0011'
down_revision = '0010'
branch_labels = None
depends_on = None

MISSED = "(j.verdict = 'missed' or j.verdict = 'borderline' and j.safety)"
ADD_UP = f"""
    insert into tally (review_id, student_id, technique, fault, academy_id, filmed_on, family, safety, exposures, misses)
    select j.review_id, j.student_id, j.technique, j.fault, s.academy_id, min(j.filmed_on), min(j.family), bool_or(j.safety),
           count(*), count(*) filter (where {MISSED})
    from judgement j join student s on s.id = j.student_id
    where (j.verdict = 'met' or {MISSED}) and j.purpose <> 'demonstration'
"""
BY = "group by j.review_id, j.student_id, j.technique, j.fault, s.academy_id"
# A review's verdicts change together, so that they are added up anew as a whole. While it is deleted itself there is nothing to keep.
FUNCTION = f"""
create function add_up_faults() returns trigger language plpgsql as $$
begin
    delete from tally where review_id in (select distinct review_id from changed);
    {ADD_UP} and j.review_id in (select distinct c.review_id from changed c join review r on r.id = c.review_id)
    {BY};
    return null;
end $$
"""
EVENTS = {'insert': 'new', 'update': 'new', 'delete': 'old'}


def upgrade() -> None:
    # Named as the naming convention has it.
    op.execute("alter table revision rename constraint uq_revision_review_id to uq_revision_review_id_number")
    op.create_table(
        'tally',
        sa.Column('review_id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('fault', sa.String(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('filmed_on', sa.Date(), nullable=False),
        sa.Column('family', sa.String(), nullable=False),
        sa.Column('safety', sa.Boolean(), nullable=False),
        sa.Column('exposures', sa.Integer(), nullable=False),
        sa.Column('misses', sa.Integer(), nullable=False),
        *(
            sa.ForeignKeyConstraint([f'{name}_id'], [f'{name}.id'], name=op.f(f'fk_tally_{name}_id_{name}'), ondelete='CASCADE')
            for name in ('review', 'student', 'academy')
        ),
        sa.PrimaryKeyConstraint('review_id', 'student_id', 'technique', 'fault', name=op.f('pk_tally')),
    )
    op.create_index('ix_tally_academy_id_filmed_on', 'tally', ['academy_id', 'filmed_on'])
    op.execute(f"{ADD_UP} {BY}")
    op.execute(FUNCTION)
    for event, which in EVENTS.items():
        op.execute(
            f"create trigger add_up_after_{event} after {event} on judgement referencing {which} table as changed "
            "for each statement execute function add_up_faults()"
        )


def downgrade() -> None:
    for event in EVENTS:
        op.execute(f"drop trigger add_up_after_{event} on judgement")
    op.execute("drop function add_up_faults")
    op.drop_table('tally')
    op.execute("alter table revision rename constraint uq_revision_review_id_number to uq_revision_review_id")
