"""A plate by photograph, by one line, by its part number: shown first, taken field by field, never entered unseen."""

import io
import re
import threading

import numpy as np
import pytest
import zxingcpp
from bench.plate_pictures import CORE_FACES, photograph
from PIL import Image, ImageDraw, ImageFont

from keen_coil.formats.catalogue_csv import read_catalogue
from keen_coil.formats.plate_photograph import codes_in
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.demo.demo import DATA
from keen_coil.services.stations.plate_photograph import PhotographText, plate_of_photograph
from keen_coil.web.routes.plate_reading import PhotographJob, PlatePhotographs
from tests.demo_calls import GANNET_COTTAGE, ROPE_WORKS
from tests.fixtures import PATIENCE_S
from tests.work import no_engine

from .test_pages import hidden, post

PLATES = f"/calls/{GANNET_COTTAGE}/plates"
LINE = "1/4 HP 1075 RPM 208-230 V 1.4 A 5 MFD 370 V CCW shaft end"


def plate(client, call=GANNET_COTTAGE):
    return open_call_view(client.app.state.db, call).call.motor


def proposed(page):
    """The fields of a page of readings: value and whether it is ticked."""
    fields = re.findall(r'name="take\.([^"]+)" value="yes"\s*(checked)?', page.text)
    shown = dict(re.findall(r'<input id="f-([^"]+)" name="[^"]+" value="([^"]*)"', page.text))
    shown |= dict(
        re.findall(
            r'name="([^"]+)" [^>]*>\s*(?:<option[^>]*>[^<]*</option>\s*)*<option value="([^"]+)" selected', page.text
        )
    )
    return {path: (shown.get(path, ""), bool(ticked)) for path, ticked in fields}


def take(client, page, call=GANNET_COTTAGE, **changes):
    rows = proposed(page)
    form = hidden(page.text, f"/calls/{call}/plates/take")
    form |= {path: text for path, (text, _) in rows.items()} | {
        f"take.{path}": "yes" for path, (_, on) in rows.items() if on
    }
    return client.post(f"/calls/{call}/plates/take", data=form | changes)


def test_a_line_is_shown_first_and_saved_when_it_is_taken(client):
    before = plate(client)
    page = post(client, PLATES, f"{PLATES}/line", line=LINE)
    assert plate(client) == before, "nothing enters unseen"
    assert proposed(page)["motor.hp"] == ("1/4", True)
    page = take(client, page)
    assert page.status_code == 200
    motor = plate(client)
    assert (motor.hp, motor.volts, motor.amps_a, motor.rpm, motor.capacitor_uf) == (0.25, "208-230", 1.4, 1075, 5)
    assert (motor.rotation.sense, motor.rotation.seen_from, motor.kind) == ("ccw", "shaft_end", "psc")


def test_what_is_not_ticked_stays_out_and_what_is_corrected_goes_in(client):
    page = post(client, PLATES, f"{PLATES}/line", line="HP 1/3 V 208-230 A 1.1 RPM 1075")
    assert proposed(page)["motor.amps_a"] == ("1.1", False), "it cannot be: it is asked about"
    take(client, page, **{"motor.amps_a": "2.1", "take.motor.amps_a": "yes"})
    assert (plate(client).amps_a, plate(client).hp, plate(client).rpm) == (2.1, None, 1075)


def test_a_reading_never_takes_the_place_of_another_by_itself(client):
    take(client, post(client, PLATES, f"{PLATES}/line", line=LINE))
    page = post(client, PLATES, f"{PLATES}/line", line="1/3 HP 1075 RPM")
    assert proposed(page) == {"motor.hp": ("1/3", False), "motor.rpm": ("1075", True)}
    assert "has 1/4 now" in page.text
    take(client, page)
    assert plate(client).hp == 0.25


def test_bad_corrections_stand_beside_their_fields_and_nothing_is_lost(client):
    page = post(client, PLATES, f"{PLATES}/line", line=LINE)
    answer = take(client, page, **{"motor.rpm": "fast"})
    assert answer.status_code == 422
    assert 'id="fault-motor.rpm"' in answer.text
    assert proposed(answer)["motor.rpm"] == ("fast", True)
    assert proposed(answer)["motor.amps_a"] == ("1.4", True)
    assert plate(client).hp is None


@pytest.mark.parametrize(("line", "says"), [("nonsense here", "nonsense here"), ("", "nothing"), ("x" * 4001, "4000")])
def test_a_line_of_nonsense_is_told_and_leaves_the_fields_alone(client, line, says):
    before = plate(client)
    page = post(client, PLATES, f"{PLATES}/line", line=line)
    assert page.status_code == 422
    assert says in page.text
    assert plate(client) == before


