"""How figures and dates are shown; FILTERS at the foot is the index."""

import re
from collections.abc import Iterable
from datetime import UTC, date, datetime
from decimal import Decimal
from fractions import Fraction
from functools import lru_cache

from babel import Locale
from babel.dates import format_date, format_time
from babel.numbers import format_currency, format_decimal
from flask import Flask, g
from markupsafe import Markup

from bolsa.core.holdings.shares import E8
from bolsa.core.money import decimal_text, digits_of, to_decimal, to_minor
from bolsa.core.months import Month
from bolsa.core.reader import Reader
from bolsa.core.units import Figure, Percent, Price, Shares
from bolsa.errors import InvalidInput

MINUS = "\u2212"


def locale() -> str:
    """The locale of who reads."""
    return g.reader.locale


def amount(amount_minor: int, currency: str) -> str:
    """The figure alone, with a proper minus sign: 1,318.40 or −84.35."""
    return _amount(amount_minor, currency, locale())


@lru_cache(maxsize=20_000)
def _amount(amount_minor: int, currency: str, where: str) -> str:
    pattern = "#,##0" + ("." + "0" * digits_of(currency) if digits_of(currency) else "")
    return format_decimal(to_decimal(amount_minor, currency), pattern, locale=where).replace("-", MINUS)


def in_field(amount_minor: int, currency: str) -> str:
    """The amount as it stands in a field: the reader's decimal mark, the currency's digits, no grouping. Posted back unchanged it
    is the same amount."""
    return decimal_text(amount_minor, currency).replace(".", g.reader.decimal_mark)


def brief(amount_minor: int, currency: str) -> str:
    """The figure alone, without decimals where they would all be nothing: 1,290 or 12.50."""
    return axis(amount_minor, currency) if amount_minor % 10 ** digits_of(currency) == 0 else amount(amount_minor, currency)


def money(amount_minor: int, currency: str) -> str:
    """The figure with its currency: €1,318.40 or −€84.35."""
    return _money(amount_minor, currency, locale())


@lru_cache(maxsize=5_000)
def _money(amount_minor: int, code: str, where: str) -> str:
    words = format_currency(to_decimal(amount_minor, code), code, locale=where, currency_digits=False,
                            format=_money_pattern(code, where)).replace("-", MINUS)  # fmt: skip
    return words.replace(code, f"{code}\N{NO-BREAK SPACE}") if words.startswith((code, MINUS + code)) else words


@lru_cache(maxsize=500)
def _money_pattern(code: str, where: str) -> str:
    """The locale's way of writing money, with our table's digits of the currency."""
    pattern = Locale.parse(where).currency_formats["standard"].pattern
    digits = digits_of(code)
    return re.sub(r"0\.0+", "0." + "0" * digits if digits else "0", pattern)


def samples(reader: Reader, currency: str, day: date) -> tuple[str, str, str]:
    """An amount in, an amount out and a day as another reader would see them."""
    short = format_date(day, "short", locale=reader.locale)
    return _money(123_450, currency, reader.locale), _money(-1_234_567, currency, reader.locale), short


def axis(amount_minor: int, currency: str) -> str:
    """A round amount beside a rule of a drawing, in whole units: 20,000."""
    return _whole(amount_minor, currency, locale())


@lru_cache(maxsize=20_000)
def _whole(amount_minor: int, currency: str, where: str) -> str:
    return format_decimal(to_decimal(amount_minor, currency), "#,##0.###", locale=where).replace("-", MINUS)


def figure(value: Figure) -> str:
    """A working's figure alone: an amount, or shares."""
    return shares(value.e8) if isinstance(value, Shares) else amount(value.minor, value.currency)


def whole_figure(value: Figure) -> str:
    """A figure with what it is of: €1,318.40, or 12.5 shares."""
    return f"{shares(value.e8)} shares" if isinstance(value, Shares) else money(value.minor, value.currency)


