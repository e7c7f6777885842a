"""Every row of the household, for export, and safe copies of the whole file."""

import sqlite3
from collections.abc import Iterator
from pathlib import Path

from bolsa.errors import BolsaError
from bolsa.store import private

# Of a day the position said last: that is the one that counts.
_POSITIONS = """
    SELECT account_id, security_id, day, shares_e8 FROM position_note WHERE id IN (
        SELECT max(id) FROM position_note GROUP BY account_id, security_id, day) ORDER BY account_id, security_id, day"""

# (file, heads, query); amounts leave as minor units and are written as decimals by the service.
TABLES = (
    ("accounts", "SELECT id, name, kind, side, everyday, currency, institution, number, group_name, opened_on, closed_on, shown, counts_shares, position, note, made_by_batch FROM account ORDER BY everyday DESC, position, id"),
    ("account_terms", "SELECT t.id AS account_id, a.currency, t.limit_minor, t.rate, t.statement_day, t.due_day, t.principal_minor, t.term_months, t.payment_minor, t.first_payment_on, t.interest_category_id, t.set_by_id, t.matures_on, t.free_on, t.exit_cost_minor, t.ceiling_minor, t.curve, t.curve_rate, t.curve_until, t.curve_last_minor, t.curve_index, t.floor_minor, t.lot_method FROM account_terms t JOIN account a ON a.id = t.id ORDER BY t.id"),
    ("account_owners", "SELECT o.account_id, m.name AS member FROM account_owner o JOIN member m ON m.id = o.member_id ORDER BY o.id"),
    ("account_facets", "SELECT v.account_id, f.name AS facet, v.value FROM account_facet v JOIN facet f ON f.id = v.facet_id ORDER BY v.account_id, f.id"),
    ("known_balances", "SELECT k.id AS account_id, k.day, a.currency, k.amount_minor, k.entry_id FROM known_balance k JOIN account a ON a.id = k.id ORDER BY k.id"),
    ("values", "SELECT v.account_id, v.day, a.currency, v.amount_minor, v.source, v.entry_id, v.grown_minor FROM value_note v JOIN account a ON a.id = v.account_id ORDER BY v.account_id, v.day"),
    ("categories", "SELECT c.id, g.name AS group_name, c.name, c.type, c.role, c.in_budget, c.carries, c.carries_minus, c.retired, c.note, c.priority, m.name AS allowance_of FROM category c JOIN category_group g ON g.id = c.group_id LEFT JOIN member m ON m.id = c.member_id ORDER BY c.id"),
    ("entries", "SELECT e.id, e.day, p.name AS payee, e.memo, e.note, e.origin FROM entry e JOIN payee p ON p.id = e.payee_id ORDER BY e.id"),
    ("lines", "SELECT l.id, l.entry_id, l.account_id, l.category_id, l.currency, l.amount_minor, l.day, l.state, l.bank_ref, l.value_day, l.raw_text, l.statement_id, m.name AS member FROM line l LEFT JOIN member m ON m.id = l.member_id ORDER BY l.id"),
    ("line_tags", "SELECT x.line_id, t.name AS tag FROM line_tag x JOIN tag t ON t.id = x.tag_id ORDER BY x.line_id, t.name"),
    ("attachments", "SELECT id, entry_id, trade_id, name, media_type, bytes, sha256, added_at FROM attachment ORDER BY id"),
    ("statements", "SELECT s.id, s.account_id, s.opening_day, s.closing_day, a.currency, s.opening_minor, s.closing_minor, s.state, s.reconciled_at FROM statement s JOIN account a ON a.id = s.account_id ORDER BY s.id"),
    ("expected", "SELECT x.category_id, x.month, h.home_currency AS currency, x.amount_minor, x.every FROM expected x, household h ORDER BY x.category_id, x.month"),
    ("aims", "SELECT a.id AS category_id, h.home_currency AS currency, a.kind, a.amount_minor, a.by_day, a.each_minor, a.repeat, a.since, a.mark, a.sha256 FROM aim a, household h ORDER BY a.id"),
    ("aim_accounts", "SELECT aim_id AS category_id, account_id FROM aim_account ORDER BY aim_id, account_id"),
    ("trials", "SELECT id, name FROM trial ORDER BY id"),
    ("trial_cells", "SELECT c.trial_id, c.category_id, c.month, h.home_currency AS currency, c.amount_minor, c.every, c.is_end FROM trial_cell c, household h ORDER BY c.id"),
    ("trial_aims", "SELECT a.trial_id, a.category_id, h.home_currency AS currency, a.kind, a.amount_minor, a.by_day, a.each_minor, a.repeat, a.since FROM trial_aim a, household h ORDER BY a.id"),
    ("closed_months", "SELECT c.id, c.month, c.closed_on, m.name AS member, h.home_currency AS currency, c.unplaced_minor, c.left_open FROM household h, closed_month c LEFT JOIN member m ON m.id = c.member_id ORDER BY c.month"),
    ("closed_categories", "SELECT c.closed_id, c.category_id, h.home_currency AS currency, c.placed_minor, c.spent_minor, c.left_minor FROM closed_category c, household h ORDER BY c.closed_id, c.category_id"),
    ("payees", "SELECT id, name, category_id, apart FROM payee ORDER BY id"),
    ("tags", "SELECT id, name, note, retired, tax_line, tax_copy FROM tag ORDER BY id"),
    ("rules", "SELECT id, position, is_on, made_on FROM rule ORDER BY position, id"),
    ("rule_conditions", "SELECT c.rule_id, c.number, c.kind, c.how, c.text, c.least, c.most, c.currency, c.account_id, m.name AS member, c.category_id FROM rule_condition c LEFT JOIN member m ON m.id = c.member_id ORDER BY c.rule_id, c.number, c.id"),
    ("rule_actions", "SELECT a.rule_id, a.number, a.kind, a.text, a.category_id, a.account_id, m.name AS member, a.series_id, t.name AS tag, h.home_currency AS currency, a.amount_minor, a.share_e6 FROM household h, rule_action a LEFT JOIN member m ON m.id = a.member_id LEFT JOIN tag t ON t.id = a.tag_id ORDER BY a.rule_id, a.number, a.id"),
    ("questions", "SELECT q.id, q.entry_id, m.name AS member, b.name AS asked_by, q.asked_on, q.note, q.rule_id, q.answered_on, q.answer FROM question q JOIN member m ON m.id = q.member_id LEFT JOIN member b ON b.id = q.asked_by ORDER BY q.id"),
    ("kept_out", "SELECT id AS entry_id FROM kept_out ORDER BY id"),
    ("placings", "SELECT x.id, x.category_id, x.month, h.home_currency AS currency, x.amount_minor, x.made_on, x.other_id, x.reason FROM placing x, household h ORDER BY x.id"),
    ("securities", "SELECT id, name, code, symbol, market, currency, kind, matures_on, is_compared FROM security ORDER BY id"),
    ("trades", "SELECT t.id, t.account_id, t.security_id, t.day, t.kind, t.shares_e8, a.currency, t.total_minor, t.fee_minor, t.basis_day, t.taxed_minor, t.untaxed_minor, t.credit_minor, t.withheld_minor, t.ex_day, t.ratio_new, t.ratio_old, t.reason, t.bank_ref, t.entry_id FROM trade t JOIN account a ON a.id = t.account_id ORDER BY t.id"),
    ("trade_lots", "SELECT trade_id, lot_id, shares_e8 FROM trade_lot ORDER BY id"),
    ("prices", "SELECT security_id, day, price_e8, 'market' AS source FROM price UNION ALL SELECT security_id, day, price_e8, 'hand' FROM price_note ORDER BY 1, 2, 4"),
    ("members", "SELECT id, name, birth_year FROM member ORDER BY id"),
    ("asset_classes", "SELECT id, name, position, band, target FROM asset_class ORDER BY position, id"),
    ("class_parts", "SELECT security_id, account_id, class_id, percent FROM class_part ORDER BY id"),
    ("holding_bands", "SELECT account_id, security_id, band FROM holding_band ORDER BY id"),
    ("mix_plan", "SELECT p.near_years, p.middle_years, h.home_currency AS currency, p.contribution_minor, m.name AS by_age_of FROM household h, mix_plan p LEFT JOIN member m ON m.id = p.aged_id"),
    ("debt_plan", "SELECT h.home_currency AS currency, p.more_minor, p.order_key FROM debt_plan p, household h"),
    ("debt_places", "SELECT account_id, position FROM debt_place ORDER BY position"),
    ("debt_payments", "SELECT p.month, h.home_currency AS currency, p.amount_minor FROM debt_payment p, household h ORDER BY p.month"),
    ("reminders", "SELECT id, day, words, done_on FROM reminder ORDER BY id"),
    ("plan_cases", "SELECT id, name, position, plan FROM plan_case ORDER BY position, id"),
    ("market_events", "SELECT security_id, kind, day, pay_day, amount_e8, ratio_new, ratio_old FROM market_event ORDER BY security_id, day, kind"),
    ("positions", _POSITIONS),
    ("rates", "SELECT currency, day, rate_e8, source FROM rate ORDER BY currency, day"),
    ("bank_balances", "SELECT b.account_id, b.day, a.currency, b.amount_minor FROM bank_balance b JOIN account a ON a.id = b.account_id ORDER BY b.account_id, b.day, b.id"),
    ("series", "SELECT s.id, p.name AS payee, s.account_id, a.currency, s.category_id, s.rrule, s.start_day, s.short_month, s.weekend, s.amount_minor, s.amount_kind, s.tolerance_days, s.tolerance_percent, s.ended_on FROM series s JOIN payee p ON p.id = s.payee_id JOIN account a ON a.id = s.account_id ORDER BY s.id"),
    ("due_marks", "SELECT series_id, kind, day, line_id FROM due_mark ORDER BY id"),
    ("pays", "SELECT p.id, p.series_id, m.name AS member, p.kept_from FROM pay p LEFT JOIN member m ON m.id = p.member_id ORDER BY p.id"),
    ("pay_lines", "SELECT l.id, l.pay_id, l.position, l.kind, l.name, a.currency, l.amount_minor, l.percent, l.account_id, l.category_id, l.start_minor, l.is_usual FROM pay_line l JOIN pay p ON p.id = l.pay_id JOIN series s ON s.id = p.series_id JOIN account a ON a.id = s.account_id ORDER BY l.pay_id, l.position"),
    ("paydays", "SELECT id, pay_id, day, entry_id, is_made FROM payday ORDER BY id"),
    ("payday_lines", "SELECT payday_id, line_id, pay_line_id FROM payday_line ORDER BY id"),
    ("saved_filters", "SELECT name, address FROM saved_filter ORDER BY name"),
)  # fmt: skip


