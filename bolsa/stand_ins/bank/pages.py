"""The bank stand-in's pages and its OFX replies, as text."""

from datetime import date
from html import escape

from bolsa.stand_ins.bank.faults import FAULTS, Answer
from bolsa.stand_ins.bank.state import Bank, BankAccount, BankRow, Institution

_PAGE = """<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{title}</title>
<meta name="viewport" content="width=device-width, initial-scale=1"><link rel="icon" href="data:,">
<link rel="stylesheet" href="/bank.css"></head>
<body><main><p class="kind">A stand-in for a bank, running on this machine</p><h1>{title}</h1>{body}</main></body></html>"""

STYLE = """body{margin:0;background:#e9ecea;color:#1f2a28;font:16px/1.5 system-ui,sans-serif}
main{max-width:30rem;margin:8vh auto;background:#fff;border:1px solid #c3cbc8;padding:2rem}
.kind{margin:0;color:#55615e;font-size:.85rem}h1{margin:.2rem 0 1rem;font-size:1.5rem}
label{display:block;margin:.8rem 0}input[type=text],input[type=password]{display:block;width:100%;box-sizing:border-box;
padding:.5rem;font:inherit;border:1px solid #8a9592}button{font:inherit;padding:.6rem 1.2rem;background:#22504a;color:#fff;
border:0;margin-top:.6rem}h2{margin:1.6rem 0 .2rem;font-size:1.1rem}.wrong{background:#f4ead0;padding:.5rem .8rem}"""


def sign_in_page(institution: Institution, fields: dict[str, str], wrong: bool) -> str:
    """The sign-in form; `fields` are passed on hidden."""
    note = '<p class="wrong" role="alert">User and password do not fit together.</p>' if wrong else ""
    body = (
        f"{note}<p>Sign in to let Bolsa read your accounts.</p><form method=post>{_hidden(fields)}"
        '<label>User<input type="text" name="user" autocomplete="off" autofocus></label>'
        '<label>Password<input type="password" name="password"></label><button>Sign in</button></form>'
        f"<p class=kind>This stand-in knows one user: <b>{escape(institution.user)}</b>, "
        f"password <b>{escape(institution.password)}</b>.</p>"
    )
    return _PAGE.format(title=escape(institution.name), body=body)


def consent_page(institution: Institution, fields: dict[str, str]) -> str:
    """The choice of accounts Bolsa may read."""
    choices = "".join(
        f'<label><input type="checkbox" name="number" value="{escape(a.number)}" checked> {escape(a.name)}, '
        f"{escape(a.number)}</label>"
        for a in institution.accounts
    )
    body = (
        "<p>Bolsa asks to read balances and entries of these accounts. It cannot move money.</p>"
        f"<form method=post>{_hidden(fields)}{choices}<button>Allow reading</button></form>"
    )
    return _PAGE.format(title=f"{escape(institution.name)}: consent", body=body)


def _hidden(fields: dict[str, str]) -> str:
    return "".join(f'<input type="hidden" name="{escape(n)}" value="{escape(v)}">' for n, v in fields.items())


def switches_page(bank: Bank, said: str = "") -> str:
    """The stand-in's own page: its institutions, and what is switched to go wrong at each."""
    note = f'<p class="wrong" role="status">{escape(said)}</p>' if said else ""
    forms = "".join(
        f'<form method=post action="/faults"><h2>{escape(one.name)}</h2>'
        f"<p class=kind>User <b>{escape(one.user)}</b>, password <b>{escape(one.password)}</b>; "
        f"{len(one.accounts)} accounts</p>"
        f'<input type="hidden" name="institution" value="{escape(one.key)}">'
        + "".join(
            f'<label><input type="checkbox" name="fault" value="{fault.key}"'
            f"{' checked' if fault.key in bank.faults_of(one.key) else ''}> {escape(fault.words)}</label>"
            for fault in FAULTS
        )
        + "<button>Switch</button></form>"
        for one in bank.institutions.values()
    )
    body = f"{note}<p>What is switched on here goes wrong from the next request on.</p>{forms}"
    return _PAGE.format(title="Institutions of the stand-in", body=body)


