"""Reading amounts as people and banks write them, without ever guessing twice.

A number style is told by its decimal mark, "." or ",". The other mark, spaces and apostrophes then group digits.
"""

import re
from collections.abc import Iterable
from decimal import Decimal

from bolsa.core.money import digits_of, to_minor
from bolsa.errors import InvalidInput

_MINUS = str.maketrans(dict.fromkeys("−–﹣－", "-"))
_GROUPING_SPACES = re.compile(r"[\s\u00a0\u202f\u2009'’`_]")
_SIGN_WORDS = {"cr": 1, "c": 1, "h": 1, "k": 1, "+": 1, "dr": -1, "d": -1, "s": -1, "db": -1, "-": -1}
_CURRENCY = re.compile(r"[A-Z]{3}(?![A-Za-z])|[€$£¥]|kr\.?|zł", re.IGNORECASE)
_GROUP = 3  # digits between marks that group
_MOST_DIGITS = 15  # more than any household has; beyond it no 64-bit integer holds the minor units
MOST_UNITS = 10**12
# As most files write it: nothing to take off, nothing to weigh.
_PLAIN = {".": re.compile(r"-?\d{1,15}(?:\.\d{1,15})?", re.ASCII), ",": re.compile(r"-?\d{1,15}(?:,\d{1,15})?", re.ASCII)}
_PLAIN_MONEY = re.compile(r"-?\d{1,15}\.\d{2}", re.ASCII)
_NUMBER = re.compile(r"\d[\d.,]*|[.,]\d+")


def read_decimal(text: str, decimal_mark: str) -> Decimal | None:
    """The signed number in the text, or None if the text holds no number in that style.

    Accepts grouping, a leading or trailing sign, brackets for minus, a sign letter (C/CR/H in, D/DR/S out), and a
    currency code or sign before or after. "500," and ".02" are numbers.

    >>> read_decimal("1.006,60-", ","), read_decimal("(12.50)", "."), read_decimal("EUR 3.20 DR", ".")
    (Decimal('-1006.60'), Decimal('-12.50'), Decimal('-3.20'))
    >>> read_decimal("1,2,3", "."), read_decimal("12.5.6", ".") is None
    (Decimal('123'), True)
    """
    if _PLAIN[decimal_mark].fullmatch(text):
        return Decimal(text.replace(",", "."))
    bare = _GROUPING_SPACES.sub("", text).translate(_MINUS)
    sign = 1
    if bare.startswith("(") and bare.endswith(")"):
        sign, bare = -1, bare[1:-1]
    found = _NUMBER.search(bare)
    if not found:
        return None
    around = [bare[: found.start()], bare[found.end() :]]
    for piece in around:
        left = piece
        word_sign = _SIGN_WORDS.get(left.lower())
        if word_sign is None:
            left = _CURRENCY.sub("", piece, count=1)
            word_sign = _SIGN_WORDS.get(left.lower(), None if left else 1)
        if word_sign is None:
            return None
        sign *= word_sign
    digits = _plain_digits(found.group(), decimal_mark)
    return None if digits is None else sign * Decimal(digits)


def read_marked(text: str, usual_mark: str) -> Decimal | None:
    """The number in a text that shows its own decimal mark, which is believed before the file's usual one.

    >>> read_marked("-12.50", ","), read_marked("1.234", ","), read_marked("7", ",")
    (Decimal('-12.50'), Decimal('1234'), Decimal('7'))
    """
    if _PLAIN_MONEY.fullmatch(text):  # as nearly all files write it
        return Decimal(text)
    own_mark, certain = find_decimal_mark([text])
    return read_decimal(text, own_mark if certain and ("." in text or "," in text) else usual_mark)


def _plain_digits(number: str, decimal_mark: str) -> str | None:
    grouping = "," if decimal_mark == "." else "."
    whole, mark, fraction = number.rpartition(decimal_mark)
    if not mark:
        whole, fraction = number, ""
    if decimal_mark in whole or grouping in fraction:
        return None
    if grouping in whole and whole.startswith("0"):
        return None  # "0,005": nothing before a group is nothing that is grouped
    whole = whole.replace(grouping, "")
    if len(whole) > _MOST_DIGITS or len(fraction) > _MOST_DIGITS:
        return None
    return f"{whole or '0'}.{fraction or '0'}" if fraction else (whole or "0")


def find_decimal_mark(samples: Iterable[str]) -> tuple[str, bool]:
    """The decimal mark that explains all samples, and whether there is no doubt about it.

    A mark that stands last beside another one, or that is followed by anything but three digits, is the decimal mark;
    one that repeats in a number groups. If only numbers like "1.234" are there, "." is taken and doubt is reported.

    >>> find_decimal_mark(["1.006,60", "12"]), find_decimal_mark(["1.234"]), find_decimal_mark(["12"])
    ((',', True), ('.', False), ('.', True))
    """
    votes = {".": 0, ",": 0}
    doubtful = False
    for text in samples:
        number = _NUMBER.search(_GROUPING_SPACES.sub("", text))
        if not number:
            continue
        marks = [c for c in number.group() if c in ".,"]
        if not marks:
            continue
        last = marks[-1]
        other = "," if last == "." else "."
        after = len(number.group().rpartition(last)[2])
        if len(set(marks)) == 2 and marks.count(last) == 1:
            votes[last] += 1
        elif marks.count(last) > 1:
            votes[other] += 1
        elif after != 3 or number.group().startswith(last) or number.group().startswith("0"):
            votes[last] += 1
        else:
            doubtful = True
    if votes[","] > votes["."]:
        return ",", True
    return ".", bool(votes["."]) or not doubtful


