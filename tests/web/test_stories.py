"""A blower with speed taps, a three-phase call with a chafed wire, an ECM fan, an inducer, a contradiction, and what is
done to a unit in the middle of a call: entered on the pages, read on the pages, as anybody without script would."""

import re

import pytest

from tests.demo_calls import FISH_CELLAR, READING_ROOM, ROPE_WORKS, ROPE_WORKS_ROOF, SCHOOL_FURNACE, TIDE_MILL

from .test_pages import post
from .test_words import shown


class Visit:
    """Somebody at a call."""

    def __init__(self, client, call):
        self.client, self.at = client, f"/calls/{call}"

    def read(self, link, kind, value="", pad="", **fields):
        """A reading taken on the pad of its test; what is seen then."""
        answer = post(
            self.client, f"{self.at}/path?link={link}&kind={kind}{pad}", f"{self.at}/readings", value=value, **fields
        )
        assert answer.status_code == 200, shown(answer.text)
        return shown(answer.text)

    def see(self, page):
        return shown(self.client.get(f"{self.at}/{page}").text)

    def power(self, power):
        post(self.client, f"{self.at}/path", f"{self.at}/power", power=power)

    def change(self, what, page="path"):
        return post(self.client, f"{self.at}/{page}", f"{self.at}/changes", what=what)


@pytest.fixture
def visit(client):
    return lambda call: Visit(client, call)


def test_a_blower_with_one_speed_tap_open_stays_in(visit):
    at = visit(SCHOOL_FURNACE)
    assert "speed 1 3.10 ohm, speed 2 4.40 ohm" in at.see("path?link=windings&kind=winding_ohm")
    said = at.read("windings", "winding_ohm", "OL", pair="white|red", speed="3")
    assert "Speed tap 3 is open" in said
    assert "speed 3 open" in said
    found = at.see("finding")
    assert "Usable on other speeds" in found
    assert "leave heating and cooling off" in found


def test_a_three_phase_blower_with_a_chafed_wire(visit):
    at = visit(ROPE_WORKS_ROOF)
    pad = at.see("path?link=insulation&kind=insulation_mohm")
    assert re.search(r"Insulation over the visits: .*420 Mohm", pad)
    assert "The three pairs differ by 1.0 %" in at.read("windings", "winding_ohm", "6.8", value_2="6.9", value_3="6.8")
    at.read("wiring", "conductor", "chafed", leg="L2")
    found = at.see("finding")
    for said in ("It is not the motor", "A wire has rubbed through", "A fuse is blown", "Check before power-up"):
        assert said in found
    assert "Replace it and protect it from the edge" in found
    assert 'class="tests"' not in at.client.get(f"{at.at}/finding").text


def test_a_commutated_fan_is_condemned_only_with_power_and_command_and_parted_from_its_module(visit):
    at = visit(TIDE_MILL)
    assert "Not checked yet" in at.see("finding")
    at.read("control", "ecm_command", "present")
    at.power("dead")
    at.read("bearings", "spin", "free")
    found = at.see("finding")
    assert "Replace the motor " in found
    assert "The module or the motor has failed" in found
    at.read("windings", "ecm_winding_ohm", "6.1", value_2="6.1", value_3="6.2")
    at.read("insulation", "ecm_ground_ohm", "OL")
    assert "Replace the motor's module" in at.see("finding")


def test_an_inducer_with_a_blocked_drain(visit):
    at = visit(READING_ROOM)
    assert re.search(r'data-part="pressure"[^§]{0,600}?open', at.client.get(f"{at.at}/path").text)
    at.read("air", "vent_path", "blocked")
    found = at.see("finding")
    for said in ("It is not the motor", "The vent or drain is plugged", "Never jumper a switch"):
        assert said in found


def test_two_readings_that_exclude_each_other_are_named_and_cured_by_a_third(visit):
    at = visit(FISH_CELLAR)
    at.read("running", "turns_way", "right")
    at.read("running", "run_amps_a", "0.90", leg="single")
    assert "can't both be right" in at.read("running", "turns_way", "not_turning")
    assert "Measure again" in at.see("finding")
    number = max(int(one) for one in re.findall(r"replaces=(\d+)", at.client.get(f"{at.at}/path").text))
    assert "can't both be right" not in at.read("running", "turns_way", "right", f"&replaces={number}")


def test_kilohm_typed_as_ohm_is_asked_about_and_what_was_typed_stays(client, visit):
    at = visit(ROPE_WORKS)
    pad = f"{at.at}/path?link=windings&kind=winding_ohm"
    asked = post(client, pad, f"{at.at}/readings", value="14200")
    assert asked.status_code == 422
    assert "Is the meter in kohm?" in asked.text
    assert 'value="14200"' in asked.text
    assert "14.2 ohm" in at.read("windings", "winding_ohm", "0.0142", ohm_unit="k")


def test_the_shop_tightens_a_limit_and_every_call_is_judged_by_it(client, visit):
    answer = post(client, "/settings", "/settings", capacitor_tolerance_pct="8")
    assert "6 or lower" in answer.text
    assert "Saved" in post(client, "/settings", "/settings", capacitor_tolerance_pct="3").text
    assert "±3 %: 4.85 to 5.15" in visit(ROPE_WORKS).see("path?link=capacitor&kind=capacitance_uf")


def test_a_coil_that_was_cleaned_is_the_finding_and_the_readings_since_are_its_proof(visit):
    at = visit(ROPE_WORKS)
    at.read("air", "air_path", "dirty")
    at.change("coil_cleaned")
    assert "can't both be right" not in at.read("air", "air_path", "clear")
    assert "before the change" in at.see("path")
    assert "Coil cleaned." in at.see("hand-over")
    removed = post(at.client, f"{at.at}/path", f"{at.at}/changes/take-back")
    assert 'class="change-list"' not in removed.text
    assert "can't both be right" in shown(removed.text)


def test_a_chafed_wire_warns_before_power_and_keeps_the_call_open_until_it_is_mended(visit):
    at = visit(ROPE_WORKS)
    at.power("dead")
    assert "wire (line) chafed" in at.read("wiring", "conductor", "chafed", leg="line")
    for station in ("swap", "run-proof", "hand-over"):
        assert "Before you energize" in at.see(station)
    assert "Still open: wire (line) chafed" in at.see("hand-over")
    at.change("wire_repaired", "hand-over")
    assert "Still open" not in at.see("hand-over")
    assert "Before you energize" not in at.read("wiring", "conductor", "sound", leg="line")


def test_a_trial_with_a_good_capacitor_is_noted_and_counts(visit):
    at = visit(ROPE_WORKS)
    at.power("energised")
    assert "The capacitor is bad" in at.read("running", "trial", "runs", **{"with": "good_capacitor"})
    assert "good capacitor" in at.see("path")
    assert "Replace the run capacitor" in at.see("finding")
