"""One job played in a shop of its own, and what its script expects of it."""

from __future__ import annotations

import json
import re
import shutil
import tempfile
import time
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field
from pathlib import Path

from playwright.sync_api import Error, Page, sync_playwright
from tests.browser.conftest import CHROMIUM, PATIENCE
from tests.replicas import serving

from keen_coil.core.diagnosis.faults import FAULTS
from keen_coil.core.diagnosis.sentence import headline
from keen_coil.services.demo.demo import DATA

from .player import Player, Stopped
from .reading_copy import ReadingCopy
from .script import BadScript, Says, Script, read_never, read_script

CURED = "Found and fixed"
"""The title of a finding whose fault a change of this call has cured; the fault says which verdict it was."""
NEVER = Path(__file__).parent / "never.toml"
SIZES = {"phone": {"width": 390, "height": 844}, "desk": {"width": 1280, "height": 800}}


@dataclass
class Result:
    """What came of a job: acts counted, what was asked though it was known, seconds, one line for each failure."""

    acts_first_reading: int = 0
    acts_closed: int = 0
    asked_again: list[str] = field(default_factory=list)
    seconds: float = 0.0
    failed: list[str] = field(default_factory=list)


def jobs_in(folder: Path, job: str = "") -> dict[str, Path]:
    """The job files of a folder by their numbers: what stands before the first dash of their names."""
    files = sorted(path for path in folder.glob("*.toml") if path.name != NEVER.name)
    numbers = [path.stem.partition("-")[0] for path in files]
    names = [number if numbers.count(number) == 1 else path.stem for number, path in zip(numbers, files, strict=True)]
    found = dict(zip(names, files, strict=True))
    return {name: path for name, path in found.items() if not job or job in (name, path.stem, path.name)}


def play_job(name: str, path: Path, out: Path) -> Result:
    """Play a job file, write its copy and records into `out`, and say what it failed in."""
    began, result = time.monotonic(), Result()
    try:
        script = read_script(path)
        never = read_never(NEVER)
        if path.parent.resolve() != NEVER.parent and (path.parent / NEVER.name).exists():
            never += read_never(path.parent / NEVER.name)
    except BadScript as error:
        result.failed = error.faults
        return result
    copy = ReadingCopy(never)
    copy.title(f"{name}: {script.title}")
    with (
        tempfile.TemporaryDirectory() as folder,
        serving(Path(folder) / "jobs.db") as address,
        sync_playwright() as play,
    ):
        browser = play.chromium.launch(executable_path=shutil.which("chromium-headless-shell"), args=CHROMIUM)
        phone = script.size == "phone"
        with browser.new_context(viewport=SIZES[script.size], has_touch=phone, is_mobile=phone) as context:  # type: ignore[arg-type]
            context.set_default_timeout(PATIENCE)
            page = context.new_page()
            player = Player(page, address, script, copy, path.parent)
            try:
                set_up(page, address, script, path)
                player.play()
            except Stopped as error:
                result.failed.append(f"{path}:{error.line}: {error}")
            except (Error, AssertionError) as error:
                result.failed.append(f"{path}:{player.line}: {str(error).partition(chr(10))[0]} at {page.url}")
            result.failed += [f"{path}: {says}" for says in unmet(script, player)]
        browser.close()
    result.acts_first_reading, result.acts_closed = player.acts_first_reading, player.acts_closed
    result.asked_again = player.asked_again
    result.seconds = round(time.monotonic() - began, 1)
    copy.write(out / f"{name}.md")
    for audience, texts in player.records.items():
        many = len(texts) > 1
        says = "\n\n".join(f"=== visit {n} ===\n{text}" if many else text for n, text in enumerate(texts, 1))
        (out / f"{name}.{audience}.txt").write_text(says + "\n", encoding="utf-8")
    return result


