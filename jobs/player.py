"""The hand that plays a job: each act of a script through the controls that a technician sees.

An act without a place, or a value that the page refuses, ends its job with the file, the line and the page's own words.
"""

from __future__ import annotations

import re
import subprocess
import time
from collections.abc import Callable, Iterator
from datetime import date, timedelta
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlparse

from playwright.sync_api import Locator, Page
from tests.browser.reading import settled

from keen_coil.core.field_tests import TESTS, how_of
from keen_coil.core.readings import KINDS
from keen_coil.core.swap.marks import MARKS

from .reading_copy import ReadingCopy, text_of
from .script import Act, Script, Visit, verb_of
from .thumb import NoPlace, Thumb

STATIONS = {
    "arrive": "Arrive",
    "make-safe": "Make safe",
    "plates": "Nameplate",
    "path": "Path",
    "finding": "Finding",
    "match": "Match",
    "capacitor": "Capacitor",
    "hook-up": "Wiring",
    "swap": "Swap",
    "run-proof": "Run test",
    "hand-over": "Hand over",
}
AFTER_FINDING = {
    "look",
    "match",
    "capacitor",
    "found_wires",
    "new_leads",
    "modes",
    "wiring",
    "body",
    "apart",
    "steps",
    "hand_over",
}
QUALIFIERS = ("speed", "section", "pair", "lead", "with", "leg", "when", "at")
SMALL = ("minutes_off", "temperature_c", "test_v", "free_area_ft2", "needs_inwc", "volts_v", "tap")
OUTDOOR = ("split_condenser", "heat_pump_outdoor", "package_unit")
SETTLED_BY = {
    "dead": "made safe",
    "bleed": "made safe",
    "wires": "wires as found",
    "turns": "rotation",
    "figures": "run test",
    "power": "run test",
}
"""Steps and marks of the swap whose answer is known once something else was entered."""
Handler = Callable[["Player", Any, Act], None]


class Stopped(Exception):
    """A job that could not go on: the line of its act and why."""

    def __init__(self, line: int, why: str) -> None:
        super().__init__(why)
        self.line = line


