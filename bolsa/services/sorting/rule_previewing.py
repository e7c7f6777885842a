"""What a rule would do: the entries it meets, before and after, and which other rules have a say; and applying it to the past."""

import sqlite3
from collections import Counter
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date

from bolsa.core.sorting.category import UNSORTED
from bolsa.core.sorting.rule_book import RuleBook
from bolsa.core.sorting.rule_words import Names, action_pieces, told_words
from bolsa.core.sorting.rules import Outcome, Rule, SeenRow, Words, folded
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.progress import Report, silent
from bolsa.services.remembering import remembered
from bolsa.services.sorting import rules as keeping
from bolsa.services.sorting.rule_running import Ran, Runner
from bolsa.store.ledger import payees
from bolsa.store.sorting import categories, filing, rules

LOOKED_AT = 2_500  # entries a preview looks at, the newest
SHOWN = 200  # of those that would change
STAYING = 4  # of those that would not
AT_ONCE = 5_000


@dataclass(frozen=True)
class Met:
    """An entry a rule meets: what it is now and would be, in words; `changes` says whether that differs, `before` is the place
    of the rule that has said it all before, 0 if none has."""

    entry_id: int
    day: date
    payee: str
    amount_minor: int
    currency: str
    now: str
    then: str
    changes: bool
    is_unsorted: bool
    before: int = 0


@dataclass(frozen=True)
class Elsewhere:
    """Entries the rule meets of which another speaks too: how many, its place, whether it comes first, and what it does."""

    place: int
    many: int
    comes_first: bool
    does: str


@dataclass(frozen=True)
class Preview:
    """What a rule would do to the newest entries: how many it meets since when, how many would change, the first of those, and
    which other rules have a say; `is_all` is false where there are more entries than were looked at."""

    meets: int
    since: date | None
    change_count: int
    rows: tuple[Met, ...]
    elsewhere: tuple[Elsewhere, ...]
    looked_at: int
    is_all: bool
    circle: tuple[int, ...] = ()


def preview(db: sqlite3.Connection, rule: Rule, most: int = LOOKED_AT) -> Preview:
    """What a rule would do, new or changed, at its place among the others."""
    kept = _with(rules.list_rules(db), rule)
    places = {one.id: i for i, one in enumerate(kept, 1)}
    book, names = RuleBook(kept), filing.names_of(db)
    rows = rules.list_seen_of_payees(db, _payees_of(db, rule), most + 1)
    rows.sort(key=lambda one: (one.seen.day, one.seen.entry_id), reverse=True)
    found: list[Met] = []
    say: Counter[tuple[int, bool]] = Counter()
    circle: set[int] = set()
    for one in rows[:most]:
        outcome = book.decide(one.seen)
        if rule.id not in outcome.met:
            continue
        circle |= set(outcome.circle)
        if rule.id in outcome.overruled:
            say[outcome.overruled[rule.id], True] += 1
        for other, before in outcome.overruled.items():
            if before == rule.id:
                say[other, False] += 1
        found.append(_met(one, _by_rule(one, outcome, rule.id), names, places.get(outcome.overruled.get(rule.id, 0), 0)))
    does = {one.id: "".join(piece.words for piece in action_pieces(one.actions[0], names)) for one in kept}
    elsewhere = [Elsewhere(places[id_], many, first, does[id_]) for (id_, first), many in say.most_common() if id_ in places]
    shown = [one for one in found if one.changes][:SHOWN] + [one for one in found if not one.changes][:STAYING]
    return Preview(
        len(found), min((one.day for one in found), default=None), sum(one.changes for one in found), tuple(shown),
        tuple(elsewhere), min(len(rows), most), len(rows) <= most, tuple(sorted(circle)),
    )  # fmt: skip


def apply_to_past(db: sqlite3.Connection, by: By, rule_id: int, unticked: Collection[int] = (), report: Report = silent) -> Done:
    """Lets one rule change the entries of the whole past it meets, but for those that were unticked: one step. Other rules keep
    their say at their places; what they would change stays as it is. Makes a `Ran`."""
    with change(db, by) as done:
        rule = rules.get_rule(db, rule_id)
        runner = Runner(db, by, [replace(one, is_on=one.is_on or one.id == rule_id) for one in rules.list_rules(db)])
        ran, left, count = Ran(), set(unticked), 0
        for rows in _all_of(db, rule):
            decided = [
                (one, _by_rule(one, runner.book.decide(one.seen), rule_id)) for one in rows if one.seen.entry_id not in left
            ]
            runner.write([pair for pair in decided if pair[1].met], ran)
            count += len(rows)
            report(count, 0, f"{count:,} entries looked at, {ran.changed:,} changed")
        done.sentence = (
            f"Applied the rule to {ran.changed} {'entry' if ran.changed == 1 else 'entries'}: {runner.sentences[rule_id]}"
        )
        done.made = ran
    return done


