"""The simulated unit of practice: same seed same case, readings that agree with each other, every fault to be found."""

import hashlib
import json
from datetime import date, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.call import read_call, write_call
from keen_coil.core.diagnosis.faults import AMBIGUOUS_GROUPS, FAULTS
from keen_coil.core.errors import InvalidField
from keen_coil.core.plates import Motor
from keen_coil.core.practice.case import read_case, write_case
from keen_coil.core.practice.instruments import PlannedTest
from keen_coil.core.practice.ladder import BY_NAME, OF, RUNGS, UNITS
from keen_coil.core.practice.make import case_in_family, case_of, case_of_day
from keen_coil.core.practice.plate_motor import plate_motor, run
from keen_coil.core.practice.play import engine_plays
from keen_coil.core.practice.running import run_of
from keen_coil.core.practice.simulated_unit import Moment, measure, reading_of
from keen_coil.core.practice.unit_state import FAULT_EFFECTS, truth_of
from keen_coil.core.practice.windings import between, lead_ends
from keen_coil.core.readings import KINDS

DEAD, LIVE = Moment(live=False), Moment(live=True)
SEEDS = st.integers(0, 10**9)


def hidden(unit, *faults, size=60, **more):
    """A case on a unit of the table with these faults."""
    call = {"format": "keen-coil/call", "version": 1, **BY_NAME[unit].call}
    return read_case(
        {
            "format": "keen-coil/case",
            "version": 1,
            "title": "made for a test",
            "seed": 11,
            "call": call,
            "faults": [{"fault": fault, "size_pct": size} for fault in faults],
            **more,
        }
    )


def read(unit, kind, moment=None, **asked):
    """What a test gives on a truth, power as the test asks for."""
    live = kind in (
        "supply_v",
        "run_amps_a",
        "turns_way",
        "noise",
        "run_rpm",
        "contact_drop_v",
        "starts_with_push",
        "capacitor_load",
    )
    return measure(unit, PlannedTest(kind, **asked), moment or (LIVE if live else DEAD))


def test_the_same_seed_is_the_same_case_on_every_machine():
    """Written down once: another machine, another Python, another day must give the same files."""
    text = json.dumps([write_case(case_of(seed)) for seed in range(40)], sort_keys=True)
    assert hashlib.sha256(text.encode()).hexdigest() == GOLDEN


def test_a_new_fault_leaves_the_cases_of_shared_seeds_and_comes_in_a_draw_of_its_own(monkeypatch):
    before = [write_case(case_of(seed)) for seed in range(30)]
    new = FAULTS["belt_bad"]._replace(prior_weight=(40, 40, 40), needs="", draw=2)
    monkeypatch.setitem(FAULTS, "pulley_worn", new)
    monkeypatch.setitem(OF, "pulley_worn", OF["belt_bad"])
    monkeypatch.setitem(FAULT_EFFECTS, "pulley_worn", FAULT_EFFECTS["belt_bad"])
    assert [write_case(case_of(seed)) for seed in range(30)] == before
    drawn = [case_of(seed, draw=2) for seed in range(30)]
    assert any("pulley_worn" in case.truth for case in drawn)
    assert all(read_case(json.loads(json.dumps(write_case(case)))).draw == 2 for case in drawn if case.rung is None)
    with pytest.raises(InvalidField, match="draw: got 3"):
        case_of(1, draw=3)


GOLDEN = "625be47a4b29e2f4be9c884d47f5d143ff8ad53f8f852a4ae462e03221bf271e"


@settings(max_examples=20)
@given(SEEDS)
def test_any_case_is_a_whole_case_and_its_file_reads_back(seed):
    case = case_of(seed)
    assert write_case(read_case(json.loads(json.dumps(write_case(case))))) == write_case(case)
    assert read_call(write_call(case.call)).complaint.symptom
    assert case == case_of(seed)


def test_the_day_has_one_case_for_everybody_and_another_rung_tomorrow():
    days = [date(2026, 11, 25) + timedelta(n) for n in range(30)]
    assert case_of_day(days[0]) == case_of_day(days[0])
    assert len({case_of_day(day).rung for day in days}) > 15


