"""Columns and jobs by their plain names, one table of jobs, and state that says only what was made"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = '0014'
down_revision = '0013'
branch_labels = None
depends_on = None

JOBS = {'carry_points': 'track_points', 'draw_beside': 'draw_example', 'make_marked': 'make_marked_clip'}
BROKE_OFF = 'This was being done when the server was brought to a new version. Ask for it again.'


def _rename_jobs(names: dict[str, str]) -> None:
    """Jobs that wait are done under their new name. A database that has never had the queue has none."""
    there = op.get_bind().execute(sa.text("select to_regclass('procrastinate_jobs')")).scalar()
    if there is None:
        return
    for old, new in names.items():
        op.execute(sa.text('update procrastinate_jobs set task_name = :new where task_name = :old').bindparams(old=old, new=new))


def _keep_jobs(task: str, about: str, rows: str, state: str, reason: str) -> None:
    """What was said of work that waits, runs or failed becomes a row of the table of jobs.

    `rows` gives the thing worked on and its clip; `state` and `reason` are read off it.
    """
    op.execute(f"""
        insert into job (id, academy_id, clip_id, task, about, state, reason, ended_at)
        select gen_random_uuid(), clip.academy_id, clip.id, '{task}', {about},
            case when {state} in ('waiting') then 'waiting' else 'failed' end,
            case when {state} = 'waiting' then null when {state} = 'failed' then {reason} else '{BROKE_OFF}' end,
            case when {state} = 'waiting' then null else now() end
        from {rows}
        where {state} in ('waiting', 'carrying', 'making', 'failed')
    """)


def upgrade() -> None:
    op.create_table(
        'job',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('academy_id', sa.Uuid(), nullable=False),
        sa.Column('clip_id', sa.Uuid(), nullable=False),
        sa.Column('task', sa.String(), nullable=False),
        sa.Column('about', sa.Uuid(), nullable=False),
        sa.Column('arguments', JSONB(), server_default='{}', nullable=False),
        sa.Column('state', sa.String(), server_default='waiting', nullable=False),
        sa.Column('done', sa.Integer(), server_default='0', nullable=False),
        sa.Column('of', sa.Integer(), nullable=True),
        sa.Column('reason', sa.String(), nullable=True),
        sa.Column('stop_asked', sa.Boolean(), server_default=sa.false(), nullable=False),
        sa.Column('request', sa.String(), nullable=True),
        sa.Column('asked_at', sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column('ended_at', sa.DateTime(timezone=True), nullable=True),
        sa.CheckConstraint("state in ('waiting', 'running', 'done', 'failed', 'stopped')", name=op.f('ck_job_state')),
        sa.ForeignKeyConstraint(['academy_id'], ['academy.id'], name=op.f('fk_job_academy_id_academy'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['clip_id'], ['clip.id'], name=op.f('fk_job_clip_id_clip'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_job')),
        sa.UniqueConstraint('task', 'about', name=op.f('uq_job_task_about')),
    )
    op.create_index(op.f('ix_job_academy_id'), 'job', ['academy_id'])
    op.create_index(op.f('ix_job_clip_id'), 'job', ['clip_id'])
    reviewed = 'join review on review.id = {}.review_id join clip on clip.id = review.clip_id'
    _keep_jobs(
        'track_points', 'rep.id', 'rep ' + reviewed.format('rep'), "rep.carrying->>'state'", "rep.carrying->>'reason'"
    )
    _keep_jobs(
        'make_marked_clip', 'review.id', 'review join clip on clip.id = review.clip_id', "review.marked->>'state'",
        "review.marked->>'reason'",
    )
    failed = "case when correction.still_failed is null then 'none' else 'failed' end"
    _keep_jobs('draw_still', 'correction.id', 'correction ' + reviewed.format('correction'), failed, 'correction.still_failed')
    failed = "case when correction.beside->>'failed' is null then 'none' else 'failed' end"
    _keep_jobs(
        'draw_example', 'correction.id', 'correction ' + reviewed.format('correction'), failed, "correction.beside->>'failed'"
    )
    reading = "case when clip.state = 'reading' then 'waiting' else clip.state end"
    _keep_jobs('read_clip', 'clip.id', 'clip', reading, 'clip.failure')
    _rename_jobs(JOBS)

    op.alter_column('rep', 'carrying', new_column_name='tracking')
    op.execute("""update rep set tracking = case when tracking->>'state' = 'done'
        then jsonb_build_object('lost', coalesce(tracking->'lost', '[]'::jsonb)) end where tracking is not null""")
    op.execute("""update review set marked = case when marked->>'state' = 'ready'
        then jsonb_build_object('seconds', coalesce(marked->'seconds', '0'::jsonb), 'lost', coalesce(marked->'lost', '[]'::jsonb)) end
        where marked is not null""")
    op.alter_column('correction', 'beside', new_column_name='example')
    op.execute("update correction set example = example - 'failed' where example ? 'failed'")
    op.drop_column('correction', 'still_failed')
    op.alter_column('student', 'focus', new_column_name='fix_choice')


def downgrade() -> None:
    op.alter_column('student', 'fix_choice', new_column_name='focus')
    op.add_column('correction', sa.Column('still_failed', sa.String(), nullable=True))
    op.execute("""update correction set still_failed = job.reason from job
        where job.task = 'draw_still' and job.about = correction.id and job.state = 'failed'""")
    op.alter_column('correction', 'example', new_column_name='beside')
    op.execute("update review set marked = marked || '{\"state\": \"ready\"}'::jsonb where marked is not null")
    op.execute("update rep set tracking = tracking || '{\"state\": \"done\"}'::jsonb where tracking is not null")
    op.alter_column('rep', 'tracking', new_column_name='carrying')
    _rename_jobs({new: old for old, new in JOBS.items()})
    op.drop_table('job')
