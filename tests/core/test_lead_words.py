"""Leads by what the plate says of them: winding ends worked out, asked for by ohms only where two readings are possible."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.core.hookup.faults import FAULTS, finding
from keen_coil.core.hookup.functions import SPEEDS
from keen_coil.core.hookup.leads import read_leads
from keen_coil.core.hookup.leads_of_call import leads_for
from keen_coil.core.hookup.plan import plan, sound
from keen_coil.core.installation import Lead
from keen_coil.core.plates import Motor
from keen_coil.core.vocabulary import LeadFunction, words_of
from tests.calls import make_call, pair
from tests.core.test_hookup_plan import NEW
from tests.wirings import wires


def said(kind="psc", ohms=None, **words):
    rows = [Lead(lead=name.replace("_", "/"), says=word) for name, word in words.items()]
    return read_leads(rows, kind=kind, ohms={frozenset(key): ohm for key, ohm in (ohms or {}).items()})


@pytest.mark.parametrize(
    ("kind", "words", "ends"),
    [
        ("psc", "common run start", "main.1+aux.1 main.2 aux.2"),
        ("psc", "neutral line capacitor", "main.1+aux.1 main.2 aux.2"),
        ("psc", "common run start capacitor_return ground", "main.1+aux.1 main.2 aux.2 main.2 frame"),
        ("psc", "common high medium low start capacitor", "main.1+aux.1 main.s1 main.s2 main.s3 aux.2 main.s1"),
        ("psc", "line low medium high capacitor", "main.1+aux.1 main.s3 main.s2 main.s1 aux.2"),
        ("psc", "common high medium_high medium_low low start", "main.1+aux.1 main.s1 main.s2 main.s3 main.s4 aux.2"),
        ("shaded_pole", "line neutral", "main.2 main.1"),
        ("shaded_pole", "common high low", "main.1 main.s1 main.s2"),
        ("ecm", "line neutral ground high low", "power.1 power.2 frame tap.1 tap.2"),
        ("three_phase", "line line line", "t1 t2 t3"),
    ],
)
def test_words_are_winding_ends(kind, words, ends):
    leads = said(kind, **{f"lead{n}": word for n, word in enumerate(words.split())})
    assert ["+".join(out) for _, out in leads.leads] == ends.split()
    assert not leads.questions
    assert not leads.by_custom


def test_two_capacitor_leads_are_told_apart_by_ohms_alone():
    words = {"black": "common", "white": "line", "brown": "capacitor", "tan": "capacitor"}
    open_yet = said(**words)
    assert {("brown", "black"), ("brown", "white")} <= set(open_yet.questions[0].pairs)
    settled = said(ohms={("brown", "white"): 0.1, ("tan", "white"): 31, ("tan", "black"): 19}, **words)
    assert not settled.questions
    assert dict(settled.leads)["tan"] == ("aux.2",)


def test_two_line_leads_are_told_apart_by_the_higher_to_the_start():
    words = {"black": "line", "white": "line", "brown": "capacitor"}
    assert said(**words).questions
    settled = said(ohms={("black", "brown"): 43, ("white", "brown"): 31}, **words)
    assert dict(settled.leads) == {"black": ("main.2",), "white": ("main.1", "aux.1"), "brown": ("aux.2",)}


@pytest.mark.parametrize(
    ("words", "named"),
    [
        ({"white": "common", "black": "high", "blue": "high"}, "blue"),
        ({"white": "common", "black": "common", "blue": "run"}, "black"),
        ({"white": "common", "black": "neutral", "blue": "run"}, "which of white and black"),
        ({"black": "common", "brown": "start"}, "takes the line"),
        ({"black": "run", "brown": "start"}, "common"),
        ({"black": "common", "white": "run", "tan": "capacitor_return"}, "start lead"),
        ({"green": "ground"}, "takes the line"),
    ],
)
def test_leads_that_cannot_be_a_motor_are_said_with_which_and_why(words, named):
    with pytest.raises(InvalidField) as error:
        said(**words)
    assert any(named in f"{fault.value} {fault.expected}" for fault in error.value.errors)


@given(
    st.lists(st.tuples(st.text("abc/", min_size=1, max_size=3), st.sampled_from(words_of(LeadFunction))), max_size=9)
)
def test_any_words_make_a_motor_or_are_refused_by_name(rows):
    try:
        leads = read_leads([Lead(lead=lead, says=word) for lead, word in rows], kind="psc")
    except InvalidField as error:
        assert all(fault.expected and "_" not in fault.expected.replace("main_a", "") for fault in error.errors)
        return
    if not rows:
        return
    assert leads.noted
    assert len(leads.leads) == len(rows)
    ranked = [leads.having(tap)[0] for tap in leads.taps]
    said_of = {lead: word for lead, word in rows}
    order = [SPEEDS.index(said_of[lead]) for lead in ranked if said_of[lead] in SPEEDS]
    assert order == sorted(order)


def test_ohms_already_taken_name_the_leads():
    ohms = [pair("A", "B", 43), pair("A", "C", 31), pair("B", "C", 12)]
    call = make_call(*ohms, motor__leads=3)
    leads = leads_for(call, call.motor, {"A", "B", "C"})
    assert dict(leads.leads) == {"C": ("main.1", "aux.1"), "B": ("main.2",), "A": ("aux.2",)}
    hung = [("motor.A", "capacitor.fan"), ("motor.B", "capacitor.common"), ("motor.C", "switch.t2")]
    answer = plan(call.model_copy(update={"hookup": make_call(hookup={"found": wires(hung)}).hookup}), call.motor)
    assert sound(answer.check)


def test_a_plan_by_words_puts_the_start_on_the_fan_section_and_caps_the_repeat():
    rows = [("black", "common"), ("white", "run"), ("brown", "start"), ("tan", "capacitor_return"), ("g", "ground")]
    call = make_call(hookup={"new_leads": [{"lead": lead, "says": word} for lead, word in rows]})
    answer = plan(call, Motor.model_validate({**NEW, "leads": 4}))
    at = {wire.from_: wire.to for wire in answer.planned}
    assert at["motor.brown"] == "capacitor.fan"
    assert at["motor.tan"].startswith("cap.")
    assert at["motor.g"] == "ground.frame"
    assert not answer.check.findings


@pytest.mark.parametrize("fault", FAULTS)
def test_no_sentence_of_a_fault_shows_its_blanks(fault):
    found = finding(fault, "the lead")
    assert "{" not in found.says + found.cure
