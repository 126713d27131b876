"""first light"""

import sqlalchemy as sa
from alembic import op

revision = '0001'
down_revision = None


def upgrade() -> None:
    """Apply."""
    op.create_table('catalogue_motor',
    sa.Column('part_no', sa.String(length=200), nullable=False),
    sa.Column('kind', sa.String(length=20), nullable=False),
    sa.Column('phase', sa.Integer(), nullable=False),
    sa.Column('hz', sa.Integer(), nullable=False),
    sa.Column('rpm', sa.Double(), nullable=False),
    sa.Column('rpm_low', sa.Double(), nullable=False),
    sa.Column('rpm_high', sa.Double(), nullable=False),
    sa.Column('plate', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('part_no')
    )
    with op.batch_alter_table('catalogue_motor', schema=None) as batch_op:
        batch_op.create_index('ix_catalogue_cut', ['phase', 'hz', 'rpm'], unique=False)

    op.create_table('site',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(length=200), nullable=False),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('name')
    )
    op.create_table('technician',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(length=200), nullable=False),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('name')
    )
    op.create_table('unit',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('site_id', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(length=200), nullable=False),
    sa.Column('plate', sa.JSON(), nullable=False),
    sa.ForeignKeyConstraint(['site_id'], ['site.id'], ),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('site_id', 'name')
    )
    with op.batch_alter_table('unit', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_unit_site_id'), ['site_id'], unique=False)

    op.create_table('motor',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('unit_id', sa.Integer(), nullable=False),
    sa.Column('plate', sa.JSON(), nullable=False),
    sa.Column('around', sa.JSON(), nullable=False),
    sa.Column('installed_at', sa.DateTime(), nullable=True),
    sa.Column('removed_at', sa.DateTime(), nullable=True),
    sa.ForeignKeyConstraint(['unit_id'], ['unit.id'], ),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('motor', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_motor_unit_id'), ['unit_id'], unique=False)

    op.create_table('call',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('motor_id', sa.Integer(), nullable=False),
    sa.Column('technician_id', sa.Integer(), nullable=True),
    sa.Column('opened_at', sa.DateTime(), nullable=False),
    sa.Column('closed_at', sa.DateTime(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('complaint', sa.JSON(), nullable=False),
    sa.Column('meters', sa.JSON(), nullable=False),
    sa.Column('power', sa.String(length=20), server_default=sa.text("'energised'"), nullable=False),
    sa.Column('power_at', sa.DateTime(), nullable=True),
    sa.Column('school', sa.String(length=20), server_default=sa.text("'amps'"), nullable=False),
    sa.Column('chosen', sa.JSON(), nullable=True),
    sa.Column('outcome', sa.JSON(), nullable=True),
    sa.CheckConstraint("power in ('energised', 'dead')", name='power_is_known'),
    sa.CheckConstraint("school in ('amps', 'hp_amps', 'ten_percent', 'like')", name='school_is_known'),
    sa.CheckConstraint('version >= 1', name='version_counts'),
    sa.ForeignKeyConstraint(['motor_id'], ['motor.id'], ),
    sa.ForeignKeyConstraint(['technician_id'], ['technician.id'], ),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('call', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_call_motor_id'), ['motor_id'], unique=False)
        batch_op.create_index('ix_call_open', ['closed_at', 'opened_at'], unique=False)

    op.create_table('act',
    sa.Column('id', sa.String(length=64), nullable=False),
    sa.Column('name', sa.String(length=40), nullable=False),
    sa.Column('call_id', sa.Integer(), nullable=True),
    sa.Column('done_at', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['call_id'], ['call.id'], ),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('act', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_act_call_id'), ['call_id'], unique=False)

    op.create_table('photograph',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('call_id', sa.Integer(), nullable=False),
    sa.Column('subject', sa.String(length=40), nullable=False),
    sa.Column('media_type', sa.String(length=40), nullable=False),
    sa.Column('sha256', sa.String(length=64), nullable=False),
    sa.Column('content', sa.LargeBinary(), nullable=False),
    sa.Column('taken_at', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['call_id'], ['call.id'], ),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('photograph', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_photograph_call_id'), ['call_id'], unique=False)

    op.create_table('reading',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('call_id', sa.Integer(), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('kind', sa.String(length=40), nullable=False),
    sa.Column('body', sa.JSON(), nullable=False),
    sa.Column('technician_id', sa.Integer(), nullable=True),
    sa.CheckConstraint('position >= 0', name='position_counts'),
    sa.ForeignKeyConstraint(['call_id'], ['call.id'], ),
    sa.ForeignKeyConstraint(['technician_id'], ['technician.id'], ),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('call_id', 'position')
    )
    with op.batch_alter_table('reading', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_reading_call_id'), ['call_id'], unique=False)

    op.create_table('step',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('call_id', sa.Integer(), nullable=False),
    sa.Column('station', sa.String(length=40), nullable=False),
    sa.Column('step', sa.String(length=60), nullable=False),
    sa.Column('done_at', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['call_id'], ['call.id'], ),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('call_id', 'station', 'step')
    )
    with op.batch_alter_table('step', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_step_call_id'), ['call_id'], unique=False)

