"""Connections to institutions: consent (OAuth 2.0 with PKCE, RFC 6749 and 7636) and OFX 2 download behind one narrow door."""

import base64
import hashlib
import secrets
import sqlite3
import urllib.parse
from dataclasses import dataclass, replace
from datetime import date, timedelta
from xml.sax.saxutils import escape

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import Connection, RemoteAccount
from bolsa.core.bringing.coverage import covered_until, first_to_ask
from bolsa.core.bringing.rows import BroughtStatement
from bolsa.core.currencies import parse_currency
from bolsa.core.known import known
from bolsa.errors import BolsaError, InvalidInput, ServiceUnavailable, UnreadableFile
from bolsa.formats.ofx import is_account_unknown, is_whole, read_ofx
from bolsa.services.bringing import bringing_in, previewing
from bolsa.services.changes import Done, change, note
from bolsa.services.clock import By
from bolsa.services.outside import ConsentEnded, Request, Send, check_url, read_json, text_of
from bolsa.services.progress import Report, silent
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches, connections, coverage

MOST_INSTITUTIONS = 2_000
MOST_ACCOUNTS = 200


@dataclass(frozen=True)
class Institution:
    """An institution one can connect to: its name and the address of its service."""

    name: str
    base_url: str


def list_institutions(directory_url: str, send: Send) -> list[Institution]:
    """The institutions a directory names. Raises: ServiceUnavailable."""
    if not directory_url:
        raise ServiceUnavailable("No directory of institutions is set, so there is none to connect to.")
    problem = "The directory of institutions answered with something else."
    found = read_json(send(Request(directory_url + "/institutions")), problem)
    if not isinstance(found, list) or len(found) > MOST_INSTITUTIONS:
        raise ServiceUnavailable(problem)
    try:
        return [Institution(text_of(i, "name", problem), check_url(text_of(i, "base_url", problem))) for i in found]
    except InvalidInput as error:
        raise ServiceUnavailable(f"{problem} {error.sentence}") from error


@dataclass(frozen=True)
class Consent:
    """A consent that was asked for: the address to send the person to, and what must come back with them."""

    address: str
    state: str
    verifier: str


def ask_consent(institution: Institution, return_url: str) -> Consent:
    """A fresh request for consent (authorization code with PKCE)."""
    state, verifier = secrets.token_urlsafe(24), secrets.token_urlsafe(48)
    challenge = base64.urlsafe_b64encode(hashlib.sha256(verifier.encode()).digest()).rstrip(b"=").decode()
    query = urllib.parse.urlencode(
        {
            "response_type": "code", "client_id": "bolsa", "redirect_uri": return_url, "state": state,
            "code_challenge": challenge, "code_challenge_method": "S256",
        }
    )  # fmt: skip
    return Consent(f"{institution.base_url}/authorize?{query}", state, verifier)


def connect(db: sqlite3.Connection, institution: Institution, code: str, verifier: str, return_url: str, send: Send) -> int:
    """Turns a consent into a connection (or renews the one there is) and learns its accounts; gives its id."""
    form = {
        "grant_type": "authorization_code", "code": code, "code_verifier": verifier,
        "redirect_uri": return_url, "client_id": "bolsa",
    }  # fmt: skip
    body = urllib.parse.urlencode(form).encode()
    reply = send(Request(institution.base_url + "/token", body, "application/x-www-form-urlencoded"))
    problem = "The institution did not grant the consent."
    token = text_of(read_json(reply, problem), "access_token", problem, most=4_000)
    remotes = _remote_accounts(institution.base_url, token, send)
    with note(db):
        known = next((c for c in connections.list_connections(db) if c.institution == institution.name), None)
        if known:
            connection_id = known.id
            connections.change_connection(
                db, replace(known, base_url=institution.base_url, token=token, state="working", last_error="")
            )
        else:
            connection_id = connections.insert_connection(db, institution.name, institution.base_url, token)
        by_number = {a.number: a.id for a in accounts.list_accounts(db) if a.number}
        for remote in remotes:
            linked = by_number.get(remote.remote_number)
            if linked and connections.find_linked_beside(db, linked, connection_id, remote.remote_number):
                linked = None
            connections.put_remote_account(db, replace(remote, connection_id=connection_id, account_id=linked))
    return connection_id


def _remote_accounts(base_url: str, token: str, send: Send) -> list[RemoteAccount]:
    problem = "The institution's list of accounts cannot be read."
    found = read_json(send(Request(base_url + "/accounts", token=token)), problem)
    if not isinstance(found, list) or len(found) > MOST_ACCOUNTS:
        raise ServiceUnavailable(problem)
    said = [[text_of(one, name, problem) for name in ("number", "name", "kind", "currency")] for one in found]
    return [RemoteAccount(0, 0, number, name, kind, _currency_of(currency), None) for number, name, kind, currency in said]


