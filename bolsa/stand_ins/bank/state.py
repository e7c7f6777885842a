"""What the bank stand-in knows: institutions, their users, accounts with rows, and the consents given."""

import base64
import hashlib
import json
import secrets
from dataclasses import dataclass, field, replace
from datetime import date
from decimal import Decimal
from pathlib import Path


@dataclass(frozen=True)
class BankRow:
    """One booking; the amount is exact decimal text, signed from the account's side."""

    day: date
    amount: Decimal
    name: str
    memo: str
    id: str


@dataclass(frozen=True)
class BankAccount:
    """An account at an institution; the opening balance stood before its first row."""

    number: str
    name: str
    kind: str
    currency: str
    opening: Decimal
    rows: tuple[BankRow, ...]

    def rows_between(self, first: date, last: date) -> list[BankRow]:
        return [row for row in self.rows if first <= row.day <= last]

    def balance_on(self, day: date) -> Decimal:
        return self.opening + sum((row.amount for row in self.rows if row.day <= day), Decimal(0))


@dataclass(frozen=True)
class Institution:
    """An institution with its one user; `standing_token` is a consent given before the scenario begins."""

    key: str
    name: str
    user: str
    password: str
    accounts: tuple[BankAccount, ...]
    standing_token: str = ""


@dataclass
class Grant:
    """A consent: the accounts it covers, and the challenge (RFC 7636) its code must answer."""

    institution: str
    numbers: tuple[str, ...]
    challenge: str = ""
    redirect_uri: str = ""


@dataclass
class Bank:
    """All institutions of the stand-in, and the consents given so far."""

    institutions: dict[str, Institution]
    signed_in: dict[str, str] = field(default_factory=dict)
    codes: dict[str, Grant] = field(default_factory=dict)
    tokens: dict[str, Grant] = field(default_factory=dict)
    faults: dict[str, frozenset[str]] = field(default_factory=dict)

    @classmethod
    def from_file(cls, path: Path) -> "Bank":
        found = {i["key"]: _institution(i) for i in json.loads(path.read_text(encoding="utf-8"))}
        bank = cls(found)
        for one in found.values():
            if one.standing_token:
                bank.tokens[one.standing_token] = Grant(one.key, tuple(a.number for a in one.accounts))
        return bank

    def faults_of(self, key: str) -> frozenset[str]:
        """The keys of what is switched to go wrong at an institution."""
        return self.faults.get(key, frozenset())

    def switch(self, key: str, faults: frozenset[str], new_password: str) -> None:
        """Switches an institution's faults. A consent that ends stays ended: it must be given again."""
        if "password" in faults and self.institutions[key].password != new_password:
            self.institutions[key] = replace(self.institutions[key], password=new_password)
        if faults & {"password", "consent"} and not self.faults_of(key) & {"password", "consent"}:
            self.tokens = {token: grant for token, grant in self.tokens.items() if grant.institution != key}
        self.faults[key] = faults

    def sign_in(self, key: str, user: str, password: str) -> str | None:
        """A token for the consent page, or None if user and password do not fit."""
        one = self.institutions[key]
        if not (secrets.compare_digest(one.user, user) and secrets.compare_digest(one.password, password)):
            return None
        token = secrets.token_urlsafe(16)
        self.signed_in[token] = key
        return token

    def consent(self, sign_in_token: str, numbers: list[str], challenge: str, redirect_uri: str) -> str | None:
        """A code for the accounts chosen, or None if nobody is signed in."""
        key = self.signed_in.pop(sign_in_token, None)
        if key is None:
            return None
        code = secrets.token_urlsafe(24)
        self.codes[code] = Grant(key, tuple(numbers), challenge, redirect_uri)
        return code

    def redeem(self, code: str, verifier: str, redirect_uri: str) -> str | None:
        """An access token for a code, once, or None if code, verifier or address do not fit."""
        grant = self.codes.pop(code, None)
        digest = hashlib.sha256(verifier.encode()).digest()
        challenge = base64.urlsafe_b64encode(digest).rstrip(b"=").decode()
        if grant is None or grant.challenge != challenge or grant.redirect_uri != redirect_uri:
            return None
        token = secrets.token_urlsafe(32)
        self.tokens[token] = grant
        return token

    def accounts_of(self, key: str, token: str) -> list[BankAccount] | None:
        """The accounts a token covers, or None if it is not valid here."""
        grant = self.tokens.get(token)
        if grant is None or grant.institution != key:
            return None
        return [account for account in self.institutions[key].accounts if account.number in grant.numbers]


def _institution(found: dict) -> Institution:
    accounts = tuple(
        BankAccount(
            a["number"], a["name"], a["kind"], a["currency"], Decimal(a["opening"]),
            tuple(BankRow(date.fromisoformat(r["day"]), Decimal(r["amount"]), r["name"], r["memo"], r["id"]) for r in a["rows"]),
        )
        for a in found["accounts"]
    )  # fmt: skip
    words = {name: found[name] for name in ("key", "name", "user", "password")}
    return Institution(**words, accounts=accounts, standing_token=found.get("standing_token", ""))