def test_a_part_number_fills_in_what_catalogue_or_an_earlier_call_knows(client):
    part = read_catalogue((DATA / "motors.csv").read_bytes())[0].part_no
    page = post(client, PLATES, f"{PLATES}/line", line=f"part no {part}")
    assert "catalog, " in page.text
    assert proposed(page).keys() >= {"motor.hp", "motor.volts", "motor.amps_a", "motor.rpm", "motor.part_no"}


def test_the_new_motors_plate_is_read_the_same_way_and_judged_only_then(client):
    call = f"/calls/{ROPE_WORKS}"
    page = post(client, f"{call}/match/plate", f"{call}/plates/line", line=LINE + " P/N HAND-7", to="new")
    page = take(client, page, ROPE_WORKS)
    assert 'value="HAND-7"' in page.text
    assert not open_call_view(client.app.state.db, ROPE_WORKS).row.plan.by_hand
    sent = hidden(page.text, f"{call}/match/plate")
    fields = dict(re.findall(r'<input id="f-([^"]+)" name="[^"]+"\s+value="([^"]+)"', page.text))
    tapped = re.findall(r'type="radio" name="([^"]+)" value="([^"]+)"[^>]*checked', page.text)
    fields |= dict(tapped) | {"motor.phase": "1", "motor.hz": "60"}
    assert client.post(f"{call}/match/plate", data=sent | fields).status_code == 200
    assert open_call_view(client.app.state.db, ROPE_WORKS).row.plan.by_hand[0].amps_a == 1.4


def sent(client, picture, subject="plate", name="plate.jpg", **fields):
    """A photograph sent, and the page of its reading once it is there."""
    files = {"photo": (name, picture, "image/jpeg")}
    page = post(client, PLATES, f"/calls/{GANNET_COTTAGE}/photographs", files, read="yes", subject=subject, **fields)
    for _ in range(240):
        if "Reading the photograph" not in page.text:
            return page
        page = client.get(str(page.url))
    raise AssertionError("never read")


def clear_label():
    """A capacitor's label, printed large."""
    image = Image.new("RGB", (900, 500), (228, 226, 220))
    draw = ImageDraw.Draw(image)
    for at, text in enumerate(("45+5 µF ±6%", "440 VAC", "50/60 Hz")):
        draw.text((60, 60 + 130 * at), text, (25, 25, 25), font=ImageFont.truetype(CORE_FACES[1], 72))
    out = io.BytesIO()
    image.rotate(8, expand=True, fillcolor=(90, 90, 90)).save(out, "JPEG")
    return out.getvalue()


def test_a_photograph_is_kept_read_shown_with_its_crops_and_taken(client):
    picture, shown = photograph(1000, "mild", "motor", CORE_FACES)
    before = plate(client)
    page = sent(client, picture)
    rows = proposed(page)
    assert plate(client) == before
    right = {name: value for name, value in shown.truth.items() if name in ("rpm", "amps_a", "capacitor_uf", "volts")}
    assert {name: rows[f"motor.{name}"][0] for name in right} == {
        n: f"{v:g}" if isinstance(v, float) else str(v) for n, v in right.items()
    }
    crop = re.search(rf'src="(/calls/{GANNET_COTTAGE}/photographs/\d+/crop\?[^"]+)"', page.text)[1].replace(
        "&amp;", "&"
    )
    with Image.open(io.BytesIO(client.get(crop).content)) as part:
        assert 20 < part.height < 300
    assert client.get(re.sub(r"x=\d+", "x=3999", crop)).status_code == 404
    take(client, page)
    assert plate(client).rpm == shown.truth["rpm"]


def test_a_capacitors_label_goes_to_the_capacitors_fields(client):
    page = sent(client, clear_label(), "capacitor_label")
    assert proposed(page) == {
        "capacitor.fan": ("5", True),
        "capacitor.herm": ("45", True),
        "capacitor.volts_v": ("440", True),
        "capacitor.tolerance_pct": ("6", True),
    }
    take(client, page)
    label = open_call_view(client.app.state.db, GANNET_COTTAGE).call.capacitor
    assert (label.section_uf("fan"), label.section_uf("herm"), label.volts_v) == (5, 45, 440)


def test_a_photograph_of_nothing_is_told_and_leaves_the_fields_alone(client):
    out = io.BytesIO()
    Image.effect_noise((800, 600), 60).save(out, "PNG")
    page = sent(client, out.getvalue())
    assert "No text was found" in page.text
    assert "Nothing was changed" in page.text
    assert proposed(page) == {}


def test_a_picture_that_only_some_phones_keep_is_told_apart(client):
    page = sent(client, b"\x00\x00\x00\x18ftypheic" + b"\x00" * 400, name="IMG_0001.HEIC")
    assert page.status_code == 422
    assert "This one is HEIC" in page.text