def _currency_of(text: str) -> str:
    try:
        return parse_currency(text)
    except InvalidInput as error:
        raise ServiceUnavailable(f"The institution's list of accounts cannot be read: {error.sentence}") from error


def link(db: sqlite3.Connection, by: By, connection_id: int, remote_id: int, account_id: int | None) -> Done:
    """Links an account at the institution to one here, or to none.

    Raises: InvalidInput if the currencies differ, or another account of an institution is linked to it: each tells all of its
    own.
    """
    with change(db, by) as done:
        remote = next((r for r in connections.list_remote_accounts(db, connection_id) if r.id == remote_id), None)
        if remote is None:
            raise InvalidInput("That account does not belong to this connection.")
        if account_id is not None and accounts.get_account(db, account_id).currency != remote.currency:
            raise InvalidInput(f"{remote.remote_name} is in {remote.currency}; choose an account in {remote.currency}.")
        taken = connections.find_linked(db, account_id, remote_id) if account_id is not None else None
        if taken is not None:
            raise InvalidInput(f"{taken} is linked to that account already. Choose another account, or unlink {taken} first.")
        done.sentence = f"Linked {remote.remote_name}" if account_id else f"Left out {remote.remote_name}"
        connections.link_remote_account(db, remote_id, account_id)
    return done


@dataclass(frozen=True)
class Download:
    """What asking an institution gave: the waiting batch (None if nothing is new), and what did not work, in sentences."""

    batch_id: int | None
    problems: tuple[str, ...] = ()


def download(db: sqlite3.Connection, by: By, connection_id: int, send: Send, report: Report = silent) -> Download:
    """Downloads what is new of every linked account into a waiting batch.

    An account that is missing there, or whose answer fails, is said so and marked; the others are brought all the same.
    What it sent before and still waits is renewed in place: two previews of the same days are one too many.
    Raises: ServiceUnavailable if no account could be asked, with what to do; it is kept with the connection in words.
    """
    connection = connections.get_connection(db, connection_id)
    linked = [r for r in connections.list_remote_accounts(db, connection_id) if r.account_id]
    if not linked:
        raise InvalidInput("Link at least one account first.")
    found: list[tuple[RemoteAccount, BroughtStatement]] = []
    missing: list[RemoteAccount] = []
    failed: list[BolsaError] = []
    rows = 0
    for done, remote in enumerate(linked):
        report(done, len(linked), f"{connection.institution}: {remote.remote_name}; {rows} rows so far")
        try:
            statement = _download(connection, remote, _first_to_ask(db, by, remote), by.today, send)
        except ConsentEnded as error:
            _mark_broken(db, connection, error.sentence)
            raise
        except (ServiceUnavailable, UnreadableFile) as error:
            failed.append(type(error)(f"{remote.remote_name}: {error.sentence}"))
            continue
        if statement is None:
            missing.append(remote)
        else:
            found.append((remote, statement))
            rows += len(statement.rows)
    if failed and not found:
        _mark_broken(db, connection, failed[0].sentence)
        raise failed[0]
    return _kept(db, by, connection, found, missing, [error.sentence for error in failed])


def _first_to_ask(db: sqlite3.Connection, by: By, remote: RemoteAccount) -> date:
    """The first day an institution is asked for."""
    account_id = known(remote.account_id)
    agreed = accounts.find_last_agreed(db, account_id)
    return first_to_ask(coverage.list_coverage(db, account_id), agreed, by.today)


def _kept(
    db: sqlite3.Connection,
    by: By,
    connection: Connection,
    found: list[tuple[RemoteAccount, BroughtStatement]],
    missing: list[RemoteAccount],
    failed: list[str],
) -> Download:
    """Keeps what was found as a waiting batch, and with the connection how it went."""
    problems = list(failed)
    with note(db):
        for remote in missing:
            since = remote.missing_since or by.today
            connections.note_seen(db, remote.id, last_seen=remote.last_seen, missing_since=since)
            problems.append(
                f"{remote.remote_name} is missing at {connection.institution} since {since}. What is here stays; "
                "until it is back, its value is marked as not known."
            )
        for remote, _ in found:
            connections.note_seen(db, remote.id, last_seen=by.today, missing_since=None)
        at = f"{by.today.isoformat()}T{by.at[11:]}"
        went = replace(
            connection, state="broken" if failed else "working", last_error=" ".join(failed),
            last_success=at if not failed else connection.last_success,
        )  # fmt: skip
        connections.change_connection(db, went)
        if not found:
            return Download(None, tuple(problems))
        named = [(accounts.get_account(db, known(remote.account_id)), statement) for remote, statement in found]
        problems += [said for account, statement in named if (said := _unknown(db, account, statement))]
        waiting = batches.find_waiting_download(db, connection.institution)
        batch_id = previewing.stage_download(db, by, connection.institution, named, waiting)
        if not bringing_in.has_anything_new(db, batch_id):
            bringing_in.keep_balances_only(db, batch_id)
            return Download(None, tuple(problems))
    return Download(batch_id, tuple(problems))


