"""Passwords: how they are kept, and which ones are too weak.

Kept by Argon2id with the second recommended set of RFC 9106, section 4: 64 MiB, three passes, four lanes, a salt of
128 bits, a tag of 256. At most two are worked out at once: a flood of sign-ins must not take the machine's memory.
"""

from __future__ import annotations

import unicodedata
from functools import cache
from threading import BoundedSemaphore

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from argon2.profiles import RFC_9106_LOW_MEMORY
from zxcvbn import zxcvbn

LEAST_LETTERS = 12
MOST_LETTERS = 128
WEIGHED_LETTERS = 72  # what weighs a password takes long over longer ones, which are strong enough by then
LEAST_SCORE = 3  # of 4: about 10^8 guesses and more
AT_ONCE = 2

_hasher = PasswordHasher.from_parameters(RFC_9106_LOW_MEMORY)
_room = BoundedSemaphore(AT_ONCE)


def _letters(password: str) -> str:
    """The same letters however a keyboard makes them."""
    return unicodedata.normalize("NFKC", password)


def hash_password(password: str) -> str:
    """What is stored of a password."""
    with _room:
        return _hasher.hash(_letters(password)[:MOST_LETTERS])


@cache
def _nobodys() -> str:
    return hash_password("nobody has this password")


def is_right(stored: str | None, password: str) -> bool:
    """Whether a password is the stored one; where there is none the same work is done for nothing."""
    with _room:
        try:
            return _hasher.verify(stored or _nobodys(), _letters(password)[:MOST_LETTERS]) and stored is not None
        except (VerificationError, InvalidHashError):
            return False


def is_outdated(stored: str) -> bool:
    """Whether a stored one was made with parameters that are not used any more."""
    return _hasher.check_needs_rehash(stored)


def weakness(password: str, about: tuple[str, ...] = ()) -> str:
    """Why a password is refused, in a sentence; empty where it is good enough.

    Parameters:
        password: as typed.
        about: what a stranger would try first: name, sign-in name, shop.
    """
    plain = _letters(password)
    if len(plain) < LEAST_LETTERS:
        return f"At least {LEAST_LETTERS} letters; four plain words are easy to keep in mind."
    if len(plain) > MOST_LETTERS:
        return f"At most {MOST_LETTERS} letters."
    weighed = zxcvbn(plain[:WEIGHED_LETTERS], user_inputs=[a for a in about if a])
    if weighed["score"] >= LEAST_SCORE:
        return ""
    why = weighed["feedback"]["warning"]
    return f"Too easy to guess{': ' + why[0].lower() + why[1:].rstrip('.') if why else ''}. Add a word or two."
