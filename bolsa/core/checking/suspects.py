"""Suspects: what would explain the difference between a statement and the books, each with its reason and its cure.

A suspect says by how much its cure moves what the ticked lines lead to. One whose effect is the whole difference explains it;
evidence (the bank's own amount differs, an entry is there twice, the bank's entry is missing) is named even when it explains a
part, because two faults often come together. Guesses that need no evidence (a sum of lines, swapped digits) must explain all.
"""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from itertools import combinations

from bolsa.core.checking.check import Check, OpenItem
from bolsa.core.checking.sums import MOST_LINES_IN_SUM, are_swapped, most_lines, span, sums_to, swaps_of
from bolsa.core.ledger.payees import likeness
from bolsa.core.units import Money

LIKE_ENOUGH = 60
DAYS_TWICE = 4  # a receipt typed on Friday is booked by Tuesday
DAYS_TWICE_EVIDENT = 10  # where the bank knows one of the two and not the other, a slip in the date is likely too
MOST_OF_A_KIND = 3


@dataclass(frozen=True)
class BankRow:
    """A row the bank sent that has no entry here: it was left out, or its entry was deleted."""

    row_id: int
    day: date
    amount_minor: int
    payee: str


@dataclass(frozen=True)
class ChangedLine:
    """A line as it was when a statement was reconciled, and what it adds to the account now (0 if it is gone)."""

    line_id: int
    entry_id: int | None
    payee: str
    day: date
    before_minor: int
    now_minor: int


@dataclass(frozen=True)
class Usual:
    """What came on this account each month of late, and not in this period: interest, charges, a standing order."""

    payee: str
    category_id: int
    day: date
    amount_minor: int


@dataclass(frozen=True)
class Evidence:
    """What is known beside the lines up to the closing day. `outside` are lines dated in the days just after it;
    `before_minor` is what the statement before closed with, None if there is none."""

    outside: tuple[OpenItem, ...] = ()
    missing: tuple[BankRow, ...] = ()
    changed: tuple[ChangedLine, ...] = ()
    usual: tuple[Usual, ...] = ()
    before_minor: int | None = None


@dataclass(frozen=True)
class Cure:
    """What one key does. `verb` is tick, untick, correct, delete, move, bring, enter, open or put back."""

    verb: str
    words: str
    line_ids: tuple[int, ...] = ()
    entry_id: int | None = None
    amount_minor: int = 0
    row_id: int | None = None
    usual: Usual | None = None


@dataclass(frozen=True)
class Suspect:
    """One explanation. `effect_minor` is what its cures add to the balance the ticked lines lead to."""

    kind: str
    effect_minor: int
    title: str
    reason: str
    cures: tuple[Cure, ...]
    items: tuple[OpenItem, ...] = ()
    rank: int = 0
    is_sure: bool = True  # otherwise it is said with a perhaps, whatever it would explain

    @property
    def key(self) -> str:
        """A name that stays the same while the lines do, by which a page asks for its cure."""
        parts = [f"{c.verb}.{'.'.join(map(str, c.line_ids or (c.row_id or c.entry_id or 0,)))}" for c in self.cures]
        return f"{self.kind}-{'-'.join(parts)}-{self.effect_minor}".replace(" ", "")


@dataclass(frozen=True)
class Findings:
    """The suspects, surest first, and a sentence where the search for sums stopped short."""

    suspects: tuple[Suspect, ...]
    stopped: str = ""


DAYS_OPEN = 10  # a bank has booked by then what it will ever book
MOST_LEFT_OPEN = 20


def find_left_open(check: Check, closing_day: date) -> tuple[Suspect, ...]:
    """The old lines that are not ticked, oldest first: the bank had time to tell of them, and did not."""
    old = [item for item in check.open_items if (closing_day - item.day).days >= DAYS_OPEN]
    return tuple(
        Suspect(
            "open", 0, item.payee, f"dated {item.day}, and the bank did not tell of it by {closing_day}",
            (Cure("delete", "Move it to the trash", (item.line_id,), item.entry_id),), (item,), is_sure=False,
        )
        for item in old[:MOST_LEFT_OPEN]
    )  # fmt: skip


