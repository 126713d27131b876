"""The command that brings laptops together: by a file that goes back and forth, or with the shop's server."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from .shared import database_path, read_file, refusing

if TYPE_CHECKING:
    from ..services.acts import ProgressCallback
    from ..services.sync.sync import SyncReport
    from ..store.database import Database

TOKEN = "KEEN_COIL_TOKEN"  # noqa: S105  # the name of a variable


def sync(
    where: Annotated[str, typer.Argument(help="A file, *.zip, or the shop's address, https://...")] = "",
    whole: Annotated[bool, typer.Option("--whole", help="Write everything into the file, whoever it is for")] = False,
    token: Annotated[str, typer.Option(envvar=TOKEN, help="Made at the shop: Settings, Vans")] = "",
    certificate: Annotated[Path | None, typer.Option(help="The shop's certificate (PEM)")] = None,
    renew: Annotated[bool, typer.Option("--new-identity", help="Go on as another laptop: after a restore")] = False,
    repair: Annotated[bool, typer.Option("--heal", help="Put straight what a damaged package left")] = False,
    db: Annotated[Path | None, typer.Option(help="Database file")] = None,
) -> None:
    """Bring together what two laptops did: what came, what went. Nothing happens twice."""
    from ..services.catalog.import_files import new_act_context
    from ..services.sync.lineage import heal
    from ..services.sync.sync import new_identity, partner_of
    from ..store.database import Database

    with refusing(Path("sync" if "://" in where or not where else where)):
        base = Database(database_path(db))
        if renew:
            new_identity(base, new_act_context())
            typer.echo("This laptop goes on under a new identity. Nothing was lost.")
        for line in heal(base, new_act_context()) if repair else ():
            typer.echo(line)
        kept = partner_of(base)
        where = where or (kept.address if kept and not (renew or repair) else "")
        if where:
            _say(_synced(base, where, whole, token, certificate))
        elif not (renew or repair):
            typer.echo("sync: got nothing; expected a file or the shop's address", err=True)
            raise typer.Exit(2)


def _synced(db: Database, where: str, whole: bool, token: str, certificate: Path | None) -> SyncReport:
    from ..services.catalog.import_files import new_act_context
    from ..services.sync.sync import keep_partner, shop_server, sync_file, sync_with_shop

    context = new_act_context()
    with _progress() as progress:
        if "://" not in where:
            return sync_file(db, context, Path(where), whole, progress)
        pem = read_file(certificate).decode("ascii", "replace") if certificate else None
        keep_partner(db, where, token, pem)
        with shop_server(db) as server:
            return sync_with_shop(db, context, server, progress)


def _say(report: SyncReport) -> None:
    typer.echo(f"Synced with {report.partner}." if report.partner else "Written for whoever brings it in.")
    for line in report.lines:
        typer.echo(line)
    if report.sent or report.received:
        typer.echo(f"{report.sent / 1000:.1f} kB sent, {report.received / 1000:.1f} kB received.")


@contextmanager
def _progress() -> Iterator[ProgressCallback]:
    """A bar while it takes long, where somebody looks."""
    from rich.console import Console
    from rich.progress import Progress

    console = Console(stderr=True)
    with Progress(console=console, transient=True, disable=not console.is_terminal or "CI" in os.environ) as bar:
        task = bar.add_task("Syncing", total=None)
        yield lambda done, of: bar.update(task, completed=done, total=of or None)
