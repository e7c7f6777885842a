"""The shares in an OFX investment statement: what moved them, and the positions the institution declares.

Source: OFX 2.2, chapter 13: SECLIST (13.8), INVTRANLIST (13.9.2), INVPOSLIST (13.9.2.6). Cash that is paid in or out
(INVBANKTRAN) is read with the rows of banks.
"""

from decimal import Decimal
from xml.etree.ElementTree import Element

from bolsa.core.amounts import read_marked
from bolsa.core.bringing.rows import BroughtMove, BroughtPosition, BroughtShares
from bolsa.core.holdings.shares import E8, MOST_SHARES
from bolsa.core.money import to_minor
from bolsa.core.whole_numbers import number_of
from bolsa.errors import UnreadableFile
from bolsa.formats.ofx_leaves import read_ofx_day, text_of

# The element of a transaction, the kind of move, and which way its units go: UNITS is signed in a statement, yet banks send
# sales without the sign, so the element decides (0: as signed).
_MOVES = {
    "BUYMF": ("buy", 1), "BUYSTOCK": ("buy", 1), "BUYDEBT": ("buy", 1), "BUYOTHER": ("buy", 1), "BUYOPT": ("buy", 1),
    "SELLMF": ("sell", -1), "SELLSTOCK": ("sell", -1), "SELLDEBT": ("sell", -1), "SELLOTHER": ("sell", -1),
    "SELLOPT": ("sell", -1), "REINVEST": ("reinvest", 1), "TRANSFER": ("in", 0), "SPLIT": ("split", 0),
}  # fmt: skip
_CASH = {"INCOME": ("dividend", 1), "RETOFCAP": ("return", 1), "INVEXPENSE": ("fee", -1), "MARGININTEREST": ("fee", -1)}
_COSTS = ("COMMISSION", "FEES", "TAXES", "LOAD")
_POSITIONS = {"POSMF", "POSSTOCK", "POSDEBT", "POSOTHER", "POSOPT"}


def read_shares(root: Element, statement: Element, currency: str) -> BroughtShares:
    """The moves and positions of one INVSTMTRS. Raises: UnreadableFile naming the element that lacks what it must have."""
    names = {code: name for code, name in (_security(info) for info in root.iter("SECINFO")) if code}
    as_of = read_ofx_day(text_of(statement, "DTASOF"))
    moves, positions = [], []
    for element in statement.iter():
        if element.tag in _MOVES:
            moves.append(_move(element, names, currency))
        elif element.tag in _CASH and text_of(element, "UNIQUEID"):
            moves.append(_cash(element, names, currency))
        elif element.tag in _POSITIONS:
            code = text_of(element, "UNIQUEID")
            units, day = read_marked(text_of(element, "UNITS"), "."), read_ofx_day(text_of(element, "DTPRICEASOF"))
            day = as_of or day
            if units is None or day is None:
                raise UnreadableFile(f"This <{element.tag}> has no units (UNITS) or no day (DTASOF).", found=code)
            short = text_of(element, "POSTYPE").upper() == "SHORT" and units > 0
            positions.append(BroughtPosition(code, names.get(code, code), day, _e8(-units if short else units)))
    return BroughtShares(tuple(moves), tuple(_summed(positions)))


def _security(info: Element) -> tuple[str, str]:
    code = text_of(info, "UNIQUEID")
    return code, text_of(info, "SECNAME") or text_of(info, "TICKER") or code


def _cash(element: Element, names: dict[str, str], currency: str) -> BroughtMove:
    """A distribution, a return of capital or a fee: money of a security, and no shares."""
    kind, way = _CASH[element.tag]
    code, day, total = (
        text_of(element, "UNIQUEID"),
        read_ofx_day(text_of(element, "DTTRADE")),
        _amount(element, "TOTAL", currency),
    )
    if total is None or day is None:
        lacking = "amount (TOTAL)" if total is None else "day (DTTRADE)"
        raise UnreadableFile(f"This <{element.tag}> has no {lacking}.", found=text_of(element, "FITID"))
    return BroughtMove(
        code, names.get(code, code), day, kind, 0, abs(total) * way, text_of(element, "MEMO"), text_of(element, "FITID"),
        withheld_minor=_size(element, "WITHHOLDING", currency) or None,
    )  # fmt: skip


def _amount(element: Element, tag: str, currency: str) -> int | None:
    found = read_marked(text_of(element, tag), ".")
    return to_minor(found, currency) if found is not None else None


def _size(element: Element, tag: str, currency: str) -> int:
    return abs(_amount(element, tag, currency) or 0)


def _ratio(element: Element) -> tuple[int | None, int | None]:
    new, old = number_of(text_of(element, "NUMERATOR")), number_of(text_of(element, "DENOMINATOR"))
    return (new, old) if new and old else (None, None)


def _move(element: Element, names: dict[str, str], currency: str) -> BroughtMove:
    kind, way = _MOVES[element.tag]
    code, day = text_of(element, "UNIQUEID"), read_ofx_day(text_of(element, "DTTRADE"))
    if element.tag == "SPLIT":
        before, after = read_marked(text_of(element, "OLDUNITS"), "."), read_marked(text_of(element, "NEWUNITS"), ".")
        units = after - before if before is not None and after is not None else None
        reason = f"split {text_of(element, 'NUMERATOR')} for {text_of(element, 'DENOMINATOR')}".strip()
    else:
        units, reason = read_marked(text_of(element, "UNITS"), "."), text_of(element, "MEMO")
    if units is None or day is None:
        lacking = "number of units (UNITS)" if units is None else "day (DTTRADE)"
        raise UnreadableFile(f"This <{element.tag}> has no {lacking}.", found=text_of(element, "FITID"))
    if element.tag == "TRANSFER":
        way = -1 if text_of(element, "TFERACTION").upper() == "OUT" else 1
        kind, reason = ("out" if way < 0 else "in"), reason or "transferred, as the institution says"
    units = abs(units) * way if way else units
    total = _amount(element, "TOTAL", currency)
    if total is not None and kind in ("buy", "reinvest", "sell"):
        total = -abs(total) if kind != "sell" else abs(total)
    fee = sum(_size(element, tag, currency) for tag in _COSTS) if kind in ("buy", "sell") else 0
    new, old = _ratio(element) if kind == "split" and not text_of(element, "FRACCASH") else (None, None)
    return BroughtMove(
        code, names.get(code, code), day, kind, _e8(units), total, reason, text_of(element, "FITID"), fee,
        _size(element, "WITHHOLDING", currency) or None, new, old,
    )  # fmt: skip


def _summed(positions: list[BroughtPosition]) -> list[BroughtPosition]:
    """One position a security: an institution lists what lies in cash and in margin accounts apart."""
    found: dict[str, BroughtPosition] = {}
    for position in positions:
        before = found.get(position.code)
        shares = position.shares_e8 + (before.shares_e8 if before else 0)
        found[position.code] = position._replace(shares_e8=shares)
    return list(found.values())


def _e8(units: Decimal) -> int:
    if abs(units) > MOST_SHARES:
        raise UnreadableFile("The file speaks of more than a billion shares.", found=str(units))
    return round(units * E8)
