"""Clients in which somebody is signed in already."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI
from starlette.testclient import TestClient

from ohmack.store.context import BUILT_IN, Context
from ohmack.store.database import Database
from ohmack.store.sessions import From, SessionStore
from ohmack.store.tokens import form_token_of
from ohmack.web.app import create_app
from ohmack.web.settings import Settings


def signed_in(made: Settings, base: str, by: Context = BUILT_IN, **more: Any) -> TestClient:
    """A client of an application of its own, whose forms carry the session's token in a header."""
    app: FastAPI = create_app(made)
    token = SessionStore(Database(made.database)).begin(by, 12, From())
    headers = {"Origin": base, "X-Form-Token": form_token_of(token)}
    return TestClient(app, base_url=base, headers=headers, cookies={"ohmack": token}, **more)
