"""Files of an account as banks write them: two kinds of OFX, camt, MT940, two tables; each with days, words and ids of its
own."""

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.bench.identity.truth import Booking

OPENING = 500_000


@dataclass(frozen=True)
class Window:
    """What a file tells: the bookings booked from a day to another, those announced on that day, and the balance at its end."""

    first: date
    last: date
    bookings: Sequence[Booking]
    announced: Sequence[Booking]
    opening_minor: int
    seed: int  # of whatever is made up anew in each file

    @property
    def closing_minor(self) -> int:
        return self.opening_minor + sum(one.amount_minor for one in self.bookings)


def _amount(minor: int, mark: str = ".") -> str:
    return f"{'-' if minor < 0 else ''}{abs(minor) // 100}{mark}{abs(minor) % 100:02}"


def _hash(*words: object) -> str:
    return hashlib.sha256(repr(words).encode()).hexdigest()[:12].upper()


def _plain(text: str) -> str:
    return text.replace("é", "e").upper()


def _ofx(
    window: Window, id_of: Callable[[int, Booking], str], name_of: Callable[[Booking], str], *, tells_announced: bool
) -> bytes:
    rows = "".join(
        f"<STMTTRN><TRNTYPE>{'DEBIT' if one.amount_minor < 0 else 'CREDIT'}</TRNTYPE><DTPOSTED>{one.booked:%Y%m%d}</DTPOSTED>"
        f"<TRNAMT>{_amount(one.amount_minor)}</TRNAMT><FITID>{id_of(place, one)}</FITID><NAME>{name_of(one)[:32]}</NAME></STMTTRN>\n"
        for place, one in enumerate(window.bookings)
    )
    announced = "".join(
        f"<STMTTRNP><TRNTYPE>DEBIT</TRNTYPE><DTTRAN>{one.paid:%Y%m%d}</DTTRAN><TRNAMT>{_amount(one.amount_minor)}</TRNAMT>"
        f"<REFNUM>{_hash('announced', one.number)}</REFNUM><NAME>{name_of(one)[:32]}</NAME></STMTTRNP>\n"
        for one in window.announced
    )
    pending = f"<BANKTRANLISTP><DTASOF>{window.last:%Y%m%d}</DTASOF>{announced}</BANKTRANLISTP>" if tells_announced else ""
    return (
        '<?xml version="1.0" encoding="UTF-8"?><?OFX OFXHEADER="200" VERSION="220" SECURITY="NONE" OLDFILEUID="NONE" NEWFILEUID="NONE"?>'
        "<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>EUR</CURDEF><BANKACCTFROM><BANKID>0</BANKID><ACCTID>PH70420001</ACCTID>"
        f"<ACCTTYPE>CHECKING</ACCTTYPE></BANKACCTFROM><BANKTRANLIST><DTSTART>{window.first:%Y%m%d}</DTSTART>"
        f"<DTEND>{window.last:%Y%m%d}</DTEND>\n{rows}</BANKTRANLIST><LEDGERBAL><BALAMT>{_amount(window.closing_minor)}</BALAMT>"
        f"<DTASOF>{window.last:%Y%m%d}</DTASOF></LEDGERBAL>{pending}</STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>"
    ).encode()


def write_ofx(window: Window) -> bytes:
    """OFX with ids that stay, and what is announced."""
    return _ofx(window, lambda _, one: f"Q{one.number:06}", lambda one: _plain(one.shop), tells_announced=True)


def write_other_ofx(window: Window) -> bytes:
    """OFX of another channel: its ids are made anew in each file, its names begin with the card's words."""

    def name_of(one: Booking) -> str:
        return f"POS {_plain(one.shop)} {one.number % 9000 + 1000}" if one.is_card else _plain(one.shop)

    return _ofx(window, lambda _, one: _hash(window.seed, one.number), name_of, tells_announced=False)


