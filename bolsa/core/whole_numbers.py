"""Whole numbers as they come from outside: of forms, addresses, files and services."""

MOST_DIGITS = 18  # what a row's id, or an amount in minor units, has at most


def number_of(text: str, *, signed: bool = False) -> int | None:
    """The whole number a text is, in plain digits and not more than a row can have; None for any other text.

    >>> number_of("12"), number_of("-12"), number_of("-12", signed=True), number_of("²"), number_of("")
    (12, None, -12, None, None)
    """
    digits = text[1:] if signed and text[:1] in ("+", "-") else text
    return int(text) if digits.isascii() and digits.isdecimal() and len(digits) <= MOST_DIGITS else None


def is_number(text: str) -> bool:
    """Whether a text is a whole number that a row can have."""
    return number_of(text) is not None