@pytest.mark.parametrize("unit", UNITS, ids=lambda unit: unit.name)
def test_a_sound_unit_reads_as_its_plates_say(unit):
    truth = truth_of(hidden(unit.name))
    motor = truth.call.motor
    amps = run_of(truth).amps
    assert run_of(truth).turns
    assert all(
        0.6 * float(motor.amps_a) / (2 if motor.kind == "three_phase" else 1) < each < 1.08 * float(motor.amps_a)
        for each in amps
    )
    assert abs(run_of(truth).rpm / float(motor.rpm) - 1) < 0.08
    answer = engine_plays(hidden(unit.name), most=30).answer
    assert answer.verdict in ("no_fault_found", "not_proved")
    assert answer.leading_fault in ("none", None)


@settings(max_examples=12)
@given(SEEDS)
def test_three_pairs_are_run_start_and_their_sum_whoever_is_which(seed):
    case = read_case({**write_case(hidden("condenser")), "seed": seed})
    truth = truth_of(case)
    names = list(lead_ends(truth))
    ohms = sorted(
        between(truth, a, b, 0) for a, b in ((names[0], names[1]), (names[1], names[2]), (names[0], names[2]))
    )
    assert ohms[2] == pytest.approx(ohms[0] + ohms[1])
    again = [measure(truth, PlannedTest("winding_ohm", pair=(names[0], names[1])), DEAD, n).value for n in range(5)]
    assert max(map(float, again)) - min(map(float, again)) < 0.05 * float(again[0])


def test_capacitor_amps_and_volts_under_load_agree_with_its_microfarads():
    for size in (0, 50, 100):
        truth = truth_of(hidden("condenser", "capacitor_weak", size=size))
        load = read(truth, "capacitor_load").true
        found = 2652.6 * load["amps_a"] / load["volts_v"]
        assert found == pytest.approx(read(truth, "capacitance_uf", section="fan").true, rel=0.001)


def test_a_burnt_contact_takes_its_volts_only_while_current_flows():
    burnt = truth_of(hidden("condenser", "switch_contacts_bad", size=30))
    line, load, drop = (
        float(read(burnt, kind, at=at).value)
        for kind, at in (("supply_v", "switch_line"), ("supply_v", "switch_load"), ("contact_drop_v", None))
    )
    assert line - load == pytest.approx(drop, abs=4)
    assert drop > 10
    broken = truth_of(hidden("condenser", "switch_contacts_bad", "winding_open", size=30))
    assert float(read(broken, "supply_v", at="switch_load").value) > 225


def test_an_open_overload_closes_when_the_motor_has_cooled_and_a_failed_one_does_not():
    tripped, failed = (truth_of(hidden("condenser", fault)) for fault in ("overload_tripped", "overload_open"))
    common = next(lead for lead, ends in lead_ends(tripped).items() if "main.1" in ends)
    run = next(lead for lead, ends in lead_ends(tripped).items() if ends == ("main.2",))
    for minutes, reads in ((5, "OL"), (120, "through")):
        found = read(tripped, "winding_ohm", Moment(False, minutes), pair=(common, run)).value
        assert (found == "OL") == (reads == "OL")
        assert read(failed, "winding_ohm", Moment(False, minutes), pair=(common, run)).value == "OL"


def test_a_three_phase_motor_that_lost_a_line_hums_and_one_out_of_balance_draws_unevenly():
    motor = plate_motor(Motor.model_validate(BY_NAME["belt blower"].call["motor"]), 460, 60)
    whole = run(motor, (460, 460, 460), 0.9, 0.02)
    assert whole.turns
    assert max(whole.amps) - min(whole.amps) < 0.01 * max(whole.amps)
    assert not run(motor, (460, 0, 0), 0.9, 0.02).turns
    uneven = run(motor, (480, 460, 440), 0.9, 0.02)
    spread = (max(uneven.amps) - min(uneven.amps)) / (sum(uneven.amps) / 3)
    assert spread > 3 * 40 / 460  # current unbalance is several times that of the volts


