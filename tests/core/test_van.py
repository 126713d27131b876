"""The van: how many to carry, which few parts cover most; small cases against every kit there is."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import pdtr

from keen_coil.core.capacitors.parts import CapacitorPart, van_sections
from keen_coil.core.errors import InvalidField
from keen_coil.core.match.catalogue import CatalogueMotor
from keen_coil.core.van.kit import best_kit, covered, curve, least_kit
from keen_coil.core.van.needs import AreaUnit, area_needs, chance_enough, level, rate_seen, table_rate
from keen_coil.core.van.plan import plan_van
from tests.calls import make_call


@pytest.mark.parametrize(
    ("mean", "service", "stock"),
    [
        (0.0, 0.95, 0),
        (0.05, 0.95, 0),
        (0.06, 0.95, 1),
        (0.5, 0.9, 1),
        (0.5, 0.95, 2),
        (1.0, 0.95, 3),
        (3.0, 0.99, 8),
        (10.0, 0.95, 15),
    ],
)
def test_the_smallest_stock_that_lasts(mean, service, stock):
    assert level(mean, service) == stock


@given(st.floats(0, 60), st.floats(0.01, 0.999))
def test_the_level_is_scipys(mean, service):
    stock = level(mean, service)
    assert chance_enough(mean, stock) == pytest.approx(pdtr(stock, mean), abs=1e-9)
    assert pdtr(stock, mean) >= service - 1e-9
    assert stock == 0 or pdtr(stock - 1, mean) < service + 1e-9


@pytest.mark.parametrize(("mean", "service"), [(1, 0), (1, 1), (1, 1.5), (-1, 0.9), (1e9, 0.9), (float("nan"), 0.9)])
def test_a_service_or_demand_that_cannot_be_is_told(mean, service):
    with pytest.raises(InvalidField):
        level(mean, service)


def test_the_log_draws_the_tables_rate_towards_what_was_seen():
    table = table_rate("capacitor", "condenser_fan")
    assert rate_seen(table, 0, 0) == table
    assert rate_seen(table, 40, 100) > table > rate_seen(table, 0, 100) > 0
    assert rate_seen(table, 300, 1000) == pytest.approx(0.3, rel=0.02)


NEEDS = {"5": 4.0, "7.5": 3.0, "10": 2.0, "12.5": 1.0}
WAYS = {
    "5": [frozenset("a")],
    "7.5": [frozenset("b"), frozenset("ac")],
    "10": [frozenset("d")],
    "12.5": [frozenset("e"), frozenset("ab")],
}
COSTS = {"a": 5.0, "b": 6.0, "c": 4.0, "d": 8.0, "e": 9.0}


@pytest.mark.parametrize(
    ("most", "parts", "share"),
    [(0, (), 0), (1, ("a",), 0.4), (2, ("a", "b"), 0.8), (3, ("a", "b", "d"), 1.0), (9, ("a", "b", "d"), 1.0)],
)
def test_a_worked_kit(most, parts, share):
    found = best_kit(NEEDS, WAYS, COSTS, most)
    assert (found.parts, found.share) == (parts, pytest.approx(share))


def test_joined_parts_serve_what_neither_does_alone():
    assert best_kit({"7.5": 1.0}, {"7.5": [frozenset("ac")]}, COSTS, 1).share == 0
    found = best_kit({"7.5": 1.0}, {"7.5": [frozenset("ac")]}, COSTS, 2)
    assert (found.parts, found.way_of["7.5"]) == (("a", "c"), frozenset("ac"))


def test_the_cheapest_kit_for_a_share():
    assert least_kit(NEEDS, WAYS, COSTS, 0.8).parts == ("a", "b")
    assert least_kit(NEEDS, WAYS, COSTS, 0.0).parts == ()
    assert least_kit({**NEEDS, "20": 1.0}, WAYS, COSTS, 1.0) is None


@st.composite
def areas(draw):
    parts = list("abcdef"[: draw(st.integers(1, 6))])
    needs = [f"n{number}" for number in range(draw(st.integers(1, 6)))]
    ways = {
        need: draw(st.lists(st.frozensets(st.sampled_from(parts), min_size=1, max_size=3), max_size=4, unique=True))
        for need in needs
    }
    weights = {need: draw(st.integers(0, 20)) / 4 for need in needs}
    return weights, ways, {part: float(draw(st.integers(1, 9))) for part in parts}


def every_kit(costs):
    return [frozenset(kit) for size in range(len(costs) + 1) for kit in itertools.combinations(costs, size)]


@settings(max_examples=30)
@given(areas(), st.integers(0, 6), st.floats(0, 1))
def test_no_kit_there_is_does_better(area, most, share):
    weights, ways, costs = area
    found = best_kit(weights, ways, costs, most)
    fitting = [kit for kit in every_kit(costs) if len(kit) <= most]
    best = max(covered(kit, weights, ways) for kit in fitting)
    assert len(found.parts) <= most
    assert found.share == pytest.approx(best, abs=1e-6)
    price = sum(costs[part] for part in found.parts)
    if sum(weights.values()):
        assert (
            price
            <= min(sum(costs[p] for p in kit) for kit in fitting if covered(kit, weights, ways) >= best - 1e-9) + 1e-6
        )
    least = least_kit(weights, ways, costs, share)
    enough = [kit for kit in every_kit(costs) if covered(kit, weights, ways) >= share - 1e-9]
    assert (least is None) == (not enough)
    if least is not None and sum(weights.values()):
        assert sum(costs[part] for part in least.parts) <= min(sum(costs[p] for p in kit) for kit in enough) + 0.02


@given(areas(), st.data())
def test_a_part_more_never_covers_less(area, data):
    weights, ways, costs = area
    kit = data.draw(st.frozensets(st.sampled_from(sorted(costs))))
    more = kit | {data.draw(st.sampled_from(sorted(costs)))}
    assert covered(more, weights, ways) >= covered(kit, weights, ways)


@settings(max_examples=15)
@given(areas())
def test_the_curve_only_rises(area):
    weights, ways, costs = area
    shares = [kit.share for kit in curve(weights, ways, costs, 10)]
    assert shares == sorted(shares)
    assert shares[-1] == pytest.approx(covered(set(costs), weights, ways), abs=1e-6)


@pytest.mark.parametrize(
    ("weights", "ways", "costs", "path"),
    [({"a": -1.0}, {}, {}, "a"), ({"a": 1.0}, {"a": [frozenset("x")]}, {}, "a"), ({}, {}, {"x": float("inf")}, "x")],
)
def test_an_area_that_cannot_be_is_told(weights, ways, costs, path):
    with pytest.raises(InvalidField) as error:
        best_kit(weights, ways, costs, 2)
    assert error.value.errors[0].path == path


PARTS = van_sections(
    [
        CapacitorPart(part_no="C5", sections_uf="5", volts_v=440),
        CapacitorPart(part_no="C25", sections_uf="2.5", volts_v=440),
        CapacitorPart(part_no="C75", sections_uf="7.5", volts_v=370),
        CapacitorPart(part_no="D405", sections_uf="40+5", volts_v=440),
    ]
)
MOTOR = CatalogueMotor.model_validate(
    {
        "part_no": "TM-1",
        "kind": "psc",
        "hp": 0.25,
        "volts": "208-230",
        "amps_a": 1.45,
        "phase": 1,
        "hz": 60,
        "rpm": 1090,
        "mount": "stud",
        "studs": "far_end",
        "body_length_in": 4.6,
        "body_diameter_in": 5.6,
        "enclosure": "enclosed",
        "protection": "auto",
        "ambient_limit_c": 60,
        "shaft": {"diameter_in": 0.5, "length_in": 4.0},
        "rotation": {"sense": "reversible"},
        "capacitor_uf": 5,
        "capacitor_v": 370,
    }
)


def needs_of(*units, **changes):
    return area_needs(units, lambda call: [MOTOR], PARTS, **changes)


def test_an_areas_needs_with_what_serves_them():
    dual, own = AreaUnit(make_call(), 3), AreaUnit(make_call(unit__run_capacitor="own", motor__capacitor_uf=7.5), 2)
    found = {need.key: need for need in needs_of(dual, own)}
    assert found["capacitor 40+5 µF, 440 V"].ways[0] == frozenset({"D405"})
    assert frozenset({"C5"}) in found["capacitor 40+5 µF, 440 V"].ways
    half = found["capacitor 7.5 µF, 370 V"]
    assert half.ways == (frozenset({"C75"}), frozenset({"C25", "C5"}), frozenset({"C25", "D405"}), frozenset({"C25"}))
    assert half.pieces == {(frozenset({"C25"}), "C25"): 3}
    assert found["capacitor 40+5 µF, 440 V"].per_year == pytest.approx(3 * 0.08)
    motors = [need for need in found.values() if need.part == "motor"]
    assert [(need.ways, need.units) for need in motors] == [((frozenset({"TM-1"}),), 5)]
    permanent = {need.key: need for need in needs_of(own, temporary=False)}
    assert permanent["capacitor 7.5 µF, 370 V"].ways == (frozenset({"C75"}),)


def test_the_plan_says_what_to_carry_to_buy_and_what_never_moves():
    needs = needs_of(AreaUnit(make_call(), 200), temporary=False)
    found = plan_van(
        needs,
        {"D405": 1, "TM-1": 9, "C75": 4},
        {"D405": 30.0, "TM-1": 200.0, "C5": 8.0, "C25": 7.0, "C75": 9.0},
        days=14,
        service=0.95,
    )
    lines = {line.part_no: line for line in found.parts}
    assert lines["TM-1"].between == pytest.approx(200 * 0.05 * 14 / 365)
    assert (lines["TM-1"].level, lines["TM-1"].buy) == (2, 0)
    can = next(line for line in found.parts if line.kind == "capacitor")
    assert can.level == level(200 * 0.08 * 14 / 365, 0.95)
    assert found.never_moves == ["C75"]
    assert found.covered_pct == pytest.approx(100)
    assert [point.parts for point in found.curve] == [0, 1, 2]


@pytest.mark.parametrize("days", [0, -3, 400, float("nan")])
def test_days_that_cannot_be_are_told(days):
    with pytest.raises(InvalidField) as error:
        plan_van([], {}, {}, days=days)
    assert error.value.errors[0].path == "days"
