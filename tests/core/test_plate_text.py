"""The text of plates: lines as they are said, typed and pasted; slips of cameras; plates of any layout at any angle."""

import math

import pytest
from bench.plate_lines import lines
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.core.plate.pieces import Piece
from keen_coil.core.plate.read import read_pieces, read_text, text_of
from keen_coil.core.plates import Motor
from keen_coil.formats.dotted import nested

FAN = "1/4HP 1075RPM 208-230V 1.4A 5MFD 370VAC CW LE"


def values(reading, sure=("sure",)):
    return {row.field: row.value for row in reading.fields if row.sure in sure}


def test_the_same_plate_said_and_printed():
    said = read_text("quarter horse 1075 208-230 1.4 amps five mike 370 reversible 48 frame shaft down")
    figures = {"hp": 0.25, "volts": "208-230", "amps_a": 1.4, "rpm": 1075, "capacitor_uf": 5, "capacitor_v": 370}
    assert values(said) == figures | {
        "rotation.sense": "reversible",
        "frame": "48",
        "duty": ["shaft_down"],
        "kind": "psc",
    }
    assert said.unread == []
    printed = read_text(FAN)
    assert values(printed) == figures | {"rotation.sense": "cw", "rotation.seen_from": "lead_end", "kind": "psc"}
    assert [row.typed for row in printed.fields[:4]] == ["208-230", "1/4", "1.4", "1075"]


def test_three_hundred_lines_in_twenty_spellings():
    asked = wrong = 0
    for line, truth in lines(300, seed=11):
        found = values(read_text(line))
        for name, value in truth.items():
            asked += 1
            wrong += found.get(name) is None or (
                not math.isclose(float(found[name]), value, rel_tol=1e-3)
                if isinstance(value, float)
                else found[name] != value
            )
    assert wrong <= 0.01 * asked


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("HP 1 V 115/230 AMPS 12.4/6.2 RPM 1725", {"amps_a": 12.4, "amps_high_a": 6.2, "volts": "115/230"}),
        ("RPM 1075/900/750 AMPS 7.5/6.0/4.8 HP 3/4 115V", {"speeds": 3, "speed_amps_a": [7.5, 6.0, 4.8]}),
        ("0.18 kW 230V 50Hz", {"hp": 0.2414, "hz": 50}),
        ("460V 3PH 60HZ 2.1A 1HP 1140RPM", {"phase": 3, "kind": "three_phase"}),
        ("208-230/1/60 1/3hp", {"volts": "208-230", "phase": 1, "hz": 60, "hp": 0.333333}),
        ("HP 1/4 (186 W) 1,075 RPM AMB 104F", {"hp": 0.25, "rpm": 1075, "ambient_limit_c": 40.0}),
        (
            "INS CL B S.F. 1.15 SFA 6.2 TEFC SLV BRG",
            {"insulation_class": "B", "service_factor": 1.15, "sf_amps_a": 6.2},
        ),
        ("rotation CCW opposite lead end", {"rotation.sense": "ccw", "rotation.seen_from": "shaft_end"}),
        ("40/5 MFD +/-6% 370/440 VAC", {"herm": 40, "fan": 5, "capacitor_v": 440, "tolerance_pct": 6}),
        ("7-1/2 mfd oval", {"capacitor_uf": 7.5, "shape": "oval"}),
        ("half horse ten seventy five two thirty five mike", {"rpm": 1075, "volts": "230", "capacitor_uf": 5}),
        ("MODEL KX48-2 SERIAL 7300112", {"part_no": "KX48-2", "serial": "7300112"}),
    ],
)
def test_what_plates_write(text, expected):
    assert expected.items() <= values(read_text(text)).items()


@pytest.mark.parametrize(
    ("text", "field", "value"),
    [
        ("HP l/4 V 2O8-23O RPM 1O75 A 1.4", "hp", 0.25),
        ("HP l/4 V 2O8-23O RPM 1O75 A 1.4", "volts", "208-230"),
        ("HP 1/4 V 208-230 A 14", "amps_a", 1.4),
        ("HP 13 V 115 A 5.0", "hp", 0.333333),
        ("HP 1/4 V 115 MFD 75", "capacitor_uf", 7.5),
    ],
)
def test_a_slip_is_repaired_where_the_rest_of_the_plate_supports_it_and_marked(text, field, value):
    row = read_text(text).field(field)
    assert (row.value, row.sure) == (value, "repaired")
    assert row.why


@pytest.mark.parametrize(
    ("text", "fields"),
    [
        ("HP 1/3 V 208-230 A 1.1", {"hp", "amps_a"}),
        ("FLA 27 RPM 1075", {"amps_a"}),
        ("RPM 1199 HP 1/4", {"rpm"}),
        ("RPM 1075 RPM 825", {"rpm"}),
        ("CAP 5.3 MFD HP 1/4", {"capacitor_uf", "kind"}),
        ("THERMALLY PROTECTED HP 1/4", {"protection"}),
    ],
)
def test_what_cannot_be_or_is_said_twice_is_doubtful(text, fields):
    assert {row.field for row in read_text(text).fields if row.sure == "doubtful"} == fields


@given(st.integers(5, 40), st.integers(40, 200), st.integers(10, 60), st.sampled_from(["\n", "; ", "  "]))
def test_amps_of_compressor_and_circuit_are_never_the_fans(rla, lra, mocp, apart):
    rows = (f"MCA {rla * 1.25:.1f} MOCP {mocp}", f"COMPRESSOR RLA {rla}.1 LRA {lra} PH 1", "FAN MOTOR FLA 1.4 HP 1/4")
    reading = read_text(apart.join(rows))
    assert reading.kind == "unit"
    assert values(reading)["amps_a"] == 1.4
    assert reading.field("hp").value == 0.25


