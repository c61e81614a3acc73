"""HTML to PDF, with nothing fetched but the fonts that ship."""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from typing import Any

FONTS = files("ohmack.web") / "static" / "vendor" / "fonts"
SCHEME = "font:"


def pdf_of(html: str) -> bytes:
    """A document as PDF.

    Parameters:
        html: the whole of it; its fonts are named `font:FILE`, and no other address is followed.

    Returns:
        the file.
    """
    from weasyprint import HTML  # a second that only papers take

    made: bytes = HTML(string=html, url_fetcher=_shipped(), base_url="paper:").write_pdf()
    return made


@cache
def _shipped() -> Any:
    """What fetches the fonts that ship, and refuses everything else."""
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class Shipped(URLFetcher):  # type: ignore[misc]
        """Fonts by their name."""

        def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
            """The font of a name; nothing of any other address."""
            name = url.removeprefix(SCHEME)
            if not url.startswith(SCHEME) or "/" in name or not name.endswith(".woff2"):
                raise ValueError(f"papers fetch nothing: {url[:80]}")
            return URLFetcherResponse(url, (FONTS / name).read_bytes(), {"Content-Type": "font/woff2"})

    return Shipped()
