"""Practice, classes, notes from the floor, rounds, calendars, and how long reviews took"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = '0020'
down_revision = '0019'
branch_labels = None
depends_on = None

AT = sa.DateTime(timezone=True)
TABLES = (
    'weekly_class', 'class_exception', 'lesson', 'own_drill', 'attendance', 'calendar_feed', 'class_member',
    'floor_note', 'layer_word', 'partner_rule', 'trained_with', 'round', 'prescription', 'practice_log',
)


def upgrade() -> None:
    op.create_table(
        'weekly_class',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('weekday', sa.Integer(), nullable=False),
        sa.Column('at', sa.Integer(), nullable=False),
        sa.Column('minutes', sa.Integer(), nullable=False),
        sa.Column('mats', sa.Integer(), nullable=False),
        sa.Column('for_children', sa.Boolean(), server_default=sa.false(), nullable=False),
        sa.Column('equipment', sa.ARRAY(sa.String()), server_default='{}', nullable=False),
        sa.Column('since', sa.Date(), nullable=False),
        sa.Column('until', sa.Date()),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint('at between 0 and 1439', name=op.f('ck_weekly_class_at')),
        sa.CheckConstraint('weekday between 0 and 6', name=op.f('ck_weekly_class_weekday')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_weekly_class_academy_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_weekly_class')),
    )
    op.create_index(op.f('ix_weekly_class_academy_id'), 'weekly_class', ['academy_id'])
    op.create_table(
        'class_exception',
        sa.Column('weekly_id', sa.Uuid(), nullable=False),
        sa.Column('planned_on', sa.Date(), nullable=False),
        sa.Column('moved_to', sa.Date()),
        sa.Column('at', sa.Integer()),
        sa.Column('why', sa.String(), nullable=False),
        sa.ForeignKeyConstraint(['weekly_id'], ['weekly_class.id'], name=op.f('fk_class_exception_weekly_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('weekly_id', 'planned_on', name=op.f('pk_class_exception')),
    )
    op.create_table(
        'lesson',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('weekly_id', sa.Uuid()),
        sa.Column('planned_on', sa.Date()),
        sa.Column('held_on', sa.Date(), nullable=False),
        sa.Column('at', sa.Integer(), nullable=False),
        sa.Column('minutes', sa.Integer(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('mats', sa.Integer(), nullable=False),
        sa.Column('for_children', sa.Boolean(), nullable=False),
        sa.Column('equipment', sa.ARRAY(sa.String()), nullable=False),
        sa.Column('teach', JSONB(), nullable=False),
        sa.Column('units', JSONB(), nullable=False),
        sa.Column('pairs', JSONB()),
        sa.Column('clock', JSONB(), nullable=False),
        sa.Column('version', sa.Integer(), nullable=False),
        sa.Column('booked_at', AT),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint('at between 0 and 1439', name=op.f('ck_lesson_at')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_lesson_academy_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_lesson_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['weekly_id'], ['weekly_class.id'], name=op.f('fk_lesson_weekly_id'), ondelete='SET NULL'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_lesson')),
        sa.UniqueConstraint('weekly_id', 'planned_on', name=op.f('uq_lesson_weekly_id_planned_on')),
    )
    op.create_index(op.f('ix_lesson_academy_id'), 'lesson', ['academy_id'])
    op.create_index('ix_lesson_academy_id_held_on', 'lesson', ['academy_id', 'held_on'])
    op.create_index(op.f('ix_lesson_weekly_id'), 'lesson', ['weekly_id'])
    op.create_table(
        'own_drill',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('fault', sa.String(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('how', sa.String(), nullable=False),
        sa.Column('dose', JSONB(), nullable=False),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_own_drill_academy_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_own_drill_account_id'), ondelete='SET NULL'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_own_drill')),
        sa.UniqueConstraint('academy_id', 'technique', 'fault', 'name', name=op.f('uq_own_drill_academy_id_technique_fault_name')),
    )
    op.create_index(op.f('ix_own_drill_academy_id'), 'own_drill', ['academy_id'])
    op.create_table(
        'attendance',
        sa.Column('lesson_id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('came', sa.Boolean()),
        sa.ForeignKeyConstraint(['lesson_id'], ['lesson.id'], name=op.f('fk_attendance_lesson_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_attendance_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('lesson_id', 'student_id', name=op.f('pk_attendance')),
    )
    op.create_index(op.f('ix_attendance_student_id'), 'attendance', ['student_id'])
    op.create_table(
        'calendar_feed',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('student_id', sa.Uuid()),
        sa.Column('revoked_at', AT),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint('(account_id is null) <> (student_id is null)', name=op.f('ck_calendar_feed_whose')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_calendar_feed_academy_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_calendar_feed_account_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_calendar_feed_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_calendar_feed')),
    )
    op.create_index(op.f('ix_calendar_feed_academy_id'), 'calendar_feed', ['academy_id'])
    op.create_index(op.f('ix_calendar_feed_account_id'), 'calendar_feed', ['account_id'])
    op.create_index(op.f('ix_calendar_feed_student_id'), 'calendar_feed', ['student_id'])
    op.create_table(
        'class_member',
        sa.Column('weekly_id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_class_member_student_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['weekly_id'], ['weekly_class.id'], name=op.f('fk_class_member_weekly_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('weekly_id', 'student_id', name=op.f('pk_class_member')),
    )
    op.create_index(op.f('ix_class_member_student_id'), 'class_member', ['student_id'])
    op.create_table(
        'floor_note',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('lesson_id', sa.Uuid()),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('key', sa.Uuid(), nullable=False),
        sa.Column('kind', sa.String(), nullable=False),
        sa.Column('unit', sa.String(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('checkpoint', sa.String(), nullable=False),
        sa.Column('words', sa.String(), nullable=False),
        sa.Column('noted_at', AT, nullable=False),
        sa.Column('done_at', AT),
        sa.CheckConstraint("kind in ('fault', 'good', 'remark', 'question', 'film')", name=op.f('ck_floor_note_kind')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_floor_note_academy_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_floor_note_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['lesson_id'], ['lesson.id'], name=op.f('fk_floor_note_lesson_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_floor_note_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_floor_note')),
        sa.UniqueConstraint('student_id', 'key', name=op.f('uq_floor_note_student_id_key')),
    )
    op.create_index(op.f('ix_floor_note_academy_id'), 'floor_note', ['academy_id'])
    op.create_index(op.f('ix_floor_note_lesson_id'), 'floor_note', ['lesson_id'])
    op.create_index(op.f('ix_floor_note_student_id'), 'floor_note', ['student_id'])
    op.create_index('ix_floor_note_student_id_noted_at', 'floor_note', ['student_id', 'noted_at'])
    op.create_table(
        'layer_word',
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('layer', sa.String(), nullable=False),
        sa.Column('holds', sa.Boolean(), nullable=False),
        sa.Column('said_on', sa.Date(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_layer_word_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_layer_word_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('student_id', 'technique', 'layer', name=op.f('pk_layer_word')),
    )
    op.create_table(
        'partner_rule',
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('other_id', sa.Uuid(), nullable=False),
        sa.Column('rule', sa.String(), nullable=False),
        sa.Column('why', sa.String(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("rule in ('apart', 'allowed')", name=op.f('ck_partner_rule_rule')),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_partner_rule_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['other_id'], ['student.id'], name=op.f('fk_partner_rule_other_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_partner_rule_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('student_id', 'other_id', name=op.f('pk_partner_rule')),
    )
    op.create_index(op.f('ix_partner_rule_other_id'), 'partner_rule', ['other_id'])
    op.create_table(
        'trained_with',
        sa.Column('lesson_id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('other_id', sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(['lesson_id'], ['lesson.id'], name=op.f('fk_trained_with_lesson_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['other_id'], ['student.id'], name=op.f('fk_trained_with_other_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_trained_with_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('lesson_id', 'student_id', 'other_id', name=op.f('pk_trained_with')),
    )
    op.create_index(op.f('ix_trained_with_other_id'), 'trained_with', ['other_id'])
    op.create_index(op.f('ix_trained_with_student_id'), 'trained_with', ['student_id'])
    op.create_table(
        'round',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('other_id', sa.Uuid()),
        sa.Column('clip_id', sa.Uuid()),
        sa.Column('lesson_id', sa.Uuid()),
        sa.Column('held_on', sa.Date(), nullable=False),
        sa.Column('objective', sa.String(), nullable=False),
        sa.Column('first_frame', sa.Integer()),
        sa.Column('last_frame', sa.Integer()),
        sa.Column('rounds', sa.Integer(), nullable=False),
        sa.Column('seconds', sa.Double(), nullable=False),
        sa.Column('rest_s', sa.Double(), nullable=False),
        sa.Column('clock', JSONB(), nullable=False),
        sa.Column('taps', JSONB(), nullable=False),
        sa.Column('shown', sa.Boolean(), server_default=sa.true(), nullable=False),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_round_academy_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_round_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['clip_id'], ['clip.id'], name=op.f('fk_round_clip_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['lesson_id'], ['lesson.id'], name=op.f('fk_round_lesson_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['other_id'], ['student.id'], name=op.f('fk_round_other_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_round_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_round')),
    )
    op.create_index(op.f('ix_round_academy_id'), 'round', ['academy_id'])
    op.create_index('ix_round_academy_id_held_on', 'round', ['academy_id', 'held_on'])
    op.create_index(op.f('ix_round_clip_id'), 'round', ['clip_id'])
    op.create_index(op.f('ix_round_lesson_id'), 'round', ['lesson_id'])
    op.create_index(op.f('ix_round_other_id'), 'round', ['other_id'])
    op.create_index(op.f('ix_round_student_id'), 'round', ['student_id'])
    op.create_table(
        'prescription',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('review_id', sa.Uuid()),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('drill', sa.String(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('how', sa.String(), nullable=False),
        sa.Column('faults', sa.ARRAY(sa.String()), nullable=False),
        sa.Column('dose', JSONB(), nullable=False),
        sa.Column('times_a_week', sa.Integer(), nullable=False),
        sa.Column('partner_task', sa.String(), nullable=False),
        sa.Column('side', sa.String(), nullable=False),
        sa.Column('start', sa.String()),
        sa.Column('made_in', sa.String(), nullable=False),
        sa.Column('since', sa.Date(), nullable=False),
        sa.Column('until', sa.Date()),
        sa.Column('ended_on', sa.Date()),
        sa.Column('ended_why', sa.String(), nullable=False),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("ended_why in ('', 'done', 'replaced', 'pain', 'cleared', 'stopped')", name=op.f('ck_prescription_ended_why')),
        sa.CheckConstraint("made_in in ('review', 'class', 'hand')", name=op.f('ck_prescription_made_in')),
        sa.CheckConstraint("side in ('both', 'left', 'right')", name=op.f('ck_prescription_side')),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_prescription_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['review_id'], ['review.id'], name=op.f('fk_prescription_review_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_prescription_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_prescription')),
    )
    op.create_index(op.f('ix_prescription_review_id'), 'prescription', ['review_id'])
    op.create_index(op.f('ix_prescription_student_id'), 'prescription', ['student_id'])
    op.create_table(
        'practice_log',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('student_id', sa.Uuid(), nullable=False),
        sa.Column('prescription_id', sa.Uuid()),
        sa.Column('lesson_id', sa.Uuid()),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('key', sa.Uuid(), nullable=False),
        sa.Column('done_on', sa.Date(), nullable=False),
        sa.Column('technique', sa.String(), nullable=False),
        sa.Column('drill', sa.String(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('amount', sa.Integer(), nullable=False),
        sa.Column('place', sa.String(), nullable=False),
        sa.Column('felt', sa.String()),
        sa.Column('pain', sa.Boolean(), nullable=False),
        sa.Column('words', sa.String(), nullable=False),
        sa.Column('said_by', sa.String(), nullable=False),
        sa.Column('created_at', AT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("felt in ('sure', 'unsure')", name=op.f('ck_practice_log_felt')),
        sa.CheckConstraint("place in ('class', 'home')", name=op.f('ck_practice_log_place')),
        sa.CheckConstraint("said_by in ('student', 'guardian', 'coach', 'class')", name=op.f('ck_practice_log_said_by')),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_practice_log_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['lesson_id'], ['lesson.id'], name=op.f('fk_practice_log_lesson_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['prescription_id'], ['prescription.id'], name=op.f('fk_practice_log_prescription_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['student_id'], ['student.id'], name=op.f('fk_practice_log_student_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_practice_log')),
        sa.UniqueConstraint('student_id', 'key', name=op.f('uq_practice_log_student_id_key')),
    )
    op.create_index(op.f('ix_practice_log_lesson_id'), 'practice_log', ['lesson_id'])
    op.create_index(op.f('ix_practice_log_prescription_id'), 'practice_log', ['prescription_id'])
    op.create_index(op.f('ix_practice_log_student_id'), 'practice_log', ['student_id'])
    op.create_index('ix_practice_log_student_id_done_on', 'practice_log', ['student_id', 'done_on'])
    op.add_column('review', sa.Column('worked_s', sa.Double(), server_default='0', nullable=False))


def downgrade() -> None:
    op.drop_column('review', 'worked_s')
    for table in reversed(TABLES):
        op.drop_table(table)
