"""One hierarchy of failures: pages, API and processes say the same of each, and nothing else is left to say it by."""

import importlib
import pickle
import pkgutil
import shutil
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

import keen_coil
from keen_coil.certificates import BadCertificate
from keen_coil.core.errors import InvalidField, KeenCoilError, NotFound, RefusedNow, ServerFailed, invalid
from keen_coil.core.machine.rated import NoModel
from keen_coil.exchange.shop_server import ShopUnreachable
from keen_coil.formats.pdf import PdfUnavailable
from keen_coil.services.acts import CallClosed, DuplicateSubmission, StaleVersion
from keen_coil.services.catalog.shelf_import import ShelfChanged
from keen_coil.services.field_messages import message
from keen_coil.services.log.archive import LogNotEmpty
from keen_coil.services.people.accounts import SignInRefused, SignInSlowed
from keen_coil.services.people.first_run import NotTheDemo
from keen_coil.services.sync.authors import LaptopToldOff
from keen_coil.services.sync.lineage import OlderCopy
from keen_coil.services.sync.tokens import TooMuchToday
from keen_coil.settings import Settings
from keen_coil.store.sqlite_errors import DatabaseFailed
from keen_coil.web.app import create_app
from keen_coil.web.auth_middleware import ForManagers
from keen_coil.web.error_answers import NotTaken, UnhandledError
from keen_coil.web.routes.live import TooManyStreams
from keen_coil.web.routes.phone import LinkOver
from keen_coil.web.workers import ServerBusy, ServerStopping, TooMuchWork

FAILURES = {
    422: [invalid("rpm", "fast", "a number"), NoModel(invalid("motor", "ecm", "psc").errors), TooMuchWork("9", "8")],
    404: [NotFound("call 7"), NotTaken(404, "/nowhere", "Not Found")],
    409: [
        StaleVersion(1, 2),
        CallClosed(),
        LogNotEmpty(3),
        ShelfChanged(),
        RefusedNow("one", "none"),
        NotTheDemo(),
        OlderCopy("", 0, True),
    ],
    303: [DuplicateSubmission(1)],
    403: [SignInRefused(), LaptopToldOff("van_2"), ForManagers("limits")],
    400: [BadCertificate("--key", Path("a.key"), "the key that belongs to a.crt")],
    410: [LinkOver("It was used.")],
    429: [SignInSlowed(9), TooMuchToday("3 GB", "less")],
    501: [PdfUnavailable("PDF needs Pango")],
    503: [
        ServerBusy("2 others waiting", "later"),
        ServerStopping(),
        TooManyStreams(),
        DatabaseFailed("SQLITE_BUSY", "Somebody writes."),
        ShopUnreachable("https://shop.example", "no connection"),
    ],
    507: [DatabaseFailed("SQLITE_FULL", "The disk is full.")],
    500: [UnhandledError("KeyError")],
}
CASES = [(status, failure) for status, failures in FAILURES.items() for failure in failures]


def subclasses(kind):
    return {kind}.union(*(subclasses(below) for below in kind.__subclasses__()))


def test_every_failure_of_the_program_is_tried_here():
    for module in pkgutil.walk_packages(keen_coil.__path__, "keen_coil."):
        if ".migrations" not in module.name and not module.name.endswith("__main__"):
            importlib.import_module(module.name)
    ours = {kind for kind in subclasses(KeenCoilError) if kind.__module__.startswith("keen_coil")}
    assert ours - {KeenCoilError, ServerFailed} == {type(failure) for _, failure in CASES}


@pytest.fixture(scope="module")
def failing(empty_master, tmp_path_factory):
    """A browser on an application of which `/fails/N` and `/api/fails/N` raise the failures by their numbers."""
    app = create_app(Settings(db=Path(shutil.copy(empty_master, tmp_path_factory.mktemp("failing") / "it.db"))))

    def fails(number: int):
        raise CASES[number][1]

    app.get("/fails/{number}")(fails)
    app.get("/api/fails/{number}")(fails)
    with TestClient(app, base_url="http://localhost", follow_redirects=False, raise_server_exceptions=False) as browser:
        yield browser
    app.state.db.close()


@pytest.mark.parametrize("number", range(len(CASES)), ids=lambda number: type(CASES[number][1]).__name__)
def test_page_and_api_say_the_same_of_a_failure_and_it_survives_the_way_between_processes(failing, number):
    status, failure = CASES[number]
    page, answer = failing.get(f"/fails/{number}"), failing.get(f"/api/fails/{number}")
    assert answer.status_code == status
    assert page.status_code == status or isinstance(failure, StaleVersion)  # its page looks the call up
    assert answer.json()["errors"] == [error.as_dict() for error in failure.errors]
    assert all(set(row) == {"path", "value", "expected"} for row in answer.json()["errors"])
    if status not in (303,) and not isinstance(failure, StaleVersion):
        is_field = isinstance(failure, InvalidField)  # a page says a field by its label
        lines = [message(fault) for fault in failure.errors] if is_field else failure.lines
        assert all(line[:60].replace("'", "&#39;") in page.text for line in lines)
    again = pickle.loads(pickle.dumps(failure))  # noqa: S301
    assert (type(again), str(again), again.errors, again.lines) == (
        type(failure),
        str(failure),
        failure.errors,
        failure.lines,
    )


def test_a_refusal_names_every_field(tmp_path):
    both = InvalidField([*invalid("rpm", "fast", "a number").errors, *invalid("hp", "", "a number").errors])
    assert both.lines == ["rpm: got fast; expected a number", "hp: got nothing; expected a number"]
