"""The house's own rules: docstrings, names, units, sources, no traces of registries."""

from __future__ import annotations

import ast
import doctest
import importlib
import inspect
import os
import pkgutil
import re
import sys
from importlib.metadata import packages_distributions
from pathlib import Path

import pytest

import ohmack.core
import ohmack.core.physics
import ohmack.formats
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.reference import read_toml
from ohmack.core.units import unit_of

ROOT = Path(__file__).resolve().parents[2]
FORMULAS = tuple(m.name for m in pkgutil.iter_modules(ohmack.core.physics.__path__))
UNITS = r"_(ohm|v|a|w|m|mm|mm2|db|dbv|dbfs|hz|c|s)$"


def functions() -> list[tuple[str, object]]:
    found = []
    for name in FORMULAS:
        module = importlib.import_module(f"ohmack.core.physics.{name}")
        found += [
            (f"{name}.{n}", f)
            for n, f in inspect.getmembers(module, inspect.isfunction)
            if not n.startswith("_") and f.__module__ == module.__name__
        ]
    return found


@pytest.mark.parametrize(("name", "function"), functions())
def test_docstrings_agree_with_signatures(name: str, function: object) -> None:
    text = inspect.getdoc(function) or ""
    assert text, name
    source = inspect.getsource(function)  # type: ignore[arg-type]
    if "raise " in source or "require(" in source:
        assert "Raises:" in text, f"{name} raises and does not say so"
    for parameter in inspect.signature(function).parameters:  # type: ignore[arg-type]
        unit = re.search(UNITS, parameter)
        if unit and "Parameters:" in text and f"{parameter}:" in text:
            line = next(row for row in text.splitlines() if row.strip().startswith(f"{parameter}:"))
            assert f"[{unit[1]}]" in line, f"{name}: {line.strip()}"


def test_doctests() -> None:
    modules = [m.name for m in pkgutil.walk_packages(ohmack.core.__path__, "ohmack.core.")]
    total = 0
    modules += [m.name for m in pkgutil.iter_modules(ohmack.formats.__path__, "ohmack.formats.")]
    for name in [*modules, "ohmack.drawing.svg"]:
        result = doctest.testmod(importlib.import_module(name))
        assert result.failed == 0, name
        total += result.attempted
    assert total >= 12


def test_nomenclature_lists_every_quantity_of_the_document() -> None:
    text = (ROOT / "docs/nomenclature.md").read_text()
    import ohmack.core.document.cabin as cabin
    import ohmack.core.document.factory as factory
    import ohmack.core.document.links as links
    import ohmack.core.document.parts as parts
    import ohmack.core.document.vehicle as vehicle

    fields = {
        f
        for module in (links, parts, vehicle, factory, cabin)
        for _, c in inspect.getmembers(module, inspect.isclass)
        if hasattr(c, "model_fields")
        for f in c.model_fields
    }
    missing = sorted(f for f in fields if unit_of(f) and f"`{f}`" not in text)
    assert not missing, missing


def test_every_policy_value_has_its_consequence() -> None:
    words = read_toml("schools")
    assert set(Policy.model_fields) == set(words)
    for name, info in Policy.model_fields.items():
        options = getattr(info.annotation, "__args__", ())
        if options and all(isinstance(o, str) for o in options):
            assert set(words[name]["choices"]) == set(options), name


def test_every_kind_of_fact_says_how_it_is_verified() -> None:
    from ohmack.core.document.paths import design_facts
    from ohmack.demo.jobs import demo_design, demo_jobs

    guide = read_toml("facts")
    fields = {field for number in range(len(demo_jobs())) for _, _, _, field in design_facts(demo_design(number))}
    assert fields <= set(guide), fields - set(guide)
    assert all(row["how"] and row["minutes"] > 0 for row in guide.values())
    assert Vehicle.model_fields


def test_no_registry_host_in_any_file() -> None:
    hosts = re.compile(rb"files\.python" + rb"hosted|registry\.np" + rb"mjs|py" + rb"pi\.org|deb\.deb" + rb"ian\.org")
    skipped = {
        ".git",
        ".venv",
        "var",
        ".mypy_cache",
        ".ruff_cache",
        ".pytest_cache",
        ".hypothesis",
        "__pycache__",
        ".import_linter_cache",
    }
    seen = 0
    for folder, folders, names in os.walk(ROOT):
        folders[:] = [name for name in folders if name not in skipped]
        for name in names:
            path = Path(folder) / name
            assert not hosts.search(path.read_bytes()), f"{path} names a registry host"
            seen += 1
    assert seen > 100


def test_templates_keep_to_the_width_of_the_page() -> None:
    """The formatter breaks tags, not expressions; the width is held here."""
    wide = [
        f"{path.relative_to(ROOT)}:{number}"
        for path in (ROOT / "src/ohmack/web").rglob("*.html")
        for number, line in enumerate(path.read_text().splitlines(), 1)
        if len(line) > 120
    ]
    assert not wide


def test_everything_the_application_imports_is_installed_with_it() -> None:
    """A package that only the tests require would be missing on the machine of somebody who runs the demo."""
    own = sys.stdlib_module_names | {"ohmack"}
    wanted: set[str] = set()
    for file in (ROOT / "src").rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text("utf-8"))):
            names = [a.name for a in node.names] if isinstance(node, ast.Import) else []
            if isinstance(node, ast.ImportFrom) and node.module and not node.level:
                names = [node.module]
            wanted |= {name.partition(".")[0] for name in names}
    packages = packages_distributions()
    pinned = set(re.findall(r"^([\w.-]+)==", (ROOT / "requirements" / "app.txt").read_text("utf-8"), re.M))
    pinned = {name.lower().replace("_", "-") for name in pinned}
    lacking = {
        module for module in wanted - own
        if not pinned & {d.lower().replace("_", "-") for d in packages.get(module, [module])}
    }  # fmt: skip
    assert not lacking