def find_suspects(check: Check, evidence: Evidence, currency: str) -> Findings:
    """What would explain the difference, surest first; nothing when there is none."""
    d = check.difference_minor
    if not d:
        return Findings(())
    search = _Search(check, evidence, currency)
    evident = [*search.bank_says_otherwise(), *search.missing_here(), *search.there_twice(), *search.changed_since()]
    evident += search.opening_differs()
    guesses = [*search.single_lines(), *search.half(), *search.swapped(), *search.just_outside(), *search.usual_missing()]
    taken = {item.line_id for s in evident if s.effect_minor == d for item in s.items}
    guesses = [s for s in guesses if not taken & {item.line_id for item in s.items}]
    sums, stopped = search.sums()
    whole = [s for s in (*evident, *guesses) if s.effect_minor == d]
    partial = [s for s in evident if s.effect_minor != d]
    together = _together(partial, d, currency)
    is_clear = any(s.is_sure for s in whole) or bool(together)
    mixtures = [] if is_clear else search.mixtures(partial, guess_alone=not sums)
    partial = [s for s in partial if s.is_sure or not is_clear]
    found = [*whole, *together, *sums, *mixtures, *partial]
    return Findings(tuple(sorted(found, key=lambda s: (s.effect_minor != d, s.rank))), stopped)


