"""Rules at work: what they make of entries, when a batch is brought in or when they are applied to the past, and what is noted of
it. Rules themselves: rules.py. What a rule would do before it is kept: rule_previewing.py."""

import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.known import known
from bolsa.core.sorting.rule_book import RuleBook
from bolsa.core.sorting.rule_words import sentence_of
from bolsa.core.sorting.rules import Filed, Outcome, Rule, SeenRow, Told
from bolsa.errors import BolsaError
from bolsa.services.changes import change
from bolsa.services.clock import By
from bolsa.services.due import keeping
from bolsa.services.ledger import entries as entry_service
from bolsa.services.sorting import splitting, transferring
from bolsa.store.due import series
from bolsa.store.ledger import entries
from bolsa.store.sorting import filing, questions, rules

AT_ONCE = 5_000  # entries of a batch
DAYS_TO_DUE = 10  # how far an entry may lie from the due it is linked to


@dataclass
class Ran:
    """What rules did: how many entries they filed, and how many they changed in any way."""

    filed: int = 0
    changed: int = 0


def run_on_batch(db: sqlite3.Connection, by: By, batch_id: int) -> Ran:
    """Lets the rules that are on sort what a batch brought; it is part of the caller's step."""
    ran = Ran()
    if not rules.has_rules(db):
        return ran
    runner = Runner(db, by)
    after = 0
    while rows := rules.list_seen_of_batch(db, batch_id, after, AT_ONCE):
        after = rows[-1].seen.entry_id
        runner.write([(one, runner.book.decide(one.seen)) for one in rows], ran)
    return ran


def remember_past(db: sqlite3.Connection, by: By, until: date) -> None:
    """Notes, of a past that is written whole, which rules met what until a day, as if they had been there: what already stands as
    they say was filed by them."""
    with change(db, by) as done:
        done.sentence = "Noted what rules met"
        runner, after = Runner(db, by), 0
        while rows := rules.list_seen_after(db, None, after, AT_ONCE):
            after = rows[-1].seen.entry_id
            runner.remember([one for one in rows if one.seen.day < until])


