"""Clocks, writes, merging and stock of replicas: what holds whatever was done, in whatever order it comes together."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.replicas import clock
from keen_coil.core.replicas.clock import ClockCheck, Dot, Order, stamp_at
from keen_coil.core.replicas.merge import RULES, Address, Write, join, lead, merge, seen_by_next, written_over
from keen_coil.core.replicas.twice import UnitSeen, entered_twice, fuller
from keen_coil.core.van.stock import Movement, balances, quantity

DAY_MS = 86_400_000
NOON = 1_790_000_000_000
COMPLAINT = Address("call", "c", "complaint")
OUTCOME = Address("call", "c", "outcome")
PLAN = Address("call", "c", "plan")
STEP = Address("step", "c", "row")
LIMITS = Address("setting", "limits", "row")
SOUNDS = Address("call", "c", "sounds")


def write(origin, ms, value, *seen):
    return written_over(Dot(origin, stamp_at(ms)), value, seen)


class Copy:
    """A replica that writes to parts and hears of others, for properties of merging alone."""

    def __init__(self, name):
        self.name, self.state, self.last = name, {}, 0

    def write(self, address, value, now):
        self.last = clock.tick(self.last, now)
        had = self.state.get(address, ())
        seen = seen_by_next(address, had, Order()) if had else ()
        new = written_over(Dot(self.name, self.last), value, seen)
        self.state[address] = join([*(one for one in had if one not in seen), new], ())

    def hear(self, other):
        self.state = merge(self.state, other.state)


VALUES = st.sampled_from([{"complaint": {"says": text}} for text in ("hums", "quiet", "trips")])
DEEDS = st.lists(st.tuples(st.integers(0, 2), st.integers(0, 3), VALUES, st.integers(0, 3 * DAY_MS)), max_size=30)


@given(DEEDS)
def test_merging_is_commutative_associative_and_idempotent(deeds):
    copies = [Copy(name) for name in "abc"]
    for who, what, value, later in deeds:
        if what == 3:
            copies[who].hear(copies[(who + 1) % 3])
        else:
            copies[who].write(Address("call", str(what), "complaint"), value, NOON + later)
    found = [merge(merge(one.state, two.state), three.state) for one, two, three in itertools.permutations(copies)] + [
        merge(copies[0].state, merge(copies[1].state, copies[2].state))
    ]
    assert all(state == found[0] for state in found)
    assert merge(found[0], found[0]) == found[0]
    for copy in copies:  # whoever's last word was heard by nobody who wrote since still has it
        for address, writes in copy.state.items():
            for one in writes:
                gone = any(one.dot in other.over for other in found[0][address])
                assert gone or one in found[0][address]


@given(st.lists(st.integers(0, 10 * DAY_MS), min_size=2, max_size=20))
def test_the_clock_never_goes_back(times):
    stamps = list(itertools.accumulate(times, lambda last, ms: clock.tick(last, NOON + ms), initial=0))
    assert stamps == sorted(set(stamps))


@given(st.integers(-10 * DAY_MS, 10 * DAY_MS), st.integers(1, DAY_MS), st.booleans())
def test_a_clock_that_is_off_wins_nothing_by_it(off, apart, van_first):
    """Two wrote apart; the shop held the van's clock against its own: what was truly later leads."""
    van_at, shop_at = (NOON, NOON + apart) if van_first else (NOON + apart, NOON)
    van = write("van", van_at + off, {"complaint": "van"})
    shop = write("shop", shop_at, {"complaint": "shop"})
    checked = clock.ahead_of(NOON + DAY_MS + off, NOON + DAY_MS)
    order = Order([ClockCheck("shop", "van", stamp_at(NOON + 2 * DAY_MS + off), checked)], ["shop"])
    if apart > 2 * clock.TOLERATED_MS:
        assert lead(COMPLAINT, (shop, van), order).write == (shop if van_first else van)


def test_the_shop_is_believed_about_a_clock_before_a_van_is():
    at = stamp_at(NOON)
    checks = [ClockCheck("van 2", "van 1", at, 9 * DAY_MS), ClockCheck("shop", "van 1", at + 1, 2 * DAY_MS)]
    assert Order(checks, ["shop"]).true_ms(Dot("van 1", at)) == NOON - 2 * DAY_MS - clock.TOLERATED_MS
    assert Order(checks[:1]).true_ms(Dot("van 1", at)) == NOON - 9 * DAY_MS - clock.TOLERATED_MS
    assert clock.heard(at, [stamp_at(NOON + 2 * DAY_MS)], NOON) == at, "nobody is dragged along"


def test_later_leads_and_the_other_stands_beside_it():
    one, two = write("a", NOON, {"complaint": "hums"}), write("b", NOON + 1, {"complaint": "quiet"})
    found = lead(COMPLAINT, (one, two), Order())
    assert (found.value, found.others, found.is_open) == (two.value, (one,), True)
    third = write("b", NOON + 2, {"complaint": "trips"}, two)
    assert join((one, two), (third,)) == (one, third), "who did not see the first leaves it beside"
    decided = write("a", NOON + 3, one.value, one, two, third)
    assert join((one, third), (decided,)) == (decided,)
    assert not lead(COMPLAINT, (one, write("b", NOON, one.value)), Order()).is_open, "the same twice is no question"