class Player:
    """A job under way: its page, its copy, what was counted and what is known by now."""

    def __init__(self, page: Page, address: str, script: Script, copy: ReadingCopy, folder: Path) -> None:
        self.page, self.address, self.script, self.copy, self.folder = page, address, script, copy, folder
        self.thumb = Thumb(page, copy)
        self.acts_first_reading = self.acts_closed = 0
        self.asked_again: list[str] = []
        self.finding: tuple[str, str] | None = None
        self.wiring: tuple[bool, str] | None = None
        self.wiring_says = ""
        self.records: dict[str, list[str]] = {"customer": [], "shop": [], "customer.pdf": []}
        self.known: set[str] = set()
        self.line = 1
        self._entered_at: dict[str, float] = {}
        self._looked = True

    def play(self) -> None:
        """Every visit, act by act. Raises `Stopped`."""
        for number, visit in enumerate(self.script.visit, 1):
            self.copy.title(f"Visit {number}: {visit.site}, {visit.unit}" if len(self.script.visit) > 1 else visit.site)
            self._states_of(visit)
            try:
                self._new_call(visit)
            except NoPlace as error:
                raise Stopped(visit.lines[0] if visit.lines else 1, str(error)) from None
            for act, line in zip(visit.act, visit.lines, strict=True):
                self.line = line
                try:
                    self._act(act)
                except NoPlace as error:
                    self.copy.entered(f"STOPPED at line {line}: {error}")
                    self.copy.meet(self.page)
                    raise Stopped(line, str(error)) from None

    def _states_of(self, visit: Visit) -> None:
        first = self.script.visit[0]
        kind, motor = visit.unit_kind or first.unit_kind, visit.motor or first.motor
        states = {"outdoor" if kind in OUTDOOR else "indoor"}
        states |= {"indoor_blower": {"blower"}, "inducer": {"inducer"}}.get(motor or "", set())
        self.copy.states = states | (self.copy.states & {"three_phase", "ecm", "no_capacitor"})
        self.known &= {"rotation"}

    def _act(self, act: Act) -> None:
        verb = verb_of(act)
        if verb in AFTER_FINDING and not self._looked and self.thumb.acts:
            self._look_at_finding()
        HANDLERS[verb](self, act.get(verb), act)

    def _look_at_finding(self) -> None:
        self.go("finding")
        title = self.page.locator(".verdict h1")
        faults = self.page.locator(".faults tbody tr td:first-child")
        if title.count():
            first = " ".join(faults.first.inner_text().split()) if faults.count() else ""
            self.finding = (" ".join(title.inner_text().split()), first)
        self._looked = True

    # the way about

    def go(self, station: str) -> None:
        """The station by the rail, unless this is it."""
        settled(self.page)
        if self._here() != station:
            link = self.page.locator(f'.rail-call a[href$="/{station}"]')
            self.thumb.tap(link, f"{STATIONS[station]} on the rail")

    def _here(self) -> str:
        match = re.search(r"/calls/\d+/([a-z-]+)/?$", urlparse(self.page.url).path)
        return match[1] if match else ""

    def _took(self, what: str) -> None:
        """Raise `NoPlace` with the page's own words where it refuses what was entered."""
        says = self.thumb.refused()
        if says:
            raise NoPlace(f"{what} is refused: {says}")

    # arriving

    def _new_call(self, visit: Visit) -> None:
        self.page.goto(self.address)
        self.copy.meet(self.page)
        thumb, page = self.thumb, self.page
        thumb.fill(page.locator('[name="site"]'), visit.site, "Site")
        thumb.fill(page.locator('[name="unit"]'), visit.unit, "Unit")
        if visit.unit_kind:
            thumb.choose(page.locator('[name="unit_kind"]'), visit.unit_kind, "Unit type")
        if visit.motor:
            thumb.pick("role", visit.motor, "Which motor")
        if visit.technician:
            thumb.fill(page.locator('[name="technician"]'), visit.technician, "Technician")
        if visit.reports:
            thumb.fill(page.locator('[name="says"]'), visit.reports, "Customer reports")
        thumb.tap(page.get_by_role("button", name="Start call"), "Start call")
        self._took("the new call")
        self._looked = True

    def arrive(self, value: Any, act: Act) -> None:
        """What it does, by the button's words; the board's code."""
        self.go("arrive")
        if value:
            chip = self.page.locator("#station-form label.chip").filter(
                has_text=re.compile(rf"^\s*{re.escape(value)}\s*$")
            )
            self.thumb.tap(chip, f"What does it do? {value}", looks=False)
        if act.get("board_code"):
            self.thumb.fill(self.page.locator('[name="board_code"]'), act["board_code"], "Board code")
        self.thumb.tap(self.page.locator("#station-form button.save"), "Save, go on")
        self._took("Arrive")

    def earlier(self, value: Any, act: Act) -> None:
        """Take the readings of an earlier visit over."""
        self.go("arrive")
        self.thumb.tap(self.page.get_by_role("button", name="Use its readings as found"), "Use its readings as found")
        self._looked = False

    def safe(self, value: Any, act: Act) -> None:
        """Every step of Make safe, or those named."""
        self.go("make-safe")
        for box in self.page.locator(".steps input").all():
            key = box.get_attribute("value") or ""
            if value is True or key in value:
                says = " ".join(self.page.locator(f'.steps li:has([value="{key}"]) b').inner_text().split())
                self.thumb.tick(box, says)
        self.thumb.tap(self.page.locator("#station-form button.save"), "Save, go on")
        self._took("Make safe")
        self.known.add("made safe")

    def power(self, value: Any, act: Act) -> None:
        """The power strip."""
        settled(self.page)
        button = self.page.locator(f'#strip button[value="{"energised" if value == "live" else "dead"}"]')
        if self.thumb.see(button):
            self.thumb.tap(button, "Energize" if value == "live" else "Proved dead")

    # plates

    def plate(self, value: Any, act: Act) -> None:
        """A plate by its line or by fields."""
        of = act.get("of", "motor")
        if isinstance(value, str):
            self._plate_states(value)
        if of == "new_motor":
            self.go("match")
            self._new_plate(value)
            return
        self.go("plates")
        if isinstance(value, str):
            self._line(value, "old", act.get("doubtful", True))
        else:
            self._fields(value, self.page.locator("form.plates"))
            self.thumb.tap(self.page.locator(".plates-save button.save"), "Save, go on")
            self._took("the plate")
            if "motor.rotation.sense" in value:
                self.known.add("rotation")
            self._plate_states(" ".join(str(text) for text in value.values()))

    def _plate_states(self, text: str) -> None:
        for state, pattern in (("ecm", r"\becm\b"), ("three_phase", r"three[_ -]phase|3 ?(ph\b|phase)")):
            if re.search(pattern, text, re.I):
                self.copy.states |= {state, "no_capacitor"}
        if re.search(r"shaded", text, re.I):
            self.copy.states.add("no_capacitor")
        if re.search(r"\bc?cw\b|clockwise", text, re.I):
            self.known.add("rotation")

    def _line(self, line: str, to: str, doubtful: bool) -> None:
        """One line read, looked through and saved; what is doubtful is checked as the technician who sees the plate."""
        self.thumb.fill(self.page.locator("#line"), line, "the plate in one line")
        self.thumb.tap(self.page.get_by_role("button", name="Read the line"), "Read the line")
        self._took(f"the line {line!r}")
        if doubtful:
            for box in self.page.locator(".read-doubtful .tick input").all():
                self.thumb.tick(box, (box.get_attribute("name") or "").removeprefix("take."))
        self.thumb.tap(self.page.locator(".read-save button.save"), "Save checked" if to == "old" else "Use checked")
        self._took(f"the line {line!r}")

    def _fields(self, values: dict[str, Any], form: Locator) -> None:
        for name, value in values.items():
            field = form.locator(f'[name="{name}"]')
            if not field.count():
                raise NoPlace(f"no field {name!r} on {self.thumb.heading()!r}")
            fold = form.locator(f'details:not([open]):has([name="{name}"])')
            if fold.count() and fold.first.locator("> summary").is_visible():
                head = " ".join(fold.first.locator("> summary").inner_text().split())
                self.thumb.tap(fold.first.locator("> summary"), f"{head} (unfolds)")
            kind = field.first.evaluate("one => one.type")
            if kind == "radio":
                if not self.thumb.pick(name, str(value), name, form):
                    raise NoPlace(f"{name} on {self.thumb.heading()!r} offers no {value!r}")
            elif kind == "select-one":
                self.thumb.choose(field, _word(value), name)
            else:
                self.thumb.fill(field, _word(value), name)

    def _new_plate(self, value: Any, part_no: str = "") -> None:
        """A motor by hand from its plate, ready to be compared."""
        by_hand = "Type a plate that is not in the catalog"
        self.thumb.tap(self.page.get_by_role("link", name=by_hand), by_hand)
        if isinstance(value, str):
            self._line(value, "new", True)
        else:
            self._fields(value, self.page.locator("form.plates"))
        number = self.page.locator('[name="motor.part_no"]')
        if part_no:
            self.thumb.fill(number, part_no, "part number")
        self.thumb.tap(self.page.get_by_role("button", name="Compare it"), "Compare it")
        self._took("the new motor's plate")

    # readings

    def read(self, value: Any, act: Act) -> None:
        """A reading on the pad of Path."""
        self.go("path")
        kind, at = value["kind"], value.get("at")
        self._open_pad(kind, at if kind not in ("co_ppm", "air_c") else None)
        self._on_pad(value)
        self._looked = False
        if not self.acts_first_reading:
            self.acts_first_reading = self.thumb.acts

    def _open_pad(self, kind: str, at: str | None) -> None:
        """The pad at a test: by the offered next test, a tab of the pad, or the part of the path it hangs on."""
        if self._pad_is(kind, at):
            return
        how = how_of(kind, at)
        at = how.at if at in (None, how.at) else at
        if self._tap_test(kind, at):
            return
        for link in dict.fromkeys(link for row in TESTS if row.kind == kind and row.at == how.at for link in row.links):
            strip = self.page.locator(".path-strip:not([open])")
            if not self.thumb.see(self.page.locator(".drawing a")) and self.thumb.see(strip):
                self.thumb.unfold(self.page.locator(".path-strip"), "The path (unfolds)")
            part = self._link_to(".drawing a", lambda asked, link=link: asked.get("link") == link)
            if part is None:
                continue
            name = part.get_attribute("aria-label") or link
            self.thumb.tap(part, f"{name} on the path")
            if self._pad_is(kind, at) or self._tap_test(kind, at):
                return
        raise NoPlace(f"no test {kind!r}{f' at {at}' if at else ''} on the path of this unit")

    def _pad_is(self, kind: str, at: str | None) -> bool:
        form = self.page.locator("#pad-form")
        if not form.count() or form.locator('[name="kind"][type=hidden]').first.input_value() != kind:
            return False
        here = form.locator('input[type=hidden][name="at"]')
        return (here.first.input_value() if here.count() else "") == (at or "")

    def _tap_test(self, kind: str, at: str | None) -> bool:
        def is_it(asked: dict[str, str]) -> bool:
            return asked.get("kind") == kind and asked.get("at", "") == (at or "")

        for where in (".pad-tests a", "#next-test"):
            found = self._link_to(where, is_it)
            if found is not None:
                self.thumb.tap(found, f"{' '.join(found.inner_text().split())} ({kind})")
                return self._pad_is(kind, at)
        return False

    def _link_to(self, selector: str, is_it: Callable[[dict[str, str]], bool]) -> Locator | None:
        """The first visible link of these whose address asks for it."""
        settled(self.page)
        for one in self.page.locator(selector).all():
            asked = {key: texts[0] for key, texts in parse_qs(urlparse(one.get_attribute("href") or "").query).items()}
            if is_it(asked) and one.is_visible():
                return one
        return None

    def _on_pad(self, value: dict[str, Any]) -> None:
        """What is entered on the pad that is open, its qualifiers first; then saved."""
        kind = value["kind"]
        self._wait_a_second(kind)
        if self.thumb.see(self.page.locator("#pad-form .misfit .tick")):
            if value.get("anyway"):
                self.thumb.tick(self.page.locator('[name="anyway"]'), "Do it anyway")
            else:
                self.power("live" if KINDS[kind].power == "live" else "dead", {})
        pad = self.page.locator("#pad-form")
        self._qualifiers(pad, value)
        for name in SMALL:
            if name in value and name != "volts_v" or (name == "volts_v" and name in value and kind == "ecm_power"):
                self._small(pad, name, str(value[name]))
        if "turns" in value:
            self.thumb.fill(pad.locator('[name="turns"]'), str(value["turns"]), "turns through the clamp")
        if value.get("isolated") is False:
            self.thumb.tick(pad.locator('[name="isolated"]'), "leads still on it")
        if value.get("dried"):
            self.thumb.tick(pad.locator('[name="dried"]'), "dried before")
        self._value(pad, kind, value["value"])
        if value.get("sure") and self.thumb.see(self.page.locator('[name="sure"]')):
            self.thumb.tick(self.page.locator('[name="sure"]'), "it is so")
            self.thumb.tap(self.page.locator("#pad-form button.save"), "Save, go on")
        says = self.thumb.refused("#pad-form")
        says = says or " ".join(text.inner_text() for text in self.page.locator("#fault-sure").all())
        if says:
            raise NoPlace(f"{kind} {value['value']!r} is refused: {' '.join(says.split())}")

    def _wait_a_second(self, kind: str) -> None:
        """No hand reads the same twice in one second: readings are told apart by their time, whole seconds."""
        left = self._entered_at.get(kind, 0.0) + 1.1 - time.monotonic()
        if left > 0:
            self.page.wait_for_timeout(1000 * left)
        self._entered_at[kind] = time.monotonic() + 0.4

    def _qualifiers(self, pad: Locator, value: dict[str, Any]) -> None:
        for name in QUALIFIERS:
            if name not in value or (name == "at" and value["kind"] not in ("co_ppm", "air_c")):
                continue
            wanted = value[name]
            tries = ["|".join(wanted), "|".join(reversed(wanted))] if isinstance(wanted, list) else [_word(wanted)]
            if any(self.thumb.pick(name, one, name, pad) for one in tries):
                continue
            hidden = pad.locator(f'input[type=hidden][name="{name}"]')
            if hidden.count() and hidden.first.input_value() in tries:
                continue
            if name == "pair" and self._name_pair(pad, wanted):
                continue
            if (name, _word(wanted)) not in (("leg", "whole"), ("speed", "1"), ("with", "load"), ("when", "standing")):
                raise NoPlace(f"{value['kind']} has no {name} {wanted!r} on the pad{self._offers(pad, name)}")

    def _name_pair(self, pad: Locator, pair: list[str]) -> bool:
        """Leads that are not offered, named on the pad itself."""
        fields = [self.thumb.see(pad.locator(f'[name="lead_{side}"]')) for side in ("a", "b")]
        if None in fields:
            return False
        for field, name in zip(fields, pair, strict=True):
            assert field is not None
            self.thumb.fill(field, name, "lead")
        return True

    def _offers(self, pad: Locator, name: str) -> str:
        offered = [one.get_attribute("value") or "" for one in pad.locator(f'[name="{name}"][type=radio]').all()]
        return f"; it offers {', '.join(offered)}" if offered else ""

    def _small(self, pad: Locator, name: str, text: str) -> None:
        field = pad.locator(f'input[name="{name}"]')
        if name == "temperature_c":
            text = self._degrees(pad, text)
        self.thumb.fill(field, text, name.replace("_", " "))

    def _degrees(self, pad: Locator, text: str) -> str:
        """The figure of a temperature, its degrees chosen: `95 F`, else Celsius as in the call file."""
        match = re.fullmatch(r"\s*(-?[\d.]+)\s*°?\s*([FC])?\s*", text)
        if match and self.thumb.see(pad.locator('label:has([name="degrees"])')):
            self.thumb.pick("degrees", match[2] or "C", "degrees", pad)
            return match[1]
        return text

    def _value(self, pad: Locator, kind: str, value: Any) -> None:
        if kind == "capacitor_load":
            self.thumb.fill(pad.locator('[name="amps_a"]'), str(value["amps_a"]), "amps")
            self.thumb.fill(pad.locator('[name="volts_v"]'), str(value["volts_v"]), "volts across it")
        elif pad.locator("#value").count() == 0 or (not isinstance(value, list) and self._key(pad, value) is not None):
            key = self._key(pad, value)
            if key is None:
                offered = [one.get_attribute("value") or "" for one in pad.locator("button[name=value]").all()]
                raise NoPlace(f"{kind} has no button {value!r} on the pad; it offers {', '.join(offered)}")
            self.thumb.tap(key, f"{kind.replace('_', ' ')}: {' '.join(key.inner_text().split())}")
            return
        elif isinstance(value, list) and pad.locator('[name="value_3"]').count():
            for name, text in zip(("value", "value_2", "value_3"), value, strict=True):
                self.thumb.fill(pad.locator(f'[name="{name}"]'), str(text), kind.replace("_", " "))
        else:
            text = " ".join(str(one) for one in value) if isinstance(value, list) else str(value)
            if kind in ("shell_c", "sister_shell_c", "air_c"):
                text = self._degrees(pad, text)
            self.thumb.fill(pad.locator("#value"), text, kind.replace("_", " "))
        self.thumb.tap(pad.locator("button.save"), "Save, go on")

    def _key(self, pad: Locator, value: Any) -> Locator | None:
        word = {True: "yes", False: "no"}[value] if isinstance(value, bool) else str(value)
        return self.thumb.see(pad.locator(f'button[name="value"][value="{word}"]'))

    def correct(self, value: Any, act: Act) -> None:
        """The standing reading of a kind, entered anew."""
        self.go("path")
        rows = self.page.locator("a.correct")
        found = self._link_to("a.correct", lambda asked: asked.get("kind") == value["kind"])
        if found is None or not rows.count():
            raise NoPlace(f"no reading {value['kind']!r} to correct")
        self.thumb.tap(found, f"correct {found.get_attribute('aria-label')}")
        self._on_pad(value)
        self._looked = False

    def change(self, value: Any, act: Act) -> None:
        """Something that was done to the unit."""
        self.go("path")
        if act.get("remove"):
            self.thumb.tap(self.page.locator(".change-list button"), "Remove")
            return
        self.thumb.unfold(self.page.locator(".changes details"), "Did you change something on the unit?")
        if act.get("note"):
            self.thumb.fill(self.page.locator('.changes [name="note"]'), act["note"], "Note")
        self.thumb.tap(self.page.locator(f'.changes button[value="{value}"]'), f"changed: {value.replace('_', ' ')}")
        self._took(f"the change {value!r}")
        self._looked = False

    def own_finding(self, value: Any, act: Act) -> None:
        """The technician's own finding beside the program's."""
        self._look_at_finding()
        self.thumb.unfold(self.page.locator("details:has([name=judged])"), "Enter your own finding")
        self._judge(value)
        self.thumb.tap(self.page.get_by_role("button", name="Save finding"), "Save finding")
        self._took("your own finding")

    def _judge(self, value: dict[str, Any]) -> None:
        self.thumb.choose(self.page.locator("[name=judged]"), value["verdict"], "What it was")
        self.thumb.fill(self.page.locator("[name=judged_why]"), value.get("why", ""), "Why")
        if value.get("by"):
            self.thumb.fill(self.page.locator("[name=judged_by]"), value["by"], "Found by")
        if value.get("on"):
            self.thumb.fill(self.page.locator("[name=judged_on]"), _day(str(value["on"])), "On")

    # match and capacitor

    def match(self, value: Any, act: Act) -> None:
        """The new motor: a candidate, the same again, one typed from its plate."""
        self.go("match")
        if isinstance(value, dict):
            value, act = value.get("part"), {**value, **act}
        if act.get("school"):
            self.thumb.tap(
                self.page.locator(f'button[name="school"][value="{act["school"]}"]'), f"Size by {act['school']}"
            )
        if act.get("same"):
            self._same(value, act)
        else:
            if act.get("plate"):
                self._new_plate(act["plate"], str(value or ""))
            else:
                self._look_at_candidate(str(value))
            self._choose(act)

    def look(self, value: Any, act: Act) -> None:
        """A candidate looked at and not chosen: why it is refused."""
        self.go("match")
        self._look_at_candidate(str(value))

    def _same(self, value: Any, act: Act) -> None:
        self.thumb.unfold(
            self.page.locator("details:has(> summary:text('The same motor again'))"), "The same motor again"
        )
        if isinstance(value, str):
            self.thumb.fill(self.page.locator('form[action$="/match/same"] [name="part_no"]'), value, "Part number")
        if "days" in act:
            self.thumb.fill(
                self.page.locator('form[action$="/match/same"] [name="days"]'),
                str(act["days"]),
                "Days until it is here",
            )
        self.thumb.tap(self.page.get_by_role("button", name="Use the same motor"), "Use the same motor")
        self._took("the same motor again")

    def _look_at_candidate(self, part: str) -> None:
        chosen = self.page.locator(f'button[name="part_no"][value="{part}"]')
        if self.thumb.see(chosen):
            return
        found = self._candidate(part)
        if found is None:
            folds = self.page.locator("details.bring:has(.candidates):not([open]) > summary")
            if self.thumb.see(folds):
                self.thumb.tap(folds, "refused, and why")
                found = self._candidate(part)
        rest = self.page.get_by_role("link", name="Show the rest")
        if found is None and self.thumb.see(rest):
            self.thumb.tap(rest, "Show the rest")
            if self.thumb.see(chosen):
                return
            folds = self.page.locator("details.bring:has(.candidates):not([open]) > summary")
            if self._candidate(part) is None and self.thumb.see(folds):
                self.thumb.tap(folds, "refused, and why")
            found = self._candidate(part)
        if found is None:
            raise NoPlace(f"{part} is not among the candidates of {self.thumb.heading()!r}")
        self.thumb.tap(found, f"the candidate {part}")

    def _candidate(self, part: str) -> Locator | None:
        return self.thumb.see(self.page.locator(".candidates a").filter(has=self.page.locator(f"b:text-is('{part}')")))

    def _choose(self, act: Act) -> None:
        if self.thumb.see(self.page.locator(".chosen-box button[value='']")):
            return
        reason = self.page.locator('.chosen-box [name="reason"]')
        if act.get("reason") and self.thumb.see(reason):
            self.thumb.fill(reason, act["reason"], "the reason")
        button = self.page.locator('.chosen-box button[name="part_no"]:not([value=""])')
        self.thumb.tap(button, "Choose")
        self._took("the choice")
        if not self.page.locator(".chosen-box").filter(has_text="is chosen").count():
            raise NoPlace(f"the motor was not chosen on {self.thumb.heading()!r}")

    def capacitor(self, value: Any, act: Act) -> None:
        """The capacitor: parts as listed, the old one again, or none."""
        self.go("capacitor")
        if act.get("none") or value in ("none", {"none": True}):
            return
        if act.get("reuse") or value in ("reuse", {"reuse": True}):
            reuse = self.page.get_by_role("button", name="Reuse it")
            if self.thumb.see(reuse) is None:
                self.thumb.tap(self.page.get_by_role("button", name="Reuse if it tests good"), "Reuse if it tests good")
            self.thumb.tap(reuse, "Reuse it")
            self._took("the old capacitor")
            return
        row = self._answer(sorted(value))
        if row is None and self.thumb.see(self.page.get_by_role("link", name="Show more")):
            self.thumb.tap(self.page.get_by_role("link", name="Show more"), "Show more")
            row = self._answer(sorted(value))
        if row is None:
            raise NoPlace(f"no answer of {' + '.join(value)} on {self.thumb.heading()!r}")
        use = self.page.locator('#station-form button[name="capacitor"]')
        self.thumb.tap(row, f"the answer {' + '.join(value)}")
        if self.thumb.see(use):
            self.thumb.tap(use, "Use this one")
        self._took("the capacitor")

    def _answer(self, parts: list[str]) -> Locator | None:
        for one in self.page.locator(".answers tbody th a").all():
            listed = sorted(" ".join(part.inner_text().split()) for part in one.locator("b").all())
            if listed == parts and one.is_visible():
                return one
        return None

    # wiring

    def _wiring_view(self, name: str) -> None:
        self.go("hook-up")
        link = self.page.locator(f'nav[aria-label="Wiring views"] a[href*="view={name}"]')
        if self.thumb.must_see(link, f"the view {name}").get_attribute("aria-current") != "page":
            self.thumb.tap(link, {"found": "As found", "plan": "Planned", "try": "Try it out"}[name])

    def found_wires(self, value: Any, act: Act) -> None:
        """Where each wire of the old motor is."""
        self._wiring_view("found")
        leads = {end.removeprefix("motor."): to for end, to in value.items() if not _is_terminal(end)}
        others = [(end, to) for end, to in value.items() if _is_terminal(end)]
        missing = [lead for lead in leads if not self.page.locator(f'[name="wire.{lead}"]').count()]
        if missing:
            self._lead_words({lead: "" for lead in leads})
        for lead, terminal in leads.items():
            self.thumb.choose(self.page.locator(f'[name="wire.{lead}"]'), _word(terminal), lead)
        for end, to in others:
            self.thumb.choose(self.page.locator('[name="jumper.a"]'), end, "Extra wire, from")
            self.thumb.choose(self.page.locator('[name="jumper.b"]'), _word(to), "Extra wire, to")
            self._save_wires()
        if leads:
            self._save_wires()
        self.known.add("wires as found")

    def _save_wires(self) -> None:
        self.thumb.tap(self.page.get_by_role("button", name="Save wires as found"), "Save wires as found")
        self._took("the wires as found")

    def _lead_words(self, leads: dict[str, Any]) -> None:
        """Leads with what the plate says of each."""
        fold = self.page.locator("details:has(> form.lead-words)")
        self.thumb.unfold(fold, "Leads of the motor")
        for number, (lead, says) in enumerate(leads.items()):
            if not self.page.locator(f'[name="lead.{number}"]').count():
                self.thumb.tap(self.page.get_by_role("button", name="Save leads"), "Save leads, for more rows")
                self._took("the leads")
                self.thumb.unfold(fold, "Leads of the motor")
            self.thumb.fill(self.page.locator(f'[name="lead.{number}"]'), lead, f"lead {number + 1}")
            if says:
                self.thumb.choose(self.page.locator(f'[name="says.{number}"]'), str(says), f"the plate says of {lead}")
        self.thumb.tap(self.page.get_by_role("button", name="Save leads"), "Save leads")
        self._took("the leads")

    def new_leads(self, value: Any, act: Act) -> None:
        """Leads of the new motor by the plate's words; the plate's own diagram; the reversing plug."""
        self._wiring_view("plan")
        if isinstance(value, list):
            value = {lead: "" for lead in value}
        leads = {key: text for key, text in (value or {}).items() if key not in ("plug", "diagram")}
        diagram = act.get("diagram") or (value or {}).get("diagram")
        if leads:
            if all(isinstance(ends, list) for ends in leads.values()):
                self._ends(leads)
            else:
                self._lead_words(leads)
        if diagram:
            self.thumb.unfold(self.page.locator('details:has(> form[action$="/diagram"])'), "The plate's own diagram")
            for volts, text in diagram.items():
                self.thumb.fill(
                    self.page.locator(f'[name="diagram.{volts}"]'), str(text).strip(), f"the diagram for {volts} volts"
                )
            self.thumb.tap(self.page.get_by_role("button", name="Save diagram"), "Save diagram")
            self._took("the diagram")
        plug = act.get("plug") or (value or {}).get("plug")
        if plug and not self.thumb.pick("plug", plug, "the reversing plug"):
            raise NoPlace(f"no place for the reversing plug {plug!r} on {self.thumb.heading()!r}")

    def _ends(self, leads: dict[str, list[str]]) -> None:
        self.thumb.unfold(self.page.locator("details:has(> form.lead-words)"), "Leads of the motor")
        self.thumb.unfold(self.page.locator("details.by-ends"), "Enter by winding ends")
        text = "\n".join(f"{lead}: {' '.join(ends)}" for lead, ends in leads.items())
        self.thumb.fill(self.page.locator('textarea[name="leads"]'), text, "the winding ends")
        self.thumb.tap(self.page.get_by_role("button", name="Save winding ends"), "Save winding ends")
        self._took("the winding ends")

    def modes(self, value: Any, act: Act) -> None:
        """Which call uses which speed: `{ cool = 1, heat = 3 }`, or `{ cool = ["board.cool", 1] }`."""
        self._wiring_view("plan")
        self.thumb.unfold(self.page.locator('details:has(> form[action$="/outputs"])'), "Speeds by mode")
        for number, (mode, asked) in enumerate(value.items()):
            terminal, speed = asked if isinstance(asked, list) else ("", asked)
            self.thumb.choose(self.page.locator(f'[name="mode.{number}"]'), mode, "call")
            if terminal:
                self.thumb.choose(self.page.locator(f'[name="terminal.{number}"]'), terminal, "terminal")
            self.thumb.fill(self.page.locator(f'[name="speed.{number}"]'), str(speed), "speed")
        self.thumb.tap(self.page.get_by_role("button", name="Save speeds by mode"), "Save speeds by mode")
        self._took("the speeds by mode")

    def wiring(self, value: Any, act: Act) -> None:
        """The plan: under a school, saved, its moves checked off."""
        self._wiring_view("plan")
        if value in ("dual", "own"):
            link = self.page.locator(f'nav[aria-label="Which capacitor"] a[href*="school={value}"]')
            found = self.thumb.see(link)
            if found is not None and found.get_attribute("aria-current") != "page":
                self.thumb.tap(found, f"{value} capacitor")
        self._note_wiring()
        save = self.page.locator('button[value="keep"]')
        reason = self.page.locator('[name="keep_why"]')
        if self.thumb.see(save):
            if act.get("reason") and self.thumb.see(reason):
                self.thumb.fill(reason, act["reason"], "the reason")
            self.thumb.tap(save, "Save wiring plan")
            self._took("the wiring plan")
        elif not self.page.locator('button[value="tick"]').count():
            if act.get("tick") and act["tick"] != "all" or not self._nothing_to_move():
                raise NoPlace(f"no plan to save on {self.thumb.heading()!r}: {self.wiring_says}")
            return
        if "tick" in act or "skip" in act:
            self._tick_moves(act.get("tick", []), act.get("skip", {}))

    def _nothing_to_move(self) -> bool:
        return bool(self.page.locator(".side .note").filter(has_text="Nothing to move").count())

    def _note_wiring(self) -> None:
        says = self.page.locator(".bench-says")
        self.wiring_says = " ".join(" ".join(one.inner_text().split()) for one in self.page.locator("#bench").all())[
            :300
        ]
        if says.count():
            turns = self.page.locator(".bench-says .fan").first.get_attribute("class") or ""
            runs = "bench-runs" in (says.first.get_attribute("class") or "")
            self.wiring = (runs, turns.split("fan-")[-1])

    def _tick_moves(self, tick: Any, skip: dict[str, str]) -> None:
        for item in self.page.locator(".moves li").all():
            says = " ".join(item.locator("b").inner_text().split())
            if any(text.lower() in says.lower() for text in skip):
                continue
            if tick == "all" or any(text.lower() in says.lower() for text in tick):
                self.thumb.tick(item.locator("input"), says)
        self.thumb.tap(self.page.locator('button[value="tick"]'), "Save checked moves")
        self._took("the moves")
        for text, reason in skip.items():
            self._skip_move(text, reason)

    def _skip_move(self, text: str, reason: str) -> None:
        item = self.page.locator(".moves li").filter(has_text=re.compile(re.escape(text), re.I))
        fold = item.locator("details")
        if self.thumb.see(fold) is None:
            raise NoPlace(f"no way to skip the move {text!r} with a reason on {self.thumb.heading()!r}")
        self.thumb.unfold(fold, f"Skip {text}")
        self.thumb.fill(item.locator("input[type=text], input:not([type])"), reason, "Reason")
        self.thumb.tap(item.locator("button"), "Skip")

    # swap

    def body(self, value: Any, act: Act) -> None:
        """Lengths of the motor in its place, on Body to scale."""
        self.go("match")
        self.thumb.tap(self.page.get_by_role("link", name="Body, to scale"), "Body, to scale")
        self._fields(value, self.page.locator("form.lengths"))
        self.thumb.tap(self.page.get_by_role("button", name="Save lengths"), "Save lengths")
        self._took("the lengths")

    def apart(self, value: Any, act: Act) -> None:
        """How it comes apart: `{ hub = "stuck", removal = "together", build = "motor" }`."""
        self.go("swap")
        fold = self.page.locator('details:has(> form[action$="/swap/plan"])')
        self.thumb.unfold(fold, "How it comes apart")
        for name, word in value.items():
            if name == "arrives":
                self.thumb.fill(self.page.locator('[name="arrives"]'), str(word), "Part gets here")
            elif not self.thumb.pick(name, str(word), name):
                raise NoPlace(f"no {name} {word!r} on {self.thumb.heading()!r}{self._offers(fold, name)}")
        self.thumb.tap(self.page.get_by_role("button", name="Recalculate"), "Recalculate")
        self._took("how it comes apart")

    def steps(self, value: Any, act: Act) -> None:
        """The steps of the swap in their order, each with its figures, or skipped with a reason."""
        self.go("swap")
        if not self.page.locator(".swap-steps").count():
            raise NoPlace("no steps: " + " ".join(self.page.locator("main").inner_text().split())[:200])
        last = self._step_named(value[3:]) if isinstance(value, str) and value.startswith("to:") else ""
        skipped = {self._step_named(key): reason for key, reason in act.get("except", {}).items()}
        figures = act.get("figures", {})
        wanted = {self._step_named(key) for key in value} if isinstance(value, list) else None
        done: set[str] = set()
        for _ in range(120):
            key = self._step_in_hand(wanted, done)
            if not key:
                break
            done.add(key)
            self._step(key, skipped, figures)
            if key == last:
                break

    def _steps_listed(self) -> dict[str, str]:
        """The steps of the job with their words, by key."""
        links = self.page.locator(".swap-steps a").all()
        keys = (parse_qs(urlparse(one.get_attribute("href") or "").query).get("step", [""])[0] for one in links)
        return {key: one.text_content() or "" for key, one in zip(keys, links, strict=True)}

    def _step_named(self, name: str) -> str:
        """A step by its key, or the one whose key or sentence has all the words of the name."""
        listed = self._steps_listed()
        words = re.split(r"[_\W]+", name.lower())
        near = [key for key, says in listed.items() if all(word in f"{key} {says}".lower() for word in words)]
        if name not in listed and len(near) != 1:
            raise NoPlace(f"no step {name!r} in this job; it has {', '.join(near or listed)}")
        return name if name in listed else near[0]

    def _step_in_hand(self, wanted: set[str] | None, done: set[str]) -> str:
        """The step on the pad, if it is still to do; else the next that is, tapped."""
        settled(self.page)
        form = self.page.locator('#station-form [name="step"]')
        here = form.input_value() if form.count() else ""
        is_open = self.thumb.see(self.page.locator('#station-form button[value="do"]:has-text("Done")')) is not None
        if here and is_open and here not in done and (wanted is None or here in wanted):
            return here
        for line in self.page.locator(".swap-steps li").all():
            state = line.get_attribute("class") or ""
            link = line.locator("a")
            key = parse_qs(urlparse(link.get_attribute("href") or "").query).get("step", [""])[0]
            if re.search(r"swap-(todo|next)", state) and key not in done and (wanted is None or key in wanted):
                fold = self.page.locator(f'details.phase:not([open]):has(a[href*="step={key}#"])')
                if fold.count():
                    self.thumb.unfold(fold, " ".join(fold.first.locator("> summary").inner_text().split()))
                self.thumb.tap(link, f"step {key}")
                return key
        return ""

    def _step(self, key: str, skipped: dict[str, str], figures: dict[str, str]) -> None:
        if SETTLED_BY.get(key, "") in self.known:
            self.asked_again.append(f"step {key}")
        unknown = [name for name in self._marks() if self._figure(name, figures) is None]
        if unknown and key not in skipped:
            self.copy.entered(f"(the job gives no figure for {', '.join(unknown)})")
            skipped = {key: "not measured"}
        if key in skipped:
            self.thumb.unfold(self.page.locator(".skip-step"), "Skip")
            self.thumb.fill(self.page.locator('.skip-step [name="why"]'), skipped[key], "Reason")
            self.thumb.tap(self.page.locator('.skip-step button[value="skip"]'), f"Skip {key}")
            self._took(f"skipping {key}")
            return
        for field in self.page.locator("#station-form .mark").all():
            self._mark(field, figures, key)
        self.thumb.tap(self.page.locator('#station-form button[value="do"]'), f"Done ({key})")
        self._took(f"the step {key}")
        again = self.page.locator('#station-form button[value="leave"]')
        if self.thumb.see(again) and self.page.locator('#station-form [name="step"]').input_value() == key:
            self.thumb.tap(again, "leave it")

    def _marks(self) -> list[str]:
        """The names of the figures that the step in hand asks for and that nothing stands in."""
        fields = self.page.locator("#station-form .mark").all()
        return [_name_of(field) for field in fields if not _stands(field)]

    def _figure(self, name: str, figures: dict[str, str]) -> str | None:
        """The figure that a job gives for a mark: by its name, the name of the first of a pair, or a part of it."""
        first = name.removesuffix("_after")
        named = next((figures[one] for one in (name, first) if one in figures), None)
        part = next((text for one, text in figures.items() if one in first or one in MARKS[name].title), None)
        return named if named is not None else part

    def _mark(self, field: Locator, figures: dict[str, str], key: str) -> None:
        name = _name_of(field)
        if SETTLED_BY.get(name, "") in self.known:
            self.asked_again.append(f"{MARKS[name].title} at step {key}")
        text = self._figure(name, figures)
        if text is None:
            return
        if field.locator("select").count():
            self.thumb.choose(field.locator("select"), str(text), name)
        elif field.locator("input[type=radio]").count():
            words = {"cw": "clockwise", "ccw": "counter-clockwise"}
            if not self.thumb.pick(name, words.get(str(text), str(text)), name, field):
                raise NoPlace(f"{name} offers no {text!r}")
        else:
            self.thumb.fill(field.locator("input"), str(text), name)

    def untick(self, value: Any, act: Act) -> None:
        """A step of the swap taken back."""
        self.go("swap")
        value = self._step_named(value)
        link = self.page.locator(f'.swap-steps a[href*="step={value}#"]')
        if not link.first.is_visible():
            fold = self.page.locator(f'details.phase:has(a[href*="step={value}#"])')
            self.thumb.unfold(fold, " ".join(fold.first.locator("> summary").inner_text().split()))
        self.thumb.tap(link, f"step {value}")
        self.thumb.tap(self.page.locator('#station-form button[value="back"]'), f"Undo ({value})")
        self._took(f"taking back {value}")

    # the run

    def prove(self, value: Any, act: Act) -> None:
        """The readings of the run test."""
        self.go("run-proof")
        for one in value:
            self._open_check(one)
            self._on_pad(one)
            if one["kind"] == "turns_way" and one["value"] == "right":
                self.copy.states.add("running")
                self.known.add("rotation")
            if not self.acts_first_reading:
                self.acts_first_reading = self.thumb.acts
        if self.page.locator(".next").filter(has_text="Passed.").count():
            self.copy.states |= {"run_test_passed", "running"}
            self.known.add("run test")

    def _open_check(self, one: dict[str, Any]) -> None:
        """The check of a reading of the run: the one in hand, else the one tapped."""
        names = list(_check_names(one))
        links = {
            parse_qs(urlparse(link.get_attribute("href") or "").query).get("check", [""])[0]: link
            for link in self.page.locator(".checks a").all()
        }
        name = next((name for name in names if name in links), None)
        if name is None:
            raise NoPlace(
                f"the run test has no check for {one['kind']} {one.get('speed') or one.get('at') or ''}; "
                f"it has {', '.join(links)}"
            )
        here = self.page.locator('#pad-form input[name="check"]')
        if not here.count() or here.input_value() != name:
            self.thumb.tap(links[name], f"{' '.join(links[name].locator('b').inner_text().split())}")
        if one["kind"] == "supply_v" and one.get("when") == "standing":
            self.thumb.tap(self.page.locator('.pad-tests a[href*="when=standing"]'), "standing")

    # the end

    def follow_up(self, value: Any, act: Act) -> None:
        """Something to come back for, with its day."""
        self.go("hand-over")
        form = self.page.locator('details:has(> form[action$="/follow-ups"])')
        self.thumb.unfold(form, "Add a follow-up")
        if act.get("kind"):
            self.thumb.pick("kind", act["kind"], "kind", form)
        self.thumb.fill(form.locator('[name="says"]'), value, "What to do")
        self.thumb.fill(form.locator('[name="due_on"]'), _day(act.get("on", "+7")), "Due by")
        self.thumb.tap(form.get_by_role("button", name="Add"), "Add")
        self._took("the follow-up")

    def hand_over(self, value: Any, act: Act) -> None:
        """The call closed, finished or unfinished; both records read after it."""
        self.go("hand-over")
        form = self.page.locator("form.close-form")
        for key, name, what in (("did", "fitted", "What you did"), ("watch", "watch", "What to watch")):
            if act.get(key):
                self.thumb.fill(form.locator(f'[name="{name}"]'), act[key], what)
        reason = act.get("exception") or (act.get("reason") if value == "finished" else None)
        if reason and form.locator('[name="exception"]').count():
            self.thumb.fill(form.locator('[name="exception"]'), reason, "Why it closes without a passed run test")
        if act.get("no_judgement"):
            self.thumb.tick(form.locator('[name="no_judgement"]'), "Close without a finding")
        if value == "unfinished":
            self.thumb.unfold(form.locator("details:has([name=unfinished])"), "Close as unfinished")
            self.thumb.fill(form.locator('[name="unfinished"]'), act.get("reason", ""), "What is left to do")
            self.thumb.fill(form.locator('[name="return_on"]'), _day(act.get("on", "+7")), "Return on")
        self.thumb.tap(form.locator(f'button[name="finish"][value="{value}"]'), "Close the call", looks=False)
        self._took("closing the call")
        if not self.page.locator(".strip-closed").count():
            raise NoPlace("the call was not closed")
        self.acts_closed = self.thumb.acts
        self.copy.states.add("closed")
        self.copy.meet(self.page)
        self._records()
        self.copy.states.discard("closed")
        self._looked = True

    def _records(self) -> None:
        """Both records as they are after the close, and the customer's PDF."""
        for audience in ("customer", "shop"):
            link = self.page.locator(f'nav[aria-label="For whom"] a[href*="for={audience}"]')
            self.page.goto(self.address + (link.get_attribute("href") or ""))
            self.copy.meet(self.page)
            self.records[audience].append("\n".join(text_of(self.page, ".record")))
            if audience == "customer":
                pdf = self.page.locator('a[href*="record.pdf"]').first.get_attribute("href") or ""
                self.records["customer.pdf"].append(pdf_text(self.page.request.get(self.address + pdf).body()))
        for audience, texts in self.records.items():
            self.copy.look_for("records", texts[-1], f"{audience} record")

    def say(self, value: Any, act: Act) -> None:
        """Anything in one line."""
        field = self.page.locator('[name="say"]')
        self.thumb.fill(field, value, "one line for anything")
        self.thumb.tap(self.page.locator('form:has([name="say"]) button'), "Read it")
        self.thumb.tap(self.page.locator(".say-proposals button.save"), "Save checked")
        self._took(f"the line {value!r}")


