"""A laptop that shares itself: its certificate, links that sign a phone in once, who need not sign in."""

import html
import re
import stat
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address

import pytest
from cryptography import x509
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.certificates import BadCertificate, certificates_in, check_pair, may_vouch
from keen_coil.settings import Settings
from keen_coil.web.app import create_app
from keen_coil.web.routes.phone import GOOD_FOR, LinkOver, PhoneLinks
from tests.fixtures import NOW

HOST = "192.168.7.20"
ADDRESS = f"https://{HOST}:8765/"


@pytest.fixture
def shared(demo_path, tmp_path):
    """The demo shop on a laptop that shares itself."""
    made = certificates_in(tmp_path / "certificates", [HOST])
    return create_app(
        Settings(db=demo_path, accounts=True, names=[HOST], share_address=ADDRESS, authority=made.authority)
    )


def from_(app, address, base="https://127.0.0.1"):
    """A browser at an address of the network."""
    return TestClient(app, base_url=base, client=(address, 50000), follow_redirects=True)


def field(page, name):
    """A hidden field of a page."""
    return html.unescape(re.search(rf'name="{name}"\s+value="([^"]*)"', page)[1])


def send(browser, path, page, **fields):
    data = {"csrf": field(page, "csrf"), "act_id": field(page, "act_id"), "version": "0"} | fields
    return browser.post(path, data=data)


def link_for(app, name="Corin Hask"):
    """A link that the laptop shows for a technician."""
    with from_(app, "127.0.0.1") as laptop:
        shown = send(laptop, "/settings/phone", laptop.get("/settings").text, technician=name)
        assert "<svg" in shown.text
        return re.search(rf"{re.escape(ADDRESS)}(phone/[\w-]+)<", shown.text)[1]


def test_a_phone_is_signed_in_once_by_the_code_of_the_laptop(shared):
    link = link_for(shared)
    with from_(shared, "192.168.7.31", ADDRESS) as phone:
        assert "Sign in" in phone.get("/shelf").text
        for _ in range(2):
            asked = phone.get(f"/{link}")
            assert "Use this phone as Corin Hask" in asked.text
        assert send(phone, f"/{link}", asked.text).url.path == "/"
        assert phone.get("/shelf").status_code == 200
        assert "Corin Hask" in phone.get("/settings").text
        assert phone.get("/settings/accounts").status_code == 403
    with from_(shared, "192.168.7.32", ADDRESS) as other:
        over = other.get(f"/{link}")
        assert over.status_code == 410
        assert "works once" in over.text
        assert "scan a new code" in over.text
        assert "Sign in" in other.get("/").text


def test_whoever_sits_at_the_laptop_need_not_sign_in_and_others_of_the_network_must(shared):
    with from_(shared, "127.0.0.1") as laptop:
        assert "Phones" in laptop.get("/settings").text
    with from_(shared, "192.168.7.40", ADDRESS) as stranger:
        assert stranger.get("/settings").url.path == "/sign-in"
        assert stranger.get("/phone").status_code == 200
        assert stranger.get("/phone/certificate.crt").content.startswith(b"-----BEGIN CERTIFICATE")
        page = stranger.get("/sign-in").text
        assert send(stranger, "/settings/phone", page, technician="Corin Hask").status_code == 401


def test_a_laptop_that_is_not_shared_says_how_and_makes_no_link(client):
    page = client.get("/settings").text
    assert "serve --share" in page
    assert send(client, "/settings/phone", page, technician="Corin Hask").status_code in (400, 422)
    assert client.get("/phone/certificate.crt").status_code == 404


def test_a_link_is_over_when_used_when_old_and_when_the_server_is_another():
    links = PhoneLinks()
    token = links.make("Ann", NOW)
    assert links.look(token, NOW + GOOD_FOR) == "Ann"
    with pytest.raises(LinkOver, match="ten minutes"):
        links.look(token, NOW + GOOD_FOR + timedelta(seconds=1))
    newer = links.make("Ann", NOW)
    with pytest.raises(LinkOver, match="does not know"):
        links.take(token, NOW)
    assert links.take(newer, NOW) == "Ann"
    with pytest.raises(LinkOver, match="works once"):
        links.take(newer, NOW)
    with pytest.raises(LinkOver, match="does not know"):
        PhoneLinks().take(newer, NOW)


def test_the_certificate_is_kept_renewed_for_another_address_and_its_keys_are_the_owners(tmp_path):
    first = certificates_in(tmp_path, [HOST, "localhost"])
    cert, authority = first.cert.read_bytes(), first.authority.read_bytes()
    check_pair(first.cert, first.key)
    assert certificates_in(tmp_path, [HOST]).cert.read_bytes() == cert
    assert certificates_in(tmp_path, ["10.1.2.3"]).cert.read_bytes() != cert
    assert first.authority.read_bytes() == authority
    soon = datetime.now(UTC) + timedelta(days=380)
    again = certificates_in(tmp_path, ["10.1.2.3"], soon).cert.read_bytes()
    assert x509.load_pem_x509_certificate(again).not_valid_after_utc > soon + timedelta(days=300)
    for key in tmp_path.glob("*.key"):
        assert stat.S_IMODE(key.stat().st_mode) == 0o600


def test_a_certificate_without_its_key_is_refused_by_name(tmp_path):
    one, two = (certificates_in(tmp_path / name, [HOST]) for name in ("one", "two"))
    with pytest.raises(BadCertificate, match=r"--key: got .*two.*; expected the key that belongs to .*one"):
        check_pair(one.cert, two.key)
    with pytest.raises(BadCertificate, match=r"--cert: got .*; expected a certificate in PEM"):
        check_pair(one.key, one.key)
    with pytest.raises(BadCertificate, match=r"--key: got .*; expected a file in PEM"):
        check_pair(one.cert, tmp_path / "nowhere.key")


@given(st.ip_addresses())
def test_the_laptop_vouches_for_private_addresses_alone(address):
    if ip_address(str(address)).is_global:
        assert not may_vouch(str(address))
    assert not may_vouch("example.com")
    assert may_vouch("van.local")
    assert may_vouch("10.0.0.7")


def test_what_a_phone_installs_is_there_for_anybody_and_tells_nothing_of_the_shop(shared):
    with from_(shared, "192.168.7.41", ADDRESS) as stranger:
        manifest = stranger.get("/manifest.webmanifest").json()
        assert manifest["display"] == "standalone"
        for icon in manifest["icons"]:
            assert stranger.get(icon["src"]).headers["content-type"] == "image/png"
        assert "javascript" in stranger.get("/service-worker.js").headers["content-type"]
        away = stranger.get("/away").text
        assert "No connection" in away
        assert "Creamery" not in away
