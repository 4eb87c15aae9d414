"""Passwords and passphrases: plain words that a child can read off a card."""

from __future__ import annotations

import hashlib
import hmac
import secrets
from functools import cache
from pathlib import Path

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

_hasher = PasswordHasher()

_LONG = 4


@cache
def words() -> tuple[str, ...]:
    """Plain words of three to ten letters that a child can read and type."""
    return tuple((Path(__file__).parent / "words.txt").read_text().split())


def new_passphrase() -> str:
    """Four different words, drawn by the system's own randomness: 40 bits, and sign-in is slowed down. Cards of three words, which were
    made before, go on until they are renewed."""
    return " ".join(secrets.SystemRandom().sample(words(), _LONG))


_CODE_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"
"""Without I and O, which are read as one and nought."""
_CODE_DIGITS = "23456789"


def new_class_code() -> str:
    """Five letters and a digit: it names a class, and keeps no secret."""
    return "".join(secrets.choice(_CODE_LETTERS) for _ in range(5)) + secrets.choice(_CODE_DIGITS)


def normal_passphrase(text: str) -> str:
    """Forgives capitals, hyphens and extra spaces."""
    return " ".join(text.lower().replace("-", " ").split())


def passphrase_key(secret: str, group_id: object, phrase: str) -> str:
    """A keyed hash by which a phrase's owner is found without trying every pupil of the class."""
    return hmac.new(secret.encode(), f"{group_id}:{normal_passphrase(phrase)}".encode(), hashlib.sha256).hexdigest()


def hash_secret(text: str) -> str:
    return _hasher.hash(text)


def verify_secret(hashed: str, text: str) -> bool:
    try:
        return _hasher.verify(hashed, text)
    except (VerificationError, InvalidHashError):
        return False


@cache
def nobody() -> str:
    """Checked where there is no such person, so that the answer takes the same time."""
    return _hasher.hash(secrets.token_hex(16))
