"""Notes, what to fix first over a history, grades, what was taught, second opinions; verdicts know how their rep was done"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0010'
down_revision = '0009'
branch_labels = None
depends_on = None

OF_REP = ('first_frame', 'side', 'pace', 'rung', 'purpose', 'outcome', 'reaction', 'options')
ALWAYS = ('first_frame', 'side', 'pace', 'purpose', 'options')


def upgrade() -> None:
    op.create_table(
        'grade',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('place', sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_grade_academy_id_academy'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_grade')),
        sa.UniqueConstraint('academy_id', 'name', name=op.f('uq_grade_academy_id_name')),
    )
    op.create_index(op.f('ix_grade_academy_id'), 'grade', ['academy_id'])
    op.create_table(
        'requirement',
        sa.Column('grade_id', sa.Uuid(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('rung', sa.String(), nullable=False),
        sa.ForeignKeyConstraint(['grade_id'], ['grade.id'], name=op.f('fk_requirement_grade_id_grade'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('grade_id', 'technique', name=op.f('pk_requirement')),
    )
    op.create_table(
        'taught',
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('taught_on', sa.Date(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=True),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_taught_academy_id_academy'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_taught_account_id_account'), ondelete='SET NULL'),
        sa.PrimaryKeyConstraint('academy_id', 'technique', 'taught_on', name=op.f('pk_taught')),
    )
    op.add_column('student', sa.Column('grade_id', sa.Uuid(), nullable=True))
    op.add_column('student', sa.Column('focus', postgresql.JSONB(astext_type=sa.Text()), nullable=True))
    op.create_index(op.f('ix_student_grade_id'), 'student', ['grade_id'])
    op.create_foreign_key(op.f('fk_student_grade_id_grade'), 'student', 'grade', ['grade_id'], ['id'], ondelete='SET NULL')
    op.create_table(
        'note',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=True),
        sa.Column('noted_on', sa.Date(), nullable=False),
        sa.Column('words', sa.String(), nullable=False),
        sa.Column('created_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_note_account_id_account'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_note_student_id_student'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_note')),
    )
    op.create_index(op.f('ix_note_student_id'), 'note', ['student_id'])
    op.create_table(
        'opinion',
        sa.Column('rep_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid(), nullable=False),
        sa.Column('checkpoint', sa.String(), nullable=False),
        sa.Column('verdict', sa.String(), nullable=False),
        sa.Column('first_verdict', sa.String(), nullable=True),
        sa.Column('first_account_id', sa.Uuid(), nullable=True),
        sa.Column('handed_in_at', sa.DateTime(timezone=True), nullable=True),
        sa.CheckConstraint("verdict in ('met', 'missed', 'not_seen')", name=op.f('ck_opinion_verdict')),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_opinion_account_id_account'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['first_account_id'], ['account.id'], name=op.f('fk_opinion_first_account_id_account'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['rep_id'], ['rep.id'], name=op.f('fk_opinion_rep_id_rep'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('rep_id', 'account_id', 'checkpoint', name=op.f('pk_opinion')),
    )
    op.create_index(op.f('ix_opinion_account_id'), 'opinion', ['account_id'])
    op.add_column('judgement', sa.Column('first_frame', sa.Integer(), nullable=True))
    for name in OF_REP[1:-1]:
        op.add_column('judgement', sa.Column(name, sa.String(), nullable=True))
    op.add_column('judgement', sa.Column('options', postgresql.JSONB(astext_type=sa.Text()), nullable=True))
    op.execute(f"update judgement set {', '.join(f'{name} = rep.{name}' for name in OF_REP)} from rep where rep.id = judgement.rep_id")
    for name in ALWAYS:
        op.alter_column('judgement', name, nullable=False)


def downgrade() -> None:
    for name in OF_REP:
        op.drop_column('judgement', name)
    op.drop_table('opinion')
    op.drop_table('note')
    op.drop_constraint(op.f('fk_student_grade_id_grade'), 'student', type_='foreignkey')
    op.drop_column('student', 'focus')
    op.drop_column('student', 'grade_id')
    op.drop_table('taught')
    op.drop_table('requirement')
    op.drop_table('grade')