def test_without_the_engine_the_photograph_is_kept_and_the_package_named(client, monkeypatch):
    monkeypatch.setattr("keen_coil.web.routes.plate_reading.read_plate_photograph", no_engine)
    page = sent(client, clear_label())
    assert "keen-coil[plates]" in page.text
    assert "/photographs/" in client.get(PLATES).text
    page = post(client, PLATES, f"{PLATES}/line", line=LINE)
    assert proposed(page)["motor.hp"] == ("1/4", True)


def test_a_shop_in_f_types_and_reads_f_and_the_file_keeps_c(client):
    page = client.get(PLATES)
    form = hidden(page.text, PLATES)
    assert form["degrees"] == "F"
    client.post(PLATES, data=form | {"motor.ambient_limit_c": "140", "unit.ambient_c": "88"})
    call = open_call_view(client.app.state.db, GANNET_COTTAGE).call
    assert (call.motor.ambient_limit_c, call.unit.ambient_c) == (60, pytest.approx(31.1))
    assert re.search(r'name="motor.ambient_limit_c"\s+value="140"', client.get(PLATES).text)
    path = f"/calls/{GANNET_COTTAGE}/path?link=overload&kind=shell_c"
    assert 'value="F"' in client.get(path).text.split('aria-label="degrees on the thermometer"')[1][:200]
    page = post(client, path, f"/calls/{GANNET_COTTAGE}/readings", value="190", degrees="F")
    assert "190" in re.sub(r"<[^>]+>", " ", page.text)
    reading = open_call_view(client.app.state.db, GANNET_COTTAGE).call.readings[-1]
    assert (reading.kind, reading.value) == ("shell_c", pytest.approx(87.8))
    post(client, "/settings", "/settings/units", degrees="C", currency="CHF")
    assert hidden(client.get(PLATES).text, PLATES)["degrees"] == "C"
    assert "87.8" in client.get(f"/calls/{GANNET_COTTAGE}/path").text
    assert "CHF" in client.get("/shelf").text
    assert post(client, "/settings", "/settings/units", degrees="K", currency="$").status_code == 422


def test_codes_on_a_label_say_what_its_words_do_not():
    code = zxingcpp.create_barcode("S/N 90113312 P/N KX-4410 1/4 HP", zxingcpp.BarcodeFormat.QRCode)
    image = Image.new("L", (700, 700), 255)
    image.paste(Image.fromarray(np.array(zxingcpp.write_barcode_to_image(code, scale=8))), (60, 60))
    out = io.BytesIO()
    image.save(out, "PNG")
    read = plate_of_photograph(PhotographText((), tuple(codes_in(out.getvalue()))))
    assert {row.field: row.value for row in read.fields} == {"hp": 0.25, "part_no": "KX-4410", "serial": "90113312"}
    assert read.says == ""


def test_what_nobody_read_of_the_unit_is_named_as_the_motor_plates_until_it_is_saved(client):
    page = post(client, "/", "/calls", site="Lighthouse", unit="oil store", unit_kind="split_condenser", technician="")
    plates = re.search(r"/calls/\d+", str(page.url))[0] + "/plates"
    page = client.get(plates)
    assert "by the motor plate" not in page.text
    assert 'name="motor.role"' not in page.text, "a condenser has one motor of ours"
    client.post(plates, data=hidden(page.text, plates) | {"motor.volts": "115", "motor.kind": "psc"})
    page = client.get(plates)
    assert "115 by the motor plate" in page.text
    assert "1, by the motor plate" in page.text
    client.post(plates, data=hidden(page.text, plates) | {"unit.phase": "1", "unit.hz": "60", "unit.supply_v": "120"})
    assert "by the motor plate" not in client.get(plates).text


def test_a_page_that_was_begun_before_the_photograph_is_read_asks_again():
    job = PhotographJob(2, 5)
    page = job.seen()
    job.text, job.done = object(), 5
    job.over.set()
    assert (page.is_over, page.text, page.done) == (False, None, 2)
    assert (job.seen().is_over, job.seen().text) == (True, job.text)


def test_photographs_are_read_one_after_the_other_and_each_knows_its_place():
    gate, readings = threading.Event(), PlatePhotographs()

    def work(progress):
        gate.wait(PATIENCE_S)
        return PhotographText((), ())

    jobs = [readings.of(number, work) for number in range(4)]
    assert [readings.ahead_of(job) for job in jobs] == [0, 1, 2, 3]
    gate.set()
    assert all(job.over.wait(PATIENCE_S) for job in jobs)
    assert [readings.ahead_of(job) for job in jobs] == [0, 0, 0, 0]
