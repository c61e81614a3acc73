"""Photos against files that other programs wrote: Chromium's encoders, and PNGs written chunk by chunk with zlib."""

from __future__ import annotations

import struct
import subprocess
import sys
import zlib
from io import BytesIO
from pathlib import Path

import pytest
from PIL import Image, ImageFile

from ohmack.formats.photo import LONGEST_EDGE, THUMBNAIL_EDGE, PhotoError, clean_name, read_photo

HERE = Path(__file__).parent.parent / "references" / "photos"


def png(width: int, height: int, rows: int | None = None) -> bytes:
    """A grey PNG by its specification (ISO 15948), with fewer rows than it claims where asked for."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    packer = zlib.compressobj(1)
    line = b"\0" + b"\x80" * width
    data = b"".join(packer.compress(line) for _ in range(height if rows is None else rows)) + packer.flush()
    header = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def test_a_turned_photo_comes_out_upright_and_without_its_metadata() -> None:
    raw = (HERE / "turned.jpg").read_bytes()
    assert b"Whereabouts" in raw
    photo = read_photo(raw, "turned.jpg")
    assert (photo.width_px, photo.height_px) == (48, 64)  # EXIF orientation 6: the stored left edge is the top
    for data in (photo.image, photo.thumbnail):
        assert b"Whereabouts" not in data
        assert b"Exif" not in data
        picture = Image.open(BytesIO(data))
        assert picture.format == "JPEG"
        assert not picture.getexif()
        top, bottom = picture.getpixel((24, 8)), picture.getpixel((24, 56))
        assert isinstance(top, tuple)
        assert isinstance(bottom, tuple)
        assert top[0] > 150 > top[2]  # red
        assert bottom[2] > 150 > bottom[0]  # blue


def test_what_is_see_through_becomes_white() -> None:
    picture = Image.open(BytesIO(read_photo((HERE / "clear.png").read_bytes(), "clear.png").image))
    middle = picture.getpixel((32, 24))
    assert isinstance(middle, tuple)
    assert min(middle) > 240


def test_large_pictures_are_made_small_in_little_memory() -> None:
    """15 megapixels of a PNG and 60 of a JPEG, in a process of their own: its peak stays far under what the whole
    takes.
    """
    photo = read_photo(png(5000, 3000), "dash.png")
    assert (photo.width_px, photo.height_px) == (LONGEST_EDGE, LONGEST_EDGE * 3000 // 5000)
    assert max(Image.open(BytesIO(photo.thumbnail)).size) == THUMBNAIL_EDGE
    assert len(photo.thumbnail) < 60_000  # fits its column
    words = """
import resource, sys
from concurrent.futures import ThreadPoolExecutor
from io import BytesIO
from PIL import Image
from ohmack.formats.photo import read_photo
def drawn(mode, size, kind):
    out = BytesIO(); Image.new(mode, size).save(out, kind); return out.getvalue()
files = [drawn("RGBA", (4000, 4000), "PNG")] * 4 + [drawn("L", (9000, 7000), "JPEG")] * 2
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
with ThreadPoolExecutor(6) as many:
    list(many.map(lambda d: read_photo(d, "x"), files))
print((resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024)
"""
    done = subprocess.run([sys.executable, "-c", words], capture_output=True, text=True, check=True)
    assert float(done.stdout) < 160  # MB; the six wholes take 319


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "Choose a photo first"),
        (png(5000, 3600), "18 megapixels; at most 16 are taken of a PNG"),
        (png(60000, 60000, rows=1), "far more megapixels than"),
        ((HERE / "clear.png").read_bytes()[:150], "damaged or cut short"),
        ((HERE / "turned.jpg").read_bytes()[:400], "damaged or cut short"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "no JPEG or PNG"),
        (
            b"GIF89a\x01\x00\x01\x00\x80\x00\x00\x00\x00\x00\xff\xff\xff,"
            b"\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02D\x01\x00;",
            "no JPEG or PNG",
        ),
        (b"\xff\xd8\xff" + b"not a picture" * 20, "no JPEG or PNG"),
        (b"MZ" + bytes(4000), "no JPEG or PNG"),
        (bytes(25_000_001), "25 MB; at most 25 MB"),
    ],
)  # fmt: skip
def test_what_is_not_taken_says_why(data: bytes, words: str) -> None:
    with pytest.raises(PhotoError) as caught:
        read_photo(data, "boot.jpg")
    assert words in str(caught.value)


@pytest.mark.parametrize(
    ("name", "kept"),
    [
        ("../../etc/passwd", "passwd"),
        ("C:\\fakepath\\dash.jpg", "dash.jpg"),
        ("<script>alert(1)</script>.png", "script.png"),
        ("a\x00b\u202egnp.exe", "abgnp.exe"),
        ("..", "photo"),
        ("", "photo"),
        ("Kofferraum links – unten.jpeg", "Kofferraum links – unten.jpeg"),
    ],
)
def test_hostile_names_become_plain_ones(name: str, kept: str) -> None:
    assert clean_name(name) == kept
    assert len(clean_name(name * 60)) <= 80


def test_a_photo_cut_short_is_refused_whatever_others_turned_on(monkeypatch: pytest.MonkeyPatch) -> None:
    """The package that makes PDFs tells the picture library to take files that are cut short, for the whole process."""
    monkeypatch.setattr(ImageFile, "LOAD_TRUNCATED_IMAGES", True)
    raw = BytesIO()
    Image.effect_noise((400, 300), 90).save(raw, "JPEG")
    with pytest.raises(PhotoError, match="damaged or cut short"):
        read_photo(raw.getvalue()[:2000], "cut.jpg")
