"""A value that may be absent elsewhere and must be there here."""

from typing import TypeVar

T = TypeVar("T")


def known(value: T | None) -> T:
    """The value. Raises: ValueError where it is None, which is a bug of the caller.

    >>> known(0)
    0
    """
    if value is None:
        raise ValueError("a value that must be known is not")
    return value
