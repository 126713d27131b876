"""The command that hears a recording out: speed, noise, tones."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from .shared import Json, print_json, read_file, refusing

if TYPE_CHECKING:
    from ..core.sound.answer import SoundHeard


def listen(
    recording: Annotated[Path, typer.Argument(help="A recording of the running fan, WAV, about ten seconds")],
    blades: Annotated[str, typer.Option(help="Blades of the fan, or of the wheel")],
    poles: Annotated[str, typer.Option(help="Poles of the motor: 6 for 1075 rpm, 8 for 825, 4 for 1625")],
    hz: Annotated[str, typer.Option(help="Hertz of the supply, 60 or 50")] = "60",
    as_json: Json = False,
) -> None:
    """Tell a fan's speed, and what else is wrong, by its sound."""
    from ..core.sound.asked import read_bounds
    from ..core.sound.listen import listen as heard
    from ..formats.wav import read_wav

    with refusing(recording):
        bounds = read_bounds(blades, poles, hz)
        answer, _ = heard(*read_wav(read_file(recording)), bounds)
    if as_json:
        print_json(answer)
    else:
        _print(answer)


def _print(answer: SoundHeard) -> None:
    from rich.console import Console
    from rich.table import Table

    console = Console()
    if answer.rpm:
        low, middle, high = answer.rpm
        console.print(f"[bold]{middle:.0f} rpm[/bold], {low:.0f} to {high:.0f}, {answer.state}")
    console.print(f"{answer.because} {answer.do}".strip(), markup=False)
    console.print(f"Noise: {answer.noise}. {answer.noise_because}", markup=False)
    if answer.other_rpm:
        console.print("Also fits: " + ", ".join(f"{rpm:.0f} rpm" for rpm in answer.other_rpm))
    table = Table("Hz", "dB", "what")
    for tone in answer.tones:
        table.add_row(f"{tone.hz:.2f}", f"{tone.db:.0f}", tone.what)
    console.print(table)
