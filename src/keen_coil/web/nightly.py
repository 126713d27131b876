"""Beside the pages: once a minute, whether the nightly backup is due."""

from __future__ import annotations

import logging
import threading
from datetime import UTC, datetime

from sqlalchemy.exc import SQLAlchemyError
from starlette.datastructures import State

from ..core.errors import InvalidField
from ..services.log.nightly import back_up_when_due
from ..store.sqlite_errors import explain

LOOKS_EVERY_S, AGAIN_AFTER_S = 60.0, 900.0
log = logging.getLogger(__name__)


def keep_backing_up(state: State, stop: threading.Event) -> None:
    """Look whether a copy is due until told to stop; what went wrong stays in `state.backup_trouble` for Settings."""
    while True:
        if stop.wait(AGAIN_AFTER_S if try_backup(state, datetime.now(UTC)) else LOOKS_EVERY_S):
            return


def try_backup(state: State, now: datetime) -> str:
    """Make the copy when it is due; what went wrong, empty when nothing did."""
    try:
        if back_up_when_due(state.db, now):
            state.backup_trouble = ""
    except InvalidField as error:
        state.backup_trouble = error.errors[0].line()
    except (SQLAlchemyError, OSError) as error:
        state.backup_trouble = explain(error)[1]
    else:
        return ""
    log.error("nightly backup: %s", state.backup_trouble)
    return str(state.backup_trouble)
