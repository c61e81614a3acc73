"""The bundle of a job: out and in again, read by other libraries, and everything a bundle may not be."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from functools import cache
from hashlib import sha256

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from stream_unzip import stream_unzip

from ohmack.core.errors import BadDocument
from ohmack.demo.jobs import demo_design
from ohmack.formats import bundle as made
from ohmack.formats.bundle import Bundle, BundlePhoto, Job, Option, open_bundle, write_bundle
from ohmack.formats.photo import Photo, kept_photo, read_photo


def read_bundle(file: io.BytesIO) -> tuple[Bundle, list[BundlePhoto]]:
    with open_bundle(file) as bundle:
        return bundle, list(bundle.photos())


JOB = Job("J-0401", "Bass “hidden” – 12 °C", "Ada Lark", "555 0141", "2026-11-28")


@cache
def photo(n: int) -> Photo:
    out = io.BytesIO()
    Image.new("RGB", (40 + 7 * n, 30), (20 * n % 255, 90, 120)).save(out, "PNG")
    return read_photo(out.getvalue(), f"front {n}.png")


def whole(photos: int = 3, options: str = "AB") -> bytes:
    shown = [BundlePhoto("vehicle/radio", "2026-11-20T10:00:00", n == 1, photo(n)) for n in range(photos)]
    designs = [Option(letter, 4 + n, demo_design(n)) for n, letter in enumerate(options)]
    return write_bundle(JOB, designs, shown, {"lists/wires.csv": b"a;b\r\n", "papers/pack.pdf": b"%PDF-1.7 \x00"})


@given(
    st.lists(st.integers(0, 6), max_size=5), st.lists(st.integers(0, 8), min_size=1, max_size=4), st.text(max_size=60)
)
def test_out_and_in_again_is_the_same(shots: list[int], numbers: list[int], title: str) -> None:
    photos = tuple(
        BundlePhoto(f"work/taken/{n}", f"2026-11-2{n}T10:00:0{n}", bool(n % 2), photo(n)) for n in shots
    )  # fmt: skip
    options = [Option(chr(65 + n), 1 + n, demo_design(d)) for n, d in enumerate(numbers)]
    job = Job("J-0009", title.encode("utf-8", "ignore").decode(), "Ada Lark", "", "2026-11-28")
    data = write_bundle(job, options, photos, {})
    back, shown = read_bundle(io.BytesIO(data))
    assert back.designs == tuple(o.design for o in options)
    assert [(p.path, p.taken, p.away, p.photo.image, p.photo.name) for p in shown] == [
        (p.path, p.taken, p.away, p.photo.image, p.photo.name) for p in photos
    ]
    assert (back.manifest.title, [o.revision for o in back.manifest.options]) == (
        job.title,
        [o.revision for o in options],
    )
    again = write_bundle(job, options, shown, {})
    assert again == data, "the same job makes the same bytes"


def test_another_library_reads_the_same_files_and_sums() -> None:
    """By stream-unzip, which shares no code with the writer; checksums by hashlib over what it unpacked."""
    files = {name.decode(): b"".join(chunks) for name, _, chunks in stream_unzip([whole()])}
    manifest = json.loads(files.pop("manifest.json"))
    assert set(manifest["files"]) == set(files)
    for name, total in manifest["files"].items():
        assert (len(files[name]), sha256(files[name]).hexdigest()) == (total["bytes"], total["sha256"])
    assert [p["name"] for p in manifest["photos"]] == ["front 0.png", "front 1.png", "front 2.png"]
    assert all(name.count("/") == 1 for name in files)


def changed(data: bytes, change: Callable[[dict[str, bytes]], None], compress: int = zipfile.ZIP_DEFLATED) -> bytes:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    change(files)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", compress) as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return out.getvalue()


def told(files: dict[str, bytes], **values: object) -> None:
    files["manifest.json"] = json.dumps(json.loads(files["manifest.json"]) | values).encode()


def renamed(to: str) -> Callable[[dict[str, bytes]], None]:
    def change(files: dict[str, bytes]) -> None:
        files[to] = files.pop("lists/wires.csv")

    return change


SHOT = {"file": "photos/0001.jpg", "path": "", "name": ""}


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (renamed("../../etc/passwd"), "name no bundle has"),
        (renamed("/etc/passwd"), "name no bundle has"),
        (renamed("lists\\..\\wires.csv"), "name no bundle has"),
        (renamed("lists/../wires.csv"), "name no bundle has"),
        (renamed("lists/other.csv"), "in the manifest and not in the bundle"),
        (lambda f: f.pop("photos/0002.jpg"), "in the manifest and not in the bundle"),
        (lambda f: f.update({"photos/0009.jpg": b"x"}), "in the bundle and not in the manifest"),
        (lambda f: f.update({"lists/wires.csv": b"a;c\r\n"}), "not as its checksum says"),
        (lambda f: f.update({"photos/0001.jpg": f["photos/0002.jpg"]}), "not as its checksum says"),
        (lambda f: f.pop("manifest.json"), "no manifest.json"),
        (lambda f: f.update({"manifest.json": b"{"}), "is not JSON"),
        (lambda f: told(f, version=2), "newer Ohmack"),
        (lambda f: told(f, format="other"), "not of the format"),
        (lambda f: told(f, options=[]), "at least 1"),
        (lambda f: told(f, options=[{"letter": "B", "file": "designs/B.ohmack.json", "revision": 1}]), "no option A"),
        (lambda f: told(f, options=[{"letter": "A", "file": "designs/Z.ohmack.json", "revision": 1}]), "not among its"),
        (lambda f: told(f, photos=[SHOT | {"taken": "2026-13-01T00:00:00"}]), "month"),
    ],
)  # fmt: skip
def test_what_is_no_bundle_is_refused_with_its_place(change: Callable[[dict[str, bytes]], None], words: str) -> None:
    with pytest.raises(BadDocument) as refused:
        read_bundle(io.BytesIO(changed(whole(), change)))
    assert words in " ".join(f"{place} {reason}" for place, reason in refused.value.places)


def test_a_bundle_cut_anywhere_is_refused() -> None:
    data = whole(1, "A")
    for share in (0.02, 0.3, 0.5, 0.9, 0.999):
        with pytest.raises(BadDocument):
            read_bundle(io.BytesIO(data[: int(share * len(data))]))
    for at in range(200, len(data), len(data) // 23):
        flipped = bytearray(data)
        flipped[at] ^= 0x41
        try:
            back, _ = read_bundle(io.BytesIO(bytes(flipped)))
        except BadDocument:
            continue
        assert back.designs == (demo_design(0),), "what is let in is what was let out"


def test_a_bundle_that_blows_up_is_not_unpacked(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(made, "LARGEST_FILE", 2_000_000)
    blown = changed(whole(0, "A"), lambda f: f.update({"lists/big.csv": b"0" * 3_000_000}))
    assert len(blown) < 100_000
    with pytest.raises(BadDocument, match="larger than"):
        read_bundle(io.BytesIO(blown))


def test_a_photo_of_ours_stays_as_it_is_and_any_other_loses_its_metadata() -> None:
    ours = photo(3)
    assert kept_photo(ours.image, "x.jpg").image == ours.image
    exif = Image.Exif()
    exif[0x010E] = "who was there"
    out = io.BytesIO()
    Image.new("RGB", (50, 40), "red").save(out, "JPEG", exif=exif)
    assert b"who was there" in out.getvalue()
    assert b"who was there" not in kept_photo(out.getvalue(), "x.jpg").image
    behind = ours.image + b"<script>"
    assert b"<script>" not in kept_photo(behind, "x.jpg").image
