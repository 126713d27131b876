"""Wiring as it is entered: plate's words, its diagram, speeds by mode; one tick at Hook-up and Swap; the card."""

import re

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from keen_coil.core.hookup.terminals import terminal_words
from keen_coil.core.vocabulary import LeadFunction, OutputMode, words_of
from keen_coil.services.calls import call_files
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.stations import hook_up, lead_forms, match, swap
from keen_coil.services.stations.hand_over import loose_ends
from keen_coil.services.stations.hook_up import moves_done, step_of
from keen_coil.services.stations.hook_up_card import card_of
from tests.calls import make_call, pair
from tests.demo_calls import FERRY_ROOM, SCHOOL_FURNACE
from tests.fixtures import every_step, stamp
from tests.test_diagrams_text import SEVEN
from tests.web.test_pages import post
from tests.wirings import DUAL_VOLTS, OLD, THREE, wires


def send(client, call, form, view="plan", **fields):
    return post(client, f"/calls/{call}/hook-up?view={view}", f"/calls/{call}/hook-up/{form}", view=view, **fields)


def rows(*pairs):
    named = [(f"lead.{n}", lead) for n, (lead, _) in enumerate(pairs)]
    return dict(named + [(f"says.{n}", says) for n, (_, says) in enumerate(pairs)])


def test_leads_by_the_plates_words_are_planned_and_shown_again(client):
    words = rows(("black", "common"), ("blue", "run"), ("brown", "start"), ("tan", "capacitor_return"), ("g", "ground"))
    page = send(client, FERRY_ROOM, "words", **words)
    assert page.status_code == 200
    assert 'value="tan"' in page.text
    assert "wire cap 1" in page.text.lower()
    assert "capacitor fan" in page.text
    assert 'aria-label="Windings. black: ' in page.text


@pytest.mark.parametrize(
    ("pairs", "field", "says"),
    [
        ([("black", "common"), ("blue", "common"), ("brown", "start")], "says.1", "black is that already"),
        ([("black", "common"), ("", "run")], "lead.1", "color or number"),
        ([("black", "common"), ("blue", "sideways")], "says.1", "a word of the list"),
        ([("black", "common"), ("black", "run")], "lead.1", "name of its own"),
    ],
)
def test_a_lead_that_cannot_be_is_told_beside_its_row_and_nothing_typed_is_lost(client, pairs, field, says):
    before = client.get(f"/calls/{FERRY_ROOM}/call.json").json()["hookup"]
    answer = send(client, FERRY_ROOM, "words", **rows(*pairs))
    assert answer.status_code == 422
    assert says in answer.text
    assert f'id="fault-{field}"' in answer.text
    assert all(f'value="{lead}"' in answer.text for lead, _ in pairs if lead)
    assert client.get(f"/calls/{FERRY_ROOM}/call.json").json()["hookup"] == before


def test_the_plates_diagram_is_typed_a_wire_nut_a_line(db):
    call_id = call_files.import_call(db, stamp(0), make_call(motor=DUAL_VOLTS, capacitor={}), "x.call.json")
    lead_forms.keep_diagram(db, call_id, stamp(1), {f"diagram.{name}": text for name, text in SEVEN.items()})
    shown = hook_up.hookup_view(open_call_view(db, call_id), "plan")
    assert shown.check.runs
    assert shown.check.solved
    assert {line for line in shown.diagram["low"].splitlines()} == {line for line in SEVEN["low"].splitlines()}
    card = card_of(open_call_view(db, call_id).call, shown)
    assert any(len(there) > 2 for _, there in card.joints)


def test_a_line_of_the_diagram_that_is_none_is_told_with_its_number(client):
    answer = send(client, FERRY_ROOM, "diagram", **{"diagram.low": "1-2 to L1\nthree to somewhere\n1 to L2"})
    assert answer.status_code == 422
    assert "line 2" in answer.text
    assert "three to somewhere" in answer.text


def test_speeds_by_mode_are_kept_planned_and_asked_for_by_the_run_test(client):
    typed = {"mode.0": "cool", "terminal.0": "board.cool", "speed.0": "1"}
    typed |= {"mode.1": "heat", "terminal.1": "board.heat", "speed.1": "3"}
    assert send(client, SCHOOL_FURNACE, "outputs", **typed).status_code == 200
    call = client.get(f"/calls/{SCHOOL_FURNACE}/call.json").json()
    assert [(row["mode"], row["speed"]) for row in call["unit"]["outputs"]] == [("cool", 1), ("heat", 3)]
    plates = client.get(f"/calls/{SCHOOL_FURNACE}/plates").text
    assert 'name="unit.modes.heating" value="3"' in " ".join(plates.split())
    proof = client.get(f"/calls/{SCHOOL_FURNACE}/run-proof").text
    assert "heating (speed 3)" in proof
    bad = send(client, SCHOOL_FURNACE, "outputs", **{"mode.0": "cool", "speed.0": "fast", "mode.1": "", "speed.1": "2"})
    assert bad.status_code == 422
    assert "a speed by its number" in bad.text
    assert "what switches it on" in bad.text


