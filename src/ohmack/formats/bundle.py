"""The bundle of a job: a ZIP with the designs, the photos, lists, drawings and papers, and a manifest with the checksum
of every file. It goes out whole and comes in whole, or not at all.
"""

from __future__ import annotations

import json
import re
import zlib
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from io import BytesIO
from typing import IO, Any, Literal
from zipfile import ZIP_DEFLATED, ZIP_STORED, BadZipFile, ZipFile, ZipInfo

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from ohmack.core.document import Design
from ohmack.core.document.edits import sentence
from ohmack.core.errors import BadDocument
from ohmack.core.record import record
from ohmack.formats.design_file import read_design, write_design
from ohmack.formats.photo import Photo, PhotoError, kept_photo

FORMAT: Literal["ohmack-bundle"] = "ohmack-bundle"
VERSION: Literal[1] = 1
MANIFEST = "manifest.json"
NAME = re.compile(r"[a-z]{1,20}/[A-Za-z0-9][A-Za-z0-9._-]{0,119}")
MOST_FILES = 900
LARGEST_FILE = 30_000_000
LARGEST_WHOLE = 500_000_000  # unpacked; two hundred photos and those put away
UNREADABLE = (BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, OSError, OverflowError)
CUT_SHORT = "is no whole ZIP: it is cut short or damaged"
LONG_AGO = (1980, 1, 1, 0, 0, 0)  # the same job makes the same bundle
STORED = (".jpg", ".pdf")  # packed already


class _Entry(BaseModel):
    model_config = ConfigDict(extra="ignore", strict=True)


class FileSum(_Entry):
    """Size and checksum of one file."""

    bytes: int = Field(ge=0, le=LARGEST_FILE)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")


class OptionEntry(_Entry):
    """One option of the job: its letter, its file, the revision it is."""

    letter: str = Field(pattern=r"^[A-Z]$")
    file: str
    revision: int = Field(ge=1, le=1_000_000)


class PhotoEntry(_Entry):
    """One photo: its file, where it belongs, what it was called, when it was taken in, whether it is put away."""

    file: str
    path: str = Field(max_length=300)
    name: str = Field(max_length=120)
    taken: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}$")
    away: bool = False

    @field_validator("taken")
    @classmethod
    def _is_a_time(cls, taken: str) -> str:
        datetime.fromisoformat(taken)  # a day no calendar has is refused
        return taken


class Manifest(_Entry):
    """What a bundle says of itself."""

    format: Literal["ohmack-bundle"]
    version: int = Field(ge=1)
    job: str = Field(max_length=20)
    title: str = Field(max_length=120)
    customer: str = Field(max_length=120)
    phone: str = Field("", max_length=40)
    made_on: str = Field(max_length=40)
    options: list[OptionEntry] = Field(min_length=1, max_length=6)
    photos: list[PhotoEntry] = Field(default_factory=list, max_length=400)
    files: dict[str, FileSum]


@record
class BundlePhoto:
    """A photo with where it belongs."""

    path: str
    taken: str
    away: bool
    photo: Photo


@dataclass(frozen=True)
class Bundle:
    """A job as it comes out of a bundle; its photos are read one by one while the file is open."""

    manifest: Manifest
    designs: tuple[Design, ...]
    archive: ZipFile

    def photos(self) -> Iterator[BundlePhoto]:
        """Every photo, checked.

        Raises:
            BadDocument: one that cannot be read.
        """
        for entry in self.manifest.photos:
            yield _photo(entry, _unpacked(self.archive, entry.file))


@record
class Option:
    """An option as it goes into a bundle."""

    letter: str
    revision: int
    design: Design


@record
class Job:
    """Whose job goes into a bundle."""

    number: str
    title: str
    customer: str
    phone: str
    made_on: str


class BundleWriter:
    """A bundle in the making: files go in one by one, the manifest last; nothing is held but sizes and sums."""

    def __init__(self, out: IO[bytes]) -> None:
        self._archive = ZipFile(out, "w")
        self._sums: dict[str, dict[str, Any]] = {}
        self._options: list[dict[str, Any]] = []
        self._photos: list[dict[str, Any]] = []

    def add(self, name: str, data: bytes) -> None:
        """A list, a drawing, a paper."""
        self._sums[name] = {"bytes": len(data), "sha256": sha256(data).hexdigest()}
        self._put(name, data)

    def add_option(self, option: Option) -> None:
        """An option; A comes first."""
        name = f"designs/{option.letter}.ohmack.json"
        self.add(name, write_design(option.design))
        self._options.append({"letter": option.letter, "file": name, "revision": option.revision})

    def add_photo(self, one: BundlePhoto) -> None:
        """A photo with where it belongs."""
        name = f"photos/{len(self._photos) + 1:04d}.jpg"
        self.add(name, one.photo.image)
        shown = {"file": name, "path": one.path, "name": one.photo.name, "taken": one.taken, "away": one.away}
        self._photos.append(shown)

    def finish(self, job: Job) -> None:
        """Whose it is, and the end of the file."""
        manifest = {
            "format": FORMAT, "version": VERSION, "job": job.number, "title": job.title, "customer": job.customer,
            "phone": job.phone, "made_on": job.made_on, "options": self._options, "photos": self._photos,
            "files": self._sums,
        }  # fmt: skip
        self._put(MANIFEST, (json.dumps(manifest, indent=2, ensure_ascii=False) + "\n").encode())
        self._archive.close()

    def abandon(self) -> None:
        """The end of a file that never becomes a bundle."""
        self._archive.close()

    def _put(self, name: str, data: bytes) -> None:
        info = ZipInfo(name, LONG_AGO)
        info.external_attr = 0o644 << 16
        self._archive.writestr(info, data, ZIP_STORED if name.endswith(STORED) else ZIP_DEFLATED)


