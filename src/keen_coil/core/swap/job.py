"""What kind of job a swap is: its features, derived from call, choice and plan. The step table hangs on them.

A feature is a word; `FEATURES` says what each means and where it comes from, so that the step table can be reviewed.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from ..call import Call
from ..diagnosis.applies import no_capacitor
from ..judge.capacitor import bleed_s
from ..match.geometry import Section
from ..match.row import kind_of
from ..match.turning import opposite
from ..plates import Motor
from ..record import KeptWork
from ..tables import complete
from ..vocabulary import Hub, InducerBuild, Position, Removal, Role, ShaftSense, words_of
from ..voltage import is_low_connection
from .recorded import features_of_findings, features_of_hub, minutes_to_cool

Kind = Literal["motor", "capacitor", "module", "none"]
HUBS: dict[Hub, tuple[str, str]] = {
    "free": ("comes off easily", "New enough, or it moved when you tried it."),
    "stuck": ("stuck", "Oil it early and let it soak. Wrenches if there are flats, otherwise the puller."),
    "hard": ("seized on", "Oil, time, then the hub puller."),
}
complete(HUBS, words_of(Hub), "HUBS")
BUILDS: dict[InducerBuild, tuple[str, str]] = {
    "motor": ("motor alone", "Wheel and housing stay. The motor is changed on its plate."),
    "assembly": ("complete assembly", "Motor, wheel and housing as one, with both gaskets."),
}
REMOVALS: dict[Removal, tuple[str, str]] = {
    "blade_first": ("blade off first", "The motor stays mounted while you pull the blade."),
    "together": ("out together", "Motor and blade come out together. Pull the hub on the ground."),
}
ACCESS: dict[tuple[str, str], str] = {
    ("condenser_fan", "split_condenser"): "top",
    ("condenser_fan", "heat_pump_outdoor"): "top",
    ("condenser_fan", "package_unit"): "guard",
    ("indoor_blower", "furnace"): "drawer",
    ("indoor_blower", "air_handler"): "drawer",
    ("indoor_blower", "package_unit"): "drawer",
    ("indoor_blower", "fan_coil"): "coil_unit",
}
"""How a motor of a role is reached in a kind of unit (trade)."""
DEFAULT_ACCESS = {"condenser_fan": "top", "indoor_blower": "drawer", "inducer": "inducer"}
complete(DEFAULT_ACCESS, words_of(Role), "DEFAULT_ACCESS")
DEFAULT_REMOVAL: dict[str, Removal] = {
    "top": "blade_first",
    "guard": "together",
    "drawer": "together",
    "coil_unit": "together",
    "inducer": "together",
}
STUCK_AFTER_YEARS = 5
"""Outdoors a hub of this age is planned as stuck (trade)."""
ECM_WAIT_MIN = 5.0
OIL_MIN = {"stuck": 15.0, "hard": 30.0}
"""Minutes that penetrating oil is given (trade)."""
WARM_MIN = 10.0
"""Minutes it runs before noise, heat and amps are read (trade)."""
LONG_WAIT_MIN = 240.0
"""A part further away than this makes two visits of it: nothing is taken apart on the first."""
BLEED_UNREAD_S = 8
"""For a can that nobody has read: as for 80 µF, the largest of these units (trade)."""


@dataclass(frozen=True)
class Plan:
    """What was settled at the stations before, as the core needs it.

    `work` is the match's work list (`do`, `part`, `minutes`); `capacitor_says` what was chosen, None when nothing is,
    with `capacitor_parts` its part numbers, `temporary` when it may not stay; `moves` counts the hook-up's moves,
    `capped` the leads it caps; `hook_up` its school. `wait_min` is how long a part that is not on the van
    takes from its order, None when nobody knows.
    """

    work: Sequence[KeptWork] = ()
    capacitor_says: str | None = None
    capacitor_parts: tuple[str, ...] = ()
    capacitor_stays: bool = False
    temporary: bool = False
    moves: int = 0
    capped: tuple[str, ...] = ()
    hook_up: str | None = None
    hub: Hub | None = None
    removal: Removal | None = None
    wait_min: float | None = None
    on_van: bool = True
    blade_at_in: float | None = None
    build: InducerBuild = "motor"


@dataclass(frozen=True)
class Job:
    """A swap: its kind, its features, the words that steps are filled with, its waits in minutes by name."""

    kind: Kind
    features: frozenset[str]
    words: Mapping[str, str] = field(default_factory=dict)
    waits: Mapping[str, float] = field(default_factory=dict)
    parts: tuple[str, ...] = ()
    work: tuple[tuple[str, float], ...] = ()
    """What the match brings to do that no step of the table covers: sentence and minutes."""
    hub: Hub = "free"
    removal: Removal = "blade_first"
    hub_tried: bool = False

    def has(self, *names: str) -> bool:
        """Whether all these features hold; `a|b` is either, `!a` its absence."""
        return all(self._holds(name) for name in names)

    def _holds(self, name: str) -> bool:
        if name.startswith("!"):
            return not self._holds(name[1:])
        return any(one in self.features for one in name.split("|"))


FEATURES: dict[str, str] = {
    "motor": "a motor was chosen",
    "capacitor_only": "the capacitor alone is replaced",
    "module": "the module alone",
    "condenser_fan": "role",
    "indoor_blower": "role",
    "inducer": "role",
    "top": "fan hangs in the top that lifts off",
    "guard": "through the fan guard on a roof",
    "drawer": "blower housing on its rails",
    "coil_unit": "fan coil behind its panel",
    "outdoors": "condenser fan",
    "blade": "propeller",
    "wheel": "blower or inducer wheel",
    "belt": "belt drive",
    "direct": "on the shaft",
    "ecm": "ECM",
    "three_phase": "three-phase motor",
    "old_stud": "old motor on studs",
    "old_belly_band": "in a band",
    "old_lug": "on lugs",
    "old_integral_arms": "on its own arms",
    "old_base": "on a base",
    "old_face": "by its face",
    "old_unknown": "how it is held is not noted",
    "new_stud": "new motor on studs",
    "new_belly_band": "in a band",
    "new_lug": "on lugs",
    "new_integral_arms": "on its own arms",
    "new_base": "on a base",
    "new_face": "by its face",
    "new_unknown": "how it is held is not noted",
    "remount": "old and new are mounted differently",
    "cut_studs": "stud ends meet something",
    "cut_shaft": "the shaft is longer than the hub needs",
    "file_flat": "no flat where the screw sits",
    "bushing": "hub bore larger than the shaft",
    "straps": "dual-voltage plate",
    "reversible": "either way round",
    "drains": "a motor in the rain that has drains",
    "stuck": "hub stuck, or stuck hard",
    "hard": "hub stuck hard",
    "stuck_hub": "hub stuck, where the wheel is reached only once the assembly is out",
    "planned_wires": "a hook-up was kept: its moves say where each lead goes",
    "wrenches": "stuck blade hub on a shaft with flats",
    "puller": "stuck hard, or stuck where no two wrenches go",
    "clip_on": "hub held by a spring clip",
    "pressed_on": "hub pressed on",
    "keyed": "keyed shaft",
    "assembly": "inducer replaced as a complete assembly",
    "motor_alone": "inducer motor alone",
    "packed": "blade or wheel packed with dirt",
    "damaged_load": "blade or wheel bent or cracked",
    "nest": "a nest or debris was found",
    "blocked_drain": "vent or drain blocked, or of an inducer nobody looked",
    "bad_wire": "a wire rubbed, broken or shorted, not repaired yet",
    "bad_connection": "a connection loose, burnt or off, not remade yet",
    "blade_first": "blade off first",
    "together": "motor and blade together",
    "capacitor": "the motor runs on a capacitor",
    "new_capacitor": "another capacitor goes in",
    "kept_capacitor": "the old one stays",
    "strapped": "several parts or sections joined",
    "school_dual": "fan section of the dual",
    "school_own": "a capacitor of its own beside the dual",
    "temporary": "may not stay for good",
    "hot": "motor too hot for hands",
    "order": "the part is not on the van",
    "two_visits": "the part comes later than a day's work waits",
    "gas": "a gas furnace",
    "clean_air": "air path dirty, or nobody looked",
    "sister": "another motor like it on the unit",
    "capped": "leads of the new motor that are not used",
}


def job_for(call: Call, plan: Plan, section: Section | None = None, verdict: str = "") -> Job:
    """The job of a call: its kind, features, words and waits (minutes).

    `section` is the new motor laid out along its shaft, for what is cut; `verdict` the assessment's, for a job without
    a new motor. Unknown facts set no feature, but for those where the careful way costs little: see `FEATURES`.
    """
    kind = _kind(call, verdict)
    old, new = call.motor, call.chosen_motor or call.motor
    access = ACCESS.get((old.role or "", call.unit.kind or "")) or DEFAULT_ACCESS.get(old.role or "", "top")
    hub = plan.hub or _hub(call)
    removal = plan.removal or DEFAULT_REMOVAL[access]
    found = {kind if kind != "capacitor" else "capacitor_only", old.role or "condenser_fan", access}
    found |= _of_place(call) | _of_body(old, new, section) | _of_work(plan)
    found |= _of_wiring(call, new, plan, kind) | {removal}
    found |= features_of_hub(call, hub, found) | features_of_findings(call)
    if old.role == "inducer":
        found |= {"assembly" if plan.build == "assembly" else "motor_alone"}
    waits = _waits(call, plan, found, hub)
    found |= {"hot"} if "cool" in waits else set()
    if not plan.on_van and kind == "motor":
        found |= {"order"} | ({"two_visits"} if _long(plan.wait_min) else set())
    work = tuple((item.do, item.minutes) for item in plan.work if not kind_of(item.key).covered)
    words, parts = _words(call, new, plan, section), _parts(new, plan, found)
    words["by_hand"] = "with a stick through the guard" if access in ("top", "guard") else "by hand"
    return Job(kind, frozenset(found), words, waits, parts, work, hub, removal, plan.hub is not None)


def _long(wait_min: float | None) -> bool:
    """Whether a part comes later than a day's work waits for it; one of unknown day counts as late."""
    return wait_min is None or wait_min > LONG_WAIT_MIN


