"""Readers under anything at all: refused in words or taken, never a crash, in bounded time and memory."""

import io
import json
import time
import tracemalloc
import zipfile

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from keen_coil.core.call import read_call
from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.errors import InvalidField
from keen_coil.core.practice.case import read_case, write_case
from keen_coil.core.practice.make import case_of
from keen_coil.core.practice.play import engine_plays
from keen_coil.formats.archive import open_archive, write_archive
from keen_coil.formats.area_csv import read_area
from keen_coil.formats.call_file import load_call
from keen_coil.formats.catalogue_csv import read_catalogue
from keen_coil.formats.readings_csv import read_readings
from keen_coil.formats.van_csv import read_van
from keen_coil.meter.protocol import read_frame
from keen_coil.services.demo.demo import DATA
from keen_coil.services.log.archive import LAYOUTS
from tests.calls import call_data, pair, reading
from tests.fixtures import NOW

CALL = json.dumps(
    call_data(
        reading("supply_v", 238, at="motor"),
        pair("black", "white", "14.2"),
        reading("capacitance_uf", 2.1, section="fan"),
    )
).encode()
LONGEST_S, MOST_MB = 5.0, 120


def tried(read, data):
    """Read it; refused or taken, within time and memory."""
    tracemalloc.start()
    begun = time.process_time()
    try:
        found = read(data)
    except InvalidField as error:
        assert error.errors
        assert all(fault.expected for fault in error.errors)
        found = None
    finally:
        peak = tracemalloc.get_traced_memory()[1] / 1e6
        tracemalloc.stop()
    assert time.process_time() - begun < LONGEST_S
    assert peak < MOST_MB
    return found


@st.composite
def spoilt(draw, good: bytes):
    """A good file with pieces cut out, doubled, overwritten, or something else put in."""
    data = bytearray(good)
    for _ in range(draw(st.integers(1, 4))):
        at = draw(st.integers(0, max(0, len(data) - 1)))
        end = min(len(data), at + draw(st.integers(0, 60)))
        piece = draw(
            st.one_of(
                st.binary(max_size=20),
                st.sampled_from(
                    [
                        b"",
                        b'"',
                        b",",
                        b"\n",
                        b"\x00",
                        b"[" * 500,
                        b"{}",
                        b"null",
                        b"1e999",
                        b"-0",
                        b"NaN",
                        b"\xff\xfe",
                        b"'=1+1",
                        bytes(data[at:end]) * 3,
                    ]
                ),
            )
        )
        data[at:end] = piece
    return bytes(data)


def catalogue():
    return (DATA / "motors.csv").read_bytes()[:6000].rsplit(b"\n", 1)[0] + b"\n"


FUZZ = settings(max_examples=50, deadline=None, suppress_health_check=list(HealthCheck))


@FUZZ
@given(st.one_of(spoilt(CALL), st.binary(max_size=300)))
def test_call_files(data):
    call = tried(load_call, data)
    if call is not None:
        assess(call)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers(-(10**12), 10**12) | st.floats() | st.text(max_size=12),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4),
    max_leaves=12,
)
KEYS = [
    "complaint",
    "unit",
    "motor",
    "chosen_motor",
    "load",
    "space",
    "capacitor",
    "meters",
    "readings",
    "hookup",
    "record",
    "format",
    "version",
]


@FUZZ
@given(st.dictionaries(st.sampled_from(KEYS), JSON, max_size=4))
def test_call_files_with_anything_in_a_part(parts):
    tried(read_call, {**json.loads(CALL), **parts})


@FUZZ
@given(
    st.dictionaries(
        st.sampled_from(["seed", "faults", "around", "call", "title", "last_visit", "teaches", "rung"]),
        JSON,
        max_size=3,
    )
)
def test_case_files(parts):
    case = tried(read_case, {**write_case(case_of(3)), **parts})
    if case is not None:
        engine_plays(case, 2)


@pytest.mark.parametrize(
    ("read", "good"),
    [(read_catalogue, catalogue()), (read_van, (DATA / "van.csv").read_bytes()[:1500])],
    ids=["motors", "van"],
)
def test_csv_files(read, good):
    @FUZZ
    @given(st.one_of(spoilt(good), st.binary(max_size=300)))
    def fuzzed(data):
        tried(lambda content: list(read(content)), data)

    fuzzed()


@FUZZ
@given(st.binary(max_size=400))
def test_readings_and_area_files(data):
    for read in (read_readings, read_area):
        tried(lambda content, read=read: list(read(content)), data)


def archive():
    out = io.BytesIO()
    write_archive(out, ((layout, []) for layout in LAYOUTS.values()), [], NOW)
    return out.getvalue()


@settings(max_examples=30, deadline=None, suppress_health_check=list(HealthCheck))
@given(spoilt(archive()))
def test_archives(data):
    def read(content):
        with open_archive(io.BytesIO(content), list(LAYOUTS.values())) as found:
            return [list(found.rows(layout)) for layout in LAYOUTS.values()]

    tried(read, data)


@settings(max_examples=25, deadline=None)
@given(
    st.dictionaries(
        st.sampled_from([f"{name}.csv" for name in LAYOUTS] + ["datapackage.json", "../x", "photographs/1.jpg"]),
        st.binary(max_size=60),
        max_size=5,
    )
)
def test_zips_of_anything(members):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as package:
        for name, data in members.items():
            package.writestr(name, data)

    def read(content):
        with open_archive(io.BytesIO(content), list(LAYOUTS.values())) as found:
            return found.lines

    tried(read, out.getvalue())


@FUZZ
@given(st.text(max_size=200))
def test_lines_of_a_meter(text):
    tried(read_frame, text)
