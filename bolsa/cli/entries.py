"""Commands about entries: enter, entries, file, transfer."""

import argparse

from bolsa.cli.common import Commands, a_day, household, say, show
from bolsa.services.accounts import accounts
from bolsa.services.ledger import entries, listing
from bolsa.services.sorting import categories, transferring


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    entry = commands.add("enter", run_enter, as_json=True)
    entry.add_argument("text", metavar="TEXT")
    entry.add_argument("--account", required=True, metavar="NAME")
    found = commands.add("entries", run_entries, as_json=True)
    found.add_argument("--account", required=True, metavar="NAME")
    found.add_argument("--from", dest="first", type=a_day, default=None, metavar="DAY")
    found.add_argument("--to", dest="last", type=a_day, default=None, metavar="DAY")
    file = commands.add("file", run_file, as_json=True)
    file.add_argument("entry", type=int, metavar="ENTRY")
    file.add_argument("category", metavar="CATEGORY")
    transfer = commands.add("transfer", run_transfer, as_json=True)
    transfer.add_argument("entry", type=int, metavar="ENTRY")
    transfer.add_argument("account", metavar="ACCOUNT")
    transfer.add_argument("--set-by", default="", metavar="CATEGORY", help="from which the money is set by, to an apart account")


def run_enter(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        account = accounts.resolve_account(db, options.account)
        done = entries.record_quick_line(db, by, account.id, options.text)
    say(options, done, entry=done.made)


def run_entries(options: argparse.Namespace) -> None:
    with household(options) as (db, _):
        account = accounts.resolve_account(db, options.account)
        found = list(listing.entries_of(db, account, options.first, options.last))
    lines = (f"{e.id:>7}  {e.date}  {e.amount:>12}  {e.state:<10}  {e.payee} — {e.category}" for e in found)
    show(options, [vars(e) for e in found], lines)


def run_file(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        category = categories.resolve_category(db, options.category)
        say(options, entries.set_category(db, by, options.entry, category.id), entry=options.entry)


def run_transfer(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        account = accounts.resolve_account(db, options.account)
        set_by = categories.resolve_category(db, options.set_by).id if options.set_by else None
        say(options, transferring.file_as_transfer(db, by, [options.entry], account.id, set_by), entry=options.entry)
