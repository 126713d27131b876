"""The steps of a swap, as a table to be reviewed: what, why, the usual mistake, the caution, on what they hang.

`when` names features that must all hold (`a|b` either, `!a` absent; see `job.FEATURES`). `after` names the steps before
it that must be done, absent ones stand for their own predecessors, but for those with a `?`; left out, the row above. `wait` names a wait that
begins when the step is done and that its followers sit out. Minutes are hands-on, trade
practice. Sources: trade practice, local code where a caution says so.
"""

from __future__ import annotations

from typing import NamedTuple

ABOVE = ("^",)


class Row(NamedTuple):
    """A step of the table."""

    key: str
    phase: str
    do: str
    minutes: float
    when: tuple[str, ...] = ()
    why: str = ""
    mistake: str = ""
    caution: str = ""
    after: tuple[str, ...] = ABOVE
    wait: str = ""
    marks: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    station: str = ""


PHASES: dict[str, str] = {
    "before": "Before you go up", "safe": "Safe", "note": "Note and mark", "out": "Out", "ready": "Make ready",
    "in": "In", "wire": "Wire", "close": "Close", "run": "Run",
}  # fmt: skip

ROWS: tuple[Row, ...] = (
    # before
    Row("order", "before", "Order {part} now.", 5, ("order",), why="The ferry sets the day, not your hands: everything else runs beside it.", after=(), wait="part"),
    Row("make_do", "before", "Leave the old motor in its place until the new one is here.", 2, ("two_visits", "motor"), why="An open unit takes rain, and noted wires get knocked.", mistake="Taken apart on the first visit, put off with parts in a box.", after=()),
    Row("back", "before", "Back with the part: hold it against the old plate before the ladder goes up.", 3, ("two_visits", "motor"), why="A wrong part found on the ground costs nothing but the trip.", after=("order",)),
    Row("carry", "before", "Carry everything on the list up in one trip.", 5, ("motor|capacitor_only|module",), why="One forgotten tool is a second climb.", caution="Tie the ladder; three points of contact; nothing in the hands while you climb.", after=("back?",)),
    # safe
    Row("dead", "safe", "Disconnect pulled, breaker off, locked; proved dead; meter proved again.", 6, why="A single-pole contactor leaves one leg live when it is open.", caution="Live parts kill. Local code and licensed practice decide.", after=("carry",), tools=("lock and tag", "meter with leads"), station="make-safe"),
    Row("bleed", "safe", "Bleed the capacitor through the resistor, each pair of terminals, then read it with the meter.", 1, ("capacitor",), why="A resistor makes no arc and spares the part.", mistake="Trusted because the power is off.", caution="A charged capacitor throws you off a ladder.", after=("dead",), wait="bleed", tools=("20 kohm 5 W resistor with clips",)),
    Row("module_wait", "safe", "Leave the module alone until its own capacitors are down.", 0, ("ecm",), why="They hold charge after the power is off.", caution="Never part or mate its plugs live.", after=("dead",), wait="module"),
    Row("gas", "safe", "Gas valve at the unit shut.", 1, ("gas", "inducer"), why="The inducer is part of the combustion safety chain.", caution="Gas work: licensed practice and local code.", after=("dead",)),
    # note
    Row("open_top", "note", "Screws out, lift the top with its fan, rest it on blocks beside the unit, wires slack.", 6, ("top", "motor|capacitor_only"), why="The blade must not carry the weight.", mistake="Put down on the blade; leads pulled tight.", caution="Sheet-metal edges cut: gloves. Eyes: rust and droppings fall.", after=("dead", "bleed"), tools=("nut drivers", "gloves", "eye protection", "two blocks")),
    Row("open_guard", "note", "Fan guard off, screws in a lid; motor stays where it is.", 8, ("guard", "motor|capacitor_only"), why="The wires are noted while everything is in place.", mistake="Guard hung by its rod without a second hand.", caution="Roof edge: tools tied, nobody below.", after=("dead", "bleed"), tools=("nut drivers", "gloves", "eye protection", "tool line")),
    Row("open_drawer", "note", "Panels off. Limits, roll-out switch and board stay wired where they can; unscrew what is in the way.", 6, ("drawer", "motor|capacitor_only|module"), why="As few disconnections as possible, each noted.", mistake="Limits, roll-out switch or board knocked because they were in the way.", caution="The door switch is never left defeated.", after=("dead", "bleed", "module_wait"), tools=("nut drivers", "gloves", "torch")),
    Row("open_coil_unit", "note", "Panel off, drain pan kept level, filter out.", 6, ("coil_unit", "motor|capacitor_only|module"), why="A tipped pan wets the new motor.", caution="The coil's fins and pipes are behind the panel: no long screw back in.", after=("dead", "bleed", "module_wait"), tools=("nut drivers", "gloves", "torch")),
    Row("open_inducer", "note", "Burner door off; vent, drain and pressure tube in sight.", 4, ("inducer",), why="What leaves the inducer must go back the same way.", caution="Hot metal: let the heat exchanger cool.", after=("dead", "bleed", "module_wait", "gas"), tools=("nut drivers", "gloves", "torch")),
    Row("cool", "note", "Let the shell cool until a hand can rest on it; a fan or shade helps.", 0, ("hot", "motor|module"), why="Nothing is gripped, oiled or judged hot.", caution="Hot metal burns, and oil smokes on it.", after=("open_top", "open_guard", "open_drawer", "open_coil_unit", "open_inducer"), wait="cool", tools=("infrared thermometer",)),
    Row("picture", "note", "Photograph wires, plates, and how the motor sits, before anything comes off.", 2, ("motor|module|capacitor_only",), why="A picture is the only witness once it is apart.", mistake="No picture.", after=("open_top", "open_guard", "open_drawer", "open_coil_unit", "open_inducer"), station="plates"),
    Row("wires", "note", "Note each terminal: what is on it, its colour, where it goes.", 4, ("motor|module|capacitor_only",), why="Colours are a custom; the terminal is the fact.", mistake="Nobody noted where the wires went.", station="hook-up"),
    Row("low_volt", "note", "Note and mark the low-voltage wires: thermostat, humidifier, switches.", 3, ("drawer|coil_unit|inducer", "motor|module"), why="They come off with the drawer and look all alike.", mistake="Low-voltage wires not noted.", tools=("tape and marker",)),
    Row("blade_height", "note", "Measure the blade's height: shroud edge to blade, the same two points you will use afterwards.", 2, ("blade", "motor"), why="A blade at another height moves less air and loads the motor differently.", mistake="No mark of the blade's height.", after=("wires",), marks=("blade_height",), tools=("rule", "marker")),
    Row("wheel_place", "note", "Measure the wheel's side gaps, both sides, and mark which way round it sits.", 3, ("wheel", "direct", "indoor_blower", "motor"), why="The wheel goes back in the middle and the same way round.", mistake="Wheel put back the wrong way round.", after=("wires",), marks=("gap_far", "gap_near"), tools=("rule", "marker")),
    Row("way", "note", "Mark which way it turns: an arrow on blade or housing.", 1, ("motor",), why="Clockwise from one end is counter-clockwise from the other.", after=("wires",), marks=("turns",)),
    Row("lead_way", "note", "Note the way the leads leave the motor, as on a clock face seen from the shaft.", 1, ("motor",), why="The drains and the drip loop hang on it.", mistake="No note of lead direction.", after=("wires",), marks=("leads_at",)),
    Row("band_place", "note", "Mark the motor's place in its band: band edge to the body's end.", 1, ("old_belly_band", "motor"), why="It sets the blade's height.", mistake="Motor's position in its band not marked.", after=("wires",), marks=("band_at",)),
    Row("belt_note", "note", "Note belt size, the pulley's opening in turns, and how far the belt gives.", 4, ("belt", "motor"), why="The pulley's opening is the blower's speed.", mistake="Adjustable pulley set by eye: another speed, another load.", after=("wires",), marks=("belt_size", "pulley_turns", "belt_gives")),
    Row("tube_note", "note", "Mark the pressure tube and its port.", 1, ("inducer", "motor"), why="On the wrong port the switch proves nothing.", after=("wires",)),
    # out
    Row("oil", "out", "Emery the shaft beyond the hub, oil the hub at shaft and screw.", 3, ("stuck", "motor"), why="It works while your hands do something else.", mistake="Oil not given its time while other work could be done.", caution="Oil and hot metal smoke; keep it off the windings.", after=("blade_height", "wheel_place", "way", "cool"), wait="oil", tools=("emery cloth", "penetrating oil")),
    Row("clean", "out", "Clean coil or filter now, drive the dirt out the way it came in.", 15, ("clean_air", "motor"), why="A dirty coil kills the next motor too.", mistake="New motor behind the old dirt.", caution="Cleaner and fins: eyes and gloves. Wet parts stay off.", after=("picture",), tools=("coil brush", "cleaner", "water")),
    Row("wires_off", "out", "Take off the motor's wires as noted, no others.", 3, ("motor|module",), why="Each wire taken off is one to be put back.", after=("wires", "picture", "lead_way", "low_volt"), station="hook-up"),
    Row("belt_off", "out", "Slack the motor's base, lift the belt off, pulley off by its screw.", 6, ("belt", "motor"), mistake="Belt levered over the rim: cords broken.", caution="Fingers between belt and pulley.", after=("wires_off", "belt_note"), tools=("spanners", "hex keys")),
    Row("hub_free", "out", "Screw out; push the hub on a little, clean the shaft, then pull it off.", 4, ("direct", "blade", "blade_first", "motor"), why="The burr of the screw sits just outside the hub.", mistake="Pulled at once over rust and burr, blade bent.", after=("oil", "blade_height", "wires_off"), tools=("hex keys", "emery cloth")),
    Row("hub_wrench", "out", "Still stuck: one wrench on the hub, one on the shaft's flat, turn them against each other.", 5, ("stuck", "blade", "blade_first", "motor"), why="It breaks the rust without pulling on the blade.", tools=("two adjustable wrenches",)),
    Row("hub_puller", "out", "Still stuck: puller with its bolts in the hub, screw on the shaft's centre, motor held up.", 8, ("hard", "blade", "blade_first", "motor"), why="It pushes on the shaft alone.", mistake="Puller bolted on the wrong side, or the motor not held up.", caution="It lets go with a jump: face away.", tools=("hub puller",)),
    Row("drawer_out", "out", "Slide the blower housing out on its rails; carry it level.", 6, ("drawer", "motor"), why="Motor and wheel come out as one.", mistake="Board and limits caught by the housing's edge.", caution="It is heavy and its edges cut.", after=("wires_off", "low_volt")),
    Row("assembly_out", "out", "Vent collar, drain hose and pressure tube off, screws out, assembly out; scrape off the old gasket.", 8, ("inducer", "motor"), why="The new gasket seals on clean metal only.", mistake="Old gasket left.", caution="Rust and soot: eyes. Lay a cloth over the burners.", after=("wires_off", "tube_note"), tools=("scraper", "cloths")),
    Row("out_stud", "out", "Nuts off, their small washers in a lid, motor out.", 5, ("old_stud", "motor"), why="", mistake="Small washers lost.", caution="It hangs: hold its weight before the last nut.", after=("wires_off", "hub_free", "hub_wrench", "hub_puller", "drawer_out", "assembly_out", "belt_off", "band_place"), tools=("nut drivers",)),
    Row("out_belly_band", "out", "Slack the band, draw the motor out, isolators kept in order.", 5, ("old_belly_band", "motor"), mistake="Rubber isolators thrown in a heap.", caution="It drops when the band lets go: hold its weight.", after=("wires_off", "hub_free", "hub_wrench", "hub_puller", "drawer_out", "assembly_out", "belt_off", "band_place"), tools=("nut drivers",)),
    Row("out_lug", "out", "Screws out of the lugs, grommets kept in order, motor out.", 5, ("old_lug|old_integral_arms", "motor"), caution="Hold its weight before the last screw.", after=("wires_off", "hub_free", "hub_wrench", "hub_puller", "drawer_out", "assembly_out", "belt_off"), tools=("nut drivers",)),
    Row("out_base", "out", "Base bolts out, shims counted and kept in their places, motor out.", 8, ("old_base", "motor"), mistake="Shims mixed: pulleys out of line.", caution="Two people from 20 kg on.", after=("wires_off", "belt_off", "hub_free", "hub_wrench", "hub_puller"), tools=("spanners",)),
    Row("out_face", "out", "Face screws out, motor out.", 5, ("old_face", "motor"), caution="Hold its weight before the last screw.", after=("wires_off", "hub_free", "hub_wrench", "hub_puller", "drawer_out", "assembly_out", "belt_off"), tools=("nut drivers",)),
    Row("module_out", "out", "Module's bolts out, draw it off straight, part its plug from the motor.", 4, ("module",), why="The motor half stays: it has been proved.", mistake="Plug pulled by its wires.", caution="Its capacitors: the five minutes must be over.", after=("wires_off",), tools=("nut drivers",)),
    Row("bench_hub_free", "out", "On the ground: screw out, push the hub on a little, clean the shaft, pull it off.", 4, ("direct", "together|wheel", "motor"), why="The burr of the screw sits just outside the hub.", mistake="Pulled over rust and burr, wheel bent.", after=("out_stud", "out_belly_band", "out_lug", "out_base", "out_face", "oil"), tools=("hex keys", "emery cloth")),
    Row("bench_hub_wrench", "out", "Still stuck: one wrench on the hub, one on the shaft's flat, against each other.", 5, ("stuck", "together|wheel", "motor"), tools=("two adjustable wrenches",)),
    Row("bench_hub_puller", "out", "Still stuck: puller with its bolts in the hub, screw on the shaft's centre, motor held up.", 8, ("hard", "together|wheel", "motor"), why="It pushes on the shaft alone.", mistake="Puller bolted on the wrong side, or the motor not held up.", caution="It lets go with a jump: face away.", tools=("hub puller",)),
    # ready
    Row("compare", "ready", "Old and new beside each other: volts, speed, shaft, length, studs, leads.", 3, ("motor",), why="The last cheap moment to find the wrong part.", after=("order", "carry"), station="match"),
    Row("straps", "ready", "Strap it for {volts}, by its own diagram.", 4, ("straps", "motor"), mistake="Left as shipped: half or twice the volts on the winding.", after=("compare",)),
    Row("rotation", "ready", "Set the rotation: {way} from the shaft end.", 2, ("reversible", "motor"), why="Cheaper here than with the fan on.", after=("compare", "way")),
    Row("drains", "ready", "Drains: open {drains}.", 2, ("drains", "motor"), why="Water that cannot leave kills the bearings and the winding.", mistake="Drain plugs left in, or the upper ones opened.", after=("compare",)),
    Row("studs", "ready", "Nuts onto the studs first, then cut the ends; run the nuts off over the cut.", 6, ("cut_studs", "motor"), why="The nut cleans the thread on its way off.", mistake="Studs cut before the nuts are on; long ones left to hit the blade.", caution="Filings out of the motor; eyes.", after=("compare",), tools=("hacksaw", "file")),
    Row("shaft", "ready", "Measure the hub's place twice, then cut {cut} off the shaft{left}; dress the end.", 12, ("cut_shaft", "motor"), why="A long shaft can be cut, a short one cannot be stretched.", mistake="Not measured before cutting, not dressed after.", caution="Filings out of the motor: bag over it, opening down.", after=("compare", "blade_height"), tools=("hacksaw", "file", "emery cloth", "vice or clamp"), station="match"),
    Row("flat", "ready", "File a flat where the set screw will sit.", 6, ("file_flat", "motor"), mistake="Screw on the round: it walks and scores the shaft.", after=("compare", "shaft"), tools=("file",)),
    Row("bushing", "ready", "Bushing into the hub, its slot under the screw.", 4, ("bushing", "motor"), after=("compare",), parts=("shaft bushing",)),
    Row("hub_clean", "ready", "Clean the hub's bore; look for cracks, bends and loose rivets in blade or wheel.", 4, ("motor",), why="A hub that slides on needs no hammer.", mistake="A cracked blade put back on a new motor.", after=("hub_free", "hub_wrench", "hub_puller", "bench_hub_free", "bench_hub_wrench", "bench_hub_puller", "belt_off"), tools=("emery cloth",)),
    Row("remount", "ready", "Fit the bracket, band or adapter to the new motor loosely.", 8, ("remount", "motor"), after=("compare",)),
    Row("isolators", "ready", "Grommets and isolators: renew what has perished, line them up with the bracket.", 3, ("old_belly_band|new_belly_band|old_lug|new_lug|old_integral_arms", "motor"), mistake="Perished grommets used again; isolators not lined up with the bracket.", after=("compare", "remount"), parts=("grommets or isolators",)),
    # in
    Row("in_stud", "in", "New motor in, leads {leads}, washers and nuts on, drawn up crosswise.", 6, ("new_stud", "motor"), why="Drains and drip loop hang on the way the leads leave.", mistake="Leads turned up: water runs along them.", caution="Hold its weight until two nuts bear.", after=("straps", "rotation", "drains", "studs", "shaft", "flat", "bushing", "remount", "isolators", "out_stud", "out_belly_band", "out_lug", "out_base", "out_face"), tools=("nut drivers",)),
    Row("in_belly_band", "in", "New motor into its band at the mark, leads {leads}, isolators in line, band drawn tight.", 7, ("new_belly_band", "motor"), mistake="Band across the vents or drains; screw of the band under the blade.", caution="Hold its weight until the band bears.", after=("straps", "rotation", "drains", "studs", "shaft", "flat", "bushing", "remount", "isolators", "out_stud", "out_belly_band", "out_lug", "out_base", "out_face"), marks=("band_at_after",), tools=("nut drivers",)),
    Row("in_lug", "in", "New motor onto its lugs, leads {leads}, grommets seated.", 6, ("new_lug|new_integral_arms", "motor"), after=("straps", "rotation", "drains", "studs", "shaft", "flat", "bushing", "remount", "isolators", "out_stud", "out_belly_band", "out_lug", "out_base", "out_face"), tools=("nut drivers",)),
    Row("in_base", "in", "New motor onto its base, shims back in their places, bolts hand-tight.", 8, ("new_base", "motor"), caution="Two people from 20 kg on.", after=("straps", "rotation", "drains", "shaft", "remount", "out_stud", "out_belly_band", "out_lug", "out_base", "out_face"), tools=("spanners",)),
    Row("in_face", "in", "New motor onto its face screws, leads {leads}.", 6, ("new_face", "motor"), after=("straps", "rotation", "drains", "shaft", "flat", "remount", "out_stud", "out_belly_band", "out_lug", "out_base", "out_face"), tools=("nut drivers",)),
    Row("blade_on", "in", "Blade on at {hub_at}: the height you measured, screw on the flat.", 5, ("blade", "direct", "motor"), why="Within 1/8 in of where it was.", mistake="Set screw not on the flat, or a second screw tightened where there is no flat; blade at another height than before.", after=("in_stud", "in_belly_band", "in_lug", "in_base", "in_face", "hub_clean"), marks=("blade_height_after",), tools=("hex keys", "rule")),
    Row("wheel_on", "in", "Wheel on the same way round, screw on the flat, gaps alike on both sides.", 7, ("wheel", "direct", "motor", "!inducer"), why="Side gaps alike within 1/16 in.", mistake="Wheel not centred; put back the wrong way round; screw not on the flat.", after=("in_stud", "in_belly_band", "in_lug", "in_base", "in_face", "hub_clean"), marks=("gap_far_after", "gap_near_after"), tools=("hex keys", "rule")),
    Row("inducer_wheel_on", "in", "Wheel on to its mark, screw on the flat; spin it: it clears the housing all round.", 5, ("wheel", "inducer", "motor"), mistake="Wheel pushed on too far, rubs when hot.", after=("in_stud", "in_belly_band", "in_lug", "in_base", "in_face", "hub_clean"), tools=("hex keys",)),
    Row("belt_on", "in", "Pulley on by its key, opening as noted; line the pulleys up by a straightedge; belt on, tension as noted.", 12, ("belt", "motor"), mistake="Belt too tight: it eats bearings. Out of line: it eats itself.", caution="Fingers between belt and pulley.", after=("in_stud", "in_belly_band", "in_lug", "in_base", "in_face", "hub_clean"), marks=("belt_gives_after",), tools=("straightedge", "spanners"), parts=("belt of the noted size",)),
    Row("drawer_in", "in", "Housing back on its rails, level, nothing pinched; switches and limits screwed back.", 7, ("drawer", "motor"), mistake="A wire pinched under the housing.", after=("wheel_on", "belt_on")),
    Row("gasket", "in", "New gasket on clean metal, or heat-proof sealant where the unit has none; assembly in, screws crosswise.", 8, ("inducer", "motor"), why="A leak here draws burner gas or fools the pressure switch.", mistake="Old gasket left, or none put back where heat-proof sealant would have done.", after=("inducer_wheel_on",), parts=("inducer gasket or heat-proof sealant",)),
    Row("tube", "in", "Pressure tube on its own port, no kink and no water; drain hose on and clear.", 3, ("inducer", "motor"), mistake="Tube on the wrong port.", caution="Never jumper a pressure, limit or roll-out switch to keep it running.", after=("gasket",)),
    Row("module_in", "in", "New module on: plug first, then bolts; the drip loop below it.", 5, ("module",), mistake="Bolts first, plug pinched.", after=("module_out",), parts=("module",)),
    # wire
    Row("capacitor", "wire", "Capacitor: {capacitor}. Look what is behind the sheet before a screw goes in.", 6, ("new_capacitor", "!strapped"), why="Its µF are the new motor's, never near enough upward.", mistake="A mounting screw driven into the coil.", caution="Coil and refrigerant lines may be behind the panel.", after=("in_stud", "in_belly_band", "in_lug", "in_base", "in_face", "picture", "wires", "carry"), station="capacitor"),
    Row("capacitor_joined", "wire", "Capacitors joined: {capacitor}. Straps as drawn; look what is behind the sheet.", 9, ("new_capacitor", "strapped"), why="Parallel adds, series shares the volts.", mistake="A mounting screw driven into the coil.", caution="Coil and refrigerant lines may be behind the panel.", after=("in_stud", "in_belly_band", "in_lug", "in_base", "in_face", "picture", "wires", "carry"), parts=("straps",), station="capacitor"),
    Row("capacitor_kept", "wire", "The capacitor stays: read it once more, its look too.", 2, ("kept_capacitor", "motor"), why="Its value fits the new motor and it reads inside its tolerance; the record says so.", after=("in_stud", "in_belly_band", "in_lug", "in_base", "in_face", "bleed"), station="capacitor"),
    Row("dual_section", "wire", "Start lead on the dual's fan terminal; the lead that reads zero ohm to a line lead capped or to common.", 3, ("school_dual", "motor"), why="The other way round the auxiliary winding sits straight on the line.", mistake="Told by colour instead of by ohms.", after=("capacitor", "capacitor_joined", "capacitor_kept"), station="hook-up"),
    Row("own_capacitor", "wire", "The fan's own capacitor beside the dual; the dual's fan section stays empty.", 4, ("school_own", "motor"), why="The dual goes on serving the compressor.", mistake="The old fan wire left on the dual: both in the circuit.", after=("capacitor", "capacitor_joined", "capacitor_kept"), parts=("capacitor strap",), station="hook-up"),
    Row("temporary", "wire", "Tag it as temporary, with today's date.", 1, ("temporary",), why="The next hand must know.", after=("capacitor", "capacitor_joined")),
    Row("connect", "wire", "Wire it as Hook-up plans: {moves} moves.", 8, ("motor",), why="Ohms prove a lead, colours do not.", after=("wires_off", "capacitor", "capacitor_joined", "capacitor_kept", "dual_section", "own_capacitor", "in_stud", "in_belly_band", "in_lug", "in_base", "in_face", "belt_on", "drawer_in", "tube"), tools=("crimper", "terminals"), station="hook-up"),
    Row("connect_capacitor", "wire", "Wires back on the new capacitor as noted, each on its own terminal.", 4, ("capacitor_only",), mistake="Fan and compressor terminals changed over.", after=("capacitor", "capacitor_joined"), station="hook-up"),
    Row("connect_module", "wire", "Plugs in till they click: power, then command.", 3, ("module",), caution="Never mate them live.", after=("module_in",)),
    Row("cap", "wire", "Cap the leads not used, one by one: {capped}.", 3, ("capped", "motor"), mistake="Two leads under one cap: a tap shorted.", after=("connect",), tools=("wire caps",)),
    Row("ground", "wire", "Ground lead on bare metal, tugged.", 1, ("motor|module",), mistake="Ground left off.", caution="Without it the frame is live at the first fault.", after=("connect", "connect_module")),
    Row("megger", "wire", "Insulation test, leads to frame, at 500 V before it is joined to anything electronic.", 4, ("three_phase", "motor"), why="A reference for the next visit.", caution="Over 300 V: for people qualified for it.", after=("in_stud", "in_belly_band", "in_lug", "in_base", "in_face"), tools=("insulation tester",), station="path"),
    Row("route_out", "wire", "Leads away from the blade: drip loop, loom over edges, reversing leads in heat shrink and tied up under the top.", 5, ("outdoors", "motor"), why="Sun-rated ties or metal ones with sleeve.", mistake="Leads over a sharp edge without loom; loose wires near the blade; reversing leads in its way.", after=("connect", "cap", "ground"), tools=("heat shrink", "sun-rated ties", "loom")),
    Row("route_in", "wire", "Leads tied clear of wheel and edges, in loom; low-voltage wires back on their marks.", 4, ("drawer|coil_unit", "motor|module"), mistake="A lead left to rub on the housing; thermostat wires changed over.", after=("connect", "connect_module", "cap", "ground"), tools=("loom", "ties")),
    Row("route_inducer", "wire", "Leads off hot metal, in sleeve, away from burners and vent.", 3, ("inducer", "motor|module"), mistake="Leads of an inducer against hot metal.", after=("connect", "connect_module", "cap", "ground"), tools=("heat-proof sleeve",)),
    # close
    Row("by_hand", "close", "Turn it by hand, a stick through the guard: nothing touches.", 1, ("motor|module",), mistake="Closed first, heard rubbing after.", after=("blade_on", "wheel_on", "inducer_wheel_on", "belt_on", "drawer_in", "route_out", "route_in", "route_inducer", "connect_module")),
    Row("count", "close", "Count tools and rags; photograph the finished wiring.", 2, ("motor|module|capacitor_only",), why="The next visit begins with this picture.", after=("by_hand", "connect_capacitor", "clean", "megger", "temporary"), station="plates"),
    Row("close_top", "close", "Top back on, wires not pinched, all screws in.", 5, ("top", "motor|capacitor_only"), mistake="Long screws into the coil."),
    Row("close_guard", "close", "Guard back on, all screws in: it holds the motor.", 6, ("guard", "motor|capacitor_only"), caution="Roof edge."),
    Row("close_inside", "close", "Panels on, door switch made by its door, filter in the right way.", 4, ("drawer|coil_unit", "motor|module|capacitor_only"), caution="The door switch is never left defeated."),
    Row("vent", "close", "Vent joined, screwed and sealed; burner door on; gas valve open.", 5, ("inducer",), why="A vent left apart fills the room.", caution="Carbon monoxide: no run without the vent joined."),
    # run
    Row("power", "run", "People clear. Lock off, power on, call for it: which way does it turn?", 3, ("motor|module|capacitor_only",), why="Wrong way: stop, reverse, try again.", caution="Hands out, guards on. Local code and licensed practice decide.", after=("close_top", "close_guard", "close_inside", "vent", "count"), wait="warm", station="run-proof"),
    Row("figures", "run", "Volts, amps on every speed used, noise and heat: the run proof.", 8, ("motor|module|capacitor_only",), why="Warm figures are the honest ones.", tools=("clamp meter",), station="run-proof"),
    Row("monoxide", "run", "No spillage at the draught hood or vent; carbon monoxide read beside the unit.", 5, ("gas", "motor|module", "inducer"), caution="Any reading that rises: off, gas shut, air the room.", tools=("carbon monoxide meter",), after=("power",)),
    Row("sister", "run", "Clamp the sister motor too: the two are each other's best reference.", 2, ("sister", "motor"), after=("power",), station="run-proof"),
)  # fmt: skip
ALWAYS_UP = ("meter with leads", "torch", "this tablet")
"""Carried on every job."""
