"""What the code cites stands in docs/rules.md, and every rule there is cited."""

from __future__ import annotations

import re
from pathlib import Path

ROOT = Path(__file__).parent.parent
_CITED = re.compile(r"\bR(\d{1,3})\b(?: (to|and) R(\d{1,3}))?")


def cited() -> set[int]:
    found: set[int] = set()
    for path in (ROOT / "src").rglob("*.py"):
        for line in path.read_text().splitlines():
            if "docs/rules.md" in line or re.search(r"\((?:docs/rules\.md, )?R\d+[);]|# R\d+$", line):
                for first, how, last in _CITED.findall(line):
                    found |= set(range(int(first), int(last) + 1)) if how == "to" else {int(first), int(last or first)}
    return found


def test_every_citation_has_its_rule_and_every_rule_is_cited():
    rules = [int(number) for number in re.findall(r"^- \*\*R(\d+)\*\*", (ROOT / "docs/rules.md").read_text(), re.M)]
    assert rules == list(range(1, len(rules) + 1))
    assert cited() == set(rules)