def _kind(call: Call, verdict: str) -> Kind:
    if call.chosen_motor is not None:
        return "motor"
    if verdict == "replace_capacitor":
        return "capacitor"
    return "module" if verdict == "replace_module" else "none"


def _hub(call: Call) -> Hub:
    """How a hub is planned for that nobody has tried: stuck outdoors from some years on, or of unknown age."""
    if call.motor.role not in ("condenser_fan", None):
        return "free"
    age = call.unit.age_years
    return "stuck" if age is None or age >= STUCK_AFTER_YEARS else "free"


def _of_place(call: Call) -> set[str]:
    unit, role = call.unit, call.motor.role
    found = {"outdoors"} if role in ("condenser_fan", None) else set()
    found |= {"gas"} if role == "inducer" or unit.kind == "furnace" else set()
    found |= {"sister"} if unit.sisters else set()
    looks = [str(reading.value) for _, reading in call.standing("air_path")]
    cleaned = any(change.what in ("coil_cleaned", "filter_changed") for change in call.changes)
    clean = (looks[-1] != "clear" if looks else True) and not cleaned
    return found | ({"clean_air"} if clean and role != "inducer" else set())


def _of_body(old: Motor, new: Motor, section: Section | None) -> set[str]:
    wheel = old.fan in ("forward_curved", "inducer_wheel") or (
        old.fan is None and old.role in ("indoor_blower", "inducer")
    )
    found = {"wheel" if wheel else "blade", "belt" if old.drive == "belt" else "direct"}
    found |= {f"old_{old.mount or 'unknown'}", f"new_{new.mount or old.mount or 'unknown'}"}
    found |= {"remount"} if old.mount and new.mount and old.mount != new.mount else set()
    if section is not None:
        found |= {"cut_studs"} if section.of("studs_meet") else set()
        found |= {"cut_shaft"} if section.cut_in > 0 else set()
        found |= {"file_flat"} if section.of("no_flat", "screw_off_flat") else set()
    found |= {"straps"} if "/" in (new.volts or "") else set()
    found |= {"reversible"} if new.rotation and new.rotation.sense == "reversible" else set()
    return found | ({"drains"} if old.role in ("condenser_fan", None) and new.enclosure != "open" else set())


