"""The rules by name: what each says, when, where its figures come from, and what cures it."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import wraps
from typing import ParamSpec

from percorso.findings.finding import Finding

_Asked = ParamSpec("_Asked")


@dataclass(frozen=True)
class Rule:
    """A named rule; ``cure`` says what is offered to try, empty where a person must look."""

    id: str
    says: str
    when: str
    source: str
    cure: str = ""


RULES: dict[str, Rule] = {}


def register(rule: Rule) -> Rule:
    """A rule under its name, which nothing else has."""
    assert rule.id not in RULES, rule.id
    RULES[rule.id] = rule
    return rule


def named(
    rule_id: str, *, says: str, when: str, source: str, cure: str = ""
) -> Callable[[Callable[_Asked, Iterator[Finding]]], Callable[_Asked, Iterator[Finding]]]:
    """Names a rule: whatever it notices carries that name."""
    register(Rule(rule_id, says, when, source, cure))

    def naming(notice: Callable[_Asked, Iterator[Finding]]) -> Callable[_Asked, Iterator[Finding]]:
        @wraps(notice)
        def noticed(*args: _Asked.args, **kwargs: _Asked.kwargs) -> Iterator[Finding]:
            return (replace(each, rule=rule_id) for each in notice(*args, **kwargs))

        return noticed

    return naming


def as_page() -> str:
    """Every rule as a page of text, by name."""
    head = "# What is noticed\n\nGenerated from the rules themselves; `make api` writes it anew.\n\n"
    columns = "| rule | says | when | source | cure to try |\n|---|---|---|---|---|\n"
    rows = (
        f"| `{each.id}` | {each.says} | {each.when} | {each.source} | {each.cure or 'none; look yourself'} |\n"
        for each in sorted(RULES.values(), key=lambda rule: rule.id)
    )
    return head + columns + "".join(rows)