_SUM = re.compile(r"\s*([+−–-]?\s*[\d.,’' ]*\d[.,]?)\s*((?:[-+*/×÷−–]\s*[\d.,’' ]*\d[.,]?\s*)+)=?\s*")
_TERM = re.compile(r"([-+*/×÷−–])\s*([\d.,’' ]*\d[.,]?)\s*")


def read_sum(text: str, decimal_mark: str) -> Decimal | None:
    """The result of a sum as people type it into a field (120/2, 4*12.50, 100-35), or None if the text is none.

    Times and divided come before plus and minus. Rounding: none but that of 28 digits, where a division does not come out.

    >>> read_sum("120/2", "."), read_sum("10+4*2,50", ","), read_sum("12.50-", "."), read_sum("5/0", ".")
    (Decimal('60'), Decimal('20.00'), None, None)
    """
    whole = _SUM.fullmatch(text)
    first = read_decimal(whole[1], decimal_mark) if whole else None
    if whole is None or first is None:
        return None
    terms = [first]
    for sign, number in _TERM.findall(whole[2]):
        value = read_decimal(number, decimal_mark)
        if value is None or (sign in "/÷" and not value):
            return None
        if sign in "*×":
            terms[-1] *= value
        elif sign in "/÷":
            terms[-1] /= value
        else:
            terms.append(value if sign == "+" else -value)
    return sum(terms, Decimal(0))


def parse_exact(text: str, decimal_mark: str, what: str, field: str, example: str = "12.5") -> Decimal:
    """A typed number that may have as many decimals as it likes: shares, a price, a rate, a part in per cent.

    The reader's mark comes before the decimals. The other mark does where it cannot group (12,5), and groups where the reader's
    mark follows it or it stands several times; where it may be either (1,234), nothing is guessed.
    Raises: InvalidInput naming `field`; `what` says in the sentence what it should be.

    >>> parse_exact("12,5", ".", "a price", "price"), parse_exact("1.234,50", ",", "a price", "price")
    (Decimal('12.5'), Decimal('1234.50'))
    """
    bare = _GROUPING_SPACES.sub("", text).translate(_MINUS)
    other = "," if decimal_mark == "." else "."
    whole, mark, decimals = bare.rpartition(other)
    if mark and decimal_mark not in bare and bare.count(other) == 1:
        may_group = len(decimals) == _GROUP and re.fullmatch(r"[+-]?[1-9]\d{0,2}", whole, re.ASCII)
        if may_group:
            readings = f"{whole}{decimals} or {whole}{decimal_mark}{decimals}"
            raise InvalidInput(f"“{text.strip()[:20]}” can mean {readings}. Type the one you mean.", field=field)
        decimal_mark = other
    elif mark and decimal_mark in whole:
        decimal_mark = other
    number = read_decimal(bare, decimal_mark) if re.fullmatch(r"[+-]?[\d.,]+", bare, re.ASCII) else None
    if number is None:
        raise InvalidInput(f"“{text.strip()[:20]}” isn’t {what}. Try something like {example}.", field=field)
    return number


def parse_amount(text: str, currency: str, *, decimal_mark: str = ".", field: str = "amount") -> int:
    """The typed amount in minor units, with its sign.

    A comma that cannot group ("23,40" or "1.234,50" where the mark is ".") is taken for the decimal mark: no other reading
    is left.
    A sum is worked out (120/2), and rounded half up to the currency's digits; a mark "=" before or after changes nothing.
    Raises: InvalidInput naming `field` when it is no number, or has more digits than the currency.

    >>> parse_amount("1,318.40", "EUR"), parse_amount("−23,40", "EUR"), parse_amount("1,234", "EUR")
    (131840, -2340, 123400)
    >>> parse_amount("1.234,50", "EUR")
    123450
    """
    bare = text.strip().strip("=").strip()
    if not bare:
        raise InvalidInput("An amount is missing.", field=field)
    worked_out = read_sum(bare, decimal_mark)
    if worked_out is not None and abs(worked_out) <= MOST_UNITS:
        return to_minor(worked_out, currency)
    other = "," if decimal_mark == "." else "."
    after_other = len(bare.rpartition(other)[2].strip())
    stands_last = bare.rfind(other) > bare.rfind(decimal_mark)
    if bare.count(other) == 1 and stands_last and (decimal_mark in bare or after_other in (1, 2)):
        decimal_mark = other
    number = read_decimal(bare, decimal_mark)
    if number is None:
        raise InvalidInput(f"“{bare[:30]}” is not an amount. Write it like 23.40.", field=field)
    exponent = number.normalize().as_tuple().exponent
    if isinstance(exponent, int) and -exponent > digits_of(currency):
        raise InvalidInput(f"“{bare[:30]}” has more decimals than {currency} has.", field=field)
    if abs(number) > MOST_UNITS:
        raise InvalidInput("That amount is larger than Bolsa can keep.", field=field)
    return to_minor(number, currency)
