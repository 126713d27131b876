"""Renews docs/screenshots from the demo world: one picture of each main view, at 1280 x 800."""

from __future__ import annotations

import shutil
import socket
import tempfile
import threading
import time
from pathlib import Path

import uvicorn
from bench.plate_pictures import CORE_FACES, photograph
from playwright.sync_api import Browser, Page, sync_playwright

from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.calls import board, save_complaint
from keen_coil.services.catalog.import_files import new_act_context
from keen_coil.services.demo.demo import build_demo
from keen_coil.services.log.log import search
from keen_coil.services.sync.lineage import name_replica
from keen_coil.services.sync.sync import sync_file
from keen_coil.settings import Settings
from keen_coil.store.database import Database
from keen_coil.web.app import create_app

FOLDER = Path(__file__).parent.parent / "docs/screenshots"
DESK, HAND = (1280, 800), (390, 844)
SHOTS = (
    ("board", "/", DESK, "daylight"),
    ("plates", "/calls/2/plates", DESK, "daylight"),
    ("path", "/calls/1/path?link=capacitor&kind=capacitance_uf&saved=8", DESK, "daylight"),
    ("finding", "/calls/8/finding", DESK, "daylight"),
    ("match", "/calls/2/match?part=TM-4027", DESK, "daylight"),
    ("capacitor", "/calls/1/capacitor", DESK, "daylight"),
    ("hook-up", "/calls/2/hook-up", DESK, "daylight"),
    ("swap", "/calls/16/swap", DESK, "daylight"),
    ("run-proof", "/calls/6/run-proof", DESK, "daylight"),
    ("hand-over", "/calls/6/hand-over", DESK, "daylight"),
    ("log", "/log?find=creamery", DESK, "daylight"),
    ("unit", "/log/units/{unit}", DESK, "daylight"),
    ("shelf", "/shelf?on=van", DESK, "daylight"),
    ("vans", "/settings/vans", DESK, "daylight"),
    ("plan", "/shelf/plan", DESK, "daylight"),
    ("lab", "/lab?call=1", DESK, "daylight"),
    ("practice", "/practice?ladder=jobs", DESK, "daylight"),
    ("bench-attic", "/calls/71/path?link=bearings&kind=spin", DESK, "attic"),
)


def serve(folder: Path) -> tuple[uvicorn.Server, str]:
    """A server on the demo world; itself and its address."""
    build_demo(folder / "demo.db")
    sync_a_van(folder)
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    app = create_app(Settings(db=folder / "demo.db"))
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error"))
    threading.Thread(target=server.run, daemon=True).start()
    while not server.started:
        time.sleep(0.01)
    return server, f"http://127.0.0.1:{port}"


def sync_a_van(folder: Path) -> None:
    """A van's laptop that synced with the shop before and after both wrote to one call."""
    shop, van = Database(folder / "demo.db"), Database(folder / "van.db")
    name_replica(shop, new_act_context(), "Pellow Mechanical", True)
    name_replica(van, new_act_context(), "Van 1", False)
    sync_file(shop, new_act_context(), folder / "x.zip")
    sync_file(van, new_act_context(), folder / "x.zip")
    for db, says in ((shop, "Hums and does not start."), (van, "Stands still since noon.")):
        call_id = next(row.view.row.id for row in board(db)[0] if row.site == "North shore")
        version = open_call_view(db, call_id).row.version
        save_complaint(db, call_id, new_act_context(version), {"says": says, "symptom": "hums_no_start"})
    sync_file(van, new_act_context(), folder / "x.zip")
    sync_file(shop, new_act_context(), folder / "x.zip")
    for db in (shop, van):
        db.close()


def unit_with_history(folder: Path) -> int:
    """A unit of the demo world that was visited several times."""
    db = Database(folder / "demo.db")
    found = search(db, "creamery yard").units[0].id
    db.close()
    return found


def shoot(browser: Browser, address: str, unit: int) -> None:
    """Take every picture."""
    for name, path, (width, height), theme in SHOTS:
        with browser.new_context(viewport={"width": width, "height": height}) as context:
            context.add_cookies([{"name": "keen_coil_theme", "value": theme, "url": address}])
            page = context.new_page()
            page.goto(address + path.format(unit=unit), wait_until="networkidle")
            page.screenshot(path=FOLDER / f"{name}.png")
            print(f"docs/screenshots/{name}.png")
    with browser.new_context(viewport={"width": HAND[0], "height": HAND[1]}) as context:
        read_a_plate(context.new_page(), address)


def read_a_plate(page: Page, address: str) -> None:
    """A made-up plate photographed on the phone, and what was read of it."""
    picture, _ = photograph(1008, "mild", "motor", CORE_FACES)
    page.goto(f"{address}/calls/5/plates")
    page.locator(".camera input").set_input_files({"name": "plate.jpg", "mimeType": "image/jpeg", "buffer": picture})
    page.locator(".plate-reading").wait_for(timeout=60_000)
    while not page.evaluate("Array.from(document.images).every(image => image.naturalWidth > 0)"):
        page.wait_for_timeout(100)
    page.screenshot(path=FOLDER / "plate-reading.png")


def main() -> None:
    """Serve the demo and shoot."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        server, address = serve(Path(folder))
        shell = shutil.which("chromium-headless-shell")
        browser = play.chromium.launch(executable_path=shell, args=["--no-sandbox", "--disable-gpu"])
        shoot(browser, address, unit_with_history(Path(folder)))
        browser.close()
        server.should_exit = True


if __name__ == "__main__":
    main()
