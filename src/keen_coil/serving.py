"""Starting the server: open on loopback, with accounts on any other address."""

from __future__ import annotations

import asyncio
import contextlib
import ctypes
import gc
import importlib
import os
import socket
import sys
import threading
from functools import partial
from pathlib import Path
from types import FrameType

import typer
import uvicorn
from starlette.datastructures import State
from uvicorn.protocols.http.auto import AutoHTTPProtocol

from .services.people.accounts import has_manager
from .settings import Settings
from .web.app import create_app
from .web.nightly import keep_backing_up
from .web.workers import ServerBusy, ServerStopping, TooMuchWork

LOOPBACK = ("127.0.0.1", "localhost", "::1")
M_ARENA_MAX = -8
KEEP_ALIVE_S = 75
"""Longer than a technician thinks between two taps: no tap meets a connection that is just being closed."""
GARBAGE = (5_000, 20, 20)
SWITCH_S = 0.001
"""How long a thread that computes keeps others waiting: a page asks for its turn at every query."""
LETS_FINISH_S, GRACE_S, ENDS_S = 1.0, 2, 4.0
"""After a signal: when heavy work is killed, when connections are cut, when the process is gone."""
EVERYWHERE = ("0.0.0.0", "::")  # noqa: S104  # compared with, not bound to


HEAD_S = 15.0
"""How long the head of a request may take."""


class PromptConnection(AutoHTTPProtocol):  # type: ignore[misc, valid-type]
    """A connection that is closed where the head of a request does not come: half of one keeps no place for good."""

    _head: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:
        """Somebody called."""
        super().connection_made(transport)
        self._await_head()

    def data_received(self, data: bytes) -> None:
        """Something came: a head, a part of one, a body."""
        super().data_received(data)
        if self.cycle is None or self.cycle.response_complete:
            self._await_head()
        elif self._head is not None:
            self._head.cancel()
            self._head = None

    def connection_lost(self, exc: Exception | None) -> None:
        """Nobody is there any more."""
        if self._head is not None:
            self._head.cancel()
        super().connection_lost(exc)

    def _await_head(self) -> None:
        if self._head is None:
            self._head = self.loop.call_later(HEAD_S, self.transport.close)


class StoppingServer(uvicorn.Server):
    """Told to stop, it ends within five seconds: heavy work is killed, whatever still runs then is left.

    Nothing is lost by that: an act is one transaction, and what was acknowledged is on the disk.
    """

    def __init__(self, config: uvicorn.Config, state: State) -> None:
        super().__init__(config)
        self.app_state = state

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """SIGTERM or Ctrl-C."""
        super().handle_exit(sig, frame)
        self.app_state.bells.close()
        for after, do in ((LETS_FINISH_S, partial(stop_work, self.app_state)), (ENDS_S, partial(os._exit, 0))):
            timer = threading.Timer(after, do)
            timer.daemon = True
            timer.start()


def stop_work(state: State) -> None:
    """End what is worked out beside the pages."""
    for workers in (state.workers, state.file_workers):
        workers.stop()


