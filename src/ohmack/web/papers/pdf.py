"""HTML to PDF, with nothing fetched but the fonts that ship."""

from __future__ import annotations

import logging
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from io import BytesIO
from typing import Any

FONTS = files("ohmack.web") / "static" / "vendor" / "fonts"
logging.getLogger("weasyprint").setLevel(logging.ERROR)  # it warns of every space behind a sign of the symbols' font
SCHEME, PHOTO = "font:", "photo:"


class NoPapers(Exception):
    """The system libraries that set type are missing."""

    def __str__(self) -> str:
        return (
            "Papers as PDF need the Debian packages libpango-1.0-0, libpangoft2-1.0-0 and libharfbuzz-subset0 on this"
            " machine. Until then the sheets can be printed from the browser."
        )


def pdf_of(html: str, photos: Mapping[str, bytes] | None = None) -> bytes:
    """A document as PDF.

    Parameters:
        html: the whole of it; its fonts are named `font:FILE`, its photos `photo:NAME`, and no other address is
            followed.
        photos: JPEG by name.

    Returns:
        the file.

    Raises:
        NoPapers: the system libraries that set type are missing.
    """
    try:
        from weasyprint import HTML  # a second that only papers take
    except OSError as error:
        raise NoPapers from error

    made: bytes = HTML(string=html, url_fetcher=_fetcher()(photos or {}), base_url="paper:").write_pdf()
    return made


@cache
def _fetcher() -> Any:
    """What fetches the fonts that ship and the photos at hand, and refuses everything else."""
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class Shipped(URLFetcher):  # type: ignore[misc]
        """Fonts and photos by their name."""

        def __init__(self, photos: Mapping[str, bytes]) -> None:
            super().__init__()
            self.photos = photos

        def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
            """The font or photo of a name; nothing of any other address."""
            photo = self.photos.get(url.removeprefix(PHOTO)) if url.startswith(PHOTO) else None
            if photo is not None:
                return URLFetcherResponse(url, photo, {"Content-Type": "image/jpeg"})
            name = url.removeprefix(SCHEME)
            if not url.startswith(SCHEME) or "/" in name or not name.endswith(".woff2"):
                raise ValueError(f"papers fetch nothing: {url[:80]}")
            return URLFetcherResponse(url, _unpacked(name), {"Content-Type": "font/ttf"})

    return Shipped


@cache
def _unpacked(name: str) -> bytes:
    """A font that ships, as what sets type unpacks it: four tenths of a second that every paper would take again."""
    from fontTools.ttLib import woff2

    plain = BytesIO()
    woff2.decompress(BytesIO((FONTS / name).read_bytes()), plain)
    return plain.getvalue()
