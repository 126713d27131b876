"""The meter link: what suits a test, when a value is steady, the stand-in on its real socket, a lost connection."""

import asyncio
import contextlib
import json
import socket
import threading
import time
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.core.meter import ASKED, offer, shifted, steady
from keen_coil.core.readings import KINDS
from keen_coil.meter.link import MeterLink, meter_address
from keen_coil.meter.protocol import Frame, read_frame, write_frame
from keen_coil.meter.stand_in import StandIn, serve_stand_in
from tests.fixtures import PATIENCE_S
from tests.web.test_pages import post


@pytest.mark.parametrize(
    ("kind", "function", "value", "unit", "overload", "taken", "says"),
    [
        ("supply_v", "volts_ac", "238.1", "V", False, "238.1", ""),
        ("supply_v", "amps_ac", "1.40", "A", False, "", "The meter is on amps; this test asks for volts, alternating."),
        ("supply_v", "volts_dc", "238.1", "V", False, "", "volts, direct"),
        ("run_amps_a", "amps_ac", "985", "mA", False, "0.985", ""),
        ("winding_ohm", "ohms", "14.20", "ohm", False, "14.20", ""),
        ("winding_ohm", "ohms", "14.20", "kohm", False, "14200", ""),
        ("winding_ohm", "ohms", None, "Mohm", True, "OL", "Over range"),
        ("supply_v", "volts_ac", None, "V", True, "", "Over the meter's range"),
        ("capacitance_uf", "capacitance", "410", "nF", False, "0.410", ""),
        ("insulation_mohm", "insulation", "146", "Mohm", False, "146", ""),
        ("run_amps_a", "amps_ac", None, "A", False, "", "looking for its range"),
        ("spin", "ohms", "1", "ohm", False, "", "no meter's"),
    ],
)
def test_what_a_meter_offers_to_a_test(kind, function, value, unit, overload, taken, says):
    found = offer(kind, function, value, unit, overload)
    assert found.value == taken
    assert says in found.says


def test_a_held_display_is_refused_and_every_number_kind_knows_its_function():
    assert "hold" in offer("supply_v", "volts_ac", "238", "V", False, hold=True).says
    numbers = {name for name, kind in KINDS.items() if kind.is_number}
    assert numbers - set(ASKED) == {"static_inwc", "draught_inwc", "co_ppm"}


@given(st.decimals(-99999, 99999, places=3).map(str), st.sampled_from([-6, -3, 0, 3, 6]))
def test_moving_the_point_keeps_the_value_and_its_digits(text, power):
    moved = shifted(text, power)
    assert Decimal(moved) == Decimal(text).scaleb(power)
    if power <= 0:
        assert len(moved.partition(".")[2]) == len(text.partition(".")[2]) - power


@pytest.mark.parametrize(
    ("values", "still"),
    [
        ([238.0, 238.1, 238.0, 238.1, 238.0, 238.1, 238.0], True),
        ([238.0, 238.1], False),
        ([120.0, 200.0, 238.0, 238.1, 238.0, 238.1, 238.0], False),
        ([238.0, None, 238.0, 238.0, 238.0, 238.0, 238.0], False),
        ([238.0, 238.0, 238.0, 238.0, 238.0, 238.0, None], False),
        ([], False),
    ],
)
def test_steady_is_a_value_that_kept_still_for_a_second_and_a_half(values, still):
    assert steady([(0.25 * n, value) for n, value in enumerate(values)], 0.1) is still


def frames(meter, many=20):
    return [meter.step(0.25) for _ in range(many)]


def test_the_stand_in_settles_finds_its_range_and_is_noisy_by_its_seed():
    found = frames(StandIn("volts_ac", 238.0, seed=4))
    assert found[0].value is None
    assert (found[-1].unit, found[-1].range, found[-1].resolution) == ("V", 600, 0.1)
    assert abs(found[-1].number - 238.0) < 1
    assert len({frame.value for frame in found[-8:]}) > 1
    assert found == frames(StandIn("volts_ac", 238.0, seed=4))
    assert [frame.value for frame in found] != [frame.value for frame in frames(StandIn("volts_ac", 238.0, seed=5))]


@pytest.mark.parametrize(
    ("function", "value", "unit", "shown"),
    [
        ("ohms", 14.2, "ohm", 14.2),
        ("ohms", 18000.0, "kohm", 18.0),
        ("ohms", 2.5e6, "Mohm", 2.5),
        ("capacitance", 41.2, "µF", 41.2),
        ("temperature", 62.0, "C", 62.0),
    ],
)
def test_the_display_chooses_its_unit(function, value, unit, shown):
    last = frames(StandIn(function, value, noise=0))[-1]
    assert (last.unit, last.number) == (unit, pytest.approx(shown, rel=1e-3))


def test_open_leads_turns_background_beeper_hold():
    assert frames(StandIn("ohms", None))[-1].overload
    assert frames(StandIn("ohms", 3.0, noise=0))[-1].beeper
    assert frames(StandIn("amps_ac", 1.4, noise=0, turns=5, background=0.1))[-1].number == pytest.approx(7.1, abs=0.01)
    meter = StandIn("volts_ac", 238.0, noise=0)
    before = frames(meter)[-1]
    meter.set({"hold": True, "value": 0.0})
    held = frames(meter)[-1]
    assert (held.value, held.hold) == (before.value, True)


