"""Holdings arranged by facets, as a tree with subtotals; of all, or of one place alone."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.holdings.holding import HoldingRow
from bolsa.core.worth.net_worth import Node, tree_of
from bolsa.services.holdings.book import Book, holdings_on, places_by_row
from bolsa.services.worth import worth
from bolsa.services.worth.worth import Only
from bolsa.store.connection import reading

OWN_FACETS = {"account": "Account", "sort": "Sort", "money": "Currency of the security"}


@dataclass(frozen=True)
class Arranged:
    """What is held on a day, in one place or all: the rows with something in them, as a tree, and those sold out."""

    book: Book
    rows: tuple[HoldingRow, ...]
    tree: Node[HoldingRow]
    sold_out: tuple[HoldingRow, ...]


def facets_of(db: sqlite3.Connection) -> dict[str, str]:
    """Every way of arranging holdings: by what their accounts are, and by what they are themselves."""
    return {key: words for key, words in worth.facets_of(db).items() if key not in ("class", "group")} | OWN_FACETS


def arrange(db: sqlite3.Connection, day: date, order: Sequence[str], only: Only = ()) -> Arranged:
    """The holdings of a day by facets in an order."""
    with reading(db):
        book = holdings_on(db, day)
        places = places_by_row(book, worth.places_of(db))
    rows = [row for row in book.rows if all(places[row.key].get(facet) == place for facet, place in only)]
    held = tuple(row for row in rows if not row.is_sold_out)
    return Arranged(book, held, tree_of(held, places, order), tuple(row for row in rows if row.is_sold_out))