def write_camt(window: Window) -> bytes:
    """camt.053 with booking and value days, names as they are written, opening and closing balance."""

    def entry(one: Booking) -> str:
        kind, party = ("DBIT", "Cdtr") if one.amount_minor < 0 else ("CRDT", "Dbtr")
        return (
            f'<Ntry><Amt Ccy="EUR">{_amount(abs(one.amount_minor))}</Amt><CdtDbtInd>{kind}</CdtDbtInd><Sts>BOOK</Sts>'
            f"<BookgDt><Dt>{one.booked}</Dt></BookgDt><ValDt><Dt>{one.paid if one.is_card else one.booked}</Dt></ValDt>"
            f"<AcctSvcrRef>{_hash('camt', one.number)}</AcctSvcrRef><NtryDtls><TxDtls><RltdPties><{party}><Nm>{one.shop}</Nm></{party}>"
            f"</RltdPties><RmtInf><Ustrd>{'Card payment' if one.is_card else 'Order'}</Ustrd></RmtInf></TxDtls></NtryDtls></Ntry>\n"
        )

    def balance(code: str, minor: int, day: date) -> str:
        kind = "DBIT" if minor < 0 else "CRDT"
        return (
            f'<Bal><Tp><CdOrPrtry><Cd>{code}</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">{_amount(abs(minor))}</Amt>'
            f"<CdtDbtInd>{kind}</CdtDbtInd><Dt><Dt>{day}</Dt></Dt></Bal>"
        )

    return (
        '<?xml version="1.0" encoding="UTF-8"?><Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.02"><BkToCstmrStmt><Stmt>'
        f"<FrToDt><FrDtTm>{window.first}T00:00:00</FrDtTm><ToDtTm>{window.last}T23:59:59</ToDtTm></FrToDt>"
        "<Acct><Id><Othr><Id>PH70420001</Id></Othr></Id><Ccy>EUR</Ccy></Acct>"
        f"{balance('OPBD', window.opening_minor, window.first)}{balance('CLBD', window.closing_minor, window.last)}"
        f"{''.join(entry(one) for one in window.bookings)}</Stmt></BkToCstmrStmt></Document>"
    ).encode()


def write_mt940(window: Window) -> bytes:
    """MT940 with structured words and no reference of its own."""

    def balance(tag: str, minor: int, day: date) -> str:
        return f":{tag}:{'D' if minor < 0 else 'C'}{day:%y%m%d}EUR{_amount(abs(minor), ',')}"

    lines = [":20:STARTUMS", ":25:000000/PH70420001", ":28C:1/1", balance("60F", window.opening_minor, window.first)]
    for one in window.bookings:
        mark = "D" if one.amount_minor < 0 else "C"
        lines.append(f":61:{one.booked:%y%m%d}{one.booked:%m%d}{mark}{_amount(abs(one.amount_minor), ',')}NMSCNONREF")
        lines.append(
            f":86:005?00{'KARTE' if one.is_card else 'AUFTRAG'}?20{one.paid:%d.%m} {one.number % 90 + 10}?32{_plain(one.shop)[:27]}"
        )
    lines += [balance("62F", window.closing_minor, window.last), "-"]
    return "\r\n".join(lines).encode()


def write_table(window: Window) -> bytes:
    """A table with booking days, the bank's own words, and the balance after each row."""
    lines, balance = ["Booking date,Details,Amount,Balance"], window.opening_minor
    for one in window.bookings:
        balance += one.amount_minor
        words = f"CARD PURCHASE {_plain(one.shop)} 0093 {one.paid:%d/%m}" if one.is_card else f"STANDING ORDER {_plain(one.shop)}"
        lines.append(f"{one.booked},{words},{_amount(one.amount_minor)},{_amount(balance)}")
    return ("\n".join(lines) + "\n").encode()


def write_table_of_purchases(window: Window) -> bytes:
    """Another table, newest first, with the day of the purchase, the shop alone, and decimal commas."""
    lines = ["Datum;Händler;Betrag"]
    for one in reversed(window.bookings):
        lines.append(f"{one.paid:%d.%m.%Y};{one.shop};{_amount(one.amount_minor, ',')}")
    return ("\n".join(lines) + "\n").encode()


LAYOUTS: dict[str, Callable[[Window], bytes]] = {
    "ofx": write_ofx,
    "other.ofx": write_other_ofx,
    "camt.xml": write_camt,
    "sta": write_mt940,
    "csv": write_table,
    "purchases.csv": write_table_of_purchases,
}