class _Search:
    def __init__(self, check: Check, evidence: Evidence, currency: str):
        self.check, self.evidence, self.currency = check, evidence, currency
        self.d = check.difference_minor
        self.ticked = [item for item in check.items if item.ticked]
        self.unticked = [item for item in check.items if not item.ticked]

    def bank_says_otherwise(self) -> Iterator[Suspect]:
        """The bank sent another amount for a line: the surest proof there is."""
        for item in self.ticked:
            if item.bank_minor is None or item.bank_minor == item.amount_minor:
                continue
            sent, here = self._words(item.bank_minor), self._words(item.amount_minor)
            if item.bank_minor == -item.amount_minor:
                kind, reason = "sign", f"its sign is wrong: the bank sent {sent}, here it stands with {here}"
            elif are_swapped(item.amount_minor, item.bank_minor):
                kind, reason = "digits", f"two digits are swapped: {here} here, {sent} at the bank"
            else:
                kind, reason = "amount", f"the bank sent {sent}, here it stands with {here}"
            yield self._corrected(kind, item, item.bank_minor, reason, 0)

    def missing_here(self) -> Iterator[Suspect]:
        for row in self.evidence.missing:
            cure = Cure("bring", "Bring it in", row_id=row.row_id)
            reason = f"the bank sent it on {row.day}; it is not here"
            yield Suspect("missing", row.amount_minor, row.payee, reason, (cure,), rank=1)

    def there_twice(self) -> Iterator[Suspect]:
        """Two ticked lines alike, a few days apart. Without the whole difference behind it, or one of them unknown to the bank,
        it is a perhaps: two such purchases may be true."""
        doubtful = 0
        by_amount: dict[int, list[OpenItem]] = defaultdict(list)
        for item in self.ticked:
            by_amount[item.amount_minor].append(item)
        for amount, members in by_amount.items():
            named = set()
            for one, other in combinations(members, 2):
                extra, kept = (one, other) if one.bank_minor is None and other.bank_minor is not None else (other, one)
                is_whole = amount == -self.d
                is_evident = extra.bank_minor is None and kept.bank_minor is not None
                apart = DAYS_TWICE_EVIDENT if is_evident else DAYS_TWICE
                if extra.line_id in named or abs((one.day - other.day).days) > apart or not amount:
                    continue
                is_sure = is_whole or is_evident
                if not is_sure and doubtful >= MOST_OF_A_KIND:
                    continue
                if likeness(one.payee, other.payee) >= LIKE_ENOUGH:
                    named.add(extra.line_id)
                    reason = f"it is there twice: also on {kept.day} as “{kept.payee}”"
                    reason += "; the bank sent one" if is_evident else ""
                    cure = Cure("delete", f"Delete the one of {extra.day}", (extra.line_id,), extra.entry_id)
                    reason += "" if is_sure else "; perhaps both are true"
                    doubtful += not is_sure
                    rank = 2 if is_evident else 3 if is_whole else 6
                    yield Suspect("twice", -amount, extra.payee, reason, (cure,), (extra, kept), rank, is_sure)

    def changed_since(self) -> Iterator[Suspect]:
        for line in self.evidence.changed:
            was, now = self._words(line.before_minor), self._words(line.now_minor)
            reason = f"it was reconciled with {was} and changed to {now} since"
            cures: tuple[Cure, ...] = (
                Cure("correct", f"Set it back to {was}", (line.line_id,), line.entry_id, line.before_minor),
            )
            if line.entry_id is None:
                reason = f"it was reconciled with {was} and deleted since"
                cures = (Cure("put back", "Put it back", (line.line_id,)),)
            yield Suspect("changed", line.before_minor - line.now_minor, line.payee, reason, cures, rank=1)

    def opening_differs(self) -> Iterator[Suspect]:
        before = self.evidence.before_minor
        if before is not None and before != self.check.opening_minor:
            reason = f"the statement before closed with {self._words(before)}, this one opens with "
            reason += self._words(self.check.opening_minor)
            cure = Cure("open", f"Open with {self._words(before)}", amount_minor=before)
            yield Suspect("opening", before - self.check.opening_minor, "The opening balance", reason, (cure,), rank=4)

    def single_lines(self) -> Iterator[Suspect]:
        for item in self.unticked:
            if item.amount_minor == self.d:
                cure = Cure("tick", "Tick it", (item.line_id,))
                yield Suspect("line", self.d, item.payee, "it equals the difference and is not ticked", (cure,), (item,), 1)
        for item in self.ticked:
            if item.amount_minor == -self.d and item.bank_minor is None:
                cure = Cure("untick", "Take its tick away", (item.line_id,))
                reason = "it equals the difference and is ticked, yet the bank has not sent it"
                yield Suspect("line", self.d, item.payee, reason, (cure,), (item,), 5)

    def half(self) -> Iterator[Suspect]:
        for item in self.ticked:
            if item.amount_minor * 2 == -self.d and item.bank_minor is None:
                yield self._corrected("sign", item, -item.amount_minor, "it is half the difference: perhaps its sign is wrong", 4)

    def swapped(self) -> Iterator[Suspect]:
        """Two neighbouring digits exchanged change a number by a multiple of nine."""
        for item in self.ticked if self.d % 9 == 0 else ():
            right = item.amount_minor + self.d
            if item.bank_minor in (None, item.amount_minor) and are_swapped(item.amount_minor, right):
                reason = f"two digits may be swapped: {self._words(item.amount_minor)} for {self._words(right)}"
                reason += "" if item.bank_minor is None else ", though its row says the same"
                yield self._corrected("digits", item, right, reason, 4 if item.bank_minor is None else 7)
        for item in self.unticked:
            if item.can_change and are_swapped(item.amount_minor, self.d):
                reason = (
                    f"it is not ticked, and two digits may be swapped: {self._words(item.amount_minor)} for {self._words(self.d)}"
                )
                made = Cure("correct", f"Make it {self._words(self.d)}", (item.line_id,), item.entry_id, self.d)
                yield Suspect("digits", self.d, item.payee, reason, (made, Cure("tick", "Tick it", (item.line_id,))), (item,), 4)

    def just_outside(self) -> Iterator[Suspect]:
        for item in self.evidence.outside:
            if item.amount_minor == self.d:
                reason = f"it is dated {item.day}, just after the statement, and equals the difference"
                cure = Cure("move", "Date it within, and tick it", (item.line_id,))
                yield Suspect("outside", self.d, item.payee, reason, (cure,), (item,), 3)

    def usual_missing(self) -> Iterator[Suspect]:
        """What came each month and not this time; the amount may have moved a little (interest does)."""
        for usual in self.evidence.usual:
            near = abs(self.d - usual.amount_minor) * 5 <= abs(usual.amount_minor)
            if near and (self.d < 0) == (usual.amount_minor < 0):
                reason = f"it came each month, last with {self._words(usual.amount_minor)}, and not in this period"
                if usual.amount_minor == self.d:
                    words = f"Enter {self._words(self.d)} on {usual.day}"
                    cure = Cure("enter", words, amount_minor=self.d, usual=usual)
                    yield Suspect("usual", self.d, usual.payee, reason, (cure,), rank=3)
                else:
                    reason += "; perhaps with another amount. Enter it with the day and amount the statement shows"
                    yield Suspect("usual", self.d, usual.payee, reason, (), rank=9, is_sure=False)

    def sums(self) -> tuple[list[Suspect], str]:
        """All lines that are not ticked, or two to four lines that together make the difference: unticked ones to tick, or ticked
        ones the bank never sent."""
        found, stopped = [], ""
        rest = [item for item in self.unticked if item.amount_minor]
        if len(rest) > MOST_LINES_IN_SUM and sum(item.amount_minor for item in rest) == self.d:
            cure = Cure("tick", "Tick all", tuple(item.line_id for item in rest))
            title = f"All {len(rest)} lines that are not ticked"
            found.append(Suspect("sum", self.d, title, "together they make the difference", (cure,), tuple(rest), 1))
        unknown = [item for item in self.ticked if item.bank_minor is None]
        for members, target, verb, words in (
            (self.unticked, self.d, "tick", "Tick them"),
            (unknown, -self.d, "untick", "Take their ticks away"),
        ):
            lines = [item for item in members if item.amount_minor]
            most = most_lines()
            if len(lines) > most:
                stopped = f"Of {len(lines):,} lines only the latest {most:,} were tried together; the search stopped there."
                lines = sorted(lines, key=lambda item: item.day)[-most:]
            groups, all_seen = sums_to(lines, target)
            for group in groups[:MOST_OF_A_KIND]:
                named = ", ".join(f"{item.payee} {self._words(item.amount_minor)}" for item in group)
                others = f"; one of {len(groups)} sums that would" if len(groups) > 1 else ""
                reason = f"together they make the difference{' and are not ticked' if verb == 'tick' else ''}{others}"
                cure = Cure(verb, words, tuple(item.line_id for item in group))
                rank = 2 + len(group) + (4 if verb == "untick" else 0) + min(len(groups), 20)
                found.append(Suspect("sum", self.d, named, reason, (cure,), group, rank))
            if not all_seen:
                stopped = stopped or "There are too many sums that fit; the search stopped at the first of them."
        return found, stopped

    def mixtures(self, evident: list[Suspect], *, guess_alone: bool) -> list[Suspect]:
        """Two or three faults of different kinds that together make the difference, when nothing does so by itself: with a piece
        of evidence among them, or, if guesses may stand alone, two of those."""
        causes = [self._as_line(item, "tick", item.amount_minor, "not ticked") for item in self.unticked if item.amount_minor]
        for item in self.ticked:
            if item.bank_minor is None and item.amount_minor:
                causes.append(self._as_line(item, "untick", -item.amount_minor, "unknown to the bank"))
                causes.append(self._corrected("sign", item, -item.amount_minor, "sign", 0))
                causes += [self._corrected("digits", item, right, "digits", 0) for right in swaps_of(item.amount_minor)]
        by_effect: dict[int, list[Suspect]] = defaultdict(list)
        for cause in causes:
            by_effect[cause.effect_minor].append(cause)
        groups: list[list[Suspect]] = []
        for known in [s for s in evident if s.cures][:20]:
            rest = self.d - known.effect_minor
            groups += [[known, one] for one in by_effect.get(rest, ())]
            groups += [[known, *pair] for pair in _pairs_to(causes, by_effect, rest)]
        groups = sorted(filter(_are_apart, groups), key=len)
        if not groups and guess_alone:
            groups = list(_pairs_to(causes, by_effect, self.d))
        found = [
            _joined(group, self.d, f"together they make the difference: {_briefly(*group)}", 28 + len(group)) for group in groups
        ]
        close = sorted(found, key=lambda s: (len(s.cures), span(s.items)))
        return [replace(s, rank=s.rank + len(found)) for s in close[:MOST_OF_A_KIND]]

    def _as_line(self, item: OpenItem, verb: str, effect_minor: int, reason: str) -> Suspect:
        words = {"tick": "Tick it", "untick": "Take its tick away"}[verb]
        return Suspect("line", effect_minor, item.payee, reason, (Cure(verb, words, (item.line_id,)),), (item,))

    def _corrected(self, kind: str, item: OpenItem, right_minor: int, reason: str, rank: int) -> Suspect:
        cure = Cure("correct", f"Make it {self._words(right_minor)}", (item.line_id,), item.entry_id, right_minor)
        cures = (cure,) if item.can_change else ()
        return Suspect(kind, right_minor - item.amount_minor, item.payee, reason, cures, (item,), rank)

    def _words(self, amount_minor: int) -> str:
        return str(Money(amount_minor, self.currency))


