"""The Lab without script: a motor from a call, the catalog or a plate; charts, values, files, refusals."""

import csv
import html
import io
import re
import xml.etree.ElementTree as ET

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.machine.effects import QUESTIONS
from keen_coil.core.units import fixed
from keen_coil.web.chart import Mark, Series, Zone, chart
from tests.demo_calls import COLD_STORE, FISH_CELLAR, GANNET_COTTAGE, READING_ROOM, ROPE_WORKS

PLATE = {
    "hp": "1/4",
    "volts": "208-230",
    "amps_a": "1.4",
    "rpm": "1090",
    "capacitor_uf": "5",
    "capacitor_v": "370",
    "fan": "propeller",
}


def field_value(page, name):
    """What a field of a page holds."""
    return html.unescape(re.search(rf'name="{name}"[^>]*?\svalue="([^"]*)"', page.text)[1])


def text_of(page):
    return html.unescape(re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", page.text)))


def test_a_call_is_shown_as_found_beside_as_it_should_be(reader):
    page = reader.get(f"/lab?call={ROPE_WORKS}")
    text = text_of(page)
    assert "Call 1, Rope works" in text
    assert field_value(page, "f_uf") == "2.1"
    assert "less torque" in text
    row = next(part for part in page.text.split("<tr>") if "amps, capacitor lead" in part)
    assert "-6" in row.split("num")[-1]


@pytest.mark.parametrize("show", ["torque", "amps", "rpm", "shaft_w", "capacitor_v", "starting", "nonsense"])
@pytest.mark.parametrize("over", ["capacitor_uf", "drag_pct", "nonsense"])
def test_every_chart_is_drawn(reader, show, over):
    page = reader.get("/lab", params={"part": "BW-118", "show": show, "over": over})
    assert page.status_code == 200
    for picture in re.findall(r'<svg class="chart.*?</svg>', page.text, re.S):
        ET.fromstring(picture)  # noqa: S314
        assert "nan" not in picture
        assert "inf" not in picture.replace("info", "")


@pytest.mark.parametrize("name", [row.name for row in QUESTIONS])
def test_every_question_gets_a_picture_and_a_sentence(reader, name):
    part = "TM-5042" if name == "blocked_filter" else "BW-118"
    text = text_of(reader.get("/lab", params={"part": part, "ask": name}))
    row = next(row for row in QUESTIONS if row.name == name)
    assert row.means in text


@pytest.mark.parametrize(
    ("moved", "says"),
    [
        ({"f_uf": "0"}, "Runs only if pushed"),
        ({"f_drag": "100"}, "Stalled"),
        ({"f_v": "0"}, "Stalled"),
        ({"f_v": "299"}, "Starts and runs"),
        ({"f_load": "1000"}, "Starts and runs"),
        ({"f_uf": "1000"}, "near the edge"),
        ({"f_swapped": "yes"}, "start winding carries"),
    ],
)
def test_extreme_sliders_show_and_do_not_fail(reader, moved, says):
    page = reader.get("/lab/answer", params={**PLATE, **moved})
    assert page.status_code == 200
    assert says in text_of(page)
    assert page.headers["HX-Replace-Url"].startswith("/lab?")
    assert reader.get(page.headers["HX-Replace-Url"]).status_code == 200


def test_the_address_keeps_everything_that_was_moved(reader):
    page = reader.get(
        "/lab/answer", params={**PLATE, "f_uf": "3.3", "f_v": "222", "f_load": "90", "f_drag": "5", "show": "amps"}
    )
    again = reader.get(page.headers["HX-Replace-Url"])
    for name, value in (("f_uf", "3.3"), ("f_v", "222"), ("f_load", "90"), ("f_drag", "5")):
        assert re.search(rf'name="{name}"[^>]*value="{value}"', again.text)
    assert 'aria-current="true">Amps' in again.text


@pytest.mark.parametrize(
    ("wrong", "field", "says"),
    [
        ({"hp": "1"}, "horsepower", "under 0.432"),
        ({"rpm": "3700"}, "RPM", "below 3600"),
        ({"capacitor_uf": "500"}, "capacitor", "at most"),
        ({"volts": "23O"}, "volts", "plate volts such as"),
        ({"f_uf": "abc"}, "capacitor", "a number from 0"),
        ({"amps_a": ""}, "amps", "plate's value"),
        ({"capacitor_v": "200"}, "capacitor volts", "tapped feed"),
        ({"hp": "<b>"}, "horsepower", "a number"),
    ],
)
def test_a_plate_that_cannot_be_is_refused_with_the_reason_and_what_was_typed_stays(reader, wrong, field, says):
    page = reader.get("/lab", params={**PLATE, **wrong})
    assert page.status_code == 422
    assert re.search(rf"{field}.*Needed: .*{re.escape(says)}", text_of(page), re.IGNORECASE)
    assert "<b>" not in page.text.replace("<b>No model", "").replace("<b>That", "")
    name, value = next(iter(wrong.items()))
    if not name.startswith("f_"):
        assert field_value(page, name) == value
    assert reader.get("/lab/answer", params={**PLATE, **wrong}).status_code == 200


def test_a_call_without_a_model_keeps_to_plate_rules(reader):
    page = reader.get(f"/lab?call={READING_ROOM}")
    assert page.status_code == 422
    assert "Plate rules hold" in page.text
    assert reader.get("/lab?call=999").status_code == 404
    assert reader.get("/lab?call=x").status_code == 404
    assert reader.get("/lab?part=NO-SUCH").status_code == 422


def test_the_figure_is_an_svg_of_its_own_and_the_data_a_table(reader):
    svg = reader.get("/lab/figure.svg", params={"call": "1", "show": "amps"})
    root = ET.fromstring(svg.text)  # noqa: S314
    assert root.tag.endswith("svg")
    assert svg.headers["content-type"].startswith("image/svg+xml")
    assert "attachment" in svg.headers["content-disposition"]
    lines = [node for node in root.iter() if node.tag.endswith("path") and node.get("stroke")]
    assert len(lines) > 6
    for show, column in (("torque", "motor_found_nm"), ("rpm", "rpm_found")):
        rows = list(csv.DictReader(io.StringIO(reader.get("/lab/data.csv", params={"call": "1", "show": show}).text)))
        assert len(rows) > 50
        assert all(float(row[column]) == float(row[column]) for row in rows)
    assert {row["state_found"] for row in rows} == {"starts_and_runs", "runs_only_if_pushed"}


def test_measured_ohms_of_the_call_are_used_and_said(reader):
    assert (
        "with the winding ohms measured on the call" in reader.get(f"/lab?call={COLD_STORE}").text
        or "no winding ohms" in reader.get(f"/lab?call={COLD_STORE}").text
    )
    assert "no winding ohms measured" in reader.get("/lab?part=BW-118").text


def test_run_proof_and_match_show_what_the_new_motor_should_read(reader):
    text = text_of(reader.get(f"/calls/{ROPE_WORKS}/match?part=BW-118"))
    assert re.search(r"On this load it should read: 1\.\d\d to 1\.\d\d A at 239 V, plate 1\.48 A", text)
    proof = text_of(reader.get(f"/calls/{ROPE_WORKS}/run-proof?check=run_amps_a"))
    assert re.search(r"Here it should draw 1\.\d\d to 1\.\d\d A at 10\d\d to 11\d\d rpm", proof)
    assert re.search(r"1\.\d\d to 1\.\d\d A expected with 239\.", proof)


def test_the_pad_says_what_to_expect_or_why_it_does_not(reader):
    pad = text_of(reader.get(f"/calls/{ROPE_WORKS}/path?link=running&kind=run_amps_a"))
    assert re.search(r"Amps expected with 239\.\d ± 2\.7 V read, 2\.1\d* ± 0\.07\d* µF read; 10\d\d to 11\d\d rpm", pad)
    assert re.search(r"capacitor lead ?0\.\d\d to 0\.\d\d", pad)
    bare = text_of(reader.get(f"/calls/{GANNET_COTTAGE}/path?link=running&kind=run_amps_a"))
    assert "Plate rules only." in bare


def test_finding_shows_what_would_read_so(reader):
    text = text_of(reader.get(f"/calls/{FISH_CELLAR}/finding"))
    assert "What would read like this" in text
    assert "the hub slips on the shaft" in text


def test_words_of_a_chart_stay_inside_it():
    series = [Series("one", [0, 10], [0, 5], "found")]
    for width in (720.0, 372.0):
        marks = [Mark(0, 0, "found", "low"), Mark(10, 5, "should", "high"), Mark(9.9, 4.9, "found", "near")]
        found = chart(series, "x", "y", marks, [Zone(9, 10, "a long word at the end")], "says", width)
        for word in found.words:
            length = 7.4 * len(word.says)
            left = word.x - {"start": 0, "end": length, "middle": length / 2}[word.anchor]
            assert left >= -1
            assert left + length <= width + 8
            assert 0 < word.y < found.height
        assert [y for _, y, *_ in found.keys] == sorted(y for _, y, *_ in found.keys)


@given(st.lists(st.floats(-50, 50).map(lambda value: round(value, 6)), min_size=2, max_size=9), st.floats(0.01, 0.99))
def test_what_a_chart_says_at_a_place_is_what_its_lines_show_there(values, share):
    x = [10.0 * n for n in range(len(values))]
    at = share * x[-1]
    found = chart([Series("as found", x, values, "found")], "volts, V", "amps, A", [Mark(at, 0.0, "found", "")])
    wanted = float(np.interp(at, x, values))
    assert f"{at:.4g} V: as found {fixed(wanted)} A" in [stop.says for stop in found.stops]
    assert all(found.top <= y <= found.bottom for stop in found.stops for y, _ in stop.dots)
