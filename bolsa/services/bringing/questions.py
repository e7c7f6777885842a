"""What a file asks that it does not say itself, and the answers: a page shows the questions, a command answers by its options."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from bolsa.formats.csv_guess import CsvMapping
from bolsa.formats.trades_guess import TradeMapping

ASKED = {
    "account": "This file does not say which account it belongs to. Choose the account.",
    "accounts": "Say which account here each of these is.",
    "columns": "Say which column holds what.",
}


@dataclass(frozen=True)
class Question:
    """What is still to be answered before a file can be brought in: `asks` is a key of ASKED, `reason` why it must be asked."""

    asks: str
    reason: str = ""

    @property
    def sentence(self) -> str:
        return self.reason or ASKED[self.asks]


@dataclass(frozen=True)
class Choice:
    """What is said of one account of a file: "leave" it out, a "new" account of a name and kind, or one that is "here"."""

    what: str
    account_id: int | None = None
    name: str = ""
    kind: str = ""


@dataclass(frozen=True)
class Answers:
    """What is known before anything is asked. `account_id` is where the whole file goes; `accounts` says it by the number in the
    file, `others` what of the rest: "ask", "new" or "leave". `columns` is how a CSV is read, `flip` whether its signs are turned;
    None leaves both to what is remembered and guessed. `holds` is what a table holds: "rows", "trades", "held", or "".
    """

    account_id: int | None = None
    accounts: Mapping[str, Choice] = field(default_factory=dict)
    others: str = "ask"
    columns: CsvMapping | TradeMapping | None = None
    flip: bool | None = None
    holds: str = ""
    into_checked: bool = False  # whether rows are brought into days that are checked already
    asked: bool | None = None  # whether rows that may be here are brought in as new, or left out for good; None leaves them asked


NOTHING_SAID = Answers()