LIST_ATTACHED = """
    SELECT f.sha256, f.content, coalesce(
        (SELECT a.media_type FROM attachment a WHERE a.sha256 = f.sha256 LIMIT 1),
        (SELECT j.value ->> 'media_type' FROM trash t, json_each(t.snapshot, '$.attachment') j
         WHERE j.value ->> 'sha256' = f.sha256 LIMIT 1),
        'image/png') AS media_type  -- what no entry has is the picture of an aim
    FROM attachment_file f ORDER BY f.sha256"""


def list_attached(db: sqlite3.Connection) -> Iterator[tuple[str, bytes]]:
    """Every attached file as (its hash and ending, its bytes), each once."""
    endings = {"image/jpeg": "jpg", "image/png": "png", "image/webp": "webp", "image/gif": "gif", "application/pdf": "pdf"}
    for row in db.execute(LIST_ATTACHED):
        yield f"{row['sha256']}.{endings[row['media_type']]}", row["content"]


def list_table(db: sqlite3.Connection, sql: str) -> Iterator[sqlite3.Row]:
    """The rows of one exported table, one at a time."""
    yield from db.execute(sql)


def size_of(db: sqlite3.Connection) -> int:
    """How many bytes the file has."""
    return db.execute("PRAGMA page_count").fetchone()[0] * db.execute("PRAGMA page_size").fetchone()[0]


def copy_whole(db: sqlite3.Connection, target: Path) -> None:
    """Writes a consistent copy of the file, also while it is in use."""
    private.create(target)
    copy = sqlite3.connect(target)
    try:
        db.backup(copy)
        copy.execute("PRAGMA journal_mode = DELETE")
    finally:
        copy.close()


def replace_whole(source: sqlite3.Connection, db: sqlite3.Connection) -> None:
    """Makes a file what another one is, in one transaction; who has it open sees all of it or nothing. Raises: BolsaError if
    someone else is changing it and does not end."""

    def give_up(status: int, _left: int, _all: int) -> None:
        if status in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
            raise BolsaError("The household's file is being changed by another program. Try again when that has ended.")

    source.backup(db, progress=give_up)
