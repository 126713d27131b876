"""Speed of the motor model: a curve, the same by a plain loop, a fit, a Lab answer, the evidence of running readings."""

from __future__ import annotations

import cmath

import numpy as np
from fastapi.testclient import TestClient
from tests.calls import make_call, reading
from tests.motors import PLATE, fitted, plate

from keen_coil.core.diagnosis.case import Case
from keen_coil.core.diagnosis.faults import odds
from keen_coil.core.diagnosis.model_evidence import model_evidence
from keen_coil.core.diagnosis.predicted import predictions
from keen_coil.core.limits import DEFAULTS
from keen_coil.core.machine import fit as fitting
from keen_coil.core.machine.circuit import solve
from keen_coil.core.machine.conditions import Model, as_plate
from keen_coil.core.machine.expected import _expected
from keen_coil.core.machine.rated import rated
from keen_coil.services.demo.demo import build_demo
from keen_coil.settings import Settings
from keen_coil.web.app import create_app

from .test_speed import median_ms

SPEEDS = 2000


def looped(windings, volts, slips, uf):
    """The same equations, one slip after another in plain Python."""
    w, found = windings, []
    zc = -1j * 1e6 / (2 * cmath.pi * w.hz * uf)
    for s in slips:
        forward = _parallel(0.5j * w.xm_ohm, w.r2_ohm / (2 * s) + 0.5j * w.x2_ohm)
        backward = _parallel(0.5j * w.xm_ohm, w.r2_ohm / (2 * (2 - s)) + 0.5j * w.x2_ohm)
        both, between = forward + backward, 1j * w.turns_ratio * (forward - backward)
        z1 = w.r1_ohm + 1j * w.x1_ohm + both
        z2 = w.r1a_ohm + 1j * w.x1a_ohm + zc + w.turns_ratio**2 * both
        whole = z1 * z2 + between * between
        main, aux = volts * (z2 + between) / whole, volts * (z1 - between) / whole
        power = forward.real * abs(main - 1j * w.turns_ratio * aux) ** 2
        power -= backward.real * abs(main + 1j * w.turns_ratio * aux) ** 2
        found.append(power / w.synchronous_rad_s)
    return np.array(found)


def _parallel(one, other):
    return one * other / (one + other)


def test_model(say, tmp_path):
    found, slips = fitted(), np.linspace(0.001, 1.999, SPEEDS)
    windings = found.windings
    assert np.allclose(looped(windings, 230.0, slips, 5.0), solve(windings, 230.0, slips, 5.0).torque_nm)
    curve = median_ms(lambda: solve(windings, 230.0, slips, 5.0))
    loop = median_ms(lambda: looped(windings, 230.0, slips, 5.0), 10)
    say(f"curve of {SPEEDS} speeds: {curve:.2f} ms (aim 3); by a plain loop {loop:.1f} ms, {loop / curve:.0f} times")
    known = rated(plate())
    say(f"fit with its band: {median_ms(lambda: fitting._fit_or_fault.__wrapped__(known, None), 12):.0f} ms (aim 150)")
    at = as_plate(known)
    say(f"expected readings, band and all: {median_ms(lambda: _expected.__wrapped__(found, at), 20):.1f} ms")
    say(f"what every scenario would read: {median_ms(lambda: predictions.__wrapped__(found, at, True), 20):.1f} ms")
    rows = [reading("supply_v", 239, at="unit"), reading("run_amps_a", 1.62), reading("run_rpm", 1062)]
    case = Case(make_call(*rows), DEFAULTS)
    faults = tuple(odds(case.call))
    say(f"evidence of running readings, kept: {median_ms(lambda: model_evidence(case, faults, False)):.2f} ms")
    assert Model(found, at).fit is found
    build_demo(tmp_path / "demo.db")
    app = create_app(Settings(db=tmp_path / "demo.db"))
    steps = iter(range(1, 100000))
    fields = {key: str(value) for key, value in PLATE.items() if key not in ("kind", "phase", "hz")}
    with TestClient(app, base_url="http://127.0.0.1") as client:
        for show in ("torque", "amps"):

            def answer(show=show):
                asked = {**fields, "show": show, "f_uf": f"{1 + next(steps) / 500:.3f}"}
                assert client.get("/lab/answer", params=asked).status_code == 200

            say(f"a Lab answer, {show}, slider moved: {median_ms(answer, 30):.0f} ms (aim 60)")
    app.state.db.close()
