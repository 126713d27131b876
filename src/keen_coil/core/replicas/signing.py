"""Who wrote what: Ed25519 keys of laptops, prints of writes, signed lists of prints (RFC 8032).

A laptop signs each package that it makes, and with it a list of the prints of its own writes, so that another can pass
them on: whoever gets them from a third can tell that nothing about them was changed.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from typing import NamedTuple

from .merge import Address, Write

PRINT_BYTES = 16
MOST_PRINTS = 4096
"""Prints in one signed list: its signature is checked once for all of them."""


class SignedList(NamedTuple):
    """Prints of writes of one laptop up to a stamp, signed by it."""

    origin: str
    upto: int
    prints: bytes
    signature: str


def print_of(address: Address, write: Write) -> bytes:
    """What stands for a write in a signed list: of where, which act, over which others, the value."""
    said = [*address, write.dot.stamp, sorted(write.over), write.value]
    return hashlib.sha256(json.dumps(said, sort_keys=True).encode()).digest()[:PRINT_BYTES]


def prints_in(prints: bytes) -> frozenset[bytes]:
    """The prints of a list."""
    return frozenset(prints[at : at + PRINT_BYTES] for at in range(0, len(prints), PRINT_BYTES))


def signed_lists(secret: bytes, origin: str, upto: int, prints: Iterable[bytes]) -> list[SignedList]:
    """Lists of these prints, signed."""
    found = sorted(set(prints))
    parts = (b"".join(found[at : at + MOST_PRINTS]) for at in range(0, len(found), MOST_PRINTS))
    return [SignedList(origin, upto, part, sign(secret, _list_text(origin, upto, part))) for part in parts]


def list_is_signed(key: str, one: SignedList) -> bool:
    """Whether the laptop of this key signed the list."""
    return is_signed(key, _list_text(one.origin, one.upto, one.prints), one.signature)


def _list_text(origin: str, upto: int, prints: bytes) -> bytes:
    return f"list {origin} {upto} ".encode() + prints


def public_of(secret: bytes) -> str:
    """The public key of a secret one, in hexadecimal."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    return Ed25519PrivateKey.from_private_bytes(secret).public_key().public_bytes_raw().hex()


def sign(secret: bytes, text: bytes) -> str:
    """The signature of a text, in hexadecimal."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    return Ed25519PrivateKey.from_private_bytes(secret).sign(text).hex()


def is_signed(key: str, text: bytes, signature: str) -> bool:
    """Whether a signature is of this text, by the laptop of this public key. False on what is no key or signature."""
    from cryptography.exceptions import InvalidSignature
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

    try:
        Ed25519PublicKey.from_public_bytes(bytes.fromhex(key)).verify(bytes.fromhex(signature), text)
    except (InvalidSignature, ValueError):
        return False
    return True


def shown_key(key: str) -> str:
    """A public key short enough to be read out and compared: 4f2a 91c0 77de."""
    digest = hashlib.sha256(key.encode()).hexdigest()
    return " ".join(digest[at : at + 4] for at in (0, 4, 8))