@pytest.mark.parametrize(
    "changes",
    [
        {"function": "smell"},
        {"value": "x"},
        {"value": float("inf")},
        {"colour": 1},
        {"battery": "flat"},
        {"turns": 0},
        {"hold": 1},
    ],
)
def test_what_the_stand_in_cannot_be_set_to(changes):
    with pytest.raises(InvalidField) as error:
        StandIn().set(changes)
    assert error.value.errors[0].path == next(iter(changes))


@pytest.mark.parametrize(
    "line",
    [
        "",
        "{",
        "[]",
        "null",
        "1e999",
        '{"seq": -1}',
        '{"seq": 1, "function": "volts_ac", "value": "NaN", "unit": "V", "range": 6, "resolution": 1}',
        '{"seq": 1, "function": "ohms", "value": "1", "unit": "V", "range": 6, "resolution": 1}',
        "x" * 3000,
        '{"a":' * 900,
    ],
)
def test_a_line_that_is_none_is_told(line):
    with pytest.raises(InvalidField):
        read_frame(line)


@given(
    st.sampled_from(["volts_ac", "amps_ac", "temperature"]),
    st.none() | st.decimals(0, 400, places=2).map(str),
    st.booleans(),
)
def test_a_frame_goes_over_the_line_unchanged(function, value, hold):
    unit = {"volts_ac": "V", "amps_ac": "A", "temperature": "C"}[function]
    frame = Frame(seq=3, function=function, value=value, unit=unit, range=600, resolution=0.1, hold=hold)
    assert read_frame(write_frame(frame)) == frame


@pytest.mark.parametrize(
    "text",
    [
        "",
        "ws://10.0.0.4:8767",
        "http://127.0.0.1:8767",
        "ws://127.0.0.1",
        "ws://127.0.0.1:99999",
        "ws://meter.example:80",
    ],
)
def test_only_a_socket_on_this_machine_is_linked(text):
    with pytest.raises(InvalidField):
        meter_address(text)


class Running:
    """A stand-in on a thread of its own, to be stopped and started again on the same port."""

    def __init__(self, meter, port=0):
        self.meter, self.port = meter, port or free_port()
        self.loop = asyncio.new_event_loop()
        started = threading.Event()

        async def main():
            ready = asyncio.Event()
            task = asyncio.ensure_future(serve_stand_in(meter, self.port, ready, each=0.05))
            await ready.wait()
            started.set()
            await asyncio.gather(task, return_exceptions=True)

        def run():
            with contextlib.suppress(asyncio.CancelledError):
                self.loop.run_until_complete(main())

        self.thread = threading.Thread(target=run, daemon=True)
        self.thread.start()
        assert started.wait(5)

    @property
    def address(self):
        return f"ws://127.0.0.1:{self.port}"

    def stop(self):
        self.loop.call_soon_threadsafe(lambda: [task.cancel() for task in asyncio.all_tasks(self.loop)])
        self.thread.join(5)


def free_port():
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return found.getsockname()[1]


def until(true, seconds=PATIENCE_S):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():
            return True
        time.sleep(0.05)
    return False


def test_over_its_real_socket_lost_and_found_again():
    running = Running(StandIn("volts_ac", 238.0, noise=0))
    link = MeterLink(running.address)
    try:
        assert until(lambda: link.now().steady)
        assert link.now().frame.number == pytest.approx(238.0, abs=0.2)
        running.stop()
        assert until(lambda: link.now().frame is None)
        assert "lost" in link.now().says or "No meter answers" in link.now().says
        again = Running(StandIn("ohms", 14.2, noise=0), running.port)
        assert until(lambda: link.now().frame is not None and link.now().frame.function == "ohms" and link.now().steady)
        again.stop()
    finally:
        link.close()


def test_something_else_on_the_line_is_told_and_passed_over():
    link = MeterLink(f"ws://127.0.0.1:{free_port()}")
    link._take(
        "hello\n" + write_frame(Frame(seq=1, function="volts_ac", value="238.0", unit="V", range=600, resolution=0.1))
    )
    assert link.now().frame.value == "238.0"
    link.close()


def test_a_client_moves_the_leads():
    from websockets.sync.client import connect

    running = Running(StandIn("volts_ac", 238.0, noise=0))
    with connect(running.address, proxy=None) as client:
        client.send(json.dumps({"set": {"function": "amps_ac", "value": 1.4}}))
        client.send("nonsense")
        seen = [json.loads(client.recv(timeout=PATIENCE_S)) for _ in range(30)]
    assert any("error" in one for one in seen)
    assert seen[-1]["function"] == "amps_ac"
    running.stop()


def test_on_the_pad_it_offers_refuses_and_says_when_it_is_gone(client):
    assert "No meter is linked" in client.get("/meter?kind=supply_v").text
    answer = post(client, "/settings", "/settings/meter", meter="ws://192.168.0.4:1")
    assert answer.status_code == 422
    running = Running(StandIn("volts_ac", 238.0, noise=0))
    post(client, "/settings", "/settings/meter", meter=running.address)
    assert until(lambda: 'id="take"' in client.get("/meter?kind=supply_v").text)
    assert "this test asks for ohms" in client.get("/meter?kind=winding_ohm").text
    running.stop()
    assert until(lambda: "tried again" in client.get("/meter?kind=supply_v").text)
    post(client, "/settings", "/settings/meter", meter="")
    assert client.app.state.meter is None
