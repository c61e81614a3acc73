"""HTML to PDF, with nothing fetched but the fonts that ship."""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from typing import Any

FONTS = files("ohmack.web") / "static" / "vendor" / "fonts"
SCHEME = "font:"


class NoPapers(Exception):
    """The system libraries that set type are missing."""

    def __str__(self) -> str:
        return (
            "Papers as PDF need the Debian packages libpango-1.0-0, libpangoft2-1.0-0 and libharfbuzz-subset0 on this"
            " machine. Until then the sheets can be printed from the browser."
        )


def pdf_of(html: str) -> bytes:
    """A document as PDF.

    Parameters:
        html: the whole of it; its fonts are named `font:FILE`, and no other address is followed.

    Returns:
        the file.

    Raises:
        NoPapers: the system libraries that set type are missing.
    """
    try:
        from weasyprint import HTML  # a second that only papers take
    except OSError as error:
        raise NoPapers from error

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