def test_weak_capacitor_and_wind_make_it_run_the_wrong_way():
    blown = truth_of(hidden("condenser", "capacitor_weak", size=85, around={"wind": True}))
    assert read(blown, "turns_way").value == "wrong"
    assert read(blown, "turned_before_power").value is True
    calm = truth_of(hidden("condenser", "capacitor_weak", size=85))
    assert read(calm, "turns_way").value != "wrong"


@pytest.mark.parametrize("fault", sorted(FAULT_EFFECTS))
def test_every_fault_can_be_hidden_and_shows_somewhere(fault):
    """On each unit that can have it, some test reads otherwise than on the same unit when sound."""
    shown = 0
    for unit in UNITS:
        try:
            sound, bad = truth_of(hidden(unit.name)), truth_of(hidden(unit.name, fault, size=90))
        except InvalidField:
            continue
        shown += differs(sound, bad)
    on_plates = fault in ("capacitor_wrong_value", "capacitor_under_rated", "wrong_motor_fitted", "miswired")
    assert shown or on_plates


def differs(sound, bad):
    """Whether any test tells the two units apart."""
    kinds = [
        ("breaker", {}),
        ("disconnect", {}),
        ("fuse", {}),
        ("control_call", {}),
        ("safety", {}),
        ("switch_pulled_in", {}),
        ("starter_overload", {}),
        ("capacitor_look", {}),
        ("conductor", {}),
        ("connection", {}),
        ("spin", {}),
        ("side_play", {}),
        ("load_look", {}),
        ("belt_look", {}),
        ("air_path", {}),
        ("vent_drain", {}),
        ("turns_way", {}),
        ("noise", {}),
        ("ecm_power", {}),
        ("ecm_command", {}),
        ("ecm_winding_ohm", {}),
        ("capacitor_case_ohm", {}),
        ("ground_ohm", {}),
        ("insulation_mohm", {}),
        ("run_amps_a", {}),
        ("run_amps_a", {"speed": 2}),
        ("capacitance_uf", {"section": "herm"}),
        *(
            ("hold", {"at": at})
            for at in ("defrost", "delay", "fan_control", "leak_lockout", "board_lockout", "door_switch")
        ),
        *(("supply_v", {"at": at}) for at in ("unit", "switch_load", "motor")),
        ("capacitance_uf", {}),
    ]
    for kind, more in kinds:
        live = Moment(
            kind
            in (
                "supply_v",
                "control_call",
                "switch_pulled_in",
                "turns_way",
                "noise",
                "run_amps_a",
                "ecm_power",
                "ecm_command",
            )
        )
        one, other = (measure(truth, PlannedTest(kind, **more), live).value for truth in (sound, bad))
        if one != other:
            return True
    return windings(sound) != windings(bad)


def windings(truth):
    """Every pair of leads, or the three phases."""
    if truth.call.motor.kind == "ecm":
        return []
    names = list(lead_ends(truth)) if not truth.three else []
    asked = [PlannedTest("winding_ohm", pair=(a, b)) for a in names for b in names if a < b] or [
        PlannedTest("winding_ohm")
    ]
    return [measure(truth, one, DEAD).value for one in asked]


@pytest.mark.parametrize("rung", RUNGS, ids=lambda rung: rung.key)
def test_every_rung_can_be_solved_by_proving_the_path_and_condemns_nothing_good(rung):
    """The engine, which does not know what is hidden, finds it on two seeds of every rung."""
    for seed in (1, 2):
        case = case_of(seed, rung.key)
        found = engine_plays(case, most=16).answer
        said = {
            found.leading_fault,
            *found.also,
            *(part for name in (found.leading_fault,) for part in AMBIGUOUS_GROUPS.get(name or "", ())),
        }
        assert said & (case.truth or {"none"}), (case.truth, found.verdict, found.leading_fault)
        bad_motor = {FAULTS[fault].verdict for fault in case.truth} & {"condemn_motor", "replace_module"}
        assert bad_motor or found.verdict not in ("condemn_motor", "replace_module")