def ofx_reply(account: BankAccount, answer: Answer, first: date, today: date, request_id: str) -> str:
    """A statement response of OFX 2.2 (section 11.4.2.2; card: 11.4.3.2), with the list of pending entries if it has one."""
    rows = "".join(map(_row, answer.rows))
    announced = ""
    if answer.pending is not None:
        announced = f"<BANKTRANLISTP><DTASOF>{today:%Y%m%d}</DTASOF>{''.join(map(_pending, answer.pending))}</BANKTRANLISTP>"
    if account.kind == "card":
        wrap, message, inner = "CREDITCARDMSGSRSV1", "CCSTMTTRNRS", "CCSTMTRS"
        source = f"<CCACCTFROM><ACCTID>{escape(account.number)}</ACCTID></CCACCTFROM>"
    else:
        wrap, message, inner = "BANKMSGSRSV1", "STMTTRNRS", "STMTRS"
        kind = "SAVINGS" if account.kind == "savings" else "CHECKING"
        source = (
            f"<BANKACCTFROM><BANKID>0</BANKID><ACCTID>{escape(account.number)}</ACCTID><ACCTTYPE>{kind}</ACCTTYPE></BANKACCTFROM>"
        )
    status = "<STATUS><CODE>0</CODE><SEVERITY>INFO</SEVERITY></STATUS>"
    return (
        '<?xml version="1.0" encoding="UTF-8"?>'
        '<?OFX OFXHEADER="200" VERSION="220" SECURITY="NONE" OLDFILEUID="NONE" NEWFILEUID="NONE"?>'
        f"<OFX><SIGNONMSGSRSV1><SONRS>{status}<DTSERVER>{today:%Y%m%d}120000</DTSERVER><LANGUAGE>ENG</LANGUAGE></SONRS></SIGNONMSGSRSV1>"
        f"<{wrap}><{message}><TRNUID>{escape(request_id)}</TRNUID>{status}<{inner}><CURDEF>{account.currency}</CURDEF>{source}"
        f"<BANKTRANLIST><DTSTART>{first:%Y%m%d}</DTSTART><DTEND>{today:%Y%m%d}</DTEND>{rows}</BANKTRANLIST>{announced}"
        f"<LEDGERBAL><BALAMT>{account.balance_on(today):f}</BALAMT><DTASOF>{today:%Y%m%d}</DTASOF></LEDGERBAL>"
        f"</{inner}></{message}></{wrap}></OFX>"
    )


def no_account_reply(request_id: str) -> str:
    """The answer for an account the institution does not know: status 2003 (OFX 2.2, section 11.4.2.3)."""
    good = "<STATUS><CODE>0</CODE><SEVERITY>INFO</SEVERITY></STATUS>"
    bad = "<STATUS><CODE>2003</CODE><SEVERITY>ERROR</SEVERITY><MESSAGE>Account not found</MESSAGE></STATUS>"
    return (
        '<?xml version="1.0" encoding="UTF-8"?>'
        '<?OFX OFXHEADER="200" VERSION="220" SECURITY="NONE" OLDFILEUID="NONE" NEWFILEUID="NONE"?>'
        f"<OFX><SIGNONMSGSRSV1><SONRS>{good}<LANGUAGE>ENG</LANGUAGE></SONRS></SIGNONMSGSRSV1>"
        f"<BANKMSGSRSV1><STMTTRNRS><TRNUID>{escape(request_id)}</TRNUID>{bad}</STMTTRNRS></BANKMSGSRSV1></OFX>"
    )


def _pending(row: BankRow) -> str:
    kind = "CREDIT" if row.amount > 0 else "DEBIT"
    return (
        f"<STMTTRNP><TRNTYPE>{kind}</TRNTYPE><DTTRAN>{row.day:%Y%m%d}</DTTRAN><TRNAMT>{row.amount:f}</TRNAMT>"
        f"<REFNUM>{escape(row.id)}</REFNUM><NAME>{escape(row.name[:32])}</NAME></STMTTRNP>"
    )


def _row(row: BankRow) -> str:
    kind = "CREDIT" if row.amount > 0 else "DEBIT"
    memo = f"<MEMO>{escape(row.memo)}</MEMO>" if row.memo else ""
    return (
        f"<STMTTRN><TRNTYPE>{kind}</TRNTYPE><DTPOSTED>{row.day:%Y%m%d}</DTPOSTED><TRNAMT>{row.amount:f}</TRNAMT>"
        f"<FITID>{escape(row.id)}</FITID><NAME>{escape(row.name[:32])}</NAME>{memo}</STMTTRN>"
    )