HANDLERS: dict[str, Handler] = {
    name: getattr(Player, name)
    for name in (
        "arrive earlier safe plate power read correct change own_finding match capacitor found_wires new_leads modes wiring "
        "look body apart steps untick prove follow_up hand_over say"
    ).split()
}


def pdf_text(pdf: bytes) -> str:
    """The text of a PDF, laid out as on paper."""
    return subprocess.run(
        ["pdftotext", "-layout", "-", "-"], input=pdf, capture_output=True, check=True
    ).stdout.decode()


def _word(value: Any) -> str:
    """A value of a job as a form has it."""
    if isinstance(value, bool):
        return "true" if value else "false"
    return str(value)


def _name_of(field: Locator) -> str:
    return field.locator("input, select").first.get_attribute("name") or ""


def _stands(field: Locator) -> bool:
    """Whether something stands in a figure's field already."""
    typed = field.locator("select, input:not([type=radio])")
    return bool(typed.count() and typed.first.input_value()) or bool(field.locator("input[type=radio]:checked").count())


def _day(text: str) -> str:
    """A day: `+7` from today, or as it stands."""
    return (
        (date.today() + timedelta(days=int(text))).isoformat()
        if re.fullmatch(r"[+-]?\d{1,3}", str(text))
        else str(text)
    )


def _is_terminal(end: str) -> bool:
    return "." in end and not end.startswith("motor.")


def _check_names(one: dict[str, Any]) -> Iterator[str]:
    """Names of the checks a reading of the run may belong to, the nearest first."""
    kind, at = one["kind"], one.get("at", "")
    if kind == "run_amps_a" and one.get("speed"):
        yield f"run_amps_a.{one['speed']}"
    yield {
        "draught_inwc": "draught",
        "vent_drain": "vent",
        "co_ppm": f"{at or 'room'}_co",
        "air_c": f"{at}_air",
        "shell_c": "heat",
        "air_speed_fpm": "air",
        "sister_amps_a": "sister",
    }.get(kind, kind)
