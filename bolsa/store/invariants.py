"""What must hold in any household, as queries that give the rows that break it."""

import sqlite3
from collections.abc import Iterator
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from bolsa.core.accounts.account import KINDS
from bolsa.core.currencies import CODES
from bolsa.core.due.dues import OF_A_DUE, OF_A_LINE
from bolsa.core.house.kept import Breach

_VALUED = ", ".join(f"'{kind.key}'" for kind in KINDS if kind.is_valued)

CHECKS = (
    (
        "a rule says when, and what is to be done",
        """SELECT 'rule ' || r.id FROM rule r WHERE NOT EXISTS (SELECT 1 FROM rule_condition c WHERE c.rule_id = r.id)
               OR NOT EXISTS (SELECT 1 FROM rule_action a WHERE a.rule_id = r.id)""",
    ),
    (
        "what filed an entry is a rule or a suggestion, in words",
        "SELECT 'entry ' || id FROM filing WHERE words = '' OR (way = 'suggestion' AND rule_id IS NOT NULL)",
    ),
    (
        "no entry is put to the same member twice at once",
        """SELECT 'entry ' || entry_id FROM question WHERE answered_on IS NULL
           GROUP BY entry_id, member_id HAVING count(*) > 1""",
    ),
    (
        "every entry sums to zero in each currency",
        """SELECT 'entry ' || entry_id || ' is off by ' || sum(amount_minor) || ' ' || currency
           FROM line GROUP BY entry_id, currency HAVING sum(amount_minor) <> 0""",
    ),
    (
        "every entry has two lines or more",
        """SELECT 'entry ' || e.id || ' has ' || count(l.id) FROM entry e LEFT JOIN line l ON l.entry_id = e.id
           GROUP BY e.id HAVING count(l.id) < 2""",
    ),
    (
        "every entry touches an account",
        """SELECT 'entry ' || e.id FROM entry e
           WHERE NOT EXISTS (SELECT 1 FROM line l WHERE l.entry_id = e.id AND l.account_id IS NOT NULL)""",
    ),
    (
        "an account's balance is the sum of its lines",
        """SELECT 'account ' || account_id || ' in ' || month || ': lines ' || coalesce(lines, 0) || ', kept ' || kept
           FROM (SELECT k.account_id, k.month, k.amount_minor AS kept,
                        (SELECT sum(amount_minor) FROM line l WHERE l.account_id = k.account_id
                         AND l.day >= k.month || '-01' AND l.day <= k.month || '-31') AS lines FROM account_month k)
           WHERE kept <> coalesce(lines, 0)
           UNION ALL
           SELECT 'account ' || l.account_id || ' has no kept total for ' || substr(l.day, 1, 7) FROM line l
           WHERE l.account_id IS NOT NULL AND NOT EXISTS (
               SELECT 1 FROM account_month k WHERE k.account_id = l.account_id AND k.month = substr(l.day, 1, 7))""",
    ),
    (
        "a category's month is the sum of its lines",
        """WITH lines AS (SELECT category_id, substr(day, 1, 7) AS month, currency,
                              sum(iif(account_id IS NULL, amount_minor, 0)) AS report, sum(everyday * amount_minor) AS budget
                          FROM line WHERE category_id IS NOT NULL GROUP BY 1, 2, 3)
           SELECT 'category ' || coalesce(k.category_id, l.category_id) || ' in ' || coalesce(k.month, l.month)
           FROM lines l FULL JOIN category_month k USING (category_id, month, currency)
           WHERE coalesce(l.report, 0) <> coalesce(k.report_minor, 0)
               OR coalesce(l.budget, 0) <> coalesce(k.budget_minor, 0)""",
    ),
    (
        "a payee's month is the sum of its category lines",
        """WITH lines AS (SELECT category_id, month, payee_id, member_id, account_id, currency, sum(amount_minor) AS amount
                          FROM answer_line GROUP BY 1, 2, 3, 4, 5, 6)
           SELECT 'payee ' || payee_id || ' in category ' || category_id || ' in ' || month
           FROM lines l FULL JOIN answer_month k USING (category_id, month, payee_id, member_id, account_id, currency)
           WHERE coalesce(l.amount, 0) <> coalesce(k.amount_minor, 0)""",
    ),
    (
        "what is placed in a month is the sum of its placings",
        """WITH made AS (SELECT category_id, month, sum(amount_minor) AS amount FROM placing GROUP BY 1, 2)
           SELECT 'category ' || coalesce(k.category_id, m.category_id) || ' in ' || coalesce(k.month, m.month)
           FROM made m FULL JOIN placed_month k USING (category_id, month)
           WHERE coalesce(m.amount, 0) <> coalesce(k.amount_minor, 0)""",
    ),
    (
        "a line knows whether its entry touches an everyday account",
        """SELECT 'line ' || l.id FROM line l WHERE l.everyday <> EXISTS (
               SELECT 1 FROM line o JOIN account a ON a.id = o.account_id WHERE o.entry_id = l.entry_id AND a.everyday = 1)""",
    ),
    (
        "a line has its account's currency",
        """SELECT 'line ' || l.id || ' is in ' || l.currency || ', the account in ' || a.currency
           FROM line l JOIN account a ON a.id = l.account_id WHERE l.currency <> a.currency""",
    ),
    (
        "a reconciled statement's opening and lines give its closing",
        """SELECT 'statement ' || s.id || ' of ' || s.closing_day || ' is off by '
                  || (s.closing_minor - s.opening_minor - coalesce(sum(l.amount_minor), 0))
           FROM statement s LEFT JOIN line l ON l.statement_id = s.id WHERE s.state = 'reconciled'
           GROUP BY s.id HAVING s.closing_minor <> s.opening_minor + coalesce(sum(l.amount_minor), 0)""",
    ),
    (
        "an account holds what was noted as its value",
        """SELECT 'account ' || v.account_id || ' on ' || v.day || ': noted ' || v.amount_minor || ', held ' || held
           FROM (SELECT n.account_id, n.day, n.amount_minor, (
                     SELECT coalesce(sum(l.amount_minor), 0) FROM line l
                     WHERE l.account_id = n.account_id AND l.day <= n.day) AS held
                 FROM value_note n JOIN account a ON a.id = n.account_id AND a.counts_shares = 0
                 WHERE NOT EXISTS (SELECT 1 FROM line l WHERE l.entry_id = n.entry_id AND l.state = 'reconciled')) v
           WHERE v.amount_minor <> v.held""",
    ),
    (
        "what a curve or carrying made of a value follows from the value before and what flowed since",
        """WITH carried AS (
               SELECT id, account_id, day, entry_id, grown_minor,
                      coalesce(lag(grown_minor) OVER of_account, 0) AS grown_before, lag(day) OVER of_account AS day_before
               FROM value_note WINDOW of_account AS (PARTITION BY account_id ORDER BY day)),
           opened AS (
               SELECT l.account_id, l.day, l.amount_minor FROM line l JOIN line c ON c.entry_id = l.entry_id AND c.category_id = 2
               WHERE l.account_id IN (SELECT account_id FROM carried))
           SELECT 'account ' || k.account_id || ' on ' || k.day FROM carried k
           JOIN account a ON a.id = k.account_id AND a.counts_shares = 0
           WHERE k.grown_minor IS NOT NULL AND k.day_before IS NOT NULL
               AND k.grown_minor - k.grown_before - coalesce((
                       SELECT sum(o.amount_minor) FROM opened o
                       WHERE o.account_id = k.account_id AND o.day > k.day_before AND o.day <= k.day), 0)
                   <> coalesce((SELECT sum(l.amount_minor) FROM line l
                                WHERE l.entry_id = k.entry_id AND l.account_id = k.account_id), 0)""",
    ),
    (
        "a row of the bank is one entry",
        """SELECT 'account ' || account_id || ' on ' || day || ': ' || bank_ref || ' is there ' || count(*) || ' times'
           FROM line l WHERE account_id IS NOT NULL AND bank_ref <> '' GROUP BY account_id, bank_ref, day, amount_minor, raw_text
           HAVING count(*) > 1 AND sum(EXISTS (SELECT 1 FROM brought_row r WHERE r.line_id = l.id)) < count(*)
           UNION ALL
           SELECT 'line ' || line_id || ' is ' || count(*) || ' rows of one batch' FROM brought_row r
           JOIN batch b ON b.id = r.batch_id AND b.state = 'brought'
           WHERE r.take = 1 AND r.pending = 0 AND r.line_id IS NOT NULL GROUP BY r.batch_id, r.line_id HAVING count(*) > 1""",
    ),
    (
        "what a batch brought is there, or was taken out by someone",
        """SELECT 'batch ' || r.batch_id || ', row ' || r.id || ' of ' || r.day || ': ' || r.amount_minor || ' ' || r.payee
           FROM brought_row r JOIN batch b ON b.id = r.batch_id AND b.state = 'brought'
           WHERE r.take = 1 AND r.verdict <> 'vanished' AND (r.line_id IS NULL OR (
               NOT EXISTS (SELECT 1 FROM line l WHERE l.id = r.line_id)
               AND NOT EXISTS (SELECT 1 FROM trash t, json_each(t.snapshot, '$.line') j WHERE j.value ->> 'id' = r.line_id)
               AND NOT EXISTS (SELECT 1 FROM journal_change c
                               WHERE c.table_name = 'line' AND c.row_id = r.line_id AND c.after IS NULL)
               AND b.brought_at >= (SELECT min(s.at) FROM journal_step s JOIN journal_change c ON c.step_id = s.id)))""",
    ),
    (
        "an opening balance leads to what the account is known to have held",
        f"""SELECT 'account ' || k.id || ' when ' || k.day || ' began' FROM known_balance k JOIN account a ON a.id = k.id
           LEFT JOIN line o ON o.entry_id = k.entry_id AND o.account_id = k.id
           WHERE a.counts_shares = 0 AND NOT (a.everyday = 0 AND a.kind IN ({_VALUED})) AND o.state IS NOT 'reconciled'
               AND NOT EXISTS (SELECT 1 FROM value_note v WHERE v.account_id = k.id)
               AND k.amount_minor <> (SELECT coalesce(sum(l.amount_minor), 0) FROM line l
                                      WHERE l.account_id = k.id AND (l.day < k.day OR l.id = o.id))""",
    ),
    (
        "the words of every account line can be found",
        """SELECT 'line ' || l.id FROM line l WHERE l.account_id IS NOT NULL
               AND NOT EXISTS (SELECT 1 FROM line_text t WHERE t.rowid = l.id)
           UNION ALL SELECT 'words of a missing line ' || t.rowid FROM line_text t
               WHERE NOT EXISTS (SELECT 1 FROM line l WHERE l.id = t.rowid AND l.account_id IS NOT NULL)""",
    ),
    (
        "an aim is of a category that spends, and says by when or how much a month",
        """SELECT 'aim of ' || c.name FROM aim a JOIN category c ON c.id = a.id
           WHERE c.type <> 'spending' OR a.repeat < 0 OR a.by_day > '2200-12-31' OR (a.kind = 'build') = ((a.by_day IS NULL) =
           (a.each_minor IS NULL))
               OR a.kind <> 'build' AND (a.by_day IS NOT NULL OR a.each_minor IS NOT NULL OR a.repeat <> 0)""",
    ),
    (
        "a series claims each entry for one due",
        """SELECT 'line ' || line_id || ' is matched ' || count(*) || ' times' FROM due_mark
           WHERE kind = 'matched' GROUP BY series_id, line_id HAVING count(*) > 1
           UNION ALL SELECT 'series ' || series_id || ' has ' || count(*) || ' marks on ' || day FROM due_mark
           WHERE kind <> 'out' GROUP BY series_id, day HAVING count(*) > 1""",
    ),
    (
        "what was said of a due is known, and of a line where it is about one",
        f"""SELECT 'mark ' || id || ' is ' || kind FROM due_mark
            WHERE NOT iif(line_id IS NULL, kind IN {OF_A_DUE}, kind IN {OF_A_LINE})""",
    ),
    (
        "what is earned on a payslip has a category",
        "SELECT 'pay ' || pay_id || ', line ' || id FROM pay_line WHERE kind = 'earned' AND category_id IS NULL",
    ),
    (
        "a line that a statement holds is ticked on no open check",
        """SELECT 'line ' || l.id || ', statement ' || t.statement_id FROM statement_tick t JOIN line l ON l.id = t.line_id
           WHERE l.state = 'reconciled'""",
    ),
    (
        "no two accounts of institutions tell one account here",
        """SELECT 'account ' || n.account_id FROM connection_account n JOIN connection c ON c.id = n.connection_id
           WHERE n.account_id IS NOT NULL AND c.state <> 'cut off' GROUP BY n.account_id HAVING count(*) > 1""",
    ),
    (
        "a batch's days lie in order",
        "SELECT 'batch ' || batch_id FROM coverage WHERE first_day > last_day",
    ),
    (
        "a payday's lines are of its entry and of its pay",
        """SELECT 'payday ' || d.id || ', line ' || x.line_id FROM payday_line x JOIN payday d ON d.id = x.payday_id
           JOIN line l ON l.id = x.line_id JOIN pay_line p ON p.id = x.pay_line_id
           WHERE l.entry_id <> d.entry_id OR p.pay_id <> d.pay_id""",
    ),
    (
        "lots add up to positions",
        """WITH here AS (SELECT account_id, security_id, sum(shares_e8) AS shares FROM trade GROUP BY 1, 2),
                kept AS (SELECT account_id, security_id, sum(shares_e8) AS shares FROM lot GROUP BY 1, 2)
           SELECT 'account ' || coalesce(h.account_id, k.account_id) || ', security ' || coalesce(h.security_id, k.security_id)
                  || ': trades lead to ' || coalesce(h.shares, 0) || ', lots to ' || coalesce(k.shares, 0)
           FROM here h FULL JOIN kept k USING (account_id, security_id) WHERE coalesce(h.shares, 0) <> coalesce(k.shares, 0)""",
    ),
    (
        "a trade's cash stands in the ledger once, in an account counted by its shares",
        """SELECT 'trade ' || t.id FROM trade t JOIN account a ON a.id = t.account_id
           LEFT JOIN line l ON l.entry_id = t.entry_id AND l.account_id IS NOT NULL
           WHERE iif(a.counts_shares AND t.kind IN ('buy', 'sell', 'dividend', 'lieu', 'return', 'fee'),
                     coalesce(t.total_minor, 0), 0) <> coalesce(l.amount_minor, 0)
               OR (l.id IS NOT NULL AND (l.account_id <> t.account_id OR l.day <> t.day))""",
    ),
    (
        "no reference leads nowhere",
        """SELECT "table" || ' row ' || coalesce(rowid, '?') || ' refers to a missing ' || parent
           FROM pragma_foreign_key_check""",
    ),
)
# What earlier versions let a person do, and a person mends: a file that holds such a thing is not damaged.
MENDED_BY_HAND = (
    (
        "an account has one open statement at most",
        """SELECT 'account ' || account_id || ' has ' || count(*) FROM statement WHERE state = 'open'
           GROUP BY account_id HAVING count(*) > 1""",
    ),
    (
        "a statement that goes on where another ended opens with what that closed with",
        """SELECT 'statement ' || id || ' of ' || closing_day || ' opens with ' || opening_minor || ', not ' || closed_minor
           FROM (SELECT *, lag(closing_minor) OVER chain AS closed_minor, lag(closing_day) OVER chain AS closed_day
                 FROM statement WINDOW chain AS (PARTITION BY account_id ORDER BY closing_day, id))
           WHERE state = 'reconciled' AND opening_minor <> closed_minor
               AND (opening_day IS NULL OR opening_day = date(closed_day, '+1 day'))""",
    ),
    (
        "a closed account is empty",
        """SELECT a.name || ' holds ' || sum(m.amount_minor) FROM account a JOIN account_month m ON m.account_id = a.id
           WHERE a.closed_on IS NOT NULL GROUP BY a.id HAVING sum(m.amount_minor) <> 0""",
    ),
)