def keep_and_apply(
    db: sqlite3.Connection, by: By, rule: Rule, unticked: Collection[int], *, seen: int | None = None, report: Report = silent
) -> Done:
    """Keeps a rule and applies it to the past: one step. Raises as keeping does."""
    with change(db, by) as done:
        rule_id = keeping.keep_rule(db, by, rule, seen=seen).made
        applied = apply_to_past(db, by, rule_id, unticked, report)
        done.sentence = applied.sentence
        done.made = applied.made
    return done


def count_unsorted(db: sqlite3.Connection) -> int:
    """How many entries wait to be sorted."""
    return categories.count_unsorted(db)


def apply_all(db: sqlite3.Connection, by: By, report: Report = silent) -> Done:
    """Lets all rules sort what waits to be sorted: one step. Makes a `Ran`."""
    with change(db, by) as done:
        runner, ran = Runner(db, by), Ran()
        found = rules.list_seen_unsorted(db)
        runner.write([(one, runner.book.decide(one.seen)) for one in found], ran)
        report(len(found), len(found), f"{len(found):,} entries looked at, {ran.changed:,} changed")
        done.sentence = f"Let the rules sort {ran.filed} {'entry' if ran.filed == 1 else 'entries'}"
        done.made = ran
    return done


def _all_of(db: sqlite3.Connection, rule: Rule) -> Iterator[list[SeenRow]]:
    """The entries of the payees a rule can meet, the whole past, some at a time."""
    after, payee_ids = 0, _payees_of(db, rule)
    while rows := rules.list_seen_after(db, payee_ids, after, AT_ONCE):
        after = rows[-1].seen.entry_id
        yield rows


def _with(kept: Sequence[Rule], rule: Rule) -> list[Rule]:
    """The rules with this one in its place, or at the end; it is on."""
    rule = replace(rule, is_on=True)
    if not any(one.id == rule.id for one in kept):
        return [*kept, rule]
    return [rule if one.id == rule.id else one for one in kept]


def _payees_of(db: sqlite3.Connection, rule: Rule) -> list[int] | None:
    """The payees whose entries the rule can meet, by what they are called or were called by their banks; None if it asks for
    none, or another rule could give an entry its payee."""
    asked = [Words(one) for one in rule.conditions if one.kind == "payee"]
    renames = any(action.kind == "rename" for one in rules.list_rules(db) for action in one.actions if one.id != rule.id)
    if not asked or renames:
        return None
    names: list[tuple[int, str]] = remembered(db, "names of payees", None, lambda: payees.list_every_name(db))
    return sorted({id_ for id_, name in names if all(one.hold(folded(name)) for one in asked)})


def _by_rule(one: SeenRow, outcome: Outcome, rule_id: int) -> Outcome:
    """The part of an outcome that one rule decided."""
    by = {what: id_ for what, id_ in outcome.by.items() if id_ == rule_id}
    tags = one.seen.told.tags | {what[1:] for what in by if what.startswith("#")}
    said = {what: getattr(outcome.told, what) for what in by if not what.startswith("#")}
    told = one.seen.told._replace(tags=tags, **said)
    met = (rule_id,) if rule_id in outcome.met else ()
    late = {rule_id: outcome.overruled[rule_id]} if rule_id in outcome.overruled else {}
    return Outcome(told, by, met, late)


def _met(one: SeenRow, outcome: Outcome, names: Names, before: int) -> Met:
    seen, now = one.seen, one.seen.told
    return Met(
        seen.entry_id, seen.day, now.payee, seen.amount_minor, seen.currency, told_words(now, now, names),
        told_words(outcome.told, now, names), bool(outcome.by), now.filed.how == "file" and now.filed.id == UNSORTED,
        before,
    )  # fmt: skip
