"""What sorting costs: suggestions for a thousand entries, two hundred rules over a hundred thousand, merging payees."""

import random
import sqlite3
from collections.abc import Callable

from bolsa.bench.household import PAYEES, payee_name
from bolsa.bench.timing import against, median_ms, seconds
from bolsa.core.sorting.rule_book import RuleBook
from bolsa.core.sorting.rules import Action, Condition, Rule
from bolsa.services import changes
from bolsa.services.clock import By
from bolsa.services.sorting import payees, rule_previewing, sorting
from bolsa.services.sorting.rule_running import AT_ONCE
from bolsa.store.sorting import rules

RULES, RULED = 200, 100_000
MERGED = 10_000  # entries


def suggestions(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Piles and suggestions for a thousand unsorted entries."""
    return median_ms(lambda: sorting.what_to_sort(db)), None


def _rules() -> list[Rule]:
    """Two hundred rules: by payee, by the bank's text, by amount, some of them all at once."""
    dice = random.Random(200)  # noqa: S311 (made-up rules)
    found = []
    for id_ in range(1, RULES + 1):
        name = payee_name(dice.randrange(PAYEES))
        conditions = [Condition("text" if id_ % 4 == 0 else "payee", "is" if id_ % 2 else "contains", (name, f"shop {id_}"))]
        if id_ % 3 == 0:
            conditions.append(Condition("amount", "between", least=1_000, most=15_000, currency="EUR"))
        found.append(Rule(id_, tuple(conditions), (Action("file", 8 + id_ % 100), Action("tag", text=f"tag {id_ % 7}"))))
    return found


def rules_over_the_past(db: sqlite3.Connection, by: By) -> tuple[float, float]:
    """What two hundred rules make of a hundred thousand entries (or all there are), reading them included, against the bare
    SELECT of as many rows."""
    book = RuleBook(_rules())

    def decide() -> None:
        left, after = RULED, 0
        while left > 0 and (rows := rules.list_seen_after(db, None, after, AT_ONCE)):
            left, after = left - len(rows), rows[-1].seen.entry_id
            for one in rows:
                book.decide(one.seen)

    sql = "SELECT id, entry_id, account_id, category_id, amount_minor, day FROM line ORDER BY id DESC LIMIT ?"
    return against(decide, lambda: db.execute(sql, (2 * RULED,)).fetchall(), rounds=2)


def preview(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """What a rule that is being typed would do."""
    rule = Rule(0, (Condition("payee", "contains", ("baba",)),), (Action("file", 9),))
    return median_ms(lambda: rule_previewing.preview(db, rule)), None


def merging_payees(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Payees of ten thousand entries in all (or all there are) made one, journalled; it is undone again."""
    chosen, count = [], 0
    for row in payees.list_rows(db):
        chosen.append(row.id)
        count += row.entry_count
        if count >= MERGED:
            break
    step: list[int] = []
    taken = seconds(lambda: step.append(payees.merge(db, by, chosen[0], chosen[1:]).step))
    changes.undo_step(db, by, step[0])
    return taken * 1000, None


MEASURES: dict[str, Callable] = {
    "suggestions for 1,000": suggestions,
    "200 rules over 100,000": rules_over_the_past,
    "a rule being typed": preview,
    "merging payees of 10,000": merging_payees,
}
