"""steps left out, follow-ups, parts booked off a van, several vans, who did what, words that calls are found by"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
FIRST_VAN = sa.text("'Van 1'")


def upgrade() -> None:
    """Apply."""
    op.add_column("technician", sa.Column("van", sa.String(length=60), nullable=True))
    op.add_column("motor", sa.Column("found_good", sa.JSON(), nullable=True))
    op.add_column("step", sa.Column("skipped", sa.String(length=500), nullable=True))
    op.add_column("act", sa.Column("version", sa.Integer(), nullable=True))
    op.add_column("act", sa.Column("who", sa.String(length=200), nullable=True))
    op.add_column("act", sa.Column("says", sa.String(length=300), nullable=True))
    op.add_column("call", sa.Column("van", sa.String(length=60), nullable=True))
    op.add_column("call", sa.Column("words", sa.Text(), server_default=sa.text("''"), nullable=False))
    op.create_index("ix_call_found_by", "call", ["opened_at", "words"])
    op.add_column("import_draft", sa.Column("van", sa.String(length=60), server_default=FIRST_VAN, nullable=False))
    op.create_table(
        "follow_up",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("call_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("says", sa.String(length=500), nullable=False),
        sa.Column("due_on", sa.Date(), nullable=False),
        sa.Column("settled_at", sa.DateTime(), nullable=True),
        sa.Column("settled", sa.String(length=500), nullable=True),
        sa.CheckConstraint("kind in ('temporary', 'unfinished', 'watch')", name="follow_up_kind_is_known"),
        sa.ForeignKeyConstraint(["call_id"], ["call.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_follow_up_call_id", "follow_up", ["call_id"])
    op.create_index("ix_follow_up_due_on", "follow_up", ["due_on"])
    op.create_table(
        "part_used",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("call_id", sa.Integer(), nullable=False),
        sa.Column("part_no", sa.String(length=200), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("van", sa.String(length=60), nullable=False),
        sa.Column("booked_at", sa.DateTime(), nullable=False),
        sa.CheckConstraint("quantity > 0", name="used_counts"),
        sa.ForeignKeyConstraint(["call_id"], ["call.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_part_used_call_id", "part_used", ["call_id"])
    _vans()
    op.execute(_WORDS)


def _vans() -> None:
    """The van joins the key of its parts: made anew, what is there copied."""
    op.rename_table("van_part", "van_part_old")
    op.create_table(
        "van_part",
        sa.Column("van", sa.String(length=60), nullable=False),
        sa.Column("part_no", sa.String(length=200), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("sections_uf", sa.String(length=200), nullable=True),
        sa.Column("volts_v", sa.Double(), nullable=True),
        sa.Column("shape", sa.String(length=20), nullable=True),
        sa.Column("height_in", sa.Double(), nullable=True),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.CheckConstraint("kind in ('motor', 'capacitor', 'part')", name="van_kind_is_known"),
        sa.CheckConstraint("quantity >= 0", name="quantity_counts"),
        sa.PrimaryKeyConstraint("van", "part_no"),
    )
    names = "part_no, kind, sections_uf, volts_v, shape, height_in, quantity"
    op.execute(f"insert into van_part (van, {names}) select 'Van 1', {names} from van_part_old")
    op.drop_table("van_part_old")


# What calls are found by until their next act writes it anew.
_WORDS = """
update call set words = lower(
  coalesce((select site.name || ' ' || unit.name from motor join unit on unit.id = motor.unit_id
            join site on site.id = unit.site_id where motor.id = call.motor_id), '') || ' ' ||
  coalesce((select coalesce(json_extract(plate, '$.part_no'), '') || ' ' || coalesce(json_extract(plate, '$.role'), '')
            from motor where motor.id = call.motor_id), '') || ' ' ||
  coalesce(json_extract(complaint, '$.says'), '') || ' ' || coalesce(json_extract(chosen, '$.part_no'), '') || ' ' ||
  coalesce((select name from technician where technician.id = call.technician_id), ''))
"""
