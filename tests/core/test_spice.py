"""The circuit against ngspice: the two fields as networks of their own, the rotor's coupling by controlled sources."""

import math
import re
import shutil
import subprocess

import pytest

from keen_coil.core.machine.circuit import solve
from tests.motors import PUBLISHED, TAPPED, fitted

NETLIST = """two-winding motor, steady state at one frequency
v1 l 0 ac {v}
* main winding, then what both fields induce in it
vm l m1 ac 0
rm m1 m2 {r1}
lm m2 m3 {l1}
e1 m3 m4 f 0 1
e2 m4 0 b 0 1
* auxiliary with its capacitor
va l a0 ac 0
ca a0 a1 {farad}
ra a1 a2 {r1a}
la a2 a3 {l1a}
e3 a3 0 q 0 {a}
* j times the auxiliary current, and j times the difference of the field voltages, across an inductor of 1 ohm
f3 0 ja va 1
lj ja 0 {l_one}
rj ja 0 1g
g3 0 q f b 1
lq q 0 {l_one}
rq q 0 1g
* forward field: main less j a auxiliary through magnetising reactance beside rotor over slip
f1 0 f vm 1
g1 f 0 ja 0 {a}
lf f 0 {lm}
rf f f2 {rf}
lf2 f2 0 {l2}
* backward field
f2 0 b vm 1
g2 0 b ja 0 {a}
lb b 0 {lm}
rb b b2 {rb}
lb2 b2 0 {l2}
.control
set numdgt=12
ac lin 1 {hz} {hz}
print real(i(vm)) imag(i(vm)) real(i(va)) imag(i(va))
quit 0
.endc
.end
"""


def by_ngspice(windings, volts, slip, uf, folder):
    """Main and auxiliary current by ngspice."""
    w = 2 * math.pi * windings.hz
    text = NETLIST.format(
        v=volts,
        r1=windings.r1_ohm,
        l1=windings.x1_ohm / w,
        r1a=windings.r1a_ohm,
        l1a=windings.x1a_ohm / w,
        farad=uf * 1e-6,
        a=windings.turns_ratio,
        lm=windings.xm_ohm / 2 / w,
        l2=windings.x2_ohm / 2 / w,
        l_one=1 / w,
        rf=windings.r2_ohm / 2 / slip,
        rb=windings.r2_ohm / 2 / (2 - slip),
        hz=windings.hz,
    )
    (folder / "motor.cir").write_text(text)
    out = subprocess.run(
        [shutil.which("ngspice"), "-b", "motor.cir"], cwd=folder, capture_output=True, text=True, check=True
    )
    numbers = [float(value) for value in re.findall(r"\(i\(v[ma]\)\)\s*=\s*([-+\d.e]+)", out.stdout)]
    assert len(numbers) == 4, out.stdout + out.stderr
    return complex(*numbers[:2]), complex(*numbers[2:])


@pytest.mark.parametrize("slip", [1.0, 0.09, 0.5, 1.5])
@pytest.mark.parametrize("motor", ["published", "quarter", "low_volts", "two_poles"])
def test_ngspice_agrees_at_rest_running_and_backwards(motor, slip, tmp_path):
    windings, volts, uf = {
        "published": lambda: (PUBLISHED, 110.0, 40.0),
        "quarter": lambda: (fitted().windings, 230.0, 5.0),
        "low_volts": lambda: (
            fitted(**{k: TAPPED[k] for k in ("volts", "amps_a", "capacitor_uf")}).windings,
            115.0,
            7.5,
        ),
        "two_poles": lambda: (fitted(hp=0.125, amps_a=0.8, rpm=3350, capacitor_uf=4).windings, 230.0, 4.0),
    }[motor]()
    main, aux = by_ngspice(windings, volts, slip, uf, tmp_path)
    found = solve(windings, volts, slip, uf)
    assert main == pytest.approx(complex(found.main_a), rel=1e-5)
    assert aux == pytest.approx(complex(found.aux_a), rel=1e-5)
