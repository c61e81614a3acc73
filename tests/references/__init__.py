"""Outside check values and the scripts that make them."""

from __future__ import annotations

import re
import shutil
import subprocess
import tempfile
import tomllib
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent


def ngspice(name: str, **values: float) -> list[float]:
    """Run a netlist in batch mode and return what it printed."""
    netlist = (HERE / name).read_text()
    for key, value in values.items():
        netlist = netlist.replace(f"{{{key}}}", repr(value))
    return ngspice_text(netlist)


def ngspice_text(netlist: str) -> list[float]:
    """Run a netlist that is given as text and return what it printed."""
    program = shutil.which("ngspice")
    assert program, "ngspice is missing: ./ohmack test installs it"
    with tempfile.NamedTemporaryFile("w", suffix=".cir") as file:
        file.write(netlist)
        file.flush()
        done = subprocess.run([program, "-b", file.name], capture_output=True, text=True, timeout=60, check=False)
    return [float(match) for match in re.findall(r"^\S+ = ([-+0-9.e]+)\s*$", done.stdout, re.MULTILINE)]


def published(name: str) -> list[list[Any]]:
    """The rows of a published table in `published.toml`, which says where its values are from and what checks them."""
    rows: list[list[Any]] = tomllib.loads((HERE / "published.toml").read_text())[name]["rows"]
    return rows
