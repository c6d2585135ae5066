"""Spelled: movements, attacks and other described things as JSON values, by the names of kinds."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import fields
from typing import Any

from understep.checks import Described, named
from understep.errors import InputError

KIND = "is"  # the key that names the kind of a thing
#: Functions that are rules, by name.
Rules = Mapping[str, Callable[..., Any]]


def spelled(value: Any) -> Any:
    """A value as JSON: of a described thing its kind and the fields that are not at their default.

    A function is its name, which differs where another function does.
    """
    if isinstance(value, Described):
        facts = {name: spelled(fact) for name, fact in value._changed().items()}
        return {KIND: type(value).__name__} | facts
    if isinstance(value, Mapping):
        return {name: spelled(each) for name, each in value.items()}
    if isinstance(value, tuple | list):
        return [spelled(each) for each in value]
    return getattr(value, "__qualname__", "function") if callable(value) else value


def unspelled(value: Any, argument: str, rules: Rules) -> Any:
    """The thing that a JSON value spells; functions come from those given by name."""
    if isinstance(value, list):
        return [unspelled(each, argument, rules) for each in value]
    if not isinstance(value, Mapping):
        return value
    if KIND not in value:
        return {name: unspelled(each, argument, rules) for name, each in value.items()}
    kind = Described.kinds[named(argument, "kind", value[KIND], Described.kinds)]
    known = {each.name for each in fields(kind) if each.init}
    facts = {}
    for name, fact in value.items():
        if name == KIND:
            continue
        named(argument, f"fact of a {value[KIND]}", name, known)
        if name == "rule":
            facts[name] = rules.get(fact)
            if facts[name] is None:
                fault = "names a function that no unit of this board has"
                raise InputError(f"{argument}.rule", fault, fact)
        else:
            facts[name] = unspelled(fact, f"{argument}.{name}", rules)
    try:
        return kind(**facts)
    except TypeError:
        rule = f"must have all facts of a {value[KIND]}"
        raise InputError(argument, rule, sorted(facts)) from None
