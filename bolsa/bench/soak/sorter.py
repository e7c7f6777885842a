"""What the person of the soak does to sort: rules, payees, questions, splits and categories. None of it may move an account but a
transfer that is made."""

import random
import sqlite3
from collections.abc import Sequence
from dataclasses import replace

from bolsa.bench.soak.promises import ALL, Promise, same
from bolsa.core.sorting.rules import Action, Condition, Rule, SharePart
from bolsa.services.clock import By
from bolsa.services.sorting import (
    asking,
    categories,
    category_moves,
    keeping_out,
    payees,
    rule_previewing,
    rules,
    splitting,
    transferring,
)
from bolsa.store.sorting.categories import list_unsorted

FILED = same("balances", "worth")


def sort_out(db: sqlite3.Connection, by: By, dice: random.Random, category_ids: Sequence[int], entry_id: int) -> Promise | None:
    """One act of sorting, of any kind. Raises: BolsaError where it cannot be."""
    return dice.choice((_rules, _rules, _payees, _questions, _entries, _categories))(db, by, dice, category_ids, entry_id)


def _rules(db, by, dice, category_ids, entry_id) -> Promise | None:
    kept, act = rules.list_rules(db), dice.randrange(5)
    if act == 0 or not kept:
        rule_previewing.keep_and_apply(db, by, _rule(db, dice, category_ids), [entry_id])
        return FILED
    one = dice.choice(kept)
    if act == 1:
        rules.keep_rule(db, by, replace(_rule(db, dice, category_ids), id=one.id))
    elif act == 2:
        rules.turn_rule(db, by, one.id, is_on=not one.is_on)
    elif act == 3:
        rules.set_rule_order(db, by, dice.sample([rule.id for rule in kept], len(kept)))
    else:
        rule_previewing.apply_to_past(db, by, one.id)
        return FILED
    return same(*ALL)


def _rule(db, dice, category_ids) -> Rule:
    when = [Condition("payee", "contains", (f"shop {dice.choice('abcdz')}",))]
    if dice.random() < 0.3:
        when.append(Condition("amount", "below", least=dice.randint(1, 5_000), currency="EUR"))
    one, other = dice.sample(list(category_ids), 2)
    then = [
        dice.choice(
            (Action("file", one), Action("split", parts=(SharePart(one, share_e6=dice.randint(1, 999_999)), SharePart(other))))
        )
    ]
    more = (Action("tag", text="quay"), Action("member", 1), Action("ask", 2, "what was it?"), Action("keep_out"))
    then += dice.sample(more, dice.randint(0, 2))
    if dice.random() < 0.2:
        then.append(Action("rename", text=f"Shop {dice.choice('ABZ')}"))
    return Rule(0, tuple(when), tuple(then))


def _payees(db, by, dice, category_ids, entry_id) -> Promise | None:
    found = payees.list_rows(db)
    if len(found) > 1 and dice.random() < 0.5:
        kept, other = dice.sample(found, 2)
        payees.merge(db, by, kept.id, [other.id])
    elif found:
        payees.rename(db, by, dice.choice(found).id, f"Shop {dice.choice('ABCDZ')}")
    return same(*ALL)


def _questions(db, by, dice, category_ids, entry_id) -> Promise | None:
    waiting = asking.list_open(db)
    if not waiting or dice.random() < 0.5:
        asking.ask(db, by, [entry_id], dice.choice((1, 2)), "what was it?")
        return same(*ALL)
    one = dice.choice(waiting).question
    if dice.random() < 0.3:
        asking.take_back(db, by, one.id)
        return same(*ALL)
    asking.answer(db, by, one.id, dice.choice((None, *category_ids)), "glue")
    return FILED


def _entries(db, by, dice, category_ids, entry_id) -> Promise | None:
    act = dice.randrange(3)
    if act == 0:
        keeping_out.keep_out(db, by, [entry_id], out=dice.random() < 0.5)
        return same(*ALL)
    if act == 1:
        transferring.part_transfer(db, by, entry_id)
        return None  # what was only awaited goes
    waiting = [one.entry_id for one in list_unsorted(db)][:3]
    one, other = dice.sample(list(category_ids), 2)
    splitting.split_entries(db, by, waiting, [SharePart(one, dice.randint(1, 900)), SharePart(other)], "EUR")
    return FILED


def _categories(db, by, dice, category_ids, entry_id) -> Promise | None:
    others = [c for _, members in categories.list_by_group(db) for c in members if c.id not in category_ids]
    one = dice.choice(others)
    if dice.random() < 0.5:
        into = dice.choice([id_ for id_ in category_ids if categories.get_category(db, id_).type == one.type] or category_ids)
        category_moves.merge_category(db, by, one.id, into)
    else:
        category_moves.delete_category(db, by, one.id)
    return FILED
