"""A certificate for the shop's own network, where none is given: an authority of this laptop, and one for its address.

The authority is made once and kept beside the database; a phone that trusts it is asked nothing again when the laptop
gets another address. It can vouch for addresses of private networks alone (name constraints, RFC 5280).
"""

from __future__ import annotations

import os
import ssl
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address, ip_network
from pathlib import Path
from typing import NamedTuple

from cryptography import x509
from cryptography.exceptions import InvalidSignature, UnsupportedAlgorithm
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from .core.errors import KeenCoilError

AUTHORITY_YEARS, LEAF_DAYS, RENEW_DAYS = 5, 397, 30
"""A phone takes no certificate of more than 398 days; it is renewed a month before its end."""
PRIVATE = tuple(
    ip_network(text)
    for text in (
        "10.0.0.0/8",
        "172.16.0.0/12",
        "192.168.0.0/16",
        "100.64.0.0/10",
        "169.254.0.0/16",
        "192.0.2.0/24",
        "127.0.0.0/8",
        "fc00::/7",
        "fe80::/10",
        "::1/128",
    )
)
"""Networks that nobody routes to (RFC 1918, 3927, 4193, 4291, 5737, 6598)."""
NAME = "Keen Coil on this laptop"


class Certificates(NamedTuple):
    """Files in PEM: the certificate and key that the server shows, and the authority that a phone may trust."""

    cert: Path
    key: Path
    authority: Path


class BadCertificate(KeenCoilError):
    """A certificate and a key that cannot be served with: which file, and what was expected."""

    status, title = 400, "Certificate not taken"

    def __init__(self, option: str, path: Path, expected: str) -> None:
        super().__init__(option, path, expected)
        self.option, self.path, self.expected = option, path, expected

    def __str__(self) -> str:
        return f"{self.option}: got {self.path}; expected {self.expected}"


def check_pair(cert: Path, key: Path) -> None:
    """Raise `BadCertificate` where a certificate or key cannot be read, or they do not belong together."""
    for option, path in (("--cert", cert), ("--key", key)):
        if not path.is_file():
            raise BadCertificate(option, path, "a file in PEM")
    try:
        found = x509.load_pem_x509_certificate(cert.read_bytes())
    except ValueError:
        raise BadCertificate("--cert", cert, "a certificate in PEM") from None
    try:
        private = serialization.load_pem_private_key(key.read_bytes(), None)
    except (ValueError, TypeError, UnsupportedAlgorithm):
        raise BadCertificate("--key", key, "a key in PEM without a password") from None
    public = (serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo)
    if private.public_key().public_bytes(*public) != found.public_key().public_bytes(*public):
        raise BadCertificate("--key", key, f"the key that belongs to {cert}")
    if found.not_valid_after_utc < datetime.now(UTC):
        raise BadCertificate("--cert", cert, f"one that is still good; it ended {found.not_valid_after_utc:%Y-%m-%d}")
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(cert, key)


def certificates_in(folder: Path, names: Sequence[str], now: datetime | None = None) -> Certificates:
    """The certificate for these host names and addresses, made or renewed where it is missing, near its end, or of
    others; files under `folder`, keys readable by their owner alone.
    """
    moment, names = now or datetime.now(UTC), [name for name in names if may_vouch(name)]
    folder.mkdir(parents=True, exist_ok=True)
    kept = Certificates(folder / "keen-coil.crt", folder / "keen-coil.key", folder / "keen-coil-authority.crt")
    authority, authority_key = _authority(kept.authority, folder / "keen-coil-authority.key", moment)
    if not _serves(kept, authority, names, moment):
        _make_leaf(kept, authority, authority_key, names, moment)
    return kept


def _authority(cert: Path, key: Path, now: datetime) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    """The laptop's own authority, made anew where it is missing, unreadable or over."""
    try:
        found = x509.load_pem_x509_certificate(cert.read_bytes())
        private = serialization.load_pem_private_key(key.read_bytes(), None)
        lasts = found.not_valid_after_utc > now + timedelta(days=LEAF_DAYS)
        if lasts and isinstance(private, ec.EllipticCurvePrivateKey):
            return found, private
    except (OSError, ValueError, TypeError):
        pass
    private = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, NAME)])
    allowed = [x509.IPAddress(network) for network in PRIVATE] + [x509.DNSName("localhost"), x509.DNSName("local")]
    found = (
        _begun(name, name, private.public_key(), now, timedelta(days=365 * AUTHORITY_YEARS))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .add_extension(x509.NameConstraints(permitted_subtrees=allowed, excluded_subtrees=None), critical=True)
        .sign(private, hashes.SHA256())
    )
    _write(key, _key_bytes(private), secret=True)
    _write(cert, found.public_bytes(serialization.Encoding.PEM))
    return found, private


def may_vouch(name: str) -> bool:
    """Whether the laptop's authority may vouch for a host name or address: private addresses, localhost, `*.local`."""
    try:
        address = ip_address(name)
    except ValueError:
        return name == "localhost" or name.endswith(".local")
    return any(address in network for network in PRIVATE)


def _serves(kept: Certificates, authority: x509.Certificate, names: Sequence[str], now: datetime) -> bool:
    """Whether the kept certificate is of this authority, for these names, and not near its end."""
    try:
        check_pair(kept.cert, kept.key)
        found = x509.load_pem_x509_certificate(kept.cert.read_bytes())
        listed = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        found.verify_directly_issued_by(authority)
    except (KeenCoilError, OSError, ValueError, TypeError, x509.ExtensionNotFound, InvalidSignature):
        return False
    has = {str(item.value) for item in listed}
    return set(names) <= has and found.not_valid_after_utc > now + timedelta(days=RENEW_DAYS)


def _make_leaf(
    kept: Certificates,
    authority: x509.Certificate,
    authority_key: ec.EllipticCurvePrivateKey,
    names: Sequence[str],
    now: datetime,
) -> None:
    private = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Keen Coil")])
    found = (
        _begun(name, authority.subject, private.public_key(), now, timedelta(days=LEAF_DAYS))
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.SubjectAlternativeName([_general(text) for text in dict.fromkeys(names)]), critical=False)
        .sign(authority_key, hashes.SHA256())
    )
    _write(kept.key, _key_bytes(private), secret=True)
    _write(kept.cert, found.public_bytes(serialization.Encoding.PEM))


def _begun(
    subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, now: datetime, lasts: timedelta
) -> x509.CertificateBuilder:
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(issuer)
        .public_key(key)
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + lasts)
    )


def _usage(signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs,
        key_cert_sign=signs,
        crl_sign=signs,
        content_commitment=False,
        key_encipherment=False,
        data_encipherment=False,
        key_agreement=False,
        encipher_only=False,
        decipher_only=False,
    )


def _general(text: str) -> x509.GeneralName:
    """A host name or an address as a certificate names it."""
    try:
        return x509.IPAddress(ip_address(text))
    except ValueError:
        return x509.DNSName(text)


def _key_bytes(key: ec.EllipticCurvePrivateKey) -> bytes:
    form = serialization.PrivateFormat.PKCS8
    return key.private_bytes(serialization.Encoding.PEM, form, serialization.NoEncryption())


def _write(path: Path, data: bytes, secret: bool = False) -> None:
    """Write a file whole, one that holds a key for its owner alone."""
    draft = path.with_suffix(path.suffix + ".draft")
    draft.unlink(missing_ok=True)
    with os.fdopen(os.open(draft, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600 if secret else 0o644), "wb") as file:
        file.write(data)
    draft.replace(path)
