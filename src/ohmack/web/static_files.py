"""What ships beside the pages: styles, scripts, fonts, under addresses that change when a file does."""

from __future__ import annotations

from functools import lru_cache
from hashlib import sha256
from importlib.resources import files
from pathlib import Path

from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

FOLDER = Path(str(files("ohmack.web") / "static"))


@lru_cache(maxsize=64)
def static(name: str) -> str:
    """The address of a file, with its fingerprint: no browser shows a new page with an old style or script."""
    return f"/static/{name}?v={sha256((FOLDER / name).read_bytes()).hexdigest()[:12]}"


class CachedStatic(StaticFiles):
    """Static files a browser may keep for an hour, and for a year under an address with a fingerprint."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """The file, with a cache header."""
        response = await super().get_response(path, scope)
        asked = f"/static/{path}?{scope['query_string'].decode('latin-1')}"
        lasting = response.status_code < 400 and asked == static(
            path
        )  # while servers change, one may be asked for both
        response.headers["Cache-Control"] = f"public, max-age={31_536_000 if lasting else 3600}"
        return response