def _pairs_to(causes: list[Suspect], by_effect: dict[int, list[Suspect]], target_minor: int) -> Iterator[list[Suspect]]:
    """Two guesses that together come to a target. A sum of lines is looked for elsewhere; here each pair stands once, by the
    order of its kinds."""
    for one in causes:
        for other in by_effect.get(target_minor - one.effect_minor, ()):
            if one.kind < other.kind and one.items != other.items:
                yield [one, other]


def _are_apart(group: list[Suspect]) -> bool:
    """Whether no line stands in two of the faults."""
    ids = [item.line_id for suspect in group for item in suspect.items]
    return len(ids) == len(set(ids))


def _together(partial: list[Suspect], d: int, currency: str) -> list[Suspect]:
    """Pieces of evidence that only together make the difference, the fewest first."""
    able = [s for s in partial if s.cures][:20]
    for size in range(2, min(len(able), 4) + 1):
        for group in combinations(able, size):
            if sum(s.effect_minor for s in group) == d:
                parts = ", ".join(str(Money(s.effect_minor, currency)) for s in group)
                return [_joined(list(group), d, f"together they explain all of it: {parts}", 0)]
    return []


def _joined(group: list[Suspect], d: int, reason: str, rank: int) -> Suspect:
    title = " and ".join(s.title for s in group)
    cures = tuple(cure for s in group for cure in s.cures)
    return Suspect("together", d, title, reason, cures, tuple(item for s in group for item in s.items), rank)


def _briefly(*group: Suspect) -> str:
    words = {"sign": "a wrong sign", "digits": "two swapped digits", "twice": "a line that is there twice"}
    words |= {"missing": "a row that is missing here", "amount": "another amount at the bank", "changed": "a line changed since"}
    words |= {"opening": "another opening balance"}
    return " and ".join(words.get(s.kind, f"a line {s.reason}") for s in group)