def set_up(page: Page, address: str, script: Script, path: Path) -> None:
    """A shop with its name, its technician, its catalog and van stock: through the pages of the first run and the Shelf."""
    page.goto(address)
    page.locator('[name="shop"]').fill("Pellow Mechanical")
    page.get_by_role("button", name="Save shop name").click()
    page.locator('form[action="/settings/people"] [name="name"]').fill(script.visit[0].technician or "Corin Hask")
    page.get_by_role("button", name="Save and use this name").click()
    for name, own in (("motors.csv", script.catalog), ("van.csv", script.van)):
        file = path.parent / own if own else DATA / name
        if not file.exists():
            raise Stopped(1, f"{file} is not there")
        page.goto(f"{address}/shelf")
        page.locator('form[action="/shelf/import"] [type="file"]').set_input_files(file)
        page.get_by_role("button", name="Preview import").click()
        do_import = page.locator('button[value="bring"]')
        refused = page.locator(".fault-list")
        do_import.or_(refused).first.wait_for()
        if refused.count():
            raise Stopped(1, f"{file}: {' '.join(refused.first.inner_text().split())}")
        do_import.click()
        page.locator(".saved").wait_for()


def unmet(script: Script, player: Player) -> Iterator[str]:
    """What a job expects and its pages did not bear out, a line each."""
    expect, copy = script.expect, player.copy
    if expect.acts_closed_at_most is not None and player.acts_closed > expect.acts_closed_at_most:
        yield f"expect.acts_closed_at_most: {player.acts_closed} acts; at most {expect.acts_closed_at_most}"
    if expect.acts_first_reading_at_most is not None and player.acts_first_reading > expect.acts_first_reading_at_most:
        yield f"expect.acts_first_reading_at_most: {player.acts_first_reading}; at most {expect.acts_first_reading_at_most}"
    yield from _finding(script, player)
    if expect.wiring.runs is not None and (player.wiring is None or player.wiring[0] != expect.wiring.runs):
        yield f"expect.wiring.runs: {player.wiring_says or 'no wiring was planned'}; expected {expect.wiring.runs}"
    if expect.wiring.turns is not None and (player.wiring is None or player.wiring[1] != expect.wiring.turns):
        yield f"expect.wiring.turns: {player.wiring_says or 'no wiring was planned'}; expected {expect.wiring.turns}"
    yield from _says("pages", expect.pages, copy.pages)
    for audience, says in (("customer", expect.customer), ("shop", expect.shop)):
        yield from _says(audience, says, player.records[audience])
    yield from (f"never: {says}" for says in copy.said_never)


def _finding(script: Script, player: Player) -> Iterator[str]:
    wanted, found = script.expect.finding, player.finding
    by_fault = next((row.verdict for row in FAULTS.values() if found and row.says.lower() == found[1].lower()), None)
    is_cured = found is not None and found[0] == CURED and by_fault == wanted.verdict
    if wanted.verdict and not is_cured and (found is None or found[0] != headline(wanted.verdict)):
        yield f"expect.finding.verdict: {found[0] if found else 'none was looked at'!r}; expected {headline(wanted.verdict)!r}"
    if wanted.fault and wanted.fault != "none":
        says = FAULTS[wanted.fault].says if wanted.fault in FAULTS else None
        if says is None:
            yield f"expect.finding.fault: {wanted.fault!r} is no fault"
        elif found is None or found[1].lower() != says.lower():
            yield f"expect.finding.fault: {found[1] if found else 'none'!r}; expected {says!r}"


def _says(where: str, says: Says, texts: list[str]) -> Iterator[str]:
    for pattern in says.must:
        if not any(re.search(pattern, text) for text in texts):
            yield f"expect.{where}.must: nowhere: {pattern}"
    for pattern in says.never:
        for text in texts:
            if match := re.search(pattern, text):
                line = text[text.rfind("\n", 0, match.start()) + 1 :].partition("\n")[0]
                yield f"expect.{where}.never: {pattern}: {line.strip()[:160]!r}"
                break


def table_of(results: dict[str, Result]) -> str:
    """The table as it is printed."""
    rows = [f"{'job':<10} {'first reading':>13} {'closed':>7} {'asked again':>12} {'seconds':>8} {'failed':>7}"]
    for name, one in results.items():
        rows.append(
            f"{name:<10} {one.acts_first_reading:>13} {one.acts_closed:>7} {len(one.asked_again):>12} "
            f"{one.seconds:>8.1f} {len(one.failed):>7}"
        )
    return "\n".join(rows)


def write_table(path: Path, results: dict[str, Result]) -> None:
    """The table as `table.json`; jobs that were not played this time keep their rows."""
    had = json.loads(path.read_text()) if path.exists() else {}
    path.write_text(json.dumps(had | {name: asdict(one) for name, one in results.items()}, indent=1) + "\n")
