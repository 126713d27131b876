"""The contract of this repository says what the code says: no kind, fault, verdict, link or field is missing in it."""

import re
from pathlib import Path
from typing import get_args

from keen_coil.core import vocabulary
from keen_coil.core.call import Call
from keen_coil.core.diagnosis.faults import FAULTS
from keen_coil.core.plates import Motor, Unit
from keen_coil.core.readings import KINDS

WORDS = set(re.findall(r"[a-z_0-9]+", (Path(__file__).parent.parent / "docs/contract.md").read_text(encoding="utf-8")))
VOCABULARIES = (
    "Verdict",
    "Link",
    "Symptom",
    "ChangeKind",
    "MotorKind",
    "UnitKind",
    "Role",
    "SizingSchool",
    "SwitchKind",
)


def test_every_word_of_the_contract_is_in_it():
    said = {*KINDS, *FAULTS} | {word for kind in VOCABULARIES for word in get_args(getattr(vocabulary, kind))}
    assert said - WORDS == set()
    fields = {name for model in (Motor, Unit, Call) for name in model.model_fields}
    assert fields - WORDS == set()
