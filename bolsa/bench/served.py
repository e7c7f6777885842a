"""What whole pages cost as the server answers them: the 95th percentile of twenty requests one after the other."""

import sqlite3
from collections.abc import Callable
from pathlib import Path

from bolsa.bench.timing import percentile_95_ms
from bolsa.services.clock import By
from bolsa.services.remembering import forget
from bolsa.web.app import create_app

ADDRESSES = {
    "Today": "/",
    "Books": "/books",
    "a register": "/books/1",
    "Sort": "/sort",
    "Rules": "/sort/rules",
    "Payees": "/payees",
    "a payee": "/payees/9",
    "Transfers": "/sort/transfers",
    "Categories": "/house/categories",
    "Budget": "/budget",
    "Budget, the year": "/budget/year",
    "Due": "/due",
    "a payslip": "/pay/1",
    "Worth": "/worth",
    "Worth, by week and owner": "/worth?every=week&by=owner,class",
    "Answers, the questions": "/answers",
    "Answers, where it went": "/answers/where",
    "Answers, by payee, a year": "/answers/where?from=2025-06-01&to=2026-05-31&by=payee",
    "Answers, by account, a year": "/answers/where?from=2025-06-01&to=2026-05-31&by=account",
    "Answers, a normal month": "/answers/normal",
    "Answers, what changed": "/answers/changed",
    "Answers, what grew": "/answers/grew",
    "Answers, tags": "/answers/tags",
    "Answers, in and out": "/answers/flow",
}


def _measure(address: str, before: Callable[[], None] = lambda: None) -> Callable[[sqlite3.Connection, By], tuple[float, None]]:
    def served(db: sqlite3.Connection, by: By) -> tuple[float, None]:
        path = next(row["file"] for row in db.execute("PRAGMA database_list") if row["name"] == "main")
        client = create_app(Path(path), testing=True).test_client()

        def get() -> None:
            reply = client.get(address)
            if reply.status_code != 200:
                raise RuntimeError(f"{address} answers {reply.status_code}")

        return percentile_95_ms(get, before), None

    return served


MEASURES = {f"page: {name}": _measure(address) for name, address in ADDRESSES.items()}
MEASURES |= {
    f"page: {name}, after a change": _measure(ADDRESSES[name], forget) for name in ("Today", "Budget", "Budget, the year")
}

# Of the household in holdings.py, which is the same at every size.
HOLDING_ADDRESSES = {
    "Holdings": "/holdings",
    "Holdings, one alone": "/holdings/3/1",
    "Mix and bands": "/holdings/mix",
    "Debts": "/debts",
    "Long view": "/ahead",
    "Long view, its mends": "/ahead/1/mends",
}
HOLDING_MEASURES = {f"page: {name}": _measure(address) for name, address in HOLDING_ADDRESSES.items()}
HOLDING_MEASURES["page: Holdings, after a change"] = _measure("/holdings", forget)
