"""The command line: the same answers as the pages and the API."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..core.errors import invalid
from .account import account_app
from .keeping import backup, doctor, restore
from .listen import listen
from .plate import plate
from .practice import practice_app
from .shared import Json, PlainErrors, database_path, print_json, read_file, refusing
from .sync import sync

if TYPE_CHECKING:
    from ..core.diagnosis.assess import Assessment
    from ..core.machine.answer import ModelAnswer

app = typer.Typer(
    cls=PlainErrors,
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    help="Prove the path, match the motor, run test it.",
)
TableFolder = Annotated[Path, typer.Argument(help="A folder of edited tables, such as core/limits.toml")]
CallFile = Annotated[Path, typer.Argument(help="A call file, *.call.json")]


app.add_typer(practice_app, name="practice")
app.add_typer(account_app, name="account")
for command in (plate, listen, sync, backup, restore, doctor):
    app.command()(command)


def main() -> None:
    """Run; bad input ends with 2 and a plain line for each fault."""
    app()


@app.command("check-tables")
def check_tables(
    folder: Annotated[Path, typer.Argument(help="A folder of edited tables, such as core/limits.toml")],
) -> None:
    """Say what is wrong in edited tables; serve with KEEN_COIL_TABLES=FOLDER takes them in the place of ours."""
    from ..own_tables import faults_of

    if not folder.is_dir():
        raise invalid(str(folder), "no folder", "a folder with tables, such as core/limits.toml in it")
    faults = faults_of(folder)
    for fault in faults:
        typer.echo(fault, err=True)
    if faults:
        raise typer.Exit(2)
    typer.echo("These tables can be used.")


@app.command("assess")
def assess_command(call: CallFile, as_json: Json = False) -> None:
    """Say what failed, what is proved, what to test next."""
    from ..core.diagnosis.assess import assess
    from ..formats.call_file import load_call

    with refusing(call):
        answer = assess(load_call(read_file(call)))
    if as_json:
        print_json(answer)
    else:
        _print_assessment(answer)


def _print_assessment(answer: Assessment) -> None:
    from rich.console import Console
    from rich.table import Table

    from ..core.diagnosis.sentence import sentence

    console = Console()
    console.print(f"[bold]{sentence(answer)}[/bold]")
    for row in answer.ranked[:3]:
        why = "; ".join(row.speaks_for) or "no reading supports it"
        console.print(f"{100 * row.probability:5.1f} %  {row.fault}: {why}")
    table = Table("link", "state", "because")
    for link, report in answer.path.items():
        table.add_row(link, report.state, report.because)
    console.print(table)
    for test in answer.next_tests[:1]:
        where = test.at or test.section or ""
        console.print(f"Next: {test.kind} {where} ({test.power}, {test.minutes:g} min). {test.why}")
    for title, items in (("condemning", answer.before_condemning), ("energising", answer.before_energising)):
        if items:
            console.print(f"Before {title}, prove: {', '.join(items)}")
    for caution in answer.cautions:
        console.print(f"! {caution}")


@app.command("match")
def match_command(
    call: CallFile,
    catalogue: Annotated[Path, typer.Option(help="A catalog, motors.csv")],
    van: Annotated[Path | None, typer.Option(help="The van's stock, van.csv")] = None,
    school: Annotated[str, typer.Option(help="amps, hp_amps, ten_percent or like")] = "amps",
    as_json: Json = False,
) -> None:
    """Hold every motor of a catalog against the old one."""
    from rich.console import Console
    from rich.table import Table

    from ..formats.call_file import load_call
    from ..services.answers.answers import match_call_file, stock_of

    with refusing(call):
        parsed = load_call(read_file(call))
    with refusing(van or call):
        stock = stock_of(read_file(van)) if van else None
    with refusing(catalogue):
        answer = match_call_file(parsed, read_file(catalogue), school, stock)
    if as_json:
        print_json(answer)
        return
    table = Table("part", "result", "minutes", "on van", "because")
    for item in answer.candidates:
        why = "; ".join(r.because for r in item.refusals) or "; ".join(w.do for w in item.work)
        table.add_row(item.part_no, item.result, f"{item.minutes:g}", str(item.on_van), why)
    Console().print(table)


@app.command("capacitor")
def capacitor_command(
    need: Annotated[str, typer.Option(help="µF@volts, such as 7.5@370, or 40+7.5@440 for compressor and fan")],
    van: Annotated[Path, typer.Option(help="The van's stock, van.csv")],
    as_json: Json = False,
) -> None:
    """Say which capacitors of the van serve a need, alone or joined."""
    from rich.console import Console
    from rich.table import Table

    from ..services.answers.answers import capacitor_file

    with refusing(van):
        answer = capacitor_file(need, read_file(van))
    if as_json:
        print_json(answer)
        return
    table = Table("parts", "joined", "µF", "off", "permanent", "says")
    for row in answer.answers[:30]:
        parts = ", ".join(f"{part.part_no} {part.section}" for part in row.parts)
        table.add_row(
            parts, row.join, f"{row.uf:g}", f"{row.off_pct:+.1f} %", "yes" if row.permanent else "no", row.says
        )
    Console().print(table if answer.answers else "Nothing on the van fits.")


@app.command("hookup")
def hookup_command(
    call: CallFile,
    to: Annotated[str | None, typer.Option(help="Part number of the new motor")] = None,
    catalogue: Annotated[Path | None, typer.Option(help="The catalog it is in, motors.csv")] = None,
    school: Annotated[str | None, typer.Option(help="dual or own")] = None,
    check: Annotated[bool, typer.Option("--check", help="Check hookup.planned instead of planning")] = False,
    svg: Annotated[Path | None, typer.Option(help="Write the drawing here")] = None,
    spice: Annotated[Path | None, typer.Option(help="Write the netlist here")] = None,
    as_json: Json = False,
) -> None:
    """Plan the wiring of a motor, or say what the planned wiring would do."""
    from ..core.hookup.moves import move_words
    from ..services.answers.hookup import as_spice, as_svg, hookup_file

    listed = None
    if catalogue:
        with refusing(catalogue):
            listed = read_file(catalogue)
    with refusing(call):
        done = hookup_file(read_file(call), to, listed, school, check)
        for path, text in ((svg, as_svg(done) if svg else ""), (spice, as_spice(done) if spice else "")):
            if path:
                _write(path, text)
    if as_json:
        print_json(done.answer)
        return
    for number, move in enumerate(done.answer.moves, start=1):
        typer.echo(f"{number}. {move_words(move)}: {move.why}")
    found = done.answer.check
    typer.echo(f"{'Runs' if found.runs else 'Does not run'}, turns: {found.turns.replace('_', ' ')}. {found.says}")
    for item in found.findings:
        typer.echo(f"{item.severity}: {item.says} {item.cure}")


def _write(path: Path, text: str) -> None:
    try:
        path.write_text(text, encoding="utf-8")
    except OSError as error:
        raise invalid(str(path), error.strerror or "no such folder", "a file that can be written") from None


@app.command("model")
def model_command(
    call: Annotated[Path | None, typer.Argument(help="A call file, *.call.json")] = None,
    settings: Annotated[list[str] | None, typer.Option("--set", help="NAME=VALUE, such as capacitor_uf=4")] = None,
    circuit: Annotated[Path | None, typer.Option(help="A circuit file instead of a call")] = None,
    as_json: Json = False,
) -> None:
    """Say what this motor should read under its conditions, or solve a bare circuit."""
    from ..core.machine.answer import CircuitAnswer
    from ..services.answers.model import circuit_file, model_file

    source = circuit or call
    if source is None or (circuit and (call or settings)):
        typer.echo("model: expected a call file, with --set if wished, or --circuit with a file", err=True)
        raise typer.Exit(2)
    with refusing(source):
        answer = circuit_file(read_file(source)) if circuit else model_file(read_file(source), settings or [])
    if as_json or isinstance(answer, CircuitAnswer):
        print_json(answer)
    else:
        _print_model(answer)


def _print_model(answer: ModelAnswer) -> None:
    from rich.console import Console
    from rich.table import Table

    console = Console()
    console.print(f"[bold]{answer.starts.replace('_', ' ')}[/bold], with {', '.join(answer.conditions)}")
    table = Table("reading", "least", "middle", "most")
    point = answer.point
    rows: list[tuple[str, tuple[float, float, float] | None]] = [
        *((f"amps, {leg}", band) for leg, band in point.run_amps_a.items()),
        ("rpm", point.run_rpm),
        ("capacitor V", point.capacitor_v),
        ("shaft W", point.shaft_w),
        ("starting torque %", point.starting_torque_band_pct),
        ("amps at rest, whole", answer.at_rest.run_amps_a["whole"]),
        ("winding C", point.winding_c),
        ("shell C", point.shell_c),
        ("life, of the plate's", point.life_of_plate),
    ]
    for name, band in rows:
        table.add_row(name, *(("", "open", "") if band is None else (f"{value:.4g}" for value in band)))
    console.print(table)
    console.print(f"{answer.source}. Plate missed by {answer.fit.misses['amps_pct']:+.2f} % in amps.")
    for doubt in answer.fit.doubts:
        console.print(f"! {doubt}")


@app.command()
def demo() -> None:
    """Build the demo database of Pellow Island anew."""
    from ..services.demo.demo import build_demo
    from ..services.people.first_run import is_own_shop

    path = database_path(None)
    if is_own_shop(path):
        typer.echo(f"{path} is your own shop and stays as it is. For the demo name another file in KEEN_COIL_DB.")
        return
    typer.echo(f"Pellow Island: {build_demo(path)} calls in {path}")


@app.command()
def serve(
    host: Annotated[str, typer.Option(help="Address to listen on; off loopback it demands accounts")] = "127.0.0.1",
    port: Annotated[int, typer.Option(help="Port")] = 8765,
    db: Annotated[Path | None, typer.Option(help="Database file")] = None,
    name: Annotated[list[str] | None, typer.Option(help="A name that browsers ask it by, beside its address")] = None,
    cert: Annotated[Path | None, typer.Option(help="TLS certificate, PEM")] = None,
    key: Annotated[Path | None, typer.Option(help="Its key, PEM")] = None,
    proxy: Annotated[list[str] | None, typer.Option(help="Address of a proxy whose X-Forwarded-For is taken")] = None,
    share: Annotated[bool, typer.Option("--share", help="Let phones on this network in, by a code to scan")] = False,
) -> None:
    """Serve the pages and the API."""
    from ..serving import run_server

    run_server(host, port, db, name or [], cert, key, proxy, share)


@app.command("import")
def import_command(
    file: Annotated[Path, typer.Argument(help="motors.csv, van.csv, a data package or log *.zip, or *.call.json")],
    db: Annotated[Path | None, typer.Option(help="Database file")] = None,
    van: Annotated[str | None, typer.Option(help="Which van van.csv is for")] = None,
    replace: Annotated[bool, typer.Option("--replace", help="A log replaces everything here")] = False,
) -> None:
    """Bring a catalog, a van, a data package, a whole log or a call file into the database."""
    from ..services.catalog.import_files import import_file

    with refusing(file):
        typer.echo(import_file(database_path(db), file.name, read_file(file), replace, van))


@app.command("export")
def export_command(
    file: Annotated[Path, typer.Argument(help="motors.csv, van.csv, readings.csv, or a data package *.zip")],
    db: Annotated[Path | None, typer.Option(help="Database file")] = None,
    van: Annotated[str | None, typer.Option(help="Which van's van.csv")] = None,
    log: Annotated[bool, typer.Option("--log", help="The whole log instead of the shelf")] = False,
) -> None:
    """Write the catalog, a van, both as a data package, the readings, or the whole log to a file."""
    from ..services.catalog.import_files import export_file

    with refusing(file):
        typer.echo(export_file(database_path(db), file, log, van))


@app.command()
def meter(
    port: Annotated[int, typer.Option(help="Port on loopback")] = 8767,
    function: Annotated[str, typer.Option(help="volts_ac, amps_ac, ohms, capacitance ...")] = "volts_ac",
    value: Annotated[
        float | None, typer.Option(help="What its leads are on, in base units; none for open leads")
    ] = None,
    noise: Annotated[float, typer.Option(help="Noise as a share of the value")] = 0.0005,
    seed: Annotated[int, typer.Option(help="Seed of the noise")] = 1,
    battery: Annotated[str, typer.Option(help="ok or low")] = "ok",
) -> None:
    """Run the stand-in meter, to be linked in Settings."""
    import asyncio

    from ..meter.stand_in import StandIn, serve_stand_in

    with refusing(Path("meter")):
        stand_in = StandIn(noise=noise, seed=seed)
        stand_in.set({"function": function, "value": value, "battery": battery})
    typer.echo(f"Stand-in meter: ws://127.0.0.1:{port}")
    try:
        asyncio.run(serve_stand_in(stand_in, port))
    except OSError as error:
        typer.echo(f"--port: got {port}; expected a free port: {error.strerror}", err=True)
        raise typer.Exit(2) from None
    except KeyboardInterrupt:
        return


van_app = typer.Typer(add_completion=False, no_args_is_help=True, help="What a van should carry.")
app.add_typer(van_app, name="van")


@van_app.command("plan")
def van_plan(
    area: Annotated[Path | None, typer.Option(help="area.csv; the units in the log without")] = None,
    catalogue: Annotated[Path | None, typer.Option(help="motors.csv, with --area")] = None,
    van: Annotated[Path | None, typer.Option(help="van.csv, with --area")] = None,
    days: Annotated[str, typer.Option(help="Days between restocks")] = "14",
    level: Annotated[str, typer.Option(help="Percent of the time each part is enough")] = "95",
    parts: Annotated[str, typer.Option(help="Most part numbers to carry")] = "",
    permanent: Annotated[bool, typer.Option("--permanent", help="Permanent fits only")] = False,
    school: Annotated[str, typer.Option(help="amps, hp_amps, ten_percent, like")] = "amps",
    orders: Annotated[Path | None, typer.Option(help="Write the order list to this CSV file")] = None,
    name: Annotated[str | None, typer.Option(help="Which van in the log")] = None,
    db: Annotated[Path | None, typer.Option(help="Database file")] = None,
    as_json: Json = False,
) -> None:
    """Say what to carry, what to buy, what never moves."""
    from rich.console import Console
    from rich.table import Table

    from ..services.catalog.van_plan import order_lines, plan_of_files, plan_of_log, wish_of

    wished = {"days": days, "level": level, "parts": parts, "permanent": "yes" if permanent else ""}
    with refusing(area or Path("van plan")):
        wish = wish_of(wished)
        if area is None:
            plan = plan_of_log(database_path(db), name, wish)
        else:
            plan = plan_of_files(area, catalogue, van, wish, school)
        if orders:
            _write(orders, "".join(order_lines(plan)))
    if as_json:
        print_json(plan)
        return
    typer.echo(f"{len(plan.parts)} parts cover {plan.covered_pct:.0f} % of what you will need")
    table = Table("part", "needed", "level", "carry", "there", "buy", "serves")
    for line in plan.parts:
        counts = (line.level, line.carry, line.stock, line.buy or "")
        table.add_row(line.part_no, f"{line.between:.3f}", *map(str, counts), "; ".join(line.serves))
    Console().print(table)
    if plan.never_moves:
        typer.echo("dead stock: " + ", ".join(plan.never_moves))


@app.command()
def schema(folder: Annotated[Path, typer.Argument(help="Folder for the JSON Schemas")] = Path("docs/schema")) -> None:
    """Write the JSON Schemas of files and answers."""
    from ..formats.schemas import write_schemas

    for path in write_schemas(folder):
        typer.echo(str(path))
