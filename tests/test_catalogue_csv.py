"""Catalogs from CSV: every fault named by row and column, nothing half taken."""

import pytest

from keen_coil.core.errors import InvalidField
from keen_coil.formats.catalogue_csv import read_catalogue, write_catalogue
from keen_coil.formats.van_csv import read_van
from keen_coil.services.demo.demo import DATA

HEADER = "part_no,kind,hp,volts,amps_a,phase,hz,rpm"
ROW = "P-1,psc,1/4,208-230,1.40,1,60,1075"


def faults(text, reader=read_catalogue):
    with pytest.raises(InvalidField) as error:
        reader(text if isinstance(text, bytes) else text.encode())
    return {fault.path: fault.expected for fault in error.value.errors}


def test_a_plain_row_keeps_its_digits():
    motor = read_catalogue(f"\ufeff{HEADER}\r\n{ROW}\r\n".encode())[0]
    assert (motor.hp, str(motor.amps_a), motor.volts) == (0.25, "1.40", "208-230")


@pytest.mark.parametrize(
    ("text", "path"),
    [
        (HEADER.replace(",rpm", "") + "\n" + ROW, "rpm"),
        (f"{HEADER},colour\n{ROW},red", "colour"),
        (f"{HEADER},rpm\n{ROW},1075", "rpm"),
        (f"{HEADER}\n{ROW}\n{ROW}", "row 3.part_no"),
        (f"{HEADER}\n{ROW.replace('1075', '0')}", "row 2.rpm"),
        (f"{HEADER}\n{ROW.replace('208-230', '23O')}", "row 2.volts"),
        (f"{HEADER}\n{ROW.replace('1.40', '-1.4')}", "row 2.amps_a"),
        (f"{HEADER}\n{ROW.replace('1.40', '1,4')}", "row 2"),
        (f"{HEADER}\n{ROW.replace('psc', 'PSC motor')}", "row 2.kind"),
        (f"{HEADER}\n{ROW.replace('P-1', ' ')}", "row 2.part_no"),
        (f"{HEADER},shaft.keyed\n{ROW},maybe", "row 2.shaft.keyed"),
        (f'{HEADER}\n"P-1,psc', "row 2"),
        (b"\xff\xfe\x00", ""),
        ("", "part_no"),
        (HEADER.replace(",", ";") + "\n" + ROW.replace(",", ";"), "header"),
        (HEADER.replace(",", "\t") + "\n" + ROW.replace(",", "\t"), "header"),
        (f"{HEADER}\n{ROW}".encode("utf-16"), ""),
        (b"PK\x03\x04 not a table", ""),
        (HEADER + "\n" + ROW.replace("1.40", '"1,40"'), "row 2.amps_a"),
    ],
)
def test_each_fault_is_named(text, path):
    assert path in faults(text)


def test_all_faults_at_once_and_no_row_taken():
    bad = "\n".join(ROW.replace("P-1", f"P-{i}").replace("1075", "0") for i in range(10))
    assert len(faults(f"{HEADER}\n{bad}")) == 10


def test_size_is_limited():
    with pytest.raises(InvalidField) as error:
        read_catalogue(b"x" * 2000, largest=1000)
    assert "at most" in error.value.errors[0].expected


def test_the_demo_catalogue_round_trips():
    data = (DATA / "motors.csv").read_bytes()
    motors = read_catalogue(data)
    assert len(motors) >= 60
    assert read_catalogue("".join(write_catalogue(motors)).encode()) == motors


def test_formulas_are_neutralised_on_the_way_out():
    motors = read_catalogue(f"{HEADER},maker\n{ROW},=cmd()".encode())
    assert "'=cmd()" in "".join(write_catalogue(motors))


def test_van_file():
    parts = read_van(b"part_no,kind,sections_uf,volts_v,quantity\nC-1,capacitor,40+5,440,2\nM-1,motor,,,1\n")
    assert [(part.part_no, part.quantity) for part in parts] == [("C-1", 2), ("M-1", 1)]
    assert "row 2.sections_uf" in faults("part_no,kind,sections_uf\nC-1,capacitor,forty\n", read_van)
    assert "row 2.quantity" in faults("part_no,kind,quantity\nC-1,capacitor,-1\n", read_van)
    assert "colour" in faults("part_no,kind,colour\nC-1,capacitor,red\n", read_van)