@pytest.fixture
def db(stocked):
    """The catalog and the van are there before each of these."""
    return stocked


@pytest.fixture
def planned(db):
    call_id = call_files.import_call(
        db, stamp(0), make_call(hookup={"leads": THREE, "found": wires(OLD)}), "x.call.json"
    )
    match.pick_motor(db, call_id, stamp(1), "TM-4027")
    hook_up.keep_plan(db, call_id, stamp(2), "dual")
    return call_id


def test_a_move_done_at_hook_up_is_its_step_done_at_swap(db, planned):
    moves = len(open_call_view(db, planned).row.plan.hookup.moves)
    hook_up.tick_moves(db, planned, stamp(3), "|".join(map(str, range(moves))))
    ticked = {step.step for step in open_call_view(db, planned).row.steps if step.station == "swap"}
    assert {"wires_off", "connect", "ground"} <= ticked
    hook_up.tick_moves(db, planned, stamp(4), "0|1|2")
    ticked = {step.step for step in open_call_view(db, planned).row.steps if step.station == "swap"}
    assert "wires_off" in ticked
    assert "connect" not in ticked


def test_a_step_done_at_swap_is_its_moves_done_and_closing_asks_for_nothing_twice(db, planned):
    swap.do_step(db, planned, stamp(3), "connect", {}, through=True)
    view = open_call_view(db, planned)
    left = set(range(len(view.row.plan.hookup.moves))) - moves_done(view.row)
    assert {step_of(view.row.plan.hookup.moves[number]) for number in left} <= {"ground", "cap"}
    every_step(db, planned)
    assert not any("moves of the wiring plan" in text for text in loose_ends(open_call_view(db, planned)))
    swap.take_step_back(db, planned, stamp(open_call_view(db, planned).row.version), "connect")
    assert any("wiring plan not checked off" in text for text in loose_ends(open_call_view(db, planned)))


def test_the_card_is_one_page_with_each_wire(client, db):
    page = client.get(f"/calls/{FERRY_ROOM}/hook-up/card")
    assert page.status_code == 200
    assert "capacitor fan" in page.text
    made = client.get(f"/calls/{FERRY_ROOM}/hook-up/card.pdf")
    assert made.headers["content-type"] == "application/pdf"
    assert made.content.count(b"/Type /Page\n") + made.content.count(b"/Type /Page ") <= 1


@pytest.mark.parametrize(
    ("terminal", "words"),
    [("cap.1", "wire cap 1"), ("capacitor.common", "capacitor common"), ("line.n", "neutral"), ("motor.tan", "tan")],
)
def test_a_terminal_is_said_in_words(terminal, words):
    assert terminal_words(terminal) == words


ODD = st.text(st.characters(codec="ascii", exclude_characters="\r\n|", exclude_categories=["Cc"]), max_size=8)
WORDS_OR_ODD = st.one_of(st.sampled_from(["", *words_of(LeadFunction)]), ODD)


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.dictionaries(st.sampled_from(range(9)), st.tuples(ODD, WORDS_OR_ODD), max_size=6))
def test_what_is_typed_of_the_leads_is_kept_or_refused(client, typed):
    sent = {f"{name}.{n}": text for n, pair in typed.items() for name, text in zip(("lead", "says"), pair, strict=True)}
    answer = send(client, FERRY_ROOM, "words", **sent)
    if answer.status_code == 422:
        assert 'class="fault"' in answer.text
        return
    rows = client.get(f"/calls/{FERRY_ROOM}/call.json").json()["hookup"].get("leads", [])
    kept = {(row["lead"], row.get("says") or "") for row in rows}
    assert {(lead.strip(), says.strip()) for lead, says in typed.values() if lead.strip() or says.strip()} == kept


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(
        st.tuples(
            st.one_of(st.sampled_from(["", *words_of(OutputMode)]), ODD),
            st.one_of(st.sampled_from(["", "board.cool", "board.heat", "switch.t1", "cap.1"]), ODD),
            st.one_of(st.sampled_from(["", "1", "2", "3", "0", "99", "1.5"]), ODD),
        ),
        max_size=4,
    )
)
def test_what_is_typed_of_the_speeds_by_mode_is_kept_or_refused(client, typed):
    names = ("mode", "terminal", "speed")
    sent = {f"{name}.{n}": text for n, row in enumerate(typed) for name, text in zip(names, row, strict=True)}
    answer = send(client, SCHOOL_FURNACE, "outputs", **sent)
    if answer.status_code == 422:
        assert 'class="fault"' in answer.text
        return
    rows = client.get(f"/calls/{SCHOOL_FURNACE}/call.json").json()["unit"].get("outputs", [])
    kept = [(row["mode"], row.get("terminal") or "", row.get("speed")) for row in rows]
    wanted = [[text.strip() for text in row] for row in typed]
    assert kept == [(mode, at, int(speed) if speed else None) for mode, at, speed in wanted if mode or at or speed]


