"""The one list of the household's tables, in the order in which an account's rows can be taken out. The journal and
the end of an account read it, the export is held to it, all of it to the schema by a test: a new table cannot be forgotten."""

from dataclasses import dataclass

_OF_ACCOUNT = "DELETE FROM {} WHERE account_id = :id"
_LET_GO = "UPDATE {} SET account_id = NULL WHERE account_id = :id"
_PAYS_OF_ACCOUNT = "SELECT p.id FROM pay p JOIN series s ON s.id = p.series_id WHERE s.account_id = :id"
_ONLY_HERE = "only this file can go the way back"
# A rule that spoke of an account would say something else without it, so it goes with the account.
_RULES_OF_ACCOUNT = "DELETE FROM rule WHERE id IN (SELECT rule_id FROM {} WHERE account_id = :id)"
_HOW_BROUGHT = "how rows were brought in; what came of them leaves as lines, moves and positions"
_SUMS = "sums of what is exported"
_REACHED = "follows from the trades, and is reckoned anew"


@dataclass(frozen=True)
class Table:
    """What becomes of a table's rows: `is_journalled`, so that a step can be undone; `stays`, why they are not exported as a
    table to be read, "" if they are; `travels`, whether they are in what another file is made whole of; `account_ends`, the
    statement that takes an account's rows out or lets them go, "" where no account is named; `promises`, which of the invariants
    look at it beside "no reference leads nowhere", each by its first words."""

    name: str
    is_journalled: bool = True
    stays: str = ""
    account_ends: str = ""
    promises: tuple[str, ...] = ()
    travels: bool = True