def shares(shares_e8: int) -> str:
    """Shares with as many decimals as they have: 1,200 or −12.5034."""
    return format_decimal(Decimal(shares_e8).scaleb(-8), "#,##0.########", locale=locale()).replace("-", MINUS)


def _places(shares_e8: int) -> int:
    return len(f"{abs(shares_e8) % E8:08}".rstrip("0"))


def most_places(figures: Iterable[int]) -> int:
    """The most decimals among some figures of shares."""
    return max(map(_places, figures), default=0)


def pad(shares_e8: int, places: int) -> str:
    """Blanks as wide as the decimals a figure of shares lacks beside others with so many, so that the points align."""
    lacking = places - _places(shares_e8)
    return "\u2007" * lacking + ("\u2008" if places and not _places(shares_e8) else "")


def number(value: Decimal | int, places: int = 0) -> str:
    """A number that is no money, with so many decimals: 1,204 or 0.0915."""
    pattern = "#,##0" + ("." + "0" * places if places else "")
    return format_decimal(value, pattern, locale=locale()).replace("-", MINUS)


def so_many_percent(value: Percent) -> str:
    """So many per cent, with the decimals it has: 6.5 %."""
    places = len(f"{value.value:f}".partition(".")[2].rstrip("0"))
    return f"{number(value.value, places)} %"


def rate(rate_e8: int) -> str:
    """What one unit of a currency is worth in another, kept times 1e8: 0.091500."""
    return number(Decimal(rate_e8).scaleb(-8), 6)


def price(value: Price) -> str:
    """A price a share with two decimals, or four where it needs them: 81.20, 0.0915; its currency stands beside."""
    exact = Decimal(value.e8).scaleb(-8)
    return number(exact, 2 if exact == round(exact, 2) or exact >= 1000 else 4)


def price_in(value: Price) -> str:
    """A price a share with its currency: 81.20 USD."""
    return f"{price(value)} {value.currency}"


def so_much(value: Fraction) -> str:
    """An exact ratio with six decimals: 0.091500."""
    return number(Decimal(value.numerator) / Decimal(value.denominator), 6)


def tenth_percent(share: float) -> str:
    """A share as per cent with a decimal: 6.1 %."""
    return f"{number(Decimal(f'{share * 100:.1f}'), 1)} %"


def one_decimal(value: float) -> str:
    """A number with one decimal: 8.2."""
    return number(Decimal(f"{value:.1f}"), 1)


def signed_points(value: float) -> str:
    """Points of per cent with their sign: +8.2, −0.4."""
    return ("+" if value > 0.05 else "") + one_decimal(value if abs(value) >= 0.05 else 0.0)


def trim_percent(value: Decimal, bare: bool = False) -> str:
    """Per cent with the decimals it has: 62.5 %, or for a field 62.5."""
    places = len(f"{value:f}".partition(".")[2].rstrip("0"))
    words = number(value, places)
    return words if bare else f"{words} %"


def axis_short(amount_minor: int, currency: str) -> str:
    """An amount in short, in thousands where it has some: 46.4 k, 380."""
    exact = to_decimal(amount_minor, currency)
    return f"{number(exact / 1000, 1)} k" if abs(exact) >= 1000 else number(exact)


def percent(share: float) -> str:
    """A share as whole per cent: 97 %."""
    return f"{round(share * 100)} %"


@lru_cache(maxsize=5_000)
def _date(value: date, pattern: str, where: str) -> str:
    return format_date(value, pattern, locale=where)


def day(value: date) -> str:
    """14 May 2026."""
    return _date(value, "d MMMM y", locale())


def day_field(value: date | str | None) -> str:
    """A day as a field shows it, in numbers the reader's way; what was typed stays as it was typed."""
    if isinstance(value, date):
        return value.strftime(g.reader.day_pattern)
    try:
        return date.fromisoformat(value or "").strftime(g.reader.day_pattern)
    except ValueError:
        return value or ""


def day_iso(value: date | str | None) -> str:
    """A day as the small month takes it, 2026-05-14; "" for what is none."""
    try:
        return (value if isinstance(value, date) else date.fromisoformat(value or "")).isoformat()
    except ValueError:
        return ""


