"""System packages through apt. Standard library only: this runs before the virtual environment exists."""

from __future__ import annotations

import contextlib
import errno
import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

SEARCH = os.pathsep.join([os.environ.get("PATH", ""), "/usr/sbin", "/usr/local/sbin", "/sbin"])
PACKAGES = {
    "mariadbd": "mariadb-server",
    "chromium-headless-shell": "chromium-headless-shell",  # Chromium without a window: a third less to compute
    "ngspice": "ngspice",
    "libatomic.so.1": "libatomic1",  # the browser driver's own Node.js wants it
    "libgalera_smm.so": "galera-4",
    "rsync": "rsync",
    "libpango-1.0.so.0": "libpango-1.0-0",  # papers are set with these three
    "libpangoft2-1.0.so.0": "libpangoft2-1.0-0",
    "libharfbuzz-subset.so.0": "libharfbuzz-subset0",
}
PAPERS = ["libpango-1.0.so.0", "libpangoft2-1.0.so.0", "libharfbuzz-subset.so.0"]
NEEDS: dict[str, list[str]] = {  # what each command of the launcher wants on the machine, by the names above
    "demo": ["mariadbd", *PAPERS],
    "serve": [],
    "bench": [],
    "backup": [],
    "verify": [],
    "restore": ["mariadbd"],  # nothing, where a database of one's own is named
    "shop": [],
    "way-in": [],
    "evaluate": [],
    "test": ["mariadbd", "chromium-headless-shell", "ngspice", "libatomic.so.1", *PAPERS],
    "test cluster": ["mariadbd", "libgalera_smm.so", "rsync", *PAPERS],
    "benchmark": ["mariadbd", "ngspice"],
}


class SetupTrouble(Exception):
    """Something stands in the way; the message says what and the way out."""


def say(text: str) -> None:
    """One line of progress. A terminal that is gone must not keep anything from being stopped."""
    with contextlib.suppress(OSError, ValueError):
        print(f"  {text}", flush=True)


def find_program(name: str) -> str | None:
    """The full path of a program or shared library, administrators' folders included."""
    if ".so" in name:
        return next((str(path) for root in ("/usr/lib", "/lib") for path in Path(root).glob(f"*/{name}")), None)
    return shutil.which(name, path=SEARCH)


def _as_root() -> list[str] | None:
    """What to put before apt-get; None where packages may not be installed."""
    if os.geteuid() == 0:
        return []
    sudo = shutil.which("sudo")
    if sudo and subprocess.run([sudo, "-n", "true"], capture_output=True, check=False).returncode == 0:
        return [sudo, "-n"]
    return None


def install(packages: Iterable[str]) -> None:
    """Install Debian packages.

    Raises:
        SetupTrouble: no apt, no right to install, or apt failed.
    """
    wanted = list(packages)
    by_hand = f"sudo apt-get install {' '.join(wanted)}"
    apt, prefix = shutil.which("apt-get"), _as_root()
    if apt is None:
        raise SetupTrouble(
            f"These packages are missing and apt-get is not here: {', '.join(wanted)}. Install them by hand."
        )
    if prefix is None:
        raise SetupTrouble(
            f"These packages are missing: {', '.join(wanted)}. You may not install packages here. "
            f"Ask for this, then run again:\n\n    {by_hand}"
        )
    say(f"Installing {', '.join(wanted)} with apt (once)")
    environment = os.environ | {"DEBIAN_FRONTEND": "noninteractive"}
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.PIPE, "text": True, "env": environment}
    subprocess.run([*prefix, apt, "update", "-qq"], check=False, **quiet)  # type: ignore[call-overload]
    done = subprocess.run(
        [*prefix, apt, "install", "-y", "-qq", "--no-install-recommends", *wanted], check=False, **quiet
    )  # type: ignore[call-overload]
    if done.returncode:
        last = "\n".join(str(done.stderr).strip().splitlines()[-3:])
        raise SetupTrouble(
            f"apt could not install {', '.join(wanted)}. Is there a network? Try by hand: {by_hand}\n{last}"
        )


def ensure_programs(names: Iterable[str]) -> None:
    """Install what is missing among the names of PACKAGES.

    Raises:
        SetupTrouble: see install.
    """
    missing = [PACKAGES[name] for name in names if find_program(name) is None]
    if missing:
        install(missing)


def fail(trouble: Exception) -> int:
    """Print a trouble as a plain sentence."""
    words = _in_words(trouble) if isinstance(trouble, OSError) else str(trouble)
    print(f"\nOhmack could not start.\n{words}", file=sys.stderr)
    return 1


def _in_words(error: OSError) -> str:
    place = error.filename or "a file"
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return f"The disk is full: {place} could not be written. Make room, then start again; nothing saved is lost."
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS):
        return (
            f"{place} may not be written by this user ({error.strerror}). "
            "Give the right to write there, or choose another folder with OHMACK_VAR=FOLDER."
        )
    return f"{place}: {error.strerror or error}."


def stopped() -> int:
    """What is said after Ctrl-C during set-up; the next start goes on where this one was."""
    print("\nStopped. Start again to go on.", file=sys.stderr)
    return 130
