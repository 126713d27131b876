"""Commands of accounts: the first one is made here, on the machine itself."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from .shared import database_path, refusing

if TYPE_CHECKING:
    from ..store.database import Database

account_app = typer.Typer(add_completion=False, no_args_is_help=True, help="Accounts.")
Db = Annotated[Path | None, typer.Option(help="Database file")]
Stdin = Annotated[bool, typer.Option("--password-stdin", help="Read the password from standard input")]


def _open(db: Path | None) -> Database:
    from ..store.database import Database

    return Database(database_path(db))


@account_app.command("add")
def add(
    name: Annotated[str, typer.Argument(help="As in readings")],
    manager: Annotated[bool, typer.Option("--manager", help="May also change limits, catalog and people")] = False,
    stdin: Stdin = False,
    db: Db = None,
) -> None:
    """Make an account, or give one a new password; it is signed out everywhere then."""
    from ..services.catalog.import_files import new_act_context
    from ..services.people.accounts import add_account

    password = (
        sys.stdin.readline().rstrip("\n")
        if stdin
        else typer.prompt("Password", hide_input=True, confirmation_prompt=True)
    )
    with refusing(Path("account add")):
        add_account(_open(db), new_act_context(), name, password, "manager" if manager else "technician")
    typer.echo(f"{name} may sign in as {'manager' if manager else 'technician'}.")


@account_app.command("token")
def token_command(name: Annotated[str, typer.Argument(help="Whose")], db: Db = None) -> None:
    """Make a token with which a van of this account syncs; it is shown this once."""
    from ..services.catalog.import_files import new_act_context
    from ..services.sync.tokens import make_token

    with refusing(Path("account token")):
        typer.echo(make_token(_open(db), new_act_context(), name))


@account_app.command("list")
def list_all(db: Db = None) -> None:
    """List the accounts."""
    from ..services.people.accounts import accounts

    for name, role, _ in accounts(_open(db)):
        typer.echo(f"{name}: {role}")


@account_app.command("drop")
def drop(name: Annotated[str, typer.Argument(help="Whose")], db: Db = None) -> None:
    """Take an account away; what it did stays."""
    from ..services.catalog.import_files import new_act_context
    from ..services.people.accounts import drop_account

    with refusing(Path("account drop")):
        drop_account(_open(db), new_act_context(), name)
    typer.echo(f"{name} may no longer sign in.")
