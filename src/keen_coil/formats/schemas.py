"""JSON Schemas of the call file, the catalog row and the answers, from the core's types."""

from __future__ import annotations

import json
from pathlib import Path

from pydantic import BaseModel

from ..core.call import Call
from ..core.capacitors.substitute import CapacitorAnswer
from ..core.diagnosis.assess import Assessment
from ..core.hookup.answer import HookupAnswer
from ..core.machine.answer import Circuit, CircuitAnswer, ModelAnswer
from ..core.match.answer import Match
from ..core.match.catalogue import CatalogueMotor
from ..core.plate.answer import PlateReading
from ..core.practice.case import Case
from ..core.sound.answer import SoundHeard

MODELS: dict[str, type[BaseModel]] = {
    "call": Call,
    "catalogue-motor": CatalogueMotor,
    "assessment": Assessment,
    "match": Match,
    "model": ModelAnswer,
    "capacitor": CapacitorAnswer,
    "circuit": Circuit,
    "circuit-answer": CircuitAnswer,
    "hookup": HookupAnswer,
    "case": Case,
    "plate": PlateReading,
    "listen": SoundHeard,
}


def schema_texts() -> dict[str, str]:
    """The text of each schema file by name."""
    return {
        f"{name}.schema.json": json.dumps(model.model_json_schema(by_alias=True), indent=2, ensure_ascii=False) + "\n"
        for name, model in MODELS.items()
    }


def write_schemas(folder: Path) -> list[Path]:
    """Write every schema into a folder; the paths written."""
    folder.mkdir(parents=True, exist_ok=True)
    paths = []
    for name, text in schema_texts().items():
        (folder / name).write_text(text, encoding="utf-8")
        paths.append(folder / name)
    return paths