_DAY_COLUMNS = """
    SELECT t.name, c.name, iif(t.wr, '', 'rowid') FROM pragma_table_list t, pragma_table_info(t.name) c
    WHERE t.schema = 'main' AND t.type = 'table' AND c.type = 'TEXT'
        AND (c.name IN ('day', 'month', 'last_seen', 'missing_since') OR c.name GLOB '*_day' OR c.name GLOB '*_on'
             OR c.name GLOB '*_from')"""


def _find_odd_days(db: sqlite3.Connection, most: int) -> list[Breach]:
    """Rows whose days are none, as only a file holds that another program wrote: every page would stumble over them."""
    found = []
    for table, column, row_id in db.execute(_DAY_COLUMNS).fetchall():
        day = "month || '-01'" if column == "month" else column
        odd = f"{column} <> '' AND date({day}, '+0 days') IS NOT {day}"
        rows = db.execute(f"SELECT {row_id or column}, {column} FROM {table} WHERE {odd} LIMIT {int(most)}")
        found += [Breach("every day is one", f"{table} {row[0]}: {column} is {row[1]}") for row in rows]
    return found


def _find_odd_household(db: sqlite3.Connection) -> list[Breach]:
    """A time zone or a home currency that is none."""
    row = db.execute("SELECT time_zone, home_currency FROM household").fetchone()
    if row is None:
        return []
    odd = [] if row["home_currency"] in CODES else [row["home_currency"]]
    try:
        ZoneInfo(row["time_zone"])
    except (ZoneInfoNotFoundError, ValueError, OSError):
        odd.append(row["time_zone"])
    return [Breach("the household's time zone and currency are ones", str(one)) for one in odd]


