"""A few days of a bank as files in three formats, each with ids of its own kind."""

from datetime import date

Row = tuple[date, str, int]  # day, payee, minor units


def as_csv(rows: list[Row]) -> bytes:
    """The rows as a table, without ids."""
    return "\n".join(["Date,Payee,Amount", *(f"{day},{payee},{minor / 100:.2f}" for day, payee, minor in rows)]).encode()


def as_ofx(rows: list[Row], number: str) -> bytes:
    """The rows as an OFX file of an account."""
    booked = "".join(
        f"<STMTTRN><DTPOSTED>{day:%Y%m%d}<TRNAMT>{minor / 100:.2f}<FITID>O{day:%m%d}{abs(minor)}{at}<NAME>{payee}</STMTTRN>"
        for at, (day, payee, minor) in enumerate(rows)
    )
    return (
        "OFXHEADER:100\nDATA:OFXSGML\nVERSION:102\nENCODING:USASCII\nCHARSET:1252\n\n<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS>"
        f"<CURDEF>EUR<BANKACCTFROM><BANKID>1<ACCTID>{number}<ACCTTYPE>CHECKING</BANKACCTFROM><BANKTRANLIST>{booked}</BANKTRANLIST>"
        "</STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>"
    ).encode()


def as_camt(rows: list[Row], number: str, status: str = "BOOK") -> bytes:
    """The rows as a camt file of an account, booked or pending ("PDNG")."""
    entries = "".join(
        f'<Ntry><Amt Ccy="EUR">{abs(minor) / 100:.2f}</Amt><CdtDbtInd>{"DBIT" if minor < 0 else "CRDT"}</CdtDbtInd>'
        f"<Sts>{status}</Sts><BookgDt><Dt>{day}</Dt></BookgDt><AcctSvcrRef>C{day:%d%m}{abs(minor)}{at}</AcctSvcrRef><NtryDtls><TxDtls>"
        f"<RltdPties><Cdtr><Nm>{payee}</Nm></Cdtr></RltdPties></TxDtls></NtryDtls></Ntry>"
        for at, (day, payee, minor) in enumerate(rows)
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?><Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.02">'
        "<BkToCstmrStmt><Stmt>"
        f"<Acct><Id><IBAN>{number}</IBAN></Id><Ccy>EUR</Ccy></Acct>{entries}</Stmt></BkToCstmrStmt></Document>"
    ).encode()