def _mark_broken(db: sqlite3.Connection, connection: Connection, sentence: str) -> None:
    with note(db):
        connections.change_connection(db, replace(connection, state="broken", last_error=sentence))


def _unknown(db: sqlite3.Connection, account: Account, statement: BroughtStatement) -> str:
    """What stays unknown between what was covered before and what the institution sent, in a sentence; "" if nothing does."""
    stretches = coverage.list_coverage(db, account.id)
    last = covered_until(stretches, statement.first_day) if statement.first_day else None
    if last is None or statement.first_day is None or (statement.first_day - last).days <= 1:
        return ""
    first, until = last + timedelta(days=1), statement.first_day - timedelta(days=1)
    return f"{account.name}: the institution no longer sends {first} to {until}, so nothing is known of it. Import a file of it."


def _download(connection: Connection, remote: RemoteAccount, first: date, today: date, send: Send) -> BroughtStatement | None:
    """The account's statement, None if the institution does not know the account now. Raises: UnreadableFile for an answer that
    broke off: without its end nobody knows what it would have said."""
    body = ofx_request(remote, first, today).encode()
    reply = send(Request(connection.base_url + "/ofx", body, "application/x-ofx", connection.token))
    if not is_whole(reply):
        raise UnreadableFile("The answer broke off before its end. Ask again.")
    if is_account_unknown(reply):
        return None
    statement = next((s for s in read_ofx(reply, remote.currency) if s.number == remote.remote_number), None)
    if statement is None:
        raise UnreadableFile("The answer is about another account. Ask again.")
    return statement


def ofx_request(remote: RemoteAccount, first: date, today: date) -> str:
    """A statement download request of OFX 2.2 (section 11.4.2.1; card: 11.4.3.1)."""
    number = escape(remote.remote_number)
    if remote.remote_kind == "card":
        account = f"<CCACCTFROM><ACCTID>{number}</ACCTID></CCACCTFROM>"
        wrap, message = "CREDITCARDMSGSRQV1", "CCSTMTTRNRQ"
        inner = "CCSTMTRQ"
    else:
        kind = "SAVINGS" if remote.remote_kind == "savings" else "CHECKING"
        account = f"<BANKACCTFROM><BANKID>0</BANKID><ACCTID>{number}</ACCTID><ACCTTYPE>{kind}</ACCTTYPE></BANKACCTFROM>"
        wrap, message, inner = "BANKMSGSRQV1", "STMTTRNRQ", "STMTRQ"
    span = f"<INCTRAN><DTSTART>{first:%Y%m%d}</DTSTART><DTEND>{today:%Y%m%d}</DTEND><INCLUDE>Y</INCLUDE></INCTRAN>"
    return (
        '<?xml version="1.0" encoding="UTF-8"?>'
        '<?OFX OFXHEADER="200" VERSION="220" SECURITY="NONE" OLDFILEUID="NONE" NEWFILEUID="NONE"?>'
        f"<OFX><SIGNONMSGSRQV1><SONRQ><DTCLIENT>{today:%Y%m%d}120000</DTCLIENT><LANGUAGE>ENG</LANGUAGE>"
        f"<APPID>BLSA</APPID><APPVER>0100</APPVER></SONRQ></SIGNONMSGSRQV1>"
        f"<{wrap}><{message}><TRNUID>{secrets.token_hex(8)}</TRNUID><{inner}>{account}{span}</{inner}></{message}></{wrap}></OFX>"
    )


def cut_off(db: sqlite3.Connection, connection_id: int) -> None:
    """Ends a connection: the token is forgotten, what it brought stays."""
    connection = connections.get_connection(db, connection_id)
    with note(db):
        connections.change_connection(db, replace(connection, token="", state="cut off"))


def get_connection(db: sqlite3.Connection, connection_id: int) -> tuple[Connection, list[RemoteAccount]]:
    """A connection and the accounts it knows. Raises: NotFound."""
    return connections.get_connection(db, connection_id), connections.list_remote_accounts(db, connection_id)
