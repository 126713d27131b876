"""The first run of a shop: what is still to set up, and the way from the demo to a shop of one's own."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

from sqlalchemy import delete, func, select

from ...core.errors import RefusedNow
from ...store import tables
from ...store.database import Database
from ..acts import WITH_PRACTICE, ActContext, record_act
from ..log.archive import LAYOUTS
from ..sync.lineage import start_anew

WORLD = "world"
DEMO, OWN = "demo", "own"
STARTER = Path(__file__).parent.parent.parent / "starter"
STARTER_FILES = ("motors.csv", "motors-template.csv", "van-template.csv")
"""What a new shop may download: a small catalog of usual sizes, and empty forms of both files with one row."""


class NotTheDemo(RefusedNow):
    """This shop is nobody's demo: it is not emptied."""

    def __init__(self) -> None:
        super().__init__("this is not the demo shop", "the demo, which can be emptied")

    def __reduce__(self) -> tuple[type[NotTheDemo], tuple[()]]:
        """Pickle without the texts, which it makes itself."""
        return type(self), ()


class FirstStep(NamedTuple):
    """A step of setting up a shop: its key, what it is, whether it is done."""

    key: str
    title: str
    is_done: bool


def first_steps(db: Database) -> list[FirstStep]:
    """What a new shop sets up, in order; nothing once it has a call."""
    with db.reading() as session:
        if session.scalar(select(func.count()).select_from(tables.Call)):
            return []
        shop = session.get(tables.Setting, "shop")
        technicians = session.scalar(select(func.count()).select_from(tables.Technician))
        motors = session.scalar(select(func.count()).select_from(tables.CatalogueMotor))
        return [
            FirstStep("shop", "Name your shop", bool(shop and shop.value.get("name"))),
            FirstStep("technician", "Add a technician and a van", bool(technicians)),
            FirstStep("catalog", "Import a motor catalog", bool(motors)),
            FirstStep("call", "Start your first call", False),
        ]


def world_of(db: Database) -> str:
    """`demo` for the demo shop, `own` for one that was started from it, else nothing."""
    with db.reading() as session:
        kept = session.scalar(select(tables.Setting.value).where(tables.Setting.name == WORLD)) or {}
        return str(kept.get("is", ""))


def start_own_shop(db: Database, context: ActContext) -> None:
    """Empty the demo and begin a shop of one's own. Raises `NotTheDemo` for any other database."""
    with db.writing() as session:
        kept = session.get(tables.Setting, WORLD)
        if kept is None or kept.value.get("is") != DEMO:
            raise NotTheDemo
        for name in reversed(LAYOUTS):
            session.execute(delete(tables.Table.metadata.tables[name]), execution_options=WITH_PRACTICE)
        session.expunge_all()
        start_anew(session)
        session.merge(tables.Setting(name=WORLD, value={"is": OWN}, changed_at=context.now))
        record_act(session, context, "start_own_shop", None)


def is_own_shop(path: Path) -> bool:
    """Whether a database file holds a shop that was started from the demo."""
    if not path.exists():
        return False
    db = Database(path)
    try:
        return world_of(db) == OWN
    finally:
        db.close()
