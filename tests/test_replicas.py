"""Any acts on three laptops, brought together in any order: the same everywhere, nothing acknowledged is missing."""

import random
from contextlib import closing, nullcontext, suppress
from unittest.mock import patch

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from keen_coil.core.errors import KeenCoilError
from keen_coil.core.replicas.merge import join, merge
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.sync import merge_package
from keen_coil.services.sync.authors import Bearer
from keen_coil.services.sync.merge_package import take_package
from tests import replicas
from tests.replicas import ACTS, bring, content, real_calls, whole_state

KEPT = ("call", "reading", "photograph", "part_used", "stock_movement", "unit", "motor")
"""What nobody can take away again."""


@pytest.fixture(scope="module")
def master(tmp_path_factory):
    folder = tmp_path_factory.mktemp("master")
    replicas.three(folder)
    return folder


@pytest.fixture
def shop(master, tmp_path):
    """The shop and two vans."""
    found = replicas.opened(master, tmp_path)
    yield found
    for db in found:
        db.close()


def do(db, name, number):
    """An act that may be refused, as a page's may."""
    with suppress(KeenCoilError):
        ACTS[name](db, number)


def together(dbs, order):
    """Packages between all of them until nobody has anything new, in an order of its own."""
    pairs, chance = [(a, b) for a in dbs for b in dbs if a is not b], random.Random(order)
    for _ in range(4):
        chance.shuffle(pairs)
        if not any([bring(sender, receiver).both for sender, receiver in pairs]):
            return
    raise AssertionError("there is always something new")


ACT = st.tuples(st.integers(0, 2), st.sampled_from(sorted(ACTS)), st.integers(0, 40))
EXCHANGE = st.tuples(st.integers(0, 2), st.just("to"), st.integers(1, 2))


@pytest.mark.parametrize("way", ["at once", "in slices"])
@settings(max_examples=2, suppress_health_check=list(HealthCheck))
@given(acts=st.lists(st.one_of(ACT, ACT, ACT, EXCHANGE), min_size=6, max_size=30), order=st.integers(0, 9))
def test_any_acts_and_any_order_of_exchange(master, tmp_path_factory, way, acts, order):
    dbs = replicas.opened(master, tmp_path_factory.mktemp("run"))
    sliced = {"AT_ONCE": 0, "SLICE_S": 0, "BREATH_S": 0, "CALLS_AT_ONCE": 1} if way == "in slices" else {}
    try:
        with patch.multiple(merge_package, **sliced) if sliced else nullcontext():
            _all_of_it(dbs, acts, order)
    finally:
        for db in dbs:
            db.close()


@settings(max_examples=3, suppress_health_check=list(HealthCheck))
@given(acts=st.lists(st.one_of(ACT, ACT, ACT, EXCHANGE), min_size=6, max_size=30))
def test_a_technicians_own_laptop_is_never_refused(master, tmp_path_factory, acts):
    """What its pages let it do the shop takes, or says is a manager's: whatever was done in whatever order."""
    dbs = replicas.opened(master, tmp_path_factory.mktemp("run"))

    def by_token(sender, receiver):
        bearer = Bearer("technician", "T. 1") if receiver is dbs[0] else Bearer()
        return take_package(
            receiver, replicas.context(), replicas.package(sender, replicas.knows(receiver)), "file", bearer
        )

    try:
        for at, name, number in [(0, "open", 0), (0, "open", 1), (0, "to", 1), (0, "to", 2), *acts]:
            if name == "to":
                by_token(dbs[at], dbs[(at + number) % 3])
            else:
                do(dbs[at], name, number)
        for sender, receiver in [(a, b) for _ in range(3) for a in dbs for b in dbs if a is not b]:
            report = by_token(sender, receiver)
            assert all("did not sign" not in why for why in report.refused), report.refused
        here = [content(db) for db in dbs]
        assert here[0] == here[1] == here[2]
    finally:
        for db in dbs:
            db.close()


def _all_of_it(dbs, acts, order):
    """The acts and exchanges, then everything to everybody; the same everywhere, by whatever order of merging."""
    for at, name, number in [(0, "open", 0), (0, "open", 1), (0, "to", 1), (0, "to", 2), *acts]:
        if name == "to":
            bring(dbs[at], dbs[(at + number) % 3])
        else:
            do(dbs[at], name, number)
    acknowledged = [{table: set(replicas.keys(db, table)) for table in KEPT} for db in dbs]
    before = [whole_state(db) for db in dbs]
    together(dbs, order)
    here = [content(db) for db in dbs]
    assert here[1] == here[0]
    assert here[2] == here[0]
    for table in KEPT:
        assert set(here[0][table]) >= set().union(*(had[table] for had in acknowledged)), table
    after = replicas.comparable(whole_state(dbs[0]))
    one, two, three = before
    for merged in (merge(merge(one, two), three), merge(one, merge(two, three)), merge(three, merge(two, one))):
        same = {at: writes for at, writes in replicas.comparable(merged).items() if at in after}
        assert same == after
    for db in dbs:
        for call_id in real_calls(db):
            open_call_view(db, call_id)
        with closing(db.engine.connect()) as connection:
            assert connection.exec_driver_sql("pragma foreign_key_check").all() == []


def test_joining_again_changes_nothing(shop):
    for name, number in (("open", 1), ("read", 3), ("watch", 2), ("photo", 1)):
        do(shop[1], name, number)
    together(shop, 1)
    before = [content(db) for db in shop]
    assert bring(shop[1], shop[0], whole=True).both == {}
    together(shop, 2)
    assert [content(db) for db in shop] == before
    state = whole_state(shop[0])
    assert merge(state, state) == state
    assert all(join(writes, writes) == writes for writes in state.values())
