"""Tokens nobody guesses, of which only the hash is stored: who reads the database opens nothing with it."""

from __future__ import annotations

from hashlib import sha256
from hmac import new as hmac
from secrets import token_urlsafe

TOKEN_BYTES = 32
TOKEN_LENGTH = 43  # of so many bytes in URL-safe letters


def new_token() -> str:
    """256 random bits in URL-safe letters."""
    return token_urlsafe(TOKEN_BYTES)


def digest_of(token: str) -> str:
    """What of a token is stored."""
    return sha256(token[: 4 * TOKEN_LENGTH].encode("utf-8", "surrogatepass")).hexdigest()


def form_token_of(token: str) -> str:
    """What a form carries to show that it was made for whoever holds a session's token, and says nothing of it."""
    return hmac(token.encode("utf-8", "surrogatepass"), b"ohmack form", sha256).hexdigest()