TABLES = (
    Table("household"),
    Table("member"),
    Table("facet"),
    Table("category_group"),
    Table("category"),
    Table("payee"),
    Table("tag"),
    Table("security"),
    Table("rate"),
    Table("entry", promises=("every entry",)),
    Table(
        "statement_tick", stays="work on a statement still open", promises=("a line that a statement holds",),
        account_ends="DELETE FROM statement_tick WHERE line_id IN (SELECT id FROM line WHERE account_id = :id)",
    ),
    Table("known_balance", account_ends="DELETE FROM known_balance WHERE id = :id", promises=("an opening balance",)),
    Table("value_note", account_ends=_OF_ACCOUNT.format("value_note"), promises=("an account holds what was noted",)),
    Table(
        "line",  # the lines themselves go with their entries, or become a category's (accounts/account_ends.py)
        account_ends="UPDATE line SET state = 'cleared', statement_id = NULL WHERE account_id = :id AND statement_id IS NOT NULL",
        promises=("every entry", "a line"),
    ),
    Table("line_tag"),
    Table("question", promises=("no entry is put",)),
    Table("kept_out"),
    Table("filing", stays="why entries stand where they are; where they stand leaves with the lines", promises=("what filed",)),
    Table("rule_met", stays="how rules fared"),
    Table("proposal_refused", stays="proposals that were refused"),
    Table("rule_condition", account_ends=_RULES_OF_ACCOUNT.format("rule_condition")),
    Table("rule_action", account_ends=_RULES_OF_ACCOUNT.format("rule_action")),
    Table("rule", promises=("a rule",)),
    Table("attachment"),
    Table("statement", account_ends=_OF_ACCOUNT.format("statement"), promises=("a reconciled statement",)),
    Table("brought_row", stays=_HOW_BROUGHT, account_ends=_OF_ACCOUNT.format("brought_row")),
    Table("brought_share", stays=_HOW_BROUGHT, account_ends=_OF_ACCOUNT.format("brought_share")),
    Table(
        "trade_lot", account_ends="DELETE FROM trade_lot WHERE trade_id IN (SELECT id FROM trade WHERE account_id = :id)",
    ),
    Table(
        "lot", is_journalled=False, stays=_REACHED, travels=False, account_ends=_OF_ACCOUNT.format("lot"),
        promises=("lots add up",),
    ),
    Table("disposal", is_journalled=False, stays=_REACHED, travels=False, account_ends=_OF_ACCOUNT.format("disposal")),
    Table("trade", account_ends=_OF_ACCOUNT.format("trade"), promises=("lots add up", "a trade's cash")),
    # What the market tells can be asked again; fetching it leaves no step.
    Table("price", is_journalled=False),
    Table("price_note"),
    Table("market_event", is_journalled=False),
    Table("asset_class"),
    Table("class_part", account_ends=_OF_ACCOUNT.format("class_part")),
    Table("holding_band", account_ends=_OF_ACCOUNT.format("holding_band")),
    Table("mix_plan"),
    Table("debt_plan"),
    Table("debt_place", account_ends=_OF_ACCOUNT.format("debt_place")),
    Table("debt_payment"),
    Table("reminder"),
    Table("plan_case"),
    Table("suspect_kept", stays="what was looked at and is right as it is"),
    Table("position_note", account_ends=_OF_ACCOUNT.format("position_note")),
    Table(
        "payday_line", promises=("a payday",),
        account_ends=f"DELETE FROM payday_line WHERE payday_id IN (SELECT id FROM payday WHERE pay_id IN ({_PAYS_OF_ACCOUNT}))",
    ),
    Table(
        "payday", promises=("a payday",),
        account_ends=f"DELETE FROM payday WHERE pay_id IN ({_PAYS_OF_ACCOUNT})",
    ),
    Table(
        "pay_line", account_ends=f"DELETE FROM pay_line WHERE pay_id IN ({_PAYS_OF_ACCOUNT})",
    ),
    Table("pay", account_ends=f"DELETE FROM pay WHERE id IN ({_PAYS_OF_ACCOUNT})"),
    Table("due_mark", account_ends="DELETE FROM due_mark WHERE series_id IN (SELECT id FROM series WHERE account_id = :id)"),
    Table("series", account_ends=_OF_ACCOUNT.format("series"), promises=("a series",)),
    Table("series_refused", stays="proposals that were refused", account_ends=_OF_ACCOUNT.format("series_refused")),
    Table("bank_balance", account_ends=_OF_ACCOUNT.format("bank_balance")),
    # A connection's token is a secret, and a consent cannot be undone into being.
    Table("connection", is_journalled=False, stays="holds the institution's token", travels=False),
    Table(
        "connection_account", stays="means nothing without its connection", travels=False,
        account_ends=_LET_GO.format("connection_account"),
    ),
    # Taking a batch out again is a step of its own kind (services/bringing/undoing.py).
    Table("batch", is_journalled=False, stays=_HOW_BROUGHT, account_ends=_LET_GO.format("batch")),
    Table(
        "coverage", is_journalled=False, promises=("a batch's days",), stays=_HOW_BROUGHT,
        account_ends=_OF_ACCOUNT.format("coverage"),
    ),
    Table("batch_account", stays=_HOW_BROUGHT, account_ends=_LET_GO.format("batch_account")),
    Table("upload", is_journalled=False, stays="a file waiting to be brought in, which the household has itself"),
    Table("csv_mapping", stays=_HOW_BROUGHT),
    Table("expected"),
    Table("aim_account", account_ends=_OF_ACCOUNT.format("aim_account")),
    Table("aim", promises=("an aim",)),
    Table("trial_cell"),
    Table("trial_aim"),
    Table("trial"),
    Table("closed_category"),
    Table("closed_month"),
    Table("placing", promises=("what is placed in a month",)),
    Table("saved_filter"),
    Table("trash", stays="entries the household threw away"),
    Table("account_owner", account_ends=_OF_ACCOUNT.format("account_owner")),
    Table("account_facet", account_ends=_OF_ACCOUNT.format("account_facet")),
    Table("account_terms", account_ends="DELETE FROM account_terms WHERE id = :id"),
    Table("account", account_ends="DELETE FROM account WHERE id = :id", promises=("a line",)),
    # Triggers keep these.
    Table("account_month", is_journalled=False, stays=_SUMS, travels=False, promises=("an account's balance",)),
    Table("category_month", is_journalled=False, stays=_SUMS, travels=False, promises=("a category's month",)),
    Table("content_mark", is_journalled=False, stays="a number of this file alone", travels=False),
    Table("answer_month", is_journalled=False, stays=_SUMS, travels=False, promises=("a payee's month",)),
    Table("placed_month", is_journalled=False, stays=_SUMS, travels=False, promises=("what is placed in a month",)),
    # Kept by their content, and never changed.
    Table("attachment_file", is_journalled=False, stays="leaves as files beside the tables", travels=False),
    Table("journal_step", is_journalled=False, stays=_ONLY_HERE),
    Table("journal_change", is_journalled=False, stays=_ONLY_HERE, travels=False),
    Table("journal_step_now", is_journalled=False, stays=_ONLY_HERE, travels=False),
    Table("sitting", is_journalled=False, stays="where a sitting was left"),
    Table("setting", is_journalled=False, stays="how this program reads and shows"),
)  # fmt: skip
JOURNALLED = tuple(table.name for table in TABLES if table.is_journalled)
_ITSELF = ("account_owner", "account_facet", "account_terms", "account")
ACCOUNT_BELONGINGS = tuple(table.account_ends for table in TABLES if table.account_ends and table.name not in _ITSELF)
ACCOUNT_ITSELF = tuple(table.account_ends for table in TABLES if table.name in _ITSELF)