@pytest.mark.parametrize(
    ("fields", "told"),
    [
        ({"wire.black": "switch.t1", "jumper.a": "switch.t1"}, "jumper.b"),
        ({"jumper.b": "switch.t1"}, "jumper.a"),
        ({"wire.nobody": "switch.t1"}, "a lead of this motor"),
        ({"wire.black": "somewhere"}, "a terminal of the list"),
    ],
)
def test_a_wire_that_cannot_be_noted_is_told_and_nothing_is_saved(client, fields, told):
    before = client.get(f"/calls/{FERRY_ROOM}/call.json").json()["hookup"]
    answer = send(client, FERRY_ROOM, "found", view="found", **fields)
    assert answer.status_code == 422
    assert told in answer.text
    assert client.get(f"/calls/{FERRY_ROOM}/call.json").json()["hookup"] == before


def test_leads_measured_as_a_b_c_are_asked_for_their_colors(db):
    ohms = [pair("A", "B", 43), pair("A", "C", 31), pair("B", "C", 12)]
    call_id = call_files.import_call(db, stamp(0), make_call(*ohms, motor__leads=3), "x.call.json")
    asked = lead_forms.lead_rows(open_call_view(db, call_id).call, "found")
    assert {(row.asks, row.says) for row in asked if row.asks} == {
        ("which color is A?", "start"),
        ("which color is B?", "run"),
        ("which color is C?", "common"),
    }
    colors = {"start": "brown", "run": "white", "common": "black"}
    typed = {f"lead.{n}": colors[row.says] for n, row in enumerate(asked) if row.asks}
    typed |= {f"says.{n}": row.says for n, row in enumerate(asked) if row.asks}
    lead_forms.keep_lead_words(db, call_id, stamp(1), "found", typed)
    kept = open_call_view(db, call_id).call.hookup.leads
    assert {row.lead: row.says for row in kept} == {"brown": "start", "white": "run", "black": "common"}


def test_a_lead_that_hangs_on_two_terminals_keeps_the_one_that_the_page_does_not_show(db):
    found = wires([*OLD[:3], ("motor.black", "splice.1")])
    call_id = call_files.import_call(db, stamp(0), make_call(hookup={"leads": THREE, "found": found}), "x.call.json")
    typed = {"wire.black": "switch.t1", "wire.white": "capacitor.common", "wire.brown": "capacitor.fan"}
    hook_up.keep_found(db, call_id, stamp(1), typed)
    kept = {(row.from_, row.to) for row in open_call_view(db, call_id).call.hookup.found}
    assert {("motor.black", "switch.t1"), ("motor.black", "splice.1"), ("motor.brown", "capacitor.fan")} <= kept


@pytest.mark.parametrize("view", ["found", "plan", "try"])
@pytest.mark.parametrize("kind", ["three_phase", "ecm"])
def test_words_of_other_kinds_are_shown_in_every_view(db, kind, view):
    plate = {"kind": kind, "hp": 1, "volts": "208-230", "amps_a": 3.6, "phase": 3 if kind == "three_phase" else 1}
    leads = [{"lead": name, "says": "line"} for name in ("a", "b", "c")[: 3 if kind == "three_phase" else 2]]
    unit = {"supply_v": 230, "phase": plate["phase"], "hz": 60, "switch": {"kind": "contactor", "poles": 3}}
    call = make_call(motor={**plate, "hz": 60, "rpm": 1140}, unit=unit, capacitor={}, hookup={"leads": leads})
    call_id = call_files.import_call(db, stamp(0), call, "x.call.json")
    shown = hook_up.hookup_view(open_call_view(db, call_id), view)
    assert not shown.faults
    assert shown.leads.names[:2] == ["a", "b"]


def test_a_tap_is_called_by_its_own_number_whatever_its_output_asks_for(reader):
    wires = "wire.black=board.heat&wire.red=board.cool"
    page = reader.get(f"/calls/{SCHOOL_FURNACE}/hook-up?view=try&{wires}").text
    rows = re.sub(r"<[^>]*>", " ", page.split("bench-modes")[1].split("</table>")[0])
    assert "not named, speed 1 board COOL red (speed 3)" in " ".join(rows.split())