def _of_work(plan: Plan) -> set[str]:
    """Features that the match's work brings."""
    return {kind_of(item.key).feature for item in plan.work} - {""}


def _of_wiring(call: Call, new: Motor, plan: Plan, kind: Kind) -> set[str]:
    found = {"ecm"} if new.traits.is_electronic else set()
    found |= {"three_phase"} if new.traits.is_three_phase else set()
    found |= {"capped"} if plan.capped else set()
    found |= {"planned_wires"} if plan.moves else set()
    if no_capacitor(call) is None or (new.has_run_capacitor and new.capacitor_uf):
        found.add("capacitor")
        found.add("kept_capacitor" if plan.capacitor_stays and kind == "motor" else "new_capacitor")
        found |= {"strapped"} if len(plan.capacitor_parts) > 1 else set()
        found |= {"temporary"} if plan.temporary else set()
        if call.unit.run_capacitor == "dual":
            found.add("school_own" if plan.hook_up == "own" else "school_dual")
    return found


def _waits(call: Call, plan: Plan, found: set[str], hub: Hub) -> dict[str, float]:
    """The waits of the job in minutes, by name."""
    waits = {"warm": WARM_MIN}
    if found & {"stuck", "stuck_hub"}:
        waits["oil"] = OIL_MIN[hub]
    if "capacitor" in found:
        waits["bleed"] = _bleed_min(call)
    if "ecm" in found or call.motor.traits.is_electronic:
        waits["module"] = ECM_WAIT_MIN
    cool = minutes_to_cool(call)
    if cool:
        waits["cool"] = cool
    if not plan.on_van and plan.wait_min:
        waits["part"] = max(0.0, plan.wait_min)
    return waits


