"""Starting the server: open on loopback, with accounts on any other address."""

from __future__ import annotations

import ctypes
import gc
import importlib
import socket
import threading
from pathlib import Path

import typer
import uvicorn

from .desk.accounts import has_manager
from .settings import Settings
from .web.app import create_app

LOOPBACK = ("127.0.0.1", "localhost", "::1")
M_ARENA_MAX = -8
KEEP_ALIVE_S = 75
"""Longer than a technician thinks between two taps: no tap meets a connection that is just being closed."""
GARBAGE = (5_000, 20, 20)
EVERYWHERE = ("0.0.0.0", "::")  # noqa: S104  # compared with, not bound to


def run_server(host: str, port: int, db: Path | None, names: list[str], cert: Path | None, key: Path | None) -> None:
    """Serve until stopped. Exits 2 with one line when it may not: no manager to sign in, half of a certificate."""
    if (cert is None) != (key is None):
        _refuse("--cert: got one of certificate and key; expected both or none")
    _few_arenas()
    accounts = host not in LOOPBACK
    settings = Settings(db=db) if db else Settings()
    settings = settings.model_copy(update={"accounts": accounts, "names": _names(host, names) if accounts else names})
    app = create_app(settings)
    if accounts and not has_manager(app.state.db):
        _refuse(f"--host: got {host} and no manager; expected one first: keen-coil account add NAME --manager")
    threading.Thread(target=_warm_up, daemon=True).start()
    shown = f"[{host}]" if ":" in host else host
    typer.echo(f"Keen Coil: http{'s' if cert else ''}://{shown}:{port}/")
    if accounts and cert is None:
        typer.echo("Without --cert and --key passwords cross this network unhidden.", err=True)
    uvicorn.run(
        app, host=host, port=port, log_level="warning", server_header=False, ssl_certfile=cert, ssl_keyfile=key,
        forwarded_allow_ips="127.0.0.1", timeout_keep_alive=KEEP_ALIVE_S,
    )  # fmt: skip


def _warm_up() -> None:
    """Import the motor model's packages, so that no first slider waits for them; then leave what is loaded alone.

    A search of all objects for garbage stops every page for a tenth of a second; what the program keeps for good is
    taken out of it, and the rest is searched less often.
    """
    importlib.import_module("scipy.optimize.elementwise")
    gc.collect()
    gc.freeze()
    gc.set_threshold(*GARBAGE)


def _few_arenas() -> None:
    """Ask the C library to keep its memory in two places and not in one a thread, where it can be asked (glibc)."""
    try:
        ctypes.CDLL(None).mallopt(M_ARENA_MAX, 2)
    except (OSError, AttributeError):
        return


def _names(host: str, names: list[str]) -> list[str]:
    """The host names that are answered to: as told, the address listened on, this machine's own when on every one."""
    if host not in EVERYWHERE:
        return [*names, host]
    own = socket.gethostname()
    try:
        addresses = [str(info[4][0]) for info in socket.getaddrinfo(own, None)]
    except OSError:
        addresses = []
    return [*names, own, *dict.fromkeys(addresses)]


def _refuse(line: str) -> None:
    typer.echo(line, err=True)
    raise typer.Exit(2)