def weekday(value: date) -> str:
    """Thursday 14 May."""
    return _date(value, "EEEE d MMMM", locale())


def short_day(value: date) -> str:
    """14 May."""
    return _date(value, "d MMM", locale())


def month_name(value: Month) -> str:
    """May 2026."""
    return _date(value.first_day, "MMMM y", locale())


def month_short(value: Month) -> str:
    """May."""
    return _date(value.first_day, "MMM", locale()).removesuffix(".")[:3]


# What stands in quotes is somebody's own words, or an example of how to write.
_FIGURES = re.compile(
    r"“[^”]*”|\b(\d{4})-(\d\d)(?:-(\d\d))?\b"  # a day or a month
    r"|(?<![\w.,])([-−]?\d+(?:\.\d+)?) ([A-Z]{3})\b"  # an amount
    r"|(?<![\w.,])(\d{1,3}(?:,\d{3})+|\d+\.\d+)(?![\w.,]*\d)"  # a count of thousands, a rate
)


def sentence(words: str) -> str:
    """A kept or raised sentence with its figures as the reader writes them: below the web it holds days and months as ISO text,
    amounts as decimals with their currency, thousands parted by commas (core/units.py)."""

    def written(found: re.Match[str]) -> str:
        year, month, day_of_month, decimal, currency, other = found.groups()
        try:
            if other:
                return number(Decimal(other.replace(",", "")), len(other.partition(".")[2]))
            if currency and len(decimal.partition(".")[2]) != digits_of(currency):
                return found[0]  # a count of things with a short name
            if currency:
                return money(to_minor(Decimal(decimal.replace(MINUS, "-")), currency), currency)
            if not year:
                return found[0]
            first = date(int(year), int(month), int(day_of_month or 1))
            return day(first) if day_of_month else month_name(Month.of(first))
        except (ValueError, InvalidInput):
            return found[0]

    return _FIGURES.sub(written, words)


def ago(instant: str) -> Markup:
    """An instant (UTC text) as a day in words, the full time in its title."""
    when = datetime.fromisoformat(instant.replace("Z", "+00:00"))
    today = g.by.today if when.date() <= g.by.today else datetime.now(UTC).date()
    days = (today - when.date()).days
    words = {0: "today", 1: "yesterday"}.get(days) or (f"{days} days ago" if 0 < days < 15 else day(when.date()))
    return Markup('<time datetime="{}" title="{}">{}</time>').format(
        instant, f"{day(when.date())}, {format_time(when, 'HH:mm', locale=locale())} UTC", words
    )


_SMALL = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def count(times: int, noun: str, plural: str = "") -> str:
    """A number with its noun, small ones in words: "two accounts", "31 entries"."""
    words = _SMALL[times] if times < len(_SMALL) else number(times)
    return f"{words} {noun if times == 1 else plural or noun + 's'}"


def first_upper(text: str) -> str:
    """The text with a capital first letter, the rest untouched."""
    return text[:1].upper() + text[1:]


FILTERS = {
    "ago": ago,
    "amount": amount,
    "brief": brief,
    "count": count,
    "axis": axis,
    "axis_short": axis_short,
    "day": day,
    "day_field": day_field,
    "day_iso": day_iso,
    "figure": figure,
    "in_field": in_field,
    "first_upper": first_upper,
    "money": money,
    "month_name": month_name,
    "month_short": month_short,
    "pad": pad,
    "price": price,
    "price_in": price_in,
    "number": number,
    "one_decimal": one_decimal,
    "percent": percent,
    "rate": rate,
    "sentence": sentence,
    "shares": shares,
    "short_day": short_day,
    "signed_points": signed_points,
    "so_many_percent": so_many_percent,
    "so_much": so_much,
    "tenth_percent": tenth_percent,
    "trim_percent": trim_percent,
    "weekday": weekday,
    "whole_figure": whole_figure,
}


def register(app: Flask) -> None:
    app.jinja_env.filters.update(FILTERS)
