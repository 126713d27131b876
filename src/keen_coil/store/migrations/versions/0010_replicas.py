"""identities of every row that travels, what each replica knows, and van stock as movements"""

import time
from datetime import UTC, datetime

import sqlalchemy as sa
from alembic import op
from uuid_utils import uuid7

revision = "0010"
down_revision = "0009"

WITH_UID = ("unit", "motor", "call", "reading", "follow_up", "part_used", "photograph")
NAMING = {"uq": "uq_%(table_name)s_%(column_0_name)s", "ck": "ck_%(table_name)s_%(constraint_name)s"}


def _give_identities(connection: sa.Connection, name: str) -> None:
    """One for every row, in the order in which they were made."""
    rows = connection.exec_driver_sql(f"SELECT id FROM {name} ORDER BY id").scalars().all()
    for start in range(0, len(rows), 1000):
        given = [(str(uuid7()), number) for number in rows[start : start + 1000]]
        connection.exec_driver_sql(f"UPDATE {name} SET uid = ? WHERE id = ?", given)


def upgrade() -> None:
    """Apply."""
    connection = op.get_bind()
    for name in WITH_UID:
        op.add_column(name, sa.Column("uid", sa.String(36)))
        if name in ("unit", "motor"):
            op.add_column(name, sa.Column("joined_into", sa.String(36)))
        _give_identities(connection, name)
        with op.batch_alter_table(name, naming_convention=NAMING) as table:
            table.alter_column("uid", existing_type=sa.String(36), nullable=False)
            table.create_index(f"ix_{name}_uid", ["uid"], unique=True)
            if name == "unit":
                table.drop_constraint("uq_unit_site_id", type_="unique")
            if name == "photograph":
                table.create_index("ix_photograph_sha256", ["sha256"])
    with op.batch_alter_table("van_part") as table:
        table.drop_constraint("quantity_counts", type_="check")
    _movements(connection)
    _replicas(connection)


