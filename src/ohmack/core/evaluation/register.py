"""The register of rules: every module of a topic whose name ends in `findings` is found and asked."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from ohmack.core import box, build, factory, fit, handover, harness, loads, prove, signal, supply, survey
from ohmack.core.evaluation.results import Results
from ohmack.core.figures.finding import RULES, Finding, findings_of, in_order

TOPICS = (survey, factory, fit, loads, harness, supply, signal, box, build, prove, handover)

for _topic in TOPICS:
    for _found in iter_modules(_topic.__path__, f"{_topic.__name__}."):
        if _found.name.endswith("findings"):
            import_module(_found.name)


def run_rules(results: Results) -> tuple[Finding, ...]:
    """All findings, each once, worst first; within one severity in the order of the stages, cautions last."""
    return in_order(found for r in RULES.values() if not r.last for found in findings_of(r, results))


def last_rules(results: Results) -> tuple[Finding, ...]:
    """What is judged once a design is swept: by rules too dear to be asked for every fact that is varied."""
    return tuple(found for r in RULES.values() if r.last for found in findings_of(r, results))
