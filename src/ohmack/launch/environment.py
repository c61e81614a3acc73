"""The project's own virtual environment from pinned, hashed requirements. Standard library only."""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
import sysconfig
from collections.abc import Sequence
from pathlib import Path

from ohmack.launch.system import SetupTrouble, install, say

ROOT = Path(__file__).resolve().parents[3]
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
OF_THE_SYSTEM = Path("/usr/bin/python3")
CAN_SERVE = """
import ensurepip, os, sys, venv
sys.exit(sys.version_info < (3, 11) or not os.path.samefile(sys.executable, sys.argv[1]))
"""  # a stand-in that only passes on to another Python would pass on for ever


def faster_python() -> Path | None:
    """The system's own Python, where the one that runs was compiled without its profile: that takes a quarter longer
    for everything. None where this one is good, or the system's is missing, too old or without venv.
    """
    compiled_with = str(sysconfig.get_config_var("CONFIG_ARGS"))
    of_the_system = Path(sys.executable).resolve().parent == OF_THE_SYSTEM.resolve().parent
    if of_the_system or "--enable-optimizations" in compiled_with:
        return None  # the system's are good, though they do not name how they were compiled
    try:
        done = subprocess.run(
            [str(OF_THE_SYSTEM), "-c", CAN_SERVE, str(OF_THE_SYSTEM)], capture_output=True, check=False
        )
    except OSError:
        return None
    return OF_THE_SYSTEM if done.returncode == 0 else None


def _stamp(files: Sequence[Path]) -> str:
    digest = hashlib.sha256(sys.version.encode())
    for file in files:
        digest.update(file.read_bytes())
    return digest.hexdigest()


def _make_venv() -> None:
    command = [sys.executable, "-m", "venv", "--clear", str(VENV)]
    made = subprocess.run(command, capture_output=True, text=True, check=False)
    if made.returncode and ("ensurepip" in made.stdout + made.stderr or "No module named venv" in made.stderr):
        install([f"python{sysconfig.get_python_version()}-venv"])  # Debian packs venv apart
        made = subprocess.run(command, capture_output=True, text=True, check=False)
    if made.returncode:
        raise SetupTrouble(f"No virtual environment could be made in {VENV}:\n{(made.stderr or made.stdout).strip()}")


def ensure_environment(names: Sequence[str]) -> None:
    """Make or refresh the environment from requirements/NAME.txt; does nothing where it is up to date.

    Raises:
        SetupTrouble: venv or pip failed.
    """
    files = [ROOT / "requirements" / f"{name}.txt" for name in names]
    stamp_file, stamp = VENV / f"stamp-{'-'.join(names)}", _stamp(files)
    if PYTHON.exists() and stamp_file.exists() and stamp_file.read_text() == stamp:
        _point_to_sources()
        return
    if not (_is_of_this_python() and _has_pip()):
        say("Making the virtual environment")
        _make_venv()
    say("Installing the pinned packages (once)")
    command = [str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check", "--require-hashes"]
    for file in files:
        command += ["-r", str(file)]
    done = subprocess.run(command, capture_output=True, text=True, check=False, env=os.environ | {"PIP_NO_INPUT": "1"})
    if done.returncode:
        last = "\n".join(done.stderr.strip().splitlines()[-4:])
        raise SetupTrouble(f"The Python packages could not be installed. Is there a network?\n{last}")
    _point_to_sources()
    stamp_file.write_text(stamp)


def _is_of_this_python() -> bool:
    return PYTHON.resolve() == Path(sys.executable).resolve()


def _has_pip() -> bool:
    """Whether the environment is whole enough to install into; one that was being made when the power went is not."""
    try:
        return subprocess.run([str(PYTHON), "-m", "pip", "--version"], capture_output=True, check=False).returncode == 0
    except OSError:
        return False


def _point_to_sources() -> None:
    """Packages are found by a way that is relative: a copied or moved folder runs its own code, not that of the old
    one.
    """
    for site in VENV.glob("lib/python*/site-packages"):
        file, way = site / "ohmack.pth", f"{os.path.relpath(ROOT / 'src', site)}\n"
        if not file.exists() or file.read_text() != way:
            file.write_text(way)
