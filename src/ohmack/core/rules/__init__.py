"""Findings: one small function per rule, registered with its id, stage and source."""

from ohmack.core.rules.finding import RULES, Finding, Remedy, Severity, run_rules

__all__ = ["RULES", "Finding", "Remedy", "Severity", "run_rules"]