class Runner:
    """The household's rules, ready to be carried out."""

    def __init__(self, db: sqlite3.Connection, by: By, kept: Sequence[Rule] | None = None):
        self.db, self.by = db, by
        self.rules = list(kept) if kept is not None else rules.list_rules(db)
        self.book = RuleBook(self.rules)
        names = filing.names_of(db)
        self.sentences = {rule.id: sentence_of(rule, names) for rule in self.rules}
        self.home = names.currency

    def remember(self, found: Iterable[SeenRow]) -> None:
        """Notes what rules met, and that they filed what they would leave as it is."""
        for one in found:
            outcome = self.book.decide(one.seen._replace(told=one.seen.told._replace(filed=Filed("file", 0))))
            as_it_is = "filed" in outcome.by and outcome.told.filed == one.seen.told.filed
            self._note([(one, outcome)], [(one, outcome)] if as_it_is else [])

    def write(self, decided: Iterable[tuple[SeenRow, Outcome]], ran: Ran) -> None:
        """Carries out what rules decided, and notes which rules met what and what filed each entry."""
        pairs = list(decided)
        changed = [(one, outcome) for one, outcome in pairs if outcome.by]
        self._write_simple(changed)
        filed = []
        takes_up = any(outcome.told.filed.how == "transfer" for _, outcome in changed)
        for one, outcome in changed:
            if takes_up and not entries.list_there(self.db, [one.seen.entry_id]):
                continue  # it is the other side of a transfer by now
            if self._write_rest(one, outcome):
                filed.append((one, outcome))
        ran.changed += len(changed)
        ran.filed += len(filed)
        # The other side of a transfer is a part of it now.
        there = entries.list_there(self.db, [one.seen.entry_id for one, _ in pairs])
        self._note([pair for pair in pairs if pair[0].seen.entry_id in there], [p for p in filed if p[0].seen.entry_id in there])

    def _note(self, pairs: Sequence[tuple[SeenRow, Outcome]], filed: Sequence[tuple[SeenRow, Outcome]]) -> None:
        """Notes which rules met what, and what filed each entry."""
        rules.put_filings(
            self.db,
            [
                {
                    "entry_id": one.seen.entry_id, "way": "rule", "rule_id": outcome.by["filed"],
                    "category_id": outcome.told.filed.id if outcome.told.filed.how == "file" else None,
                    "words": self.sentences[outcome.by["filed"]], "day": self.by.today.isoformat(),
                }
                for one, outcome in filed
            ],
        )  # fmt: skip
        rules.put_met(
            self.db,
            [
                {
                    "rule_id": rule_id, "entry_id": one.seen.entry_id, "day": one.seen.day.isoformat(),
                    "before_id": outcome.overruled.get(rule_id),
                }
                for one, outcome in pairs
                for rule_id in outcome.met
            ],
        )  # fmt: skip

    def _write_simple(self, changed: Sequence[tuple[SeenRow, Outcome]]) -> None:
        """What a statement for all of them can write: category, member, payee, tags, kept out."""
        filing.write_categories(
            self.db,
            [
                (known(outcome.told.filed.id), one.category_line_id)
                for one, outcome in changed
                if "filed" in outcome.by and outcome.told.filed.how == "file"
            ],
        )
        filing.write_members(
            self.db, [(outcome.told.member_id, one.category_line_id) for one, outcome in changed if "member_id" in outcome.by]
        )
        filing.write_payees(
            self.db, [(outcome.told.payee, one.seen.entry_id) for one, outcome in changed if "payee" in outcome.by]
        )
        filing.add_tags(
            self.db,
            [
                (one.category_line_id, tag)
                for one, outcome in changed
                for tag in sorted(outcome.told.tags - one.seen.told.tags)
                if f"#{tag}" in outcome.by
            ],
        )
        filing.keep_out(self.db, [one.seen.entry_id for one, outcome in changed if "kept_out" in outcome.by])

    def _write_rest(self, one: SeenRow, outcome: Outcome) -> bool:
        """What is written entry by entry; gives whether the entry is filed by a rule now. What cannot be done to this entry (the
        parts are more than it, the account is closed or has another currency) is left as it is."""
        told, by = outcome.told, outcome.by
        is_filed = "filed" in by and told.filed.how == "file"
        if "filed" in by and told.filed.how == "split":
            is_filed = self._split(one, told)
        if "filed" in by and told.filed.how == "transfer":
            is_filed = self._transfer(one, told)
        if "ask" in by and told.ask:
            member_id, note = told.ask
            questions.insert_question(self.db, one.seen.entry_id, member_id, None, self.by.today, note, by["ask"])
        if "series_id" in by and told.series_id:
            self._link(one, told.series_id)
        return is_filed

    def _split(self, one: SeenRow, told: Told) -> bool:
        has_fixed = any(part.amount_minor is not None for part in told.filed.parts)
        if has_fixed and one.seen.currency != self.home:
            return False
        return splitting.split_entry(self.db, one.seen.entry_id, told.filed.parts)

    def _transfer(self, one: SeenRow, told: Told) -> bool:
        try:
            entry = entries.get_entry(self.db, one.seen.entry_id)
            entry_service.refuse_made_elsewhere(self.db, entry)
            transferring.make_transfers(self.db, self.by, [entry.id], known(told.filed.id), told.filed.set_by_id)
        except BolsaError:
            return False
        return True

    def _link(self, one: SeenRow, series_id: int) -> None:
        """Links an entry to the nearest due of a series, if one is near and of its account and direction."""
        kept = series.get_series(self.db, series_id)
        if kept.account_id != one.seen.account_id or (kept.amount_minor > 0) != (one.seen.amount_minor > 0):
            return
        around = one.seen.day - timedelta(days=DAYS_TO_DUE), one.seen.day + timedelta(days=DAYS_TO_DUE)
        near = keeping.due_days(self.db, series_id, *around)
        if near:
            day = min(near, key=lambda due: abs(due - one.seen.day))
            keeping.match_due(self.db, self.by, series_id, day, one.line_id)