@pytest.mark.parametrize(
    "text",
    [
        "1" * 4000,
        "1/" * 2000,
        "AUTO" * 1000,
        "½" * 4000,
        "٣ HP",
        "call 555 1234 after 5 pm",
        "nonsense here",
        "the quick brown fox has 4 legs",
        "hp",
    ],
)
def test_nonsense_says_so_and_gives_no_field(text):
    reading = read_text(text)
    assert reading.fields == []
    assert reading.says


@pytest.mark.parametrize(("role", "amps"), [("indoor_blower", 7.8), ("inducer", 1.2)])
def test_of_a_units_motors_the_one_of_the_call_counts(role, amps):
    text = "FURNACE 115V 60HZ 1PH\nBLOWER MOTOR 1/2 HP 7.8 FLA\nINDUCER 1/30 HP 1.2 FLA\nMAX FUSE 15"
    assert (read_text(text, role=role).kind, values(read_text(text, role=role))["amps_a"]) == ("unit", amps)
    assert read_text(text).field("amps_a").sure == "doubtful", "two motors, and nobody says which"


def test_two_plates_are_not_mixed():
    reading = read_text("1/4 hp 1075 rpm 1.4 a 208-230 v; 1/3 hp 825 rpm 2.1 a 115 v")
    assert reading.fields == []
    assert "Two plates" in reading.says


_WORDS = (
    "HP V A RPM MFD CAP 1/4 208-230 1.4 14 1075/2 5/370 CW LE INS B AMB 40C FR 48Y FLA LRA I0 l/8 ± % / - . ½ µF half"
)
_TEXT = st.lists(st.one_of(st.sampled_from(_WORDS.split()), st.text(max_size=6)), max_size=14).map(" ".join)


@given(_TEXT)
def test_whatever_is_read_of_any_text_fits_the_call_file(text):
    reading = read_text(text, "motor")
    for row in reading.fields:
        if row.field in ("tolerance_pct", "shape"):
            continue
        try:
            Motor.model_validate(nested({row.field: text_of(row.value).replace(", ", "|")}, Motor))
        except (InvalidField, ValueError) as wrong:
            raise AssertionError(f"{row} of {text!r}: {wrong}") from wrong
        assert row.typed.strip() == "" or row.typed in text


ROWS = (
    ("HP", "1/4"),
    ("VOLTS", "208-230"),
    ("AMPS", "1.4"),
    ("RPM", "1075"),
    ("MFD", "5"),
    ("VAC", "370"),
    ("ROT", "CWLE"),
)


def laid(how, degrees, lean=0.0):
    """The rows as pieces: captions beside their values or above them, in two columns, turned and leaning."""
    pieces = []
    for at, (label, value) in enumerate(ROWS):
        x, y = (at // 4) * 400, (at % 4) * 90
        spots = (
            ((label, x, y, 24), (value, x + 130, y, 24))
            if how == "beside"
            else ((label, x, y, 18), (value, x, y + 34, 26))
        )
        pieces += [_piece(text, *spot, degrees, lean) for text, *spot in spots]
    return pieces


def _piece(text, x, y, height, degrees, lean):
    width = 0.6 * height * len(text)
    turn = math.radians(degrees)

    def seen(px, py):
        py = py * (1 + lean * px / 800)
        return px * math.cos(turn) - py * math.sin(turn) + 900, px * math.sin(turn) + py * math.cos(turn) + 900

    corners = tuple(seen(*corner) for corner in ((x, y), (x + width, y), (x + width, y + height), (x, y + height)))
    return Piece(text, corners, (0.99,) * len(text))


@pytest.mark.parametrize("how", ["beside", "above"])
@given(st.floats(-180, 180), st.floats(-0.15, 0.15))
def test_captions_find_their_values_at_any_angle(how, degrees, lean):
    found = values(read_pieces(laid(how, degrees, lean)))
    assert found.items() >= {"hp": 0.25, "volts": "208-230", "amps_a": 1.4, "rpm": 1075, "capacitor_uf": 5}.items()
    assert (found["capacitor_v"], found["rotation.sense"], found["rotation.seen_from"]) == (370, "cw", "lead_end")


def test_the_rows_of_a_table_keep_their_motors():
    grid = [("VOLTS AC PH HZ", 300, 0), ("RLA", 620, 0), ("FLA", 740, 0), ("HP", 860, 0)]
    grid += [("COMPRESSOR", 0, 60), ("208/230", 300, 60), ("18.9", 620, 60)]
    grid += [("OUTDOOR FAN", 0, 120), ("208/230", 300, 120), ("1.4", 740, 120), ("1/4", 860, 120), ("MCA 25.0", 0, 200)]
    reading = read_pieces([_piece(text, x, y, 26, 7, 0) for text, x, y in grid])
    assert (reading.kind, values(reading)) == ("unit", {"volts": "208-230", "hp": 0.25, "amps_a": 1.4})


def test_a_sign_that_was_hard_to_read_makes_its_field_doubtful():
    piece = _piece("AMPS 1.4 HP 1/4", 0, 0, 30, 0, 0)
    blurred = Piece(piece.text, piece.corners, (*(0.99,) * 7, 0.5, *(0.99,) * 7))
    found = {row.field: row.sure for row in read_pieces([blurred]).fields}
    assert found == {"amps_a": "doubtful", "hp": "sure"}
