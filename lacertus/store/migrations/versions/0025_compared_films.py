"""Films of reps beside one another, and what they show"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = '0025'
down_revision = '0024'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'compared_film',
        sa.Column('id', sa.Uuid(), nullable=False),
        sa.Column('review_id', sa.Uuid(), nullable=False),
        sa.Column('account_id', sa.Uuid()),
        sa.Column('anchor', sa.String(), nullable=False),
        sa.Column('stretched', sa.Boolean(), nullable=False),
        sa.Column('speed', sa.Float(), nullable=False),
        sa.Column('words', sa.String(), nullable=False),
        sa.Column('count', sa.Integer(), nullable=False),
        sa.Column('seconds', sa.Float()),
        sa.Column('created_at', sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.ForeignKeyConstraint(['account_id'], ['account.id'], name=op.f('fk_compared_film_account_id'), ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['review_id'], ['review.id'], name=op.f('fk_compared_film_review_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_compared_film')),
    )
    op.create_index(op.f('ix_compared_film_review_id'), 'compared_film', ['review_id'])
    op.create_table(
        'compared_side',
        sa.Column('film_id', sa.Uuid(), nullable=False),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.Column('key', sa.String(), nullable=False),
        sa.Column('clip_id', sa.Uuid()),
        sa.Column('rep_id', sa.Uuid()),
        sa.ForeignKeyConstraint(['clip_id'], ['clip.id'], name=op.f('fk_compared_side_clip_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['film_id'], ['compared_film.id'], name=op.f('fk_compared_side_film_id'), ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['rep_id'], ['rep.id'], name=op.f('fk_compared_side_rep_id'), ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('film_id', 'number', name=op.f('pk_compared_side')),
    )
    op.create_index(op.f('ix_compared_side_clip_id'), 'compared_side', ['clip_id'])
    op.create_index(op.f('ix_compared_side_rep_id'), 'compared_side', ['rep_id'])


def downgrade() -> None:
    op.drop_table('compared_side')
    op.drop_table('compared_film')
