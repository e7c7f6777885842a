"""The command line: each command parses, calls one service, and prints a sentence or, with --json, one JSON object or list.

A module for each area of commands enters its own; common.py holds what they share. Exit codes: 0 done, 1 refused or something
does not hold, 2 wrongly called. Begin with entries.py.
"""

import argparse
import gc
import sqlite3
import sys
from importlib import import_module

from bolsa.cli.common import Commands
from bolsa.errors import BolsaError
from bolsa.services.house import files

# Each command with its module and what it does: a call loads the module of its own command alone, and help none.
COMMANDS = {
    "demo": ("serving", "Serve the demo household and the stand-ins."),
    "serve": ("serving", "Serve a household's pages on loopback."),
    "init": ("house", "Make a new household."),
    "account": ("accounts", "Add, change, value or close an account."),
    "balances": ("accounts", "Print what every account holds."),
    "import": ("bringing", "Bring in files (OFX, camt, MT940, CSV), or folders of them."),
    "duplicates": (
        "bringing",
        "Print bookings that two files told and that are here twice; `--remove` moves one of each to the trash.",
    ),
    "enter": ("entries", "Enter a quick line, such as “grebe 23.40 groceries yesterday #studio”."),
    "entries": ("entries", "Print the entries of an account."),
    "file": ("entries", "File an entry under a category."),
    "transfer": ("entries", "Make an entry a transfer with an account."),
    "suggest": ("sorting", "Print what an entry likely belongs to, how certain that is, and why."),
    "sort": ("sorting", "File what is certain, or print what would be."),
    "rules": ("sorting", "Print the rules; `export` and `import` them as JSON, `run` them over what waits."),
    "budget": ("budget", "Print the budget of a month, or of twelve."),
    "expect": ("budget", "Set what a category is expected to take from a month on."),
    "place": ("budget", "Place money for a category, or take it back (less than 0)."),
    "fill": ("budget", "Fill needs in order, as far as the money goes: all, or those named."),
    "aim": ("budget", "Say how the needs of a category come about: month, spread, build, keep, steady."),
    "shift": ("budget", "Shift money from one category to another."),
    "baseline": ("budget", "Expect what the last full months say, or show it."),
    "close-month": ("budget", "Close a month, with what is open on its checklist."),
    "series": ("due", "Print what is kept as coming again; `find` what seems to, `add` one."),
    "dates": ("due", "Print the days of a rhythm."),
    "due": ("due", "Print what is due, late, arrived and different."),
    "forecast": ("due", "Print where the everyday balances go, and their lowest points."),
    "pay": ("pay", "Print each pay: its lines, the year so far, paydays, ceilings; `confirm` one."),
    "calendar": ("due", "Write the dues of a year as an iCalendar file."),
    "answer": ("answers", "Print what was spent, received or stayed, by category, payee, tag and the like."),
    "security": ("holdings", "Find securities in the market, add them, set or fetch prices."),
    "trade": ("holdings", "Enter a trade: bought, sold, held before, distributed, split and the like."),
    "holdings": ("holdings", "Print what is held, its cost and gain; say how an account counts and takes lots."),
    "gains": ("holdings", "Print what sales and distributions brought in a year."),
    "performance": ("holdings", "Print how holdings did, money-weighted and time-weighted."),
    "mix": ("mix", "Print what part of all is of which class, its target, and what would bring it back."),
    "bands": ("mix", "Print the money by the years it is meant for, beside yearly spending."),
    "ahead": ("ahead", "Print the years of the long view; `mend` it; `begin` it out of the books."),
    "debts": ("ahead", "Print how debts are paid off, by a monthly sum and an order."),
    "worth": ("accounts", "Print what is owned and owed, and the net."),
    "steps": ("house", "Print what was done, the latest first."),
    "undo": ("house", "Undo a step."),
    "check": ("house", "Check everything that must hold; exit 1 with the rows that break it."),
    "export": ("house", "Write everything as CSV and JSON into a folder."),
    "backup": ("house", "Write everything into one file, and check it."),
    "restore": ("house", "Put a backup in the place of the household's file."),
    "day": ("house", "Set the household's clock to a day, for trials and tests."),
    "bench": ("serving", "Measure Bolsa against the least that does the same work."),
}


def main(arguments: list[str] | None = None) -> int:
    """Runs one command; gives the exit code."""
    arguments = sys.argv[1:] if arguments is None else arguments
    options = parser(arguments[0] if arguments else "").parse_args(arguments)
    gc.set_threshold(50_000, 20, 20)  # rows come by the ten thousand and hold no circles; the search for some takes its time
    try:
        return options.run(options) or 0
    except BolsaError as error:
        print(f"bolsa: {error.sentence}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        return 0
    except sqlite3.Error as error:
        told = files.in_words(error)
        if told is None:
            raise
        print(f"bolsa: {told.sentence}", file=sys.stderr)
        return 1


def parser(command: str = "") -> argparse.ArgumentParser:
    """The command with its options, and every other by its name."""
    whole = argparse.ArgumentParser(prog="bolsa", description="Keep a household's money in order.")
    parsers = whole.add_subparsers(dest="command", required=True, metavar="COMMAND")
    commands = Commands(parsers, {name: words for name, (_, words) in COMMANDS.items()})
    loaded = COMMANDS[command][0] if command in COMMANDS else ""
    if loaded:
        import_module(f"bolsa.cli.{loaded}").enter(commands)
    for name, (module, words) in COMMANDS.items():
        if module != loaded:
            parsers.add_parser(name, help=words)
    return whole
