"""The banks' side of the demo's story: their ids and texts for what happened, and the scenario their stand-in tells."""

import json
from collections import defaultdict
from datetime import timedelta
from decimal import Decimal
from pathlib import Path

from bolsa.demo import people
from bolsa.demo.months import Happening, happenings

INSTITUTIONS = {"halden": "Halden Mutual", "corvane": "Corvane Card"}
STANDING_TOKENS = {"halden": "standing-consent-halden", "corvane": "standing-consent-corvane"}


def bank_refs(happened: list[Happening]) -> dict[tuple[int, str], str]:
    """The bank's id of each side of each happening that touches a bank's account, by (place in the list, account)."""
    numbers = {a.key: a.number for a in people.ACCOUNTS if a.bank}
    counts: dict[str, int] = defaultdict(int)
    refs = {}
    for i, h in enumerate(happened):
        for key in (h.account, h.other):
            if key in numbers:
                counts[key] += 1
                refs[i, key] = f"{numbers[key]}-{counts[key]:05d}"
    return refs


def far_raw(h: Happening) -> str:
    return {"card": "PAYMENT RECEIVED THANK YOU", "reserve": "TRANSFER FROM HM44100201", "current": "I ARRIETA STUDIO"}.get(
        h.other, ""
    )


def write_scenario(path: Path) -> None:
    """Writes the bank's side of the story for the stand-in: every booking of its accounts until its end."""
    happened = happenings()
    refs = bank_refs(happened)
    rows: dict[str, list[dict[str, str]]] = defaultdict(list)
    for i, h in enumerate(happened):
        sides = [(h.account, h.day, h.amount_minor, h.raw)]
        if h.other:
            sides.append((h.other, h.day + timedelta(days=h.slow), -h.amount_minor, far_raw(h)))
        for key, day, amount, raw in sides:
            if (i, key) in refs:
                text = {
                    "day": day.isoformat(),
                    "amount": str(Decimal(amount) / 100),
                    "name": raw,
                    "memo": "",
                    "id": refs[i, key],
                }
                rows[key].append(text)
    for booked in rows.values():
        booked.sort(key=lambda row: row["day"])
    scenario = [
        {
            "key": bank, "name": institution, "user": "noor", "password": "ferry", "standing_token": STANDING_TOKENS[bank],
            "accounts": [
                {"number": a.number, "name": a.name, "kind": a.kind, "currency": a.currency, "opening": a.opening,
                 "rows": rows[a.key]}
                for a in people.ACCOUNTS if a.bank == bank
            ],
        }
        for bank, institution in INSTITUTIONS.items()
    ]  # fmt: skip
    path.write_text(json.dumps(scenario, ensure_ascii=False), encoding="utf-8")