def find_damage(db: sqlite3.Connection, most: int = 20) -> list[Breach]:
    """The pages of the file that are not as SQLite wrote them, as it names them."""
    try:
        found = [row[0] for row in db.execute(f"PRAGMA integrity_check({int(most)})")]
    except sqlite3.DatabaseError as error:  # damaged so far that SQLite cannot say where: then which tables are
        found = [f"{error}: {table}" for table in _unreadable(db)] or [str(error)]
    return [Breach("the file is sound", words.replace("\n", "; ")) for words in found if words != "ok"]


def _unreadable(db: sqlite3.Connection) -> Iterator[str]:
    try:
        tables = db.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND sql NOT LIKE 'CREATE VIRTUAL%'").fetchall()
    except sqlite3.DatabaseError:  # not even what tables there are
        return
    for (table,) in tables:
        try:
            sum(1 for _ in db.execute(f'SELECT * FROM "{table}" NOT INDEXED'))
        except sqlite3.DatabaseError:
            yield f"table {table}"


def find_breaches(db: sqlite3.Connection, most_each: int = 20) -> list[Breach]:
    """Every row that breaks a promise of the ledger, at most so many a promise."""
    found = find_damage(db)
    if found:
        return found  # what else is asked would be answered by what is damaged
    found = _find_odd_days(db, most_each) + _find_odd_household(db)
    for promise, sql in (*CHECKS, *MENDED_BY_HAND):
        rows = db.execute(f"SELECT * FROM ({sql}) LIMIT :most", {"most": most_each})
        found += [Breach(promise, str(row[0]), is_damage=(promise, sql) not in MENDED_BY_HAND) for row in rows]
    return found