def test_a_family_that_is_asked_for_is_the_family_that_comes():
    assert case_in_family(5, "capacitor").truth & {name for name, row in FAULTS.items() if row.link == "capacitor"}
    assert not case_in_family(5, "none").truth
    with pytest.raises(InvalidField, match="family: got plumbing"):
        case_in_family(5, "plumbing")


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"faults": [{"fault": "capacitor_weak", "size_pct": 140}]}, "faults.0.size_pct"),
        ({"faults": [{"fault": "tired"}]}, "faults.0.fault"),
        ({"faults": [{"fault": "belt_bad"}]}, "faults.0.fault"),
        ({"faults": [{"fault": "capacitor_weak"}, {"fault": "capacitor_open"}]}, "faults.1.fault"),
        ({"faults": [{"fault": "capacitor_wrong_value"}]}, "faults.0.fault"),
        ({"seed": -1}, "seed"),
        ({"secret": 1}, "secret"),
        ({"version": True}, "version"),
    ],
)
def test_a_case_that_cannot_be_is_refused_by_field(change, path):
    data = write_case(hidden("condenser"))
    with pytest.raises(InvalidField) as refused:
        read_case({**data, **change})
    assert path in {fault.path for fault in refused.value.errors}


def test_a_case_without_its_plate_or_with_an_impossible_one_is_refused():
    data = write_case(hidden("condenser"))
    for change, path in (
        ({"leads": 9}, "call.hookup.leads"),
        ({"hp": None}, "call.motor.hp"),
        ({"hp": 3}, "call.motor.hp"),
        ({"rpm": 3700}, "call.motor.rpm"),
    ):
        motor = {name: value for name, value in {**data["call"]["motor"], **change}.items() if value is not None}
        with pytest.raises(InvalidField) as refused:
            read_case({**data, "call": {**data["call"], "motor": motor}})
        assert path in {fault.path for fault in refused.value.errors}


def test_live_and_dead_matter():
    truth = truth_of(hidden("condenser"))
    for asked, moment, slip in (
        (PlannedTest("winding_ohm", pair=("black", "white")), LIVE, "live_ohms"),
        (PlannedTest("spin"), LIVE, "live_hands"),
        (PlannedTest("capacitance_uf", section="fan"), Moment(False, bled=False), "not_bled"),
    ):
        found = measure(truth, asked, moment)
        assert (found.value, found.slip) == (None, slip)
        assert found.warns
    taken = measure(truth, PlannedTest("spin"), Moment(False, proved=False))
    assert (taken.value, taken.slip) == ("free", "not_proved")
    assert measure(truth, PlannedTest("supply_v", at="unit"), LIVE, function="ohms").slip == "live_ohms"
    wrong = measure(truth, PlannedTest("supply_v", at="unit"), LIVE, function="amps_ac")
    assert (wrong.value, wrong.slip) == (None, "")
    assert "asks for volts" in wrong.warns
    assert float(measure(truth, PlannedTest("supply_v", at="unit"), DEAD).value) < 3


@pytest.mark.parametrize("unit", UNITS, ids=lambda unit: unit.name)
def test_any_test_can_be_made_on_any_unit_in_any_state(unit):
    """Every kind of reading at every place, live and dead: a value of its kind that the call file takes, or a word why not."""
    truth = truth_of(hidden(unit.name))
    names = list(lead_ends(truth))[:2] if truth.call.motor.kind != "ecm" and not truth.three else ["T1", "T2"]
    for kind, row in KINDS.items():
        for at in row.at or (None,):
            for live in (True, False):
                asked = PlannedTest(
                    kind,
                    at=at,
                    pair=tuple(names) if kind == "winding_ohm" and not truth.three else None,
                    speed=1 if kind == "run_amps_a" else None,
                )
                found = measure(truth, asked, Moment(live))
                assert (found.value is None) == bool(found.warns)
                if found.value is not None and not (
                    truth.call.motor.kind == "ecm" and kind in ("winding_ohm", "ground_ohm", "insulation_mohm")
                ):
                    read_call({**write_call(truth.call), "readings": [reading_of(truth, asked, found.value, 5)]})
