"""The running application against its own OpenAPI description: no server error, answers as described."""

import shutil
from pathlib import Path

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from schemathesis import checks

from keen_coil.settings import Settings
from keen_coil.web.app import create_app

CHECKS = [
    checks.not_a_server_error,
    checks.response_schema_conformance,
    checks.status_code_conformance,
    checks.content_type_conformance,
]


@pytest.fixture(scope="module")
def described(empty_master, tmp_path_factory):
    path = Path(shutil.copy(empty_master, tmp_path_factory.mktemp("api") / "x.db"))
    app = create_app(Settings(db=path, names=["testserver"]))
    yield schemathesis.openapi.from_asgi("/api/openapi.json", app)
    app.state.db.close()


@pytest.mark.parametrize("path", ["assess", "match", "capacitor", "hookup", "model"])
def test_every_answer_is_as_described(described, path):
    @settings(max_examples=3, deadline=None, suppress_health_check=list(HealthCheck))
    @given(described[f"/api/{path}"]["POST"].as_strategy())
    def asked(case):
        case.validate_response(case.call(), checks=CHECKS)

    asked()
