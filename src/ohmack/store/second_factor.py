"""The second factor: a time code by RFC 6238 (SHA-1, six digits, 30 s), and ten codes for a lost phone."""

from __future__ import annotations

import re
from secrets import choice

import pyotp

STEP_S = 30
DRIFT = 1  # steps a phone's clock may be off, either way
SPARE_CODES = 10
SPARE_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"  # none that is taken for another


def new_secret() -> str:
    """A secret of 160 bits, in the letters of base 32."""
    return pyotp.random_base32(32)


def address_of(secret: str, login: str, shop: str) -> str:
    """What a phone reads from the square code."""
    return pyotp.TOTP(secret).provisioning_uri(name=login, issuer_name=f"Ohmack {shop}".strip())


def step_of(secret: str, code: str, at_s: float) -> int | None:
    """The time step a code belongs to; None where it belongs to none near the time given.

    Parameters:
        secret: in base 32.
        code: as typed; spaces do not count.
        at_s: the time in seconds since 1970, UTC.
    """
    digits = re.sub(r"\s", "", code)
    if not re.fullmatch(r"[0-9]{6}", digits):
        return None
    here, made = int(at_s // STEP_S), pyotp.TOTP(secret)
    steps = (here + shift for shift in (0, *range(-DRIFT, 0), *range(1, DRIFT + 1)) if here + shift >= 0)
    found = [step for step in steps if pyotp.utils.strings_equal(made.generate_otp(step), digits)]
    return found[0] if found else None


def spare_codes() -> list[str]:
    """Codes that each work once instead of the phone's, of 118 bits each: four groups of six letters and digits."""
    return ["-".join("".join(choice(SPARE_LETTERS) for _ in range(6)) for _ in range(4)) for _ in range(SPARE_CODES)]


def plain_code(code: str) -> str:
    """A spare code as it is stored, however it was typed."""
    return re.sub(r"[^a-z0-9]", "", code.lower())[:40]
