"""Photos: what comes from a phone is checked, turned upright, made smaller and written anew, without its metadata."""

from __future__ import annotations

import unicodedata
import warnings
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from io import BytesIO

from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

LARGEST_BYTES = 25_000_000
LARGEST_PIXELS = 64_000_000  # of a JPEG, which is read smaller at once
LARGEST_PNG_PIXELS = 16_000_000  # of a PNG, which must be read whole
LONGEST_EDGE = 2000
THUMBNAIL_EDGE = 280
QUALITY = 84
NAME_LENGTH = 80
ONE_AT_A_TIME = ThreadPoolExecutor(1, "photo")  # four large pictures at once must not take four times the memory


@dataclass
class PhotoError(ValueError):
    """A file that is not taken as a photo; the message says why."""

    message: str

    def __str__(self) -> str:
        return self.message


@dataclass(frozen=True, slots=True)
class Photo:
    """A photo as it is kept: JPEG, upright, no metadata."""

    name: str
    width_px: int
    height_px: int
    image: bytes
    thumbnail: bytes


def clean_name(name: str) -> str:
    """A file name that is only a name: no folders, no control characters, not too long.

    >>> clean_name("..\\\\..\\\\boot.ini"), clean_name("")
    ('boot.ini', 'photo')
    """
    last = name.replace("\\", "/").rsplit("/", 1)[-1]
    kept = "".join(c for c in last if unicodedata.category(c)[0] != "C" and c not in '<>:"|?*').strip(" .")
    return kept[-NAME_LENGTH:] or "photo"


def _encoded(picture: Image.Image, edge: int) -> tuple[bytes, tuple[int, int]]:
    small = picture.copy()
    small.thumbnail((edge, edge), Image.Resampling.LANCZOS)
    plain = Image.frombytes("RGB", small.size, small.tobytes())  # pixels only: nothing of the file comes along
    out = BytesIO()
    plain.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue(), small.size


def _on_white(picture: Image.Image) -> Image.Image:
    if picture.mode in ("RGBA", "LA", "PA") or "transparency" in picture.info:
        layer = picture.convert("RGBA")
        ground = Image.new("RGBA", layer.size, "white")
        return Image.alpha_composite(ground, layer).convert("RGB")
    return picture.convert("RGB")


def _made_smaller(picture: Image.Image) -> tuple[bytes, tuple[int, int], bytes]:
    """(image, its size, thumbnail): smaller first, then turned and put on white, so that the whole is held once
    only.
    """
    ImageFile.LOAD_TRUNCATED_IMAGES = False  # the package that makes PDFs turns it on for everybody
    picture.draft("RGB", (2 * LONGEST_EDGE, 2 * LONGEST_EDGE))  # a JPEG is read smaller at once
    if picture.mode in ("P", "1"):  # a palette cannot be averaged
        picture = picture.convert("RGBA" if "transparency" in picture.info else "RGB")
    picture.thumbnail((LONGEST_EDGE, LONGEST_EDGE), Image.Resampling.LANCZOS)
    upright = _on_white(ImageOps.exif_transpose(picture))
    image, size = _encoded(upright, LONGEST_EDGE)
    thumbnail, _ = _encoded(upright, THUMBNAIL_EDGE)
    return image, size, thumbnail


def read_photo(data: bytes, name: str) -> Photo:
    """A photo from the bytes of a file.

    Parameters:
        data: the file.
        name: what it was called; only its last part is kept.

    Returns:
        the photo, at most 2000 px along its longer edge, with a thumbnail.

    Raises:
        PhotoError: too large, no JPEG or PNG, damaged, or empty.
    """
    shown = clean_name(name)
    if not data:
        raise PhotoError("Choose a photo first.")
    if len(data) > LARGEST_BYTES:
        raise PhotoError(f"{shown} has {len(data) / 1e6:.0f} MB; at most {LARGEST_BYTES / 1e6:.0f} MB are taken.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)  # the limit below is ours
            picture = Image.open(BytesIO(data), formats=("JPEG", "PNG"))
        largest = LARGEST_PIXELS if picture.format == "JPEG" else LARGEST_PNG_PIXELS
        if picture.width * picture.height > largest:
            megapixels = picture.width * picture.height / 1e6
            raise PhotoError(
                f"{shown} has {megapixels:.0f} megapixels; at most {largest / 1e6:.0f} are taken of a {picture.format}."
            )
        image, size, thumbnail = ONE_AT_A_TIME.submit(_made_smaller, picture).result()
    except Image.DecompressionBombError:
        raise PhotoError(f"{shown} claims far more megapixels than are taken.") from None
    except UnidentifiedImageError:
        raise PhotoError(f"{shown} is no JPEG or PNG picture.") from None
    except (OSError, SyntaxError, ValueError, EOFError) as error:
        if isinstance(error, PhotoError):
            raise
        raise PhotoError(f"{shown} is damaged or cut short.") from None
    return Photo(shown, size[0], size[1], image, thumbnail)


BARE = frozenset({0xE0, 0xDB, 0xC0, 0xC1, 0xC2, 0xC4, 0xDA, 0xDD})  # JFIF, tables, frame, scan: pixels and nothing else


def _is_bare(data: bytes) -> bool:
    """Whether a JPEG holds only what pixels need: no metadata, no comment, nothing behind its end."""
    at = 2
    while data[at : at + 1] == b"\xff" and at + 4 <= len(data):
        marker, length = data[at + 1], int.from_bytes(data[at + 2 : at + 4], "big")
        if marker not in BARE:
            return False
        if marker == 0xDA:
            return data.rfind(b"\xff\xd9") == len(data) - 2
        at += 2 + length
    return False


def kept_photo(data: bytes, name: str) -> Photo:
    """A photo that was one of ours before: its bytes stay as they are where they hold nothing but pixels, in our size.

    Parameters:
        data: a file, as from a bundle.
        name: what it was called.

    Returns:
        the photo; made anew like any other where it is not of our kind.

    Raises:
        PhotoError: as `read_photo`.
    """
    made = read_photo(data, name)  # decodes all of it, and makes the thumbnail
    with Image.open(BytesIO(data), formats=("JPEG", "PNG")) as picture:
        same = picture.format == "JPEG" and picture.size == (made.width_px, made.height_px)
    return replace(made, image=data) if same and _is_bare(data) else made