def test_what_is_closed_is_not_opened_by_who_did_not_know():
    closed = write("a", NOON, {"closed_at": "2026-07-01T10:00:00Z", "outcome": {"verdict": "not_proved"}})
    later = write("b", NOON + DAY_MS, {})
    assert lead(OUTCOME, (closed, later), Order()).write == closed


def test_a_check_stays_where_somebody_else_checked_it_too():
    mine, theirs = write("a", NOON, {"done_at": "x"}), write("b", NOON + 1, {"done_at": "y"})
    undone = write("a", NOON + 2, None, mine)
    assert lead(STEP, join((mine, undone), (theirs,)), Order()).value == {"done_at": "y"}
    assert lead(STEP, join((mine,), (undone,)), Order()).value is None


def test_the_shop_decides_its_limits():
    shop, van = write("s", NOON, {"value": 1}), write("v", NOON + DAY_MS, {"value": 2})
    found = lead(LIMITS, (shop, van), Order(shops=["s"]))
    assert (found.value, found.is_open) == ({"value": 1}, False)


def test_lists_of_both_are_joined_and_plans_that_differ_in_ticks_alone_are_one():
    sound = [{"at": f"2026-07-0{day}", "stage": "found"} for day in (1, 2, 3)]
    one = write("a", NOON, {"plan.sounds": [sound[0], sound[2]]})
    two = write("b", NOON + 1, {"plan.sounds": [sound[0], sound[1]]})
    assert lead(SOUNDS, (one, two), Order()).value == {"plan.sounds": sound}
    plan = {"chosen": {"part_no": "TM-4027"}, "plan.hookup": {"moves": [{"do": "x"}], "done": [0]}}
    other = {**plan, "plan.hookup": {"moves": [{"do": "x"}], "done": [2]}, "plan.swap": {"marks": {"turns": "6"}}}
    found = lead(PLAN, (write("a", NOON, plan), write("b", NOON + 1, other)), Order())
    assert (found.value["plan.hookup"]["done"], found.value["plan.swap"]["marks"]) == ([0, 2], {"turns": "6"})
    assert not found.is_open
    third = write("c", NOON + 2, {"chosen": {"part_no": "SE-4230"}})
    assert lead(PLAN, (write("a", NOON, plan), third), Order()).is_open


def test_every_table_has_its_rule():
    from keen_coil.store import tables
    from keen_coil.store.replica_tables import REPLICA_TABLES

    stays = {
        "account",
        "sign_in",
        "sign_in_failure",
        "import_draft",
        *(table.__tablename__ for table in REPLICA_TABLES),
    }
    assert set(tables.Table.metadata.tables) - set(RULES) <= stays
    untold = {
        "call": {"id", "version", "search_text"},
        "catalogue_motor": {column.name for column in tables.CatalogueMotor.__table__.columns} - {"plate"},
        "van_part": {"quantity"},
        "act": {"version"},
        "reading": {"id", "position"},
        "photograph": {"id", "content"},
        "replica": {"id", "knows", "heard_at", "their_knows"},
    }
    for name, travels in RULES.items():
        told = {column.partition(".")[0] for part in travels.parts.values() for column in part.columns} | {*travels.key}
        there = {column.name for column in tables.Table.metadata.tables[name].columns}
        assert there - told <= untold.get(name, {"id"}), name


MOVES = st.lists(
    st.one_of(
        st.builds(Movement, st.sampled_from(["booked", "restocked", "moved"]), st.integers(-9, 9)),
        st.builds(Movement, st.just("counted"), st.integers(0, 20)),
    )
)


@given(MOVES)
def test_stock_is_the_sum_of_what_changed_it(moves):
    found = balances(moves)
    assert quantity(moves) == sum(one.change for one in found)
    for movement, balance in zip(moves, found, strict=True):
        assert movement.kind != "counted" or balance.after == movement.quantity
        assert movement.kind == "counted" or balance.change == movement.quantity


def test_parts_handed_over_before_a_count_are_in_the_count():
    restocked, counted, used = Movement("restocked", 5), Movement("counted", 7), Movement("booked", -1)
    assert quantity([Movement("counted", 2), restocked, counted, used]) == 6


@pytest.mark.parametrize(
    ("second", "because"),
    [
        (UnitSeen("2", "Inn", "NORTH  side", ""), "name"),
        (UnitSeen("2", "Inn", "roof", "ab 12"), "serial number"),
        (UnitSeen("2", "Quay", "north side", "AB-12"), None),
        (UnitSeen("2", "Inn", "south side", ""), None),
    ],
)
def test_units_entered_twice(second, because):
    found = entered_twice([second, UnitSeen("1", "Inn", "north side", "AB-12")])
    assert [one.because for one in found] == ([because] if because else [])
    assert all(one.first.uid == "1" for one in found), "the one entered first"


def test_two_plates_are_one_where_they_agree():
    assert fuller({"rpm": 1075, "hp": "1/4"}, {"rpm": 1075, "volts": "230"}) == {
        "rpm": 1075,
        "hp": "1/4",
        "volts": "230",
    }
    assert fuller({"rpm": 1075}, {"rpm": 825}) is None
    assert join((), ()) == ()
    assert Write(Dot("a", 1), None).over == frozenset()