def run_server(
    host: str,
    port: int,
    db: Path | None,
    names: list[str],
    cert: Path | None,
    key: Path | None,
    proxies: list[str] | None = None,
    share: bool = False,
) -> None:
    """Serve until stopped. Exits 2 with one line when it may not: no manager to sign in, half of a certificate.

    `proxies`: addresses whose word on who asks (X-Forwarded-For) is taken; nobody's otherwise. `share`: phones of this
    network come in by a code; the laptop itself stays open.
    """
    if (cert is None) != (key is None):
        _refuse("--cert: got one of certificate and key; expected both or none")
    if share and proxies:
        _refuse("--proxy: got --share as well; expected one of them: behind a proxy nobody sits at this laptop")
    _few_arenas()
    sys.setswitchinterval(SWITCH_S)
    host = EVERYWHERE[0] if share and host in LOOPBACK else host
    accounts = host not in LOOPBACK
    settings = Settings(db=db) if db else Settings()
    settings = settings.model_copy(update={"accounts": accounts, "names": _names(host, names) if accounts else names})
    if cert is not None and key is not None:
        _checked(cert, key)
    if share:
        settings, cert, key = _shared(settings, host, port, cert, key)
    app = create_app(settings)
    if accounts and not share and not has_manager(app.state.db):
        _refuse(f"--host: got {host} and no manager; expected one first: keen-coil account add NAME --manager")
    threading.Thread(target=_warm_up, args=(app.state,), daemon=True).start()
    stop = threading.Event()
    threading.Thread(target=keep_backing_up, args=(app.state, stop), daemon=True).start()
    _say_where(host, port, cert is not None, settings.share_address)
    if accounts and cert is None:
        typer.echo("Without --cert and --key passwords cross this network unhidden.", err=True)
    config = uvicorn.Config(
        app,
        host=host,
        port=port,
        http=PromptConnection,
        log_level="warning",
        server_header=False,
        ssl_certfile=cert,
        ssl_keyfile=key,
        proxy_headers=bool(proxies),
        forwarded_allow_ips=proxies or [],
        timeout_keep_alive=KEEP_ALIVE_S,
        timeout_graceful_shutdown=GRACE_S,
    )
    try:
        StoppingServer(config, app.state).run()
    finally:
        stop.set()
        stop_work(app.state)


def _checked(cert: Path, key: Path) -> None:
    from .certificates import BadCertificate, check_pair

    try:
        check_pair(cert, key)
    except BadCertificate as error:
        _refuse(str(error))


def _shared(
    settings: Settings, host: str, port: int, cert: Path | None, key: Path | None
) -> tuple[Settings, Path | None, Path | None]:
    """The settings of a laptop that shares itself, with a certificate of its own where none was given."""
    from .certificates import certificates_in, may_vouch

    address = _address_of_network() if host in EVERYWHERE else host
    if not address:
        _refuse(
            "--share: got no network; expected this laptop on a network that the phone is on too, such as its hotspot"
        )
    if cert is None and not may_vouch(address):
        _refuse(f"--share: got {address}; expected a private network, or --cert and --key for this address")
    authority = None
    if cert is None:
        made = certificates_in(settings.db.resolve().parent / "certificates", [address, "localhost", "127.0.0.1"])
        cert, key, authority = made
    where = f"https://[{address}]:{port}/" if ":" in address else f"https://{address}:{port}/"
    names = list(dict.fromkeys([*settings.names, address]))
    return settings.model_copy(update={"share_address": where, "authority": authority, "names": names}), cert, key


def _address_of_network() -> str:
    """The address that others of this network reach the laptop by; empty without a network.

    A datagram socket that is pointed outward tells which address it would leave by; nothing is sent.
    """
    with contextlib.suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as found:
        found.connect(("192.0.2.1", 9))  # an address of documentation, RFC 5737
        return str(found.getsockname()[0])
    return ""


def _say_where(host: str, port: int, secure: bool, share_address: str) -> None:
    """Where it is served, and where a phone finds it, with a code to scan."""
    if not share_address:
        shown = f"[{host}]" if ":" in host else host
        typer.echo(f"Keen Coil: http{'s' if secure else ''}://{shown}:{port}/")
        return
    import segno

    typer.echo(f"Keen Coil: https://127.0.0.1:{port}/ here, {share_address}phone from a phone on this network.")
    segno.make(f"{share_address}phone", error="m", micro=False).terminal(compact=True)
    typer.echo("To sign a phone in, open Settings, Phones, on this laptop and scan the code there.")


def _warm_up(state: State) -> None:
    """Import the motor model's packages, so that no first slider waits for them; then leave what is loaded alone.

    A search of all objects for garbage stops every page for a tenth of a second; what the program keeps for good is
    taken out of it, and the rest is searched less often.
    """
    importlib.import_module("scipy.optimize.elementwise")
    with contextlib.suppress(TooMuchWork, ServerBusy, ServerStopping):
        state.workers.run(os.getpid)  # the process that others are forked from is up
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
