"""the van's stock, files looked at before they are brought in, plans of a swap, figures to cut a catalogue by"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"

FIGURES = ("volts_low", "volts_high", "amps_a", "hp", "shaft_in", "ambient_c")
WORDS = ("part_no", "maker", "kind", "role", "volts", "rpm", "mount", "frame")


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "van_part",
        sa.Column("part_no", sa.String(length=200), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("sections_uf", sa.String(length=200), nullable=True),
        sa.Column("volts_v", sa.Double(), nullable=True),
        sa.Column("shape", sa.String(length=20), nullable=True),
        sa.Column("height_in", sa.Double(), nullable=True),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.CheckConstraint("kind in ('motor', 'capacitor', 'part')", name="van_kind_is_known"),
        sa.CheckConstraint("quantity >= 0", name="quantity_counts"),
        sa.PrimaryKeyConstraint("part_no"),
    )
    op.create_table(
        "import_draft",
        sa.Column("id", sa.String(length=64), nullable=False),
        sa.Column("what", sa.String(length=20), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("report", sa.JSON(), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.add_column("call", sa.Column("plan", sa.JSON(), server_default=sa.text("'{}'"), nullable=False))
    op.drop_index("ix_catalogue_cut", table_name="catalogue_motor")
    for name in FIGURES:
        op.add_column("catalogue_motor", sa.Column(name, sa.Double(), nullable=True))
    op.add_column("catalogue_motor", sa.Column("role", sa.String(length=20), nullable=True))
    words = sa.Column("words", sa.String(length=800), server_default=sa.text("''"), nullable=False)
    op.add_column("catalogue_motor", words)
    op.create_index(
        "ix_catalogue_cut",
        "catalogue_motor",
        ["phase", "hz", "kind", "rpm_low", "rpm_high", *FIGURES],
    )
    # What is left empty here cuts nothing; bringing the catalogue in again fills it.
    found_by = " || ' ' || ".join(f"coalesce(json_extract(plate, '$.{name}'), '')" for name in WORDS)
    role = "json_extract(plate, '$.role')"
    op.execute(f"update catalogue_motor set role = {role}, words = lower({found_by})")
    op.execute("update catalogue_motor set rpm_low = 0 where kind = 'ecm' and json_extract(plate, '$.rpm_min') is null")
