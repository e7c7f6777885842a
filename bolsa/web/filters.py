"""How figures and dates are shown; FILTERS at the foot is the index."""

from collections.abc import Iterable
from datetime import UTC, date, datetime
from decimal import Decimal
from functools import lru_cache

from babel.dates import format_date
from babel.numbers import format_currency, format_decimal
from flask import Flask, g
from markupsafe import Markup

from bolsa.core.holdings.shares import E8
from bolsa.core.money import digits_of, to_decimal
from bolsa.core.months import Month
from bolsa.core.working import SHARES, Working

LOCALE = "en_IE"
MINUS = "\u2212"


@lru_cache(maxsize=20_000)
def amount(amount_minor: int, currency: str = "EUR") -> str:
    """The figure alone, with a proper minus sign: 1,318.40 or −84.35."""
    pattern = "#,##0" + ("." + "0" * digits_of(currency) if digits_of(currency) else "")
    return format_decimal(to_decimal(amount_minor, currency), pattern, locale=LOCALE).replace("-", MINUS)


def money(amount_minor: int, currency: str | None = None) -> str:
    """The figure with its currency: €1,318.40 or −€84.35. Without a currency it is the household's."""
    return _money(amount_minor, currency or g.household.home_currency)


@lru_cache(maxsize=5_000)
def _money(amount_minor: int, code: str) -> str:
    words = format_currency(to_decimal(amount_minor, code), code, locale=LOCALE).replace("-", MINUS)
    return words.replace(code, f"{code}\N{NO-BREAK SPACE}") if code in words else words


def shares(shares_e8: int) -> str:
    """Shares with as many decimals as they have: 1,200 or −12.5034."""
    return format_decimal(Decimal(shares_e8).scaleb(-8), "#,##0.########", locale=LOCALE).replace("-", MINUS)


def _places(shares_e8: int) -> int:
    return len(f"{abs(shares_e8) % E8:08}".rstrip("0"))


def most_places(figures: Iterable[int]) -> int:
    """The most decimals among some figures of shares."""
    return max(map(_places, figures), default=0)


def pad(shares_e8: int, places: int) -> str:
    """Blanks as wide as the decimals a figure of shares lacks beside others with so many, so that the points align."""
    lacking = places - _places(shares_e8)
    return "\u2007" * lacking + ("\u2008" if places and not _places(shares_e8) else "")


def worked(working: Working) -> str:
    """A working's figure alone: an amount, or shares."""
    return shares(working.amount_minor) if working.currency == SHARES else amount(working.amount_minor, working.currency)


def percent(rate: float) -> str:
    """A share as whole per cent: 97 %."""
    return f"{round(rate * 100)} %"


def day(value: date) -> str:
    """14 May 2026."""
    return format_date(value, "d MMMM y", locale=LOCALE)


def weekday(value: date) -> str:
    """Thursday 14 May."""
    return format_date(value, "EEEE d MMMM", locale=LOCALE)


def short_day(value: date) -> str:
    """14 May."""
    return format_date(value, "d MMM", locale=LOCALE)


def month_name(value: Month) -> str:
    """May 2026."""
    return format_date(value.first_day, "MMMM y", locale=LOCALE)


def month_short(value: Month) -> str:
    """May."""
    return format_date(value.first_day, "MMM", locale=LOCALE).removesuffix(".")[:3]


def ago(instant: str) -> Markup:
    """An instant (UTC text) as a day in words, the full time in its title."""
    when = datetime.fromisoformat(instant.replace("Z", "+00:00"))
    today = g.by.today if when.date() <= g.by.today else datetime.now(UTC).date()
    days = (today - when.date()).days
    words = {0: "today", 1: "yesterday"}.get(days) or (f"{days} days ago" if 0 < days < 15 else day(when.date()))
    return Markup('<time datetime="{}" title="{}">{}</time>').format(instant, f"{when:%d %B %Y, %H:%M} UTC", words)


_SMALL = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def count(number: int, noun: str, plural: str = "") -> str:
    """A number with its noun, small ones in words: "two accounts", "31 entries"."""
    words = _SMALL[number] if number < len(_SMALL) else f"{number:,}"
    return f"{words} {noun if number == 1 else plural or noun + 's'}"


def first_upper(text: str) -> str:
    """The text with a capital first letter, the rest untouched."""
    return text[:1].upper() + text[1:]


FILTERS = {
    "ago": ago,
    "amount": amount,
    "count": count,
    "day": day,
    "first_upper": first_upper,
    "money": money,
    "month_name": month_name,
    "month_short": month_short,
    "pad": pad,
    "percent": percent,
    "shares": shares,
    "short_day": short_day,
    "weekday": weekday,
    "worked": worked,
}


def register(app: Flask) -> None:
    app.jinja_env.filters.update(FILTERS)