def _bleed_min(call: Call) -> float:
    return round((bleed_s(call) or BLEED_UNREAD_S) * max(1, len(call.capacitor.label)) / 60, 1)


def _parts(new: Motor, plan: Plan, features: set[str]) -> tuple[str, ...]:
    """Part numbers and parts that go up with the technician."""
    found = [f"motor {new.part_no or ''}".strip()] if "motor" in features else []
    if "new_capacitor" in features:
        asked = f"capacitor {new.capacitor_uf:g} µF" if new.capacitor_uf else "capacitor"
        found += [f"capacitor {part}" for part in plan.capacitor_parts] or [asked]
    others = [item for item in plan.work if item.part and not kind_of(item.key).capacitor]
    found += [str(item.part) for item in others if item.part != new.part_no]
    return tuple(dict.fromkeys(found))


_LOWEST = {
    "shaft_down": "the ones at the shaft end, plug those at the far end",
    "shaft_up": "the ones at the far end, plug those at the shaft end",
    "horizontal": "the ones on the lower side, plug those on the upper side",
}
complete(_LOWEST, words_of(Position), "_LOWEST")


def drains_to_open(mounted: str | None) -> str:
    """Which drain openings are opened for a position, which plugged: water leaves at the lowest (trade)."""
    return _LOWEST.get(mounted or "", "the lowest as it hangs, plug the upper ones")


def way_on_plate(call: Call) -> str:
    """The way the old motor turned seen from the shaft end, by its plate; "" where the plate is silent."""
    return _WAYS.get(_wanted_way(call, None) or "", "")


_WAYS = {"cw": "clockwise", "ccw": "counter-clockwise"}


def way_words(way: str | None) -> str:
    """A way of turning with the end it is seen from; without one, how to find it."""
    return f"{way} from the shaft end" if way else "the way the old one turned, viewed from the same end"


def _held(call: Call) -> str:
    """How blade or wheel is held on the new shaft, in words."""
    if call.motor.shaft is not None and call.motor.shaft.keyed:
        return "key in, one screw on the key, the other on the flat"
    words = {
        "clip": "its clip seated",
        "pressed": "pressed on to the mark",
        "bolted": "hub bolted, screw on the flat",
    }
    return words.get(call.load.hub or "", "screw on the flat")


def _words(call: Call, new: Motor, plan: Plan, section: Section | None) -> dict[str, str]:
    at = plan.blade_at_in if plan.blade_at_in is not None else section.at_in if section else None
    cut, left = (section.cut_in, section.left_in) if section else (0.0, None)
    low = bool(new.volts and is_low_connection(new.volts, call.line_v))
    line = f"{call.line_v:g} V, the {'low' if low else 'high'} connection" if call.line_v else "the volts read here"
    way = new.rotation.sense if new.rotation and new.rotation.sense in words_of(ShaftSense) else None
    return {
        "part": new.part_no or "the new motor",
        "capacitor": plan.capacitor_says or new.capacitor_words,
        "hub_at": "its old spot" if at is None else f"{at:.2f} in from the mounting face to the hub's middle",
        "cut": "what is too long" if not cut else f"{cut:.2f} in",
        "left": "" if left is None else f", {left:.2f} in left past the body",
        "drains": drains_to_open(call.unit.mounted),
        "held": _held(call),
        "volts": line,
        "way": way_words(_WAYS.get(_wanted_way(call, way) or "")),
        "moves": f": {plan.moves} moves" if plan.moves else "",
        "capped": ", ".join(plan.capped) or "those not used",
    }


def _wanted_way(call: Call, way: str | None) -> str | None:
    """The way the old motor turned, from the shaft end."""
    old = call.motor.rotation
    if old is None or old.sense is None or old.sense == "reversible":
        return way
    return opposite(old.sense) if old.seen_from == "lead_end" else old.sense