def _movements(connection: sa.Connection) -> None:
    made = op.create_table(
        "stock_movement",
        sa.Column("id", sa.Integer(), nullable=False, primary_key=True),
        sa.Column("uid", sa.String(36), nullable=False),
        sa.Column("van", sa.String(60), nullable=False),
        sa.Column("part_no", sa.String(200), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("other_van", sa.String(60)),
        sa.Column("call_id", sa.Integer(), sa.ForeignKey("call.id")),
        sa.Column("who", sa.String(200)),
        sa.Column("moved_at", sa.DateTime(), nullable=False),
        sa.CheckConstraint("kind in ('booked', 'restocked', 'counted', 'moved')", name="movement_kind_is_known"),
    )
    op.create_index("ix_stock_movement_uid", "stock_movement", ["uid"], unique=True)
    op.create_index("ix_stock_movement_call_id", "stock_movement", ["call_id"])
    op.create_index("ix_stock_movement_part", "stock_movement", ["van", "part_no"])
    now = datetime.now(UTC).replace(tzinfo=None)
    there = connection.exec_driver_sql("SELECT van, part_no, quantity FROM van_part ORDER BY van, part_no").all()
    counted = [
        {"uid": str(uuid7()), "van": van, "part_no": part, "kind": "counted", "quantity": many, "moved_at": now}
        for van, part, many in there
    ]
    if counted:
        connection.execute(sa.insert(made), counted)


def _replicas(connection: sa.Connection) -> None:
    op.create_table(
        "replica",
        sa.Column("id", sa.Integer(), nullable=False, primary_key=True),
        sa.Column("uid", sa.String(36), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("is_shop", sa.Boolean(), nullable=False),
        sa.Column("knows", sa.BigInteger(), nullable=False),
        sa.Column("heard_at", sa.DateTime()),
        sa.Column("their_knows", sa.JSON()),
        sa.UniqueConstraint("uid"),
    )
    op.create_table(
        "replica_clock",
        sa.Column("id", sa.Integer(), nullable=False, primary_key=True),
        sa.Column("stamp", sa.BigInteger(), nullable=False),
        sa.Column("is_merging", sa.Boolean(), nullable=False, server_default=sa.text("0")),
        sa.Column("is_new", sa.Boolean(), nullable=False, server_default=sa.text("1")),
    )
    op.create_table(
        "part_touched",
        sa.Column("in_table", sa.String(40), nullable=False, primary_key=True),
        sa.Column("row_key", sa.String(400), nullable=False, primary_key=True),
        sa.Column("part", sa.String(40), nullable=False, primary_key=True),
        sa.Column("stamp", sa.BigInteger(), nullable=False),
    )
    op.create_table(
        "part_write",
        sa.Column("id", sa.Integer(), nullable=False, primary_key=True),
        sa.Column("in_table", sa.String(40), nullable=False),
        sa.Column("row_key", sa.String(400), nullable=False),
        sa.Column("part", sa.String(40), nullable=False),
        sa.Column("replica_id", sa.Integer(), sa.ForeignKey("replica.id"), nullable=False),
        sa.Column("stamp", sa.BigInteger(), nullable=False),
        sa.Column("over", sa.Text()),
        sa.Column("value", sa.Text()),
    )
    op.create_index("ix_part_write_address", "part_write", ["in_table", "row_key", "part"])
    op.create_index("ix_part_write_act", "part_write", ["replica_id", "stamp"])
    beside = sa.text("value IS NOT NULL")
    op.create_index("ix_part_write_beside", "part_write", ["in_table", "row_key"], sqlite_where=beside)
    op.create_table(
        "mark",
        sa.Column("nonce", sa.String(36), nullable=False, primary_key=True),
        sa.Column("origin", sa.String(36), nullable=False),
        sa.Column("stamp", sa.BigInteger(), nullable=False),
    )
    op.create_index("ix_mark_origin", "mark", ["origin"])
    op.create_table(
        "clock_check",
        sa.Column("observer", sa.String(36), nullable=False, primary_key=True),
        sa.Column("origin", sa.String(36), nullable=False, primary_key=True),
        sa.Column("upto", sa.BigInteger(), nullable=False, primary_key=True),
        sa.Column("ahead_ms", sa.BigInteger(), nullable=False),
    )
    op.create_table(
        "exchange",
        sa.Column("id", sa.Integer(), nullable=False, primary_key=True),
        sa.Column("replica_id", sa.Integer(), sa.ForeignKey("replica.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("way", sa.String(10), nullable=False),
        sa.Column("who", sa.String(200)),
        sa.Column("came", sa.JSON(), nullable=False),
        sa.Column("went", sa.JSON(), nullable=False),
    )
    op.create_index("ix_exchange_replica_id", "exchange", ["replica_id"])
    op.create_table(
        "waiting_picture",
        sa.Column("sha256", sa.String(64), nullable=False, primary_key=True),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.Column("came_at", sa.DateTime(), nullable=False),
    )
    op.create_table(
        "sync_token",
        sa.Column("id", sa.String(64), nullable=False, primary_key=True),
        sa.Column("account", sa.String(200), sa.ForeignKey("account.name"), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("used_at", sa.DateTime()),
    )
    op.create_table(
        "sync_partner",
        sa.Column("id", sa.Integer(), nullable=False, primary_key=True),
        sa.Column("address", sa.String(300), nullable=False),
        sa.Column("token", sa.String(100), nullable=False),
        sa.Column("certificate", sa.Text()),
    )
    op.create_index("ix_sync_token_account", "sync_token", ["account"])
    stamp = int(time.time() * 1000) << 16
    connection.exec_driver_sql(
        "INSERT INTO replica (id, uid, name, is_shop, knows) VALUES (1, ?, '', 1, 0)", (str(uuid7()),)
    )
    connection.exec_driver_sql("INSERT INTO replica_clock (id, stamp) VALUES (1, ?)", (stamp,))
