"""Made the pictures beside this file with Chromium's canvas encoders; the EXIF block is written by hand.

Run with the test environment's Python: python tests/references/photos/make.py
"""

from __future__ import annotations

import base64
import shutil
import struct
from pathlib import Path

from playwright.sync_api import sync_playwright

HERE = Path(__file__).parent
DRAW = """(type) => { const c = document.createElement('canvas'); c.width = 64; c.height = 48;
  const g = c.getContext('2d');
  g.fillStyle = '#d02020'; g.fillRect(0, 0, 32, 48); g.fillStyle = '#2040d0'; g.fillRect(32, 0, 32, 48);
  if (type === 'image/png') g.clearRect(16, 12, 32, 24);
  return c.toDataURL(type, 0.9).split(',')[1]; }"""


def exif(orientation: int, maker: bytes) -> bytes:
    """An APP1 segment: little-endian TIFF with orientation and a maker's name that must not survive."""
    text = maker + b"\0"
    entries = struct.pack("<HHII", 0x010F, 2, len(text), 38) + struct.pack("<HHIHH", 0x0112, 3, 1, orientation, 0)
    tiff = b"II*\0" + struct.pack("<I", 8) + struct.pack("<H", 2) + entries + struct.pack("<I", 0) + text
    body = b"Exif\0\0" + tiff
    return b"\xff\xe1" + struct.pack(">H", len(body) + 2) + body


with sync_playwright() as play:
    browser = play.chromium.launch(
        executable_path=shutil.which("chromium-headless-shell"), args=["--no-sandbox", "--disable-gpu"]
    )
    page = browser.new_page()
    jpeg = base64.b64decode(page.evaluate(DRAW, "image/jpeg"))
    png = base64.b64decode(page.evaluate(DRAW, "image/png"))
    browser.close()
(HERE / "turned.jpg").write_bytes(jpeg[:2] + exif(6, b"Whereabouts 51N") + jpeg[2:])
(HERE / "clear.png").write_bytes(png)
