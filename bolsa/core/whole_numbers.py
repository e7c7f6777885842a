"""Whole numbers as they come from outside (of forms, addresses, files and services), and as they are said in a row."""

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


def nth(number: int) -> str:
    """A number in a row of things.

    >>> nth(1), nth(2), nth(3), nth(11), nth(13), nth(22), nth(31)
    ('1st', '2nd', '3rd', '11th', '13th', '22nd', '31st')
    """
    is_teen = number % 100 in (11, 12, 13)
    return f"{number}{'th' if is_teen else {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10, 'th')}"


def counted(number: int, one: str, many: str = "") -> str:
    """How many of something, in a sentence of what was done.

    >>> counted(1, "entry", "entries"), counted(20, "entry", "entries"), counted(2, "rate")
    ('one entry', '20 entries', '2 rates')
    """
    return f"one {one}" if number == 1 else f"{number:,} {many or f'{one}s'}"
