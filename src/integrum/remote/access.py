"""How a remote place is entered: options of fsspec, in which secrets are only named, and stand in the environment."""

from __future__ import annotations

import os
from collections.abc import Mapping
from typing import Any

from integrum.errors import PlanError
from integrum.remote.addresses import is_remote, is_secret, secret_in

# by name a value, or "$NAME" for one in the environment; hashable, as it goes with each source
Access = tuple[tuple[str, str | int | float | bool], ...]


def check_access(value: object, place: str) -> dict[str, str | int | float | bool]:
    """Check the options of a remote place.

    Raises PlanError when it is something else, or a secret is written out.

    `value`: by name (with dots for options in options) a text, a number or a truth value.

    Examples
    --------
    >>> check_access({"key": "$LAKES_KEY", "client_kwargs.region_name": "eu-north-1"}, "access")["key"]
    '$LAKES_KEY'
    >>> check_access({"secret": "1815"}, "access")
    Traceback (most recent call last):
    ...
    integrum.errors.PlanError: access.secret: a plan does not hold secrets; set it in the environment, and name it: "$NAME"
    """
    if not isinstance(value, Mapping):
        raise PlanError(f"expected a table of options, got {type(value).__name__}", place)
    for name, each in value.items():
        where = f"{place}.{name}"
        if not isinstance(name, str) or not isinstance(each, (str, int, float, bool)):
            raise PlanError("expected a text, a number or a truth value", where)
        if isinstance(each, str) and not _is_reference(each):
            if is_secret(name):
                raise PlanError(
                    'a plan does not hold secrets; set it in the environment, and name it: "$NAME"',
                    where,
                )
            if is_remote(each) and secret_in(each):
                raise PlanError(_WRITTEN_OUT.format(secret_in(each)), where)
    return dict(value)


_WRITTEN_OUT = "{} is a secret, and a plan does not hold secrets"


def check_address(address: str, place: str) -> None:
    """Refuse an address with a secret in it.

    Raises PlanError.
    """
    if is_remote(address) and (found := secret_in(address)):
        raise PlanError(
            f'{_WRITTEN_OUT.format(found)}; name it in access instead: access = {{ password = "$NAME" }}',
            place,
        )


def _is_reference(value: str) -> bool:
    return value.startswith("$") and not value.startswith("$$") and len(value) > 1


def options_of(access: Access) -> dict[str, Any]:
    """The options with secrets from the environment; ``$$`` stands for ``$``.

    Raises PlanError when the environment does not hold a value.

    Examples
    --------
    >>> os.environ["LAKES_PORT"] = "22"
    >>> options_of((("port", "$LAKES_PORT"), ("client_kwargs.region_name", "eu")))
    {'port': '22', 'client_kwargs': {'region_name': 'eu'}}
    """
    options: dict[str, Any] = {}
    for name, value in access:
        given: Any = value
        if isinstance(value, str) and _is_reference(value):
            given = os.environ.get(value[1:])
            if given is None:
                raise PlanError(
                    f"the environment does not have {value[1:]}; set it, and run again", f"access.{name}"
                )
        elif isinstance(value, str) and value.startswith("$$"):
            given = value[1:]
        *outer, last = name.split(".")
        here = options
        for part in outer:
            here = here.setdefault(part, {})
        here[last] = given
    return options


def without_secrets(text: str, access: Access) -> str:
    """Remove secrets from a message.

    Examples
    --------
    >>> os.environ["LAKES_SECRET"] = "ada-1815"
    >>> without_secrets("403 for ada-1815", (("secret", "$LAKES_SECRET"),))
    '403 for $LAKES_SECRET'
    """
    for _, value in access:
        if isinstance(value, str) and _is_reference(value):
            given = os.environ.get(value[1:], "")
            if len(given) > 2:
                text = text.replace(given, value)
    return text
