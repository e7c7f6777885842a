"""Securities, and how many shares an institution lists."""

from dataclasses import dataclass, replace
from datetime import date

from stdnum import isin  # ISO 6166: two letters, nine characters, a check digit

from bolsa.core.money import is_currency_code
from bolsa.errors import InvalidInput

KINDS = {"share": "Share", "fund": "Fund", "bond": "Bond", "other": "Other"}
MOST_NAME = 80


@dataclass(frozen=True)
class Security:
    """Something shares are held of; `code` is its ISIN, or what the institution's files call it, "" if nobody said.

    `symbol` is by what its `market` (an ISO 10383 code) knows it; without a market its prices are set by hand. `is_compared`:
    it is followed beside the holdings, and never counted.
    """

    id: int
    name: str
    code: str
    symbol: str = ""
    market: str = ""
    currency: str = ""
    kind: str = "other"
    matures_on: date | None = None
    is_compared: bool = False

    @property
    def has_market(self) -> bool:
        return bool(self.symbol and self.market)


@dataclass(frozen=True)
class Declared:
    """A position an institution declared for the end of a day."""

    security_id: int
    day: date
    shares_e8: int


def check_security(security: Security) -> Security:
    """The security with its words tidied. Raises: InvalidInput naming the field; a code that has the form of an ISIN must be
    one."""
    name, code = " ".join(security.name.split()), "".join(security.code.split()).upper()
    if not name or len(name) > MOST_NAME:
        raise InvalidInput(f"Write the security's name, in up to {MOST_NAME} letters.", field="name")
    if looks_like_isin(code) and not is_isin(code):
        raise InvalidInput(f"“{code}” has the form of an ISIN, and its last digit does not fit the others.", field="code")
    if not is_currency_code(security.currency):
        raise InvalidInput("Write the currency as three capital letters, such as SEK.", field="currency")
    if security.kind not in KINDS:
        raise InvalidInput("Choose what it is.", field="kind")
    symbol, market = security.symbol.strip().upper(), security.market.strip().upper()
    return replace(security, name=name, code=code[:40], symbol=symbol, market=market)


def looks_like_isin(code: str) -> bool:
    """Whether a code has the form of an ISIN: twelve letters and digits, two letters first and a digit last."""
    return len(code) == 12 and code.isascii() and code.isalnum() and code[:2].isalpha() and code[-1].isdigit()


def is_isin(code: str) -> bool:
    """Whether a code is an ISIN, by its check digit. A code of a made-up country (ZZ, XX) is judged by that digit alone."""
    return bool(isin.is_valid(code)) or (code[:2] in ("ZZ", "XX") and isin.calc_check_digit(code[:-1]) == code[-1])