def write_bundle(
    job: Job, options: Sequence[Option], photos: Sequence[BundlePhoto], others: Mapping[str, bytes]
) -> bytes:  # fmt: skip
    """A whole job as one file.

    Parameters:
        job: whose.
        options: its designs.
        photos: its photos.
        others: lists, drawings and papers by their name in the bundle; nobody reads them back.

    Returns:
        the ZIP; the same job makes the same bytes.
    """
    out = BytesIO()
    writer = BundleWriter(out)
    for option in options:
        writer.add_option(option)
    for photo in photos:
        writer.add_photo(photo)
    for name, data in others.items():
        writer.add(name, data)
    writer.finish(job)
    return out.getvalue()


def is_bundle(data: bytes) -> bool:
    """Whether some bytes begin as a ZIP does."""
    return data[:4] == b"PK\x03\x04"


def _refused(place: str, reason: str) -> BadDocument:
    return BadDocument(((place, reason),))


@contextmanager
def open_bundle(file: IO[bytes]) -> Iterator[Bundle]:
    """A job from a bundle, every file's checksum held against the manifest before anything is used.

    Parameters:
        file: the ZIP; it stays open while the bundle is read.

    Returns:
        the job.

    Raises:
        BadDocument: no whole ZIP, names that climb out, files too many or too large, a checksum that is not right,
            something missing or not named, a newer version, a design or a photo that cannot be read.
    """
    try:
        archive = ZipFile(file)
    except UNREADABLE as error:
        raise _refused("file", CUT_SHORT) from error
    with archive:
        yield _opened(archive)


def _opened(archive: ZipFile) -> Bundle:
    names = [info.filename for info in archive.infolist()]
    _check_names(archive, names)
    manifest = _manifest(_unpacked(archive, MANIFEST))
    given, here = set(manifest.files), set(names) - {MANIFEST}
    if missing := sorted(given - here):
        raise _refused(missing[0][:120], "is in the manifest and not in the bundle")
    if more := sorted(here - given):
        raise _refused(more[0][:120], "is in the bundle and not in the manifest")
    for name in [o.file for o in manifest.options] + [p.file for p in manifest.photos]:
        if name not in given:
            raise _refused(name[:120], "is named by the manifest and not among its files")
    for name, total in manifest.files.items():
        data = _unpacked(archive, name)
        if len(data) != total.bytes or sha256(data).hexdigest() != total.sha256:
            raise _refused(name, "is not as its checksum says: it was changed or damaged")
    letters = [o.letter for o in manifest.options]
    if letters[0] != "A" or len(set(letters)) < len(letters):
        raise _refused(MANIFEST, "has no option A first, or one twice")
    return Bundle(manifest, tuple(_design(o.file, _unpacked(archive, o.file)) for o in manifest.options), archive)


def _check_names(archive: ZipFile, names: list[str]) -> None:
    if MANIFEST not in names:
        raise _refused("file", "has no manifest.json: it is no bundle")
    if len(names) > MOST_FILES:
        raise _refused("file", f"has {len(names)} files; a bundle has at most {MOST_FILES}")
    for name in names:
        if name != MANIFEST and not NAME.fullmatch(name):
            raise _refused("file", f"has a name no bundle has: {name[:60]!r}")
    if len(set(names)) < len(names):
        raise _refused("file", "has the same name twice")
    if sum(info.file_size for info in archive.infolist()) > LARGEST_WHOLE:
        raise _refused("file", f"would be larger than {LARGEST_WHOLE // 1_000_000} MB unpacked")
    for info in archive.infolist():
        if info.file_size > LARGEST_FILE:
            raise _refused(info.filename, f"is larger than {LARGEST_FILE // 1_000_000} MB")


def _unpacked(archive: ZipFile, name: str) -> bytes:
    """A file's bytes, never more than it may have, whatever it says of itself."""
    try:
        with archive.open(name) as file:
            data = file.read(LARGEST_FILE + 1)
    except UNREADABLE as error:
        raise _refused("file", CUT_SHORT) from error
    if len(data) > LARGEST_FILE:
        raise _refused(name, f"is larger than {LARGEST_FILE // 1_000_000} MB")
    return data


def _manifest(data: bytes) -> Manifest:
    try:
        tree = json.loads(data.decode("utf-8"))
    except (ValueError, RecursionError):
        raise _refused(MANIFEST, "is not JSON") from None
    if not isinstance(tree, dict) or tree.get("format") != FORMAT:
        raise _refused(MANIFEST, f"is not of the format “{FORMAT}”")
    version = tree.get("version")
    if isinstance(version, int) and version > VERSION:
        raise _refused(MANIFEST, f"is of version {version}, written by a newer Ohmack. Update first.")
    try:
        return Manifest.model_validate(tree)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        place = "/".join(str(step) for step in first["loc"])
        raise _refused(f"{MANIFEST}, {place}"[:120], sentence(first)) from None


def _design(name: str, data: bytes) -> Design:
    try:
        return read_design(data)
    except BadDocument as error:
        raise BadDocument(tuple((f"{name}, {place}", reason) for place, reason in error.places)) from None


def _photo(entry: PhotoEntry, data: bytes) -> BundlePhoto:
    try:
        return BundlePhoto(entry.path, entry.taken, entry.away, kept_photo(data, entry.name))
    except PhotoError as error:
        raise _refused(entry.file, str(error)) from None
